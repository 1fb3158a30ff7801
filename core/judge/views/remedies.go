package views

import (
	"reflect"
	"strconv"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// unbroken keeps the remedies that settle the check and fail no other: each is put in place of the
// readings it changes, and the whole vehicle is judged again.
func unbroken(b *bind.Binder, c *catalogue.Check, x *bind.Explanation) []calc.Remedy {
	out := []calc.Remedy{}
	c = bind.Linked(c) // what a rule fills from elsewhere has no reading to change
	var was map[string]bool
	for _, r := range x.Remedies {
		if r.Enough {
			r.Sets = map[string]float64{}
			if !changed(c, reflect.ValueOf(x.Input).Elem(), reflect.ValueOf(r.After).Elem(), "", "given."+c.Given, r.Sets) {
				r.Sets = nil
			}
			if was == nil {
				was = failing(b, nil)
			}
			breaks := false
			for id := range failing(b, r.Sets) {
				breaks = breaks || !was[id]
				// The check may ask more than its calculation does.
				r.Enough = r.Enough && (id != c.ID || len(r.Sets) == 0)
			}
			if breaks {
				continue
			}
		}
		out = append(out, r)
	}
	return out
}

// failing are the checks that fail with figures put in place of what was read.
func failing(b *bind.Binder, put map[string]float64) map[string]bool {
	out := map[string]bool{}
	ses := bind.Trying(put)
	for _, c := range catalogue.Applicable(b.State.Sheet) {
		if cs := verdict.EvaluateCheck(b.State, b.Env, c, ses); cs.Outcome == decide.OutcomeFail {
			out[c.ID] = true
		}
	}
	return out
}

// changed lists the sheet paths of the numbers in which two inputs of a calculation
// differ; false if they differ in more, a part of another kind for one. What the
// check's own rule fills from elsewhere has no path of its own.
func changed(c *catalogue.Check, was, is reflect.Value, input, path string, sets map[string]float64) (all bool) {
	all = true
	fields := schema.Describe(was.Type())
	for i := range fields {
		f := &fields[i]
		x, y := f.Value(was), f.Value(is)
		if reflect.DeepEqual(x.Interface(), y.Interface()) {
			continue
		}
		name, at := f.Name, path+"."+f.Name
		if input != "" {
			name = input + "." + f.Name
		}
		if to, ok := c.Links[name]; ok {
			at = to
		}
		switch v := y.Interface().(type) {
		case quantity.Opt:
			if v.Ok {
				sets[at] = v.V
			}
		case float64:
			sets[at] = v
		case int:
			sets[at] = float64(v)
		default:
			switch y.Kind() {
			case reflect.Struct:
				all = changed(c, x, y, name, at, sets) && all
			case reflect.Slice:
				all = all && x.Len() == y.Len() && y.Type().Elem().Kind() == reflect.Struct
				for k := 0; all && k < x.Len(); k++ {
					all = changed(c, x.Index(k), y.Index(k), name+"."+strconv.Itoa(k), at+"."+strconv.Itoa(k), sets)
				}
			default:
				all = false
			}
		}
	}
	delete(sets, "")
	return all
}
