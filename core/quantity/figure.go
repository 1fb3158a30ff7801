package quantity

import "strings"

// Sources of a declared or measured value.
const (
	FromKit      = "kit_sheet"
	FromLabel    = "label"
	FromMeasured = "measured"
	FromGuess    = "guessed"
	FromCount    = "counted" // a whole number that one sees
	FromSeen     = "seen"    // a word by eye or hand
	FromStated   = "stated"  // a claim, or how it will be used
	FromHouse    = "house"   // a figure of the policy
	FromRecord   = "recorded"
)

// Sources lists them for enumerations.
const Sources = "measured,counted,seen,label,kit_sheet,stated,guessed,house,recorded"

// SourceList is Sources as a list.
func SourceList() []string { return strings.Split(Sources, ",") }

// Gravity is standard gravity, m/s² (CGPM 1901).
const Gravity = 9.80665

// Figure is a number on the conversion sheet with where it comes from. A guess
// is shown and never passes a safety check.
type Figure struct {
	Value      Opt    `json:"value"`
	Source     string `json:"source,omitempty"`
	U          Opt    `json:"u"`                    // standard uncertainty, k = 1, if it was given
	Instrument string `json:"instrument,omitempty"` // id of the instrument that read it
}

// Fact is a word on the conversion sheet with where it comes from.
type Fact struct {
	Value  string `json:"value"`
	Source string `json:"source,omitempty"`
}

// Is reports whether the fact has that value.
func (f Fact) Is(v string) bool { return f.Value == v }

// Known reports whether the word was given by somebody who did not guess.
func (f Fact) Known() bool { return f.Value != "" && f.Source != "" && f.Source != FromGuess }
