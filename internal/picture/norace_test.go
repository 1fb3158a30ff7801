//go:build !race

package picture

const watched = false
