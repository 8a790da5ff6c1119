package app

import (
	"time"
)

// Clock tells the time.
type Clock func() time.Time
