package bind

import (
	"maps"
	"reflect"
	"strconv"
	"strings"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Readings that a calculation takes and no other part of the sheet knows stand
// under "given", by the calculation's name with underscores (and a number, where
// there are several) and by its own names of the inputs:
// given.mid_mount.stop.kind, given.wire_run_1.length_m.

// decideGiven judges a check by its calculation, from what was given and from
// what the sheet knows already.
func decideGiven(b *Binder, c *catalogue.Check) {
	k := calc.Lookup(c.Calc)
	in := k.NewInput()
	b.fill(reflect.ValueOf(in).Elem(), c, "given."+c.Given, "")
	b.run(k, in, c)
}

// run evaluates a populated input, unless something is wanting.
func (b *Binder) run(k calc.Calculation, in any, c *catalogue.Check) (out any) {
	if b.Missing() {
		return nil
	}
	out, judged, err := b.evaluate(k, in)
	if err != nil {
		b.refused("given."+c.Given+".", err)
		return nil
	}
	b.LastOut = out
	b.takePart(judged, c.Part)
	u := b.U
	b.Explain = func(full bool) *Explanation {
		x := &Explanation{Input: in}
		x.Result, _ = k.ExplainAny(in, b.House(), u)
		if full {
			x.Remedies, x.TryAll = k.RemediesAny(in, b.House(), u, c.Part), true
		}
		return x
	}
	return out
}

// evaluate judges a populated input: what passes by the uncertainties that were given,
// what fails by the tools' own.
func (b *Binder) evaluate(k calc.Calculation, in any) (any, []decide.Judged, error) {
	out, judged, err := k.EvaluateAny(in, b.House(), b.U)
	if err != nil || maps.Equal(b.U, b.own) {
		return out, judged, err
	}
	_, own, err := k.EvaluateAny(in, b.House(), b.own)
	for i := range judged {
		if err == nil && i < len(own) && own[i].Output == judged[i].Output && own[i].Result == decide.Fail {
			judged[i].Result = decide.Fail
		}
	}
	return out, judged, err
}

// fill takes the inputs of a calculation from the sheet's tree.
func (b *Binder) fill(v reflect.Value, c *catalogue.Check, path, input string) {
	fields := schema.Describe(v.Type())
	known, _ := inspection.Lookup(b.State.Tree, path)
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

func (b *Binder) fillField(f *schema.Field, v reflect.Value, c *catalogue.Check, path, input string) {
	raw, given := inspection.Lookup(b.State.Tree, path)
	switch f.Kind {
	case "number", "integer":
		o := b.figure(path, inspection.FigureOf(raw), input, f.Required, false)
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
		if w := b.fact(path, inspection.FactOf(raw), f.Required); w != "" {
			v.SetString(w)
		}
	case "boolean":
		if yes, isBool := raw.(bool); isBool {
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
		switch {
		case f.Items != "object" && f.Items != "number":
			return // a check's own rule fills it
		case f.Required && len(list) == 0:
			b.need(path, "missing")
			return
		case f.Items == "number":
			b.numbersInto(v, list, path, input)
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

// decideTrace judges a lever of the trace that is no brake lever: shift, pedals.
func decideTrace(b *Binder, c *catalogue.Check) {
	b.takePool(c.Part, "", "", b.pool(c.Part))
	if len(b.Judged) > 0 {
		failed := b.Result == decide.OutcomeFail
		b.Judged = append(b.Judged, decide.Must("levers."+c.Part+".result", strings.Join(b.Why, "; "), !failed, c.Severity).Decide())
		if c.Severity == decide.Watch {
			for i := range b.Judged {
				b.Judged[i].Severity = decide.Watch // a long pause is watched, never mended
			}
		}
	}
}

// decideLead judges the lead of each brake lever before its pads bite, by the
// newest trace that measured it.
func decideLead(b *Binder, c *catalogue.Check) {
	defer func() {
		if len(b.Judged) == 0 && len(b.Needs) == 0 {
			b.Judged = []decide.Judged{decide.Must("levers.lead", "no lever has a switch, so none needs a lead", true, c.Severity).Decide()}
		}
	}()
	for name, l := range b.State.Sheet.Levers.Fitted() {
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
			b.Judged = append(b.Judged, b.limit(decide.AtLeast("levers."+name+".lead_mm", say.F("lead before the pads bite, %s", say.Term(name)), lead.V,
				policy.Of[cutoff.TraceLimits](b.House()).LeadMm, "mm", decide.Fix, "cutoff_trace.lead_mm"), "levers."+name+".bite_mm"))
		case p.undone && p.traces == 0:
			b.need("traces", evidence.Undone)
		default:
			b.Needs = append(b.Needs, Need{Path: "traces", Title: say.F("lead of the %s lever", say.Term(name)), Why: evidence.Missing,
				Words: say.T("no recording shows its travel at the switch's edge")})
		}
	}
}
