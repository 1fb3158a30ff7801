package inspection

import (
	"strings"

	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/quantity"
)

// Need is an input of a check that is not as it should be.
type Need struct {
	Path  string `json:"path"`
	Title string `json:"title"`
	Why   string `json:"why"` // missing, guessed, no_instrument, lapsed, out_of_range, undone, or a sentence
}

// Source is one input of a computed check with where it comes from.
type Source struct {
	Path       string               `json:"path"`
	Input      string               `json:"input"` // the calculation's own name for it
	Title      string               `json:"title"`
	Value      quantity.Opt         `json:"value"`
	Word       string               `json:"word,omitempty"`
	Unit       string               `json:"unit,omitempty"`
	Source     string               `json:"source"`
	U          float64              `json:"u"`
	Instrument *quantity.Instrument `json:"instrument,omitempty"`
}

// School tells how one school judges the readings.
type School struct {
	ID     string `json:"id"`
	Title  string `json:"title"`
	Pass   bool   `json:"pass"`
	Chosen bool   `json:"chosen"`
}

// binder takes what a check needs from the sheet, and says what is wanting.
type binder struct {
	s       *State
	env     Env
	memo    map[int]*held // by drive, within one evaluation
	undone  int64         // readings of what a repair disturbs count only after this
	u       map[string]float64
	needs   []Need
	doubts  []Need
	sources []Source

	judged  []decide.Judged
	schools []School
	result  decide.Outcome // set when the calculation says it itself
	why     []string
	explain func(full bool) *Explanation
}

func (b *binder) house() *policy.House { return b.env.House }

// title says what a path holds; a fastener by its place.
func (b *binder) title(path string) string {
	if k := boltOf(b.s.Sheet, path); k != nil {
		return Title(path) + ", " + k.Place
	}
	return Title(path)
}

func (b *binder) need(path, why string) {
	b.needs = append(b.needs, Need{path, b.title(path), why})
}

func (b *binder) doubt(path, why string) {
	b.doubts = append(b.doubts, Need{path, b.title(path), why})
}

// figure takes a number; input is the calculation's name for it. fresh says
// that a repair which undoes the check spoils the reading itself.
func (b *binder) figure(path string, f quantity.Figure, input string, required, fresh bool) quantity.Opt {
	if !f.Value.Ok {
		if required {
			b.need(path, "missing")
		}
		return f.Value
	}
	p := b.s.From[path]
	src := Source{Path: path, Input: input, Title: b.title(path), Value: f.Value, Unit: Unit(path), Source: f.Source, Instrument: p.Instrument}
	if f.U.Ok {
		src.U = f.U.V
	} else if p.Instrument != nil {
		src.U = p.Instrument.U(f.Value.V)
	}
	b.sources = append(b.sources, src)
	switch {
	case fresh && b.undone > p.Seq:
		b.need(path, "undone")
		return quantity.Opt{}
	case p.Instrument != nil && p.Instrument.Lapsed(day(p.At)):
		b.need(path, "lapsed")
		return quantity.Opt{}
	case f.Source == quantity.FromGuess:
		b.doubt(path, "guessed")
	case f.Source == quantity.FromMeasured && !f.U.Ok && p.Instrument == nil:
		b.doubt(path, "no_instrument")
	case p.Instrument != nil && !p.Instrument.InRange(f.Value.V):
		b.doubt(path, "out_of_range")
	}
	if src.U > 0 {
		b.u[input] = src.U
	}
	return f.Value
}

// fact takes a word.
func (b *binder) fact(path string, f quantity.Fact, required bool) string {
	if f.Value == "" {
		if required {
			b.need(path, "missing")
		}
		return ""
	}
	if f.Source == quantity.FromGuess {
		b.doubt(path, "guessed")
	}
	b.sources = append(b.sources, Source{Path: path, Title: b.title(path), Word: f.Value, Source: f.Source})
	return f.Value
}

// day is the date of a time stamp.
func day(at string) string {
	d, _, _ := strings.Cut(at, "T")
	return d
}
