//go:build !race

package mutants

// sampled is how many mutants of each base make test runs.
const sampled = 250
