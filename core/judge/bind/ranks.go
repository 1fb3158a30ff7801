package bind

import (
	"slices"

	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// ranks order sources by what they are worth: a lower one never takes a higher one's place.
// Source: house.
var ranks = []string{quantity.FromGuess, quantity.FromHouse, quantity.FromStated, quantity.FromKit, quantity.FromLabel, quantity.FromCount,
	quantity.FromRecord, quantity.FromMeasured}

// Rank is a source's place among them; what an eye sees ranks as what it counts, and what
// names no source below all.
func Rank(source string) int {
	if source == quantity.FromSeen {
		source = quantity.FromCount
	}
	return slices.Index(ranks, source)
}

// IsRating: the figure is what a part is made for, as a label or a kit sheet says it: a bound.
func IsRating(f *schema.Field) bool {
	switch f.Unit {
	case "A", "V", "W", "A·h", "kg", "N", "N·m", "bar":
		return slices.Contains(f.From, quantity.FromLabel) || slices.Contains(f.From, quantity.FromKit)
	}
	return false
}
