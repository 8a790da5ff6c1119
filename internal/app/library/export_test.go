package library

// ShelfItems gives the letters of the shelf.
func ShelfItems() ([]ShelfItem, error) { return shelf() }
