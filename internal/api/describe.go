package api

import (
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"jadegate/core/calc"
	"jadegate/core/schema"
)

// calculationTypes puts what each calculation takes and gives into the API's document,
// by the calculations' names, so that clients need not guess it.
func calculationTypes(reg huma.Registry) {
	in, out := &huma.Schema{Type: huma.TypeObject, Properties: map[string]*huma.Schema{}}, &huma.Schema{Type: huma.TypeObject,
		Properties: map[string]*huma.Schema{}}
	for _, c := range calc.All() {
		in.Properties[c.Describe().Name] = reg.Schema(c.InputType(), true, "")
		out.Properties[c.Describe().Name] = reg.Schema(c.OutputType(), true, "")
		in.Required = append(in.Required, c.Describe().Name)
		out.Required = append(out.Required, c.Describe().Name)
	}
	reg.Map()["CalculationInputs"], reg.Map()["CalculationOutputs"] = in, out
}

// describe carries into the API's document what the types of the core say of their
// fields: meaning, unit, range, words and default. A sourced figure or fact carries
// them at its value.
func describe(reg huma.Registry) {
	for name, s := range reg.Map() {
		t := reg.TypeFromRef("#/components/schemas/" + name)
		fields, ok := schema.Registered(t)
		if !ok {
			continue
		}
		for i := range fields {
			if p := s.Properties[fields[i].Name]; p != nil {
				describeField(p, &fields[i])
			}
		}
	}
}

func describeField(p *huma.Schema, f *schema.Field) {
	if p.Description == "" {
		p.Description = f.Doc
	}
	if f.Unit != "" {
		if p.Extensions == nil {
			p.Extensions = map[string]any{}
		}
		p.Extensions["x-unit"] = f.Unit
	}
	target := p
	if f.Kind == "figure" || f.Kind == "fact" {
		if len(f.Enum) == 0 && f.Min == nil && f.Max == nil {
			return
		}
		// The type stands by its name; what this field narrows stands beside it.
		target = &huma.Schema{}
		*p = huma.Schema{Description: p.Description, Extensions: p.Extensions, AllOf: []*huma.Schema{{Ref: p.Ref},
			{Properties: map[string]*huma.Schema{"value": target}}}}
	}
	target.Minimum, target.Maximum = f.Min, f.Max
	for _, w := range f.Enum {
		target.Enum = append(target.Enum, w)
	}
	switch {
	case f.Default == "" || p != target:
	case f.Kind == "number" || f.Kind == "integer":
		if v, err := strconv.ParseFloat(f.Default, 64); err == nil {
			target.Default = v
		}
	case f.Kind == "boolean":
		target.Default = f.Default == "true"
	case f.Kind == "string":
		target.Default = f.Default
	}
}
