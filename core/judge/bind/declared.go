package bind

import (
	"errors"
	"fmt"
	"reflect"
	"slices"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// Declared tries every declaration that judging rests on: checks name calculations that there are, whose inputs can be
// filled from a sheet; rules and figures belong to checks of the catalogue; operations are known; keys lead to figures
// of the policy. A program with an error among them must not start: an input that nothing fills would be left out
// without a word.
func Declared() error {
	var errs []error
	wrong := func(format string, a ...any) { errs = append(errs, fmt.Errorf(format, a...)) }
	known := func(at string, ops []string) {
		for _, op := range ops {
			if !catalogue.Known(op) {
				wrong("%s: no operation %q", at, op)
			}
		}
	}
	all := catalogue.All()
	for i := range all {
		c := &all[i]
		known(c.ID, c.UndoneBy)
		known(c.ID, c.PartOps)
		switch k := calc.Lookup(c.Calc); {
		case c.Calc == "":
			if c.Given != "" {
				wrong("%s keeps readings under %q for no calculation", c.ID, c.Given)
			}
		case k == nil:
			wrong("%s: no calculation %q", c.ID, c.Calc)
		case c.Given != "":
			fillable(c.ID, schema.Describe(k.InputType()), wrong)
			declared(c.ID, schema.Describe(k.InputType()), known, wrong)
		}
		if c.Computed && c.Calc == "" && deciders[c.ID] == nil {
			wrong("%s is computed, and nothing says how", c.ID)
		}
	}
	declared("sheet", vehicle.Fields(), known, wrong)
	is := func(what, id string) {
		if !slices.ContainsFunc(all, func(c catalogue.Check) bool { return c.ID == id }) {
			wrong("%s of %q, which is no check", what, id)
		}
	}
	for id := range deciders {
		is("a rule", id)
	}
	shipped := policy.Default()
	for id, figures := range figuresOfLooks {
		is("a figure", id)
		for _, f := range figures {
			if inspection.FieldAt(f.Path) == nil {
				wrong("%s: no field %s", id, f.Path)
			}
			if f.key == "" {
				continue
			}
			func() {
				defer func() {
					if recover() != nil {
						wrong("%s: no figure %s of the policy", id, f.key)
					}
				}()
				shipped.Figure(f.key)
			}()
		}
	}
	return errors.Join(errs...)
}

// byRule are inputs that a check's own rule fills: the vehicle as the law asks for it, and the runs of a ride's file.
var byRule = map[string]bool{"law.class": true, "law.speed": true, "law.product": true, "ride.speed.runs": true}

// fillable reports inputs of a kind that no sheet fills.
func fillable(at string, fields []schema.Field, wrong func(string, ...any)) {
	for i := range fields {
		f := &fields[i]
		if evidence.House(f) || byRule[at] || byRule[at+"."+f.Name] {
			continue
		}
		at := at + "." + f.Name
		switch f.Kind {
		case "number", "integer", "string", "boolean":
		case "object":
			fillable(at, f.Fields, wrong)
		case "list":
			switch f.Items {
			case "object":
				fillable(at, f.Fields, wrong)
			case "number":
			default:
				wrong("%s: a list of %s is filled by nothing", at, f.Items)
			}
		default:
			wrong("%s: %s is filled by nothing", at, f.Kind)
		}
	}
}

// declared reports operations and classes that there are none of.
func declared(at string, fields []schema.Field, known func(string, []string), wrong func(string, ...any)) {
	for i := range fields {
		f := &fields[i]
		at := at + "." + f.Name
		known(at, f.Touched)
		if !slices.Contains([]string{"", schema.Design, schema.Own}, f.Class) {
			wrong("%s: no class %q", at, f.Class)
		}
		declared(at, f.Fields, known, wrong)
	}
}

// numbersInto fills a list of plain numbers, each a reading of its own.
func (b *Binder) numbersInto(v reflect.Value, raw []any, path, input string) {
	out := reflect.MakeSlice(v.Type(), 0, len(raw))
	for k := range raw {
		at := fmt.Sprintf(".%d", k)
		if o := b.figure(path+at, inspection.FigureOf(raw[k]), input+at, true, false); o.Ok {
			out = reflect.Append(out, reflect.ValueOf(o.V))
		}
	}
	v.Set(out)
}
