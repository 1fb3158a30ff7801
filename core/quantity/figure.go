package quantity

// Sources of a declared or measured value.
const (
	FromKit      = "kit_sheet"
	FromLabel    = "label"
	FromMeasured = "measured"
	FromGuess    = "guessed"
)

// Sources lists them for enumerations.
const Sources = "kit_sheet,label,measured,guessed"

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
