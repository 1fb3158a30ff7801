//go:build race

package mutants

// sampled of each base when races are looked for: what is computed does not depend on it.
const sampled = 15
