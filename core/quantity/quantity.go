// Package quantity holds the few numeric types that every calculation shares:
// an optional number, an input error that names its field, and the standard
// uncertainty that an instrument gives to a reading.
//
// One unit is used for each quantity (metre, kilogram, second, ampere, kelvin
// and what derives from them); where a field departs from that, its name ends
// in the unit it uses: _mm, _mm2, _nm (newton metre), _n, _mpa, _deg, _kmh,
// _ah, _wh, _pct, _c (degree Celsius), _ms. Rounding is for screens only.
package quantity

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"

	"jadegate/core/say"
)

// Opt is a number that may be absent. The zero value is absent. It marshals to
// null when it is absent, and it needs no allocation, so that a calculation can
// be run ten thousand times over without garbage.
type Opt struct {
	V  float64
	Ok bool
}

// Some returns a present number.
func Some(v float64) Opt { return Opt{V: v, Ok: true} }

// Or returns the number, or d when it is absent.
func (o Opt) Or(d float64) float64 {
	if o.Ok {
		return o.V
	}
	return d
}

// MarshalJSON writes the number, or null when it is absent or not finite.
func (o Opt) MarshalJSON() ([]byte, error) {
	if !o.Ok || math.IsNaN(o.V) || math.IsInf(o.V, 0) {
		return []byte("null"), nil
	}
	return json.Marshal(o.V)
}

// UnmarshalJSON reads a number or null.
func (o *Opt) UnmarshalJSON(b []byte) error {
	if bytes.Equal(b, []byte("null")) {
		*o = Opt{}
		return nil
	}
	o.Ok = true
	return json.Unmarshal(b, &o.V)
}

// FieldError says which input cannot be used, what is wrong with it and what
// would be right. It is an error a person can act on.
type FieldError struct {
	Field   string `json:"field"`   // dotted path of the input, "sides.0.nut_nm"
	Problem string `json:"problem"` // what is wrong
	Want    string `json:"want"`    // what would be right
}

func (e *FieldError) Error() string {
	if e.Want == "" {
		return fmt.Sprintf("%s: %s", e.Field, e.Problem)
	}
	return fmt.Sprintf("%s: %s; %s", e.Field, e.Problem, e.Want)
}

// Invalid builds a FieldError.
func Invalid(field, problem, want string) *FieldError {
	return &FieldError{Field: field, Problem: say.T(problem), Want: say.T(want)}
}
