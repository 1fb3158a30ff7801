//go:build !race

package sound

// raceSampled: every one is taken.
const raceSampled = 1
