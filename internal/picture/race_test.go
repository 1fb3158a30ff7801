//go:build race

package picture

// watched: the race detector takes several times the memory that a picture may.
const watched = true
