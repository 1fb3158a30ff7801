package inspection

import (
	"encoding/json"
	"errors"
	"jadegate/core/catalogue"
	"maps"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"sync"

	"jadegate/core/calc"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/quantity"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// Readings that a calculation takes and no other part of the sheet knows stand
// under "given", by the calculation's name with underscores (and a number, where
// there are several) and by its own names of the inputs:
// given.mid_mount.stop.kind, given.wire_run_1.length_m.

var number = regexp.MustCompile(`_\d+$`)

// calcOf finds the calculation whose readings a key holds.
func calcOf(key string) calc.Calculation {
	return calc.Lookup(strings.ReplaceAll(number.ReplaceAllString(key, ""), "_", "-"))
}

// givenField finds the input that a path under "given" names; nil if none. A
// path that ends at the calculation itself gives an object field.
func givenField(path string) *schema.Field {
	rest, ok := strings.CutPrefix(path, "given.")
	if !ok {
		return nil
	}
	parts := strings.Split(rest, ".")
	c := calcOf(parts[0])
	if c == nil {
		return nil
	}
	f := &schema.Field{Name: parts[0], Kind: "object", Fields: schema.Describe(c.InputType())}
	for _, k := range parts[1:] {
		if _, err := strconv.Atoi(k); err == nil && f.Kind == "list" {
			// An item of the list: an object of its fields, or a bare value.
			if f.Items != "object" {
				item := *f
				item.Kind = f.Items
				f = &item
			}
			continue
		}
		next := (*schema.Field)(nil)
		for i := range f.Fields {
			if f.Fields[i].Name == k {
				next = &f.Fields[i]
			}
		}
		if next == nil {
			return nil
		}
		f = next
	}
	return f
}

// FieldAt finds the field that a sheet path names, readings of calculations
// included; nil if none.
func FieldAt(path string) *schema.Field { return nameOf(path).field }

// named remembers what paths hold: neither the sheet's fields nor the
// calculations' inputs ever change.
var named sync.Map // path to naming

type naming struct {
	title, unit string
	field       *schema.Field
}

func nameOf(path string) naming {
	if n, ok := named.Load(path); ok {
		return n.(naming)
	}
	f := givenField(path)
	if f == nil {
		f = vehicle.FieldAt(path)
	}
	n := naming{title: title(path), field: f}
	if f != nil {
		n.unit = f.Unit
	}
	named.Store(path, n)
	return n
}

// Title says in the trade's words what a sheet path holds.
func Title(path string) string { return nameOf(path).title }

// Unit is the unit of a sheet path, empty for a word or a bare number.
func Unit(path string) string { return nameOf(path).unit }

func title(path string) string {
	if f := givenField(path); f != nil {
		t := f.Doc
		if t == "" {
			t = strings.ReplaceAll(strings.TrimSuffix(strings.TrimSuffix(f.Name, "_mm"), "_nm"), "_", " ")
		}
		return t
	}
	return vehicle.Title(path)
}

// checkGiven tries a value set under "given" by the input's own range.
func checkGiven(path string, raw json.RawMessage, old bool) error {
	f := givenField(path)
	if f == nil {
		return nil // the sheet's own decoder looks at it
	}
	v, err := schema.Parse(raw)
	if err != nil {
		return err
	}
	return checkTree(f, v, path, old)
}

// checkTree checks a value under "given"; a log of an earlier edition may name inputs
// that are gone.
func checkTree(f *schema.Field, v any, path string, old bool) error {
	if v == nil {
		return nil // taken away
	}
	switch x := v.(type) {
	case []any:
		if f.Kind != "list" {
			return quantity.Bad(path, "is a list", "give one value")
		}
		var errs []error
		for i, e := range x {
			p := path + "." + strconv.Itoa(i)
			errs = append(errs, checkTree(givenField(p), e, p, old))
		}
		return errors.Join(errs...)
	case map[string]any:
		if f.Kind != "object" && !(f.Kind == "list" && f.Items == "object") {
			break
		}
		var errs []error
		for k, e := range x {
			sub := givenField(path + "." + k)
			if sub == nil && old && retired(path+"."+k) {
				continue
			}
			if sub == nil {
				errs = append(errs, quantity.Bad(path+"."+k, "is not an input here", "see the calculation's description"))
				continue
			}
			errs = append(errs, checkTree(sub, e, path+"."+k, old))
		}
		return errors.Join(errs...)
	}
	return f.Check(v, path)
}

// decideGiven judges a check by its calculation, from what was given and from
// what the sheet knows already.
func decideGiven(b *binder, c *catalogue.Check) {
	k := calc.Lookup(c.Calc)
	in := k.NewInput()
	b.fill(reflect.ValueOf(in).Elem(), c, "given."+c.Given, "")
	b.run(k, in, c)
}

// run evaluates a filled input, unless something is wanting.
func (b *binder) run(k calc.Calculation, in any, c *catalogue.Check) (out any) {
	if b.missing() {
		return nil
	}
	out, judged, err := b.evaluate(k, in)
	if err != nil {
		b.refused("given."+c.Given+".", err)
		return nil
	}
	b.lastOut = out
	b.takePart(judged, c.Part)
	u := b.u
	b.explain = func(full bool) *Explanation {
		x := &Explanation{Input: in}
		x.Result, _ = k.ExplainAny(in, b.house(), u)
		if full {
			x.Remedies = b.unbroken(c, in, k.RemediesAny(in, b.house(), u, c.Part))
		}
		return x
	}
	return out
}

// evaluate judges a filled input: what passes by the uncertainties that were given,
// what fails by the tools' own.
func (b *binder) evaluate(k calc.Calculation, in any) (any, []decide.Judged, error) {
	out, judged, err := k.EvaluateAny(in, b.house(), b.u)
	if err != nil || maps.Equal(b.u, b.own) {
		return out, judged, err
	}
	_, own, err := k.EvaluateAny(in, b.house(), b.own)
	for i := range judged {
		if err == nil && i < len(own) && own[i].Output == judged[i].Output && own[i].Result == decide.Fail {
			judged[i].Result = decide.Fail
		}
	}
	return out, judged, err
}

// fill takes the inputs of a calculation from the sheet's tree.
func (b *binder) fill(v reflect.Value, c *catalogue.Check, path, input string) {
	fields := schema.Describe(v.Type())
	known, _ := Lookup(b.s.Tree, path)
	members, _ := known.(map[string]any)
	for i := range fields {
		f := &fields[i]
		if evidence.House(f) {
			continue // a figure of the policy, not of a person
		}
		if _, given := members[f.Name]; !given && !f.Required && len(c.Links) == 0 {
			continue // the preset stands
		}
		name, p := f.Name, path+"."+f.Name
		if input != "" {
			name = input + "." + f.Name
		}
		if to, ok := c.Links[name]; ok {
			if to == "" {
				continue // the check's own rule fills it
			}
			p = to
		}
		b.fillField(f, f.Value(v), c, p, name)
	}
}

func (b *binder) fillField(f *schema.Field, v reflect.Value, c *catalogue.Check, path, input string) {
	raw, given := Lookup(b.s.Tree, path)
	switch f.Kind {
	case "number", "integer":
		o := b.figure(path, figureOf(raw), input, f.Required, false)
		if !o.Ok {
			return // the preset stands
		}
		switch {
		case v.CanInt():
			v.SetInt(int64(o.V))
		case v.CanFloat():
			v.SetFloat(o.V)
		default:
			v.Set(reflect.ValueOf(o))
		}
	case "string":
		if w := b.fact(path, factOf(raw), f.Required); w != "" {
			v.SetString(w)
		}
	case "boolean":
		yes, isBool := raw.(bool)
		if !isBool {
			if w := factOf(raw).Value; w != "" {
				yes, isBool = w == "yes" || w == "true", true
			}
		}
		if isBool {
			if v.Kind() == reflect.Pointer {
				v.Set(reflect.ValueOf(&yes))
			} else {
				v.SetBool(yes)
			}
		}
	case "object":
		if v.Kind() == reflect.Pointer {
			if !given {
				return
			}
			n := reflect.New(v.Type().Elem())
			schema.Presets(n.Interface())
			v.Set(n)
			v = n.Elem()
		}
		b.fill(v, c, path, input)
	case "list":
		list, _ := raw.([]any)
		if f.Items != "object" {
			return
		}
		if f.Required && len(list) == 0 {
			b.need(path, "missing")
			return
		}
		items := reflect.MakeSlice(v.Type(), len(list), len(list))
		for k := range list {
			at := strconv.Itoa(k)
			schema.Presets(items.Index(k).Addr().Interface())
			b.fill(items.Index(k), c, path+"."+at, input+"."+at)
		}
		v.Set(items)
	}
}

// figureOf reads a sourced number from the tree; a bare number has no source
// and counts as a guess.
func figureOf(raw any) quantity.Figure {
	var f quantity.Figure
	m, ok := raw.(map[string]any)
	if !ok {
		if n, ok := raw.(json.Number); ok {
			if x, err := n.Float64(); err == nil {
				f.Value, f.Source = quantity.Some(x), quantity.FromGuess
			}
		}
		return f
	}
	if n, ok := m["value"].(json.Number); ok {
		if x, err := n.Float64(); err == nil {
			f.Value = quantity.Some(x)
		}
	}
	if n, ok := m["u"].(json.Number); ok {
		if x, err := n.Float64(); err == nil {
			f.U = quantity.Some(x)
		}
	}
	f.Source, _ = m["source"].(string)
	return f
}

// WordAt is the word at a path of the sheet, whoever says so; "" if there is none.
func (s *State) WordAt(path string) string {
	raw, _ := Lookup(s.Tree, path)
	return factOf(raw).Value
}

func factOf(raw any) quantity.Fact {
	var f quantity.Fact
	switch x := raw.(type) {
	case map[string]any:
		f.Value, _ = x["value"].(string)
		f.Source, _ = x["source"].(string)
	case string:
		f.Value = x
	}
	return f
}

// decideTrace judges a lever of the trace that is no brake lever: shift, pedals.
func decideTrace(b *binder, c *catalogue.Check) {
	b.takePool(c.Part, "", "", b.pool(c.Part))
	if len(b.judged) > 0 {
		failed := b.result == decide.OutcomeFail
		b.judged = append(b.judged, decide.Must("levers."+c.Part+".result", strings.Join(b.why, "; "), !failed, c.Severity).Decide())
		if c.Severity == decide.Watch {
			for i := range b.judged {
				b.judged[i].Severity = decide.Watch // a long pause is watched, never mended
			}
		}
	}
}

// decideLead judges the lead of each brake lever over its pads' bite, by the
// newest trace that measured it.
func decideLead(b *binder, c *catalogue.Check) {
	defer func() {
		if len(b.judged) == 0 && len(b.needs) == 0 {
			b.judged = []decide.Judged{decide.Must("levers.lead", "no lever with a switch has a lead", true, c.Severity).Decide()}
		}
	}()
	for name, l := range b.s.Sheet.Levers.There() {
		if l.Switch.Is("none") {
			continue // no switch, no lead
		}
		p := b.pool(name)
		lead := quantity.Opt{}
		for k := range p.pulls {
			if e := &p.pulls[k]; e.LeadMm.Ok && (!lead.Ok || e.LeadMm.V < lead.V) {
				lead = e.LeadMm
			}
		}
		bite := b.figure("levers."+name+".bite_mm", l.BiteMm, "levers."+name+".bite_mm", true, false)
		switch {
		case !bite.Ok:
		case lead.Ok:
			b.judged = append(b.judged, b.limit(decide.AtLeast("levers."+name+".lead_mm", "lead over the pads' bite, "+name, lead.V, b.house().CutoffTrace.LeadMm, "mm", decide.Fix, "cutoff_trace.lead_mm"), "levers."+name+".bite_mm"))
		case p.undone && p.traces == 0:
			b.need("traces", evidence.Undone)
		default:
			b.needs = append(b.needs, Need{Path: "traces", Title: "lead of the " + name + " lever", Why: evidence.Missing, Words: "no recording shows its travel at the switch's edge"})
		}
	}
}
