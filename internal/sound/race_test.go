//go:build race

package sound

// raceSampled: one in so many is taken when races are looked for: what is computed does not
// depend on it.
const raceSampled = 6
