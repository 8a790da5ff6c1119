package domain

// Held is what stood in a folder when it was deleted.
type Held struct {
	Items   []HeldItem `json:"items,omitempty"`
	Folders []HeldItem `json:"folders,omitempty"` // those in it that moved out
	Inside  []int64    `json:"inside,omitempty"`  // those deleted with it
}

// HeldItem is a template or a folder, and the folder that it stood in.
type HeldItem struct {
	ID      int64 `json:"id"`
	Folder  int64 `json:"folder"`
	Deleted bool  `json:"deleted,omitempty"`
}
