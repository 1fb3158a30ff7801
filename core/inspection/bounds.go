package inspection

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Bounds of what people and programs write into a log (house).
const (
	maxName = 80   // characters of who says it
	maxText = 4000 // characters of any text
	// MaxRide is how many bytes a recorded ride has, which stands in the log as it came.
	MaxRide = 8 << 20
	maxDeep = 24
)

// rides are the inputs that hold a whole recorded ride.
var rides = []string{"csv", "gpx"}

// Named refuses an entry that nobody says, or that cannot be known again.
func Named(e *Entry) error {
	if strings.TrimSpace(e.ID) == "" {
		return quantity.Invalid("id", "is blank", "choose one that no other entry has")
	}
	return name("by", e.By)
}

// WellFormed refuses an entry that no log should keep, whatever it says: with texts or
// lists of any length, with what is no text. The error names the field.
func WellFormed(e *Entry) error {
	if !utf8.Valid(e.Body) {
		return quantity.Invalid("body", "is not UTF-8 text", "send UTF-8")
	}
	v, err := schema.Parse(e.Body)
	if err != nil {
		return err
	}
	return bounded("", "", v, 0)
}

// name refuses a name that is blank, too long, or holds what no name has.
func name(field, s string) error {
	switch {
	case strings.TrimSpace(s) == "":
		return quantity.Invalid(field, "is blank", "give a name")
	case utf8.RuneCountInString(s) > maxName:
		return quantity.Invalid(field, say.F("has %d characters", utf8.RuneCountInString(s)), say.F("give at most %d", maxName))
	case strings.ContainsFunc(s, unicode.IsControl):
		return quantity.Invalid(field, "contains a character that no name has", "type it again")
	}
	return nil
}

func bounded(path, key string, v any, deep int) error {
	if deep > maxDeep {
		return quantity.Invalid("body", "is nested too deep", say.F("nest at most %d levels", maxDeep))
	}
	at := path
	if at == "" {
		at = "body"
	}
	switch x := v.(type) {
	case string:
		ride := slices.Contains(rides, key) || key == "value" && slices.ContainsFunc(rides, func(r string) bool { return strings.HasSuffix(path, r+".value") })
		switch {
		case ride && len(x) > MaxRide:
			return quantity.Invalid(at, say.F("has %d bytes", len(x)), say.F("give at most %d", MaxRide))
		case !ride && utf8.RuneCountInString(x) > maxText:
			return quantity.Invalid(at, say.F("has %d characters", utf8.RuneCountInString(x)), say.F("write at most %d", maxText))
		case strings.ContainsFunc(x, func(r rune) bool { return unicode.IsControl(r) && r != '\n' && r != '\r' && r != '\t' }):
			return quantity.Invalid(at, "contains a character that no text has", "type it again")
		}
	case []any:
		if len(x) > maxList {
			return quantity.Invalid(at, say.F("holds %d items", len(x)), say.F("give at most %d", maxList))
		}
		for i, sub := range x {
			if err := bounded(join(path, strconv.Itoa(i)), "", sub, deep+1); err != nil {
				return err
			}
		}
	case map[string]any:
		for k, sub := range x {
			if utf8.RuneCountInString(k) > maxName {
				return quantity.Invalid(at, say.F("holds a name of %s bytes", strconv.Itoa(len(k))), "use the names of the sheet")
			}
			if err := bounded(join(path, k), k, sub, deep+1); err != nil {
				return err
			}
		}
	}
	return nil
}

// OpenedWell refuses an opening that no log should begin with: what WellFormed refuses,
// and one whose vehicle has no name or that has no number.
func OpenedWell(e *Entry) error {
	if err := Named(e); err != nil {
		return err
	}
	if err := WellFormed(e); err != nil {
		return err
	}
	o, err := Body[Opened](e)
	if err != nil {
		return err
	}
	if err := name("number", o.Number); err != nil {
		return err
	}
	var sheet struct {
		Name string `json:"name"`
	}
	if err := json.Unmarshal(o.Sheet, &sheet); err != nil {
		return quantity.Invalid("sheet", say.F("cannot be read: %s", err.Error()), "give an object")
	}
	return name("name", sheet.Name)
}
