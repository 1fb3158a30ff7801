package vehicle

import (
	"strconv"
	"strings"

	"jadegate/core/say"
	"jadegate/core/schema"
)

// FieldAt finds the field that a sheet path names; nil if none.
func FieldAt(path string) *schema.Field {
	fields := Fields()
	var f *schema.Field
	for _, k := range strings.Split(path, ".") {
		if _, err := strconv.Atoi(k); err == nil && f != nil && f.Kind == "list" {
			continue
		}
		f = nil
		for i := range fields {
			if fields[i].Name == k {
				f = &fields[i]
			}
		}
		if f == nil {
			return nil
		}
		fields = f.Fields
	}
	return f
}

// Title says in the trade's words what a sheet path holds.
func Title(path string) string {
	f := FieldAt(path)
	if f == nil {
		return path
	}
	t := say.T(f.Doc)
	if t == "" {
		t = say.Term(f.Name)
	}
	for _, side := range []string{"left", "right", "front", "rear"} {
		if strings.Contains("."+path+".", "."+side+".") && !strings.HasSuffix(f.Doc, side) {
			t += ", " + say.T(side)
		}
	}
	return t
}

// Unit is the unit of a sheet path, empty for a word or a bare number.
func Unit(path string) string {
	if f := FieldAt(path); f != nil {
		return f.Unit
	}
	return ""
}
