// Package layers holds the test that imports point inward: core knows nothing
// of the program around it, app nothing of what carries it.
package layers
