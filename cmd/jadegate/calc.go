package main

import (
	"fmt"
	"io"
	"os"
	"strings"

	"jadegate/core/calc"
	"jadegate/core/cutoff"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/schema"
	"jadegate/internal/rules"
)

type calcCmd struct {
	What string `arg:"" help:"list, describe, or the name of a calculation"`
	Name string `arg:"" optional:"" help:"calculation to describe"`
	JSON bool   `help:"Describe as JSON Schema."`

	Policy string `type:"existingfile" help:"House policy (YAML) to judge by instead of the shipped one."`
}

func (c calcCmd) Run() error {
	switch c.What {
	case "list":
		for _, k := range calc.All() {
			d := k.Describe()
			fmt.Printf("%-18s %s\n", d.Name, d.Title)
		}
		return nil
	case "describe":
		k, err := lookup(c.Name)
		if err != nil {
			return err
		}
		if c.JSON {
			return printJSON(os.Stdout, schema.JSONSchema(k.Describe().Inputs))
		}
		describe(k.Describe())
		return nil
	}
	k, err := lookup(c.What)
	if err != nil {
		return err
	}
	raw, err := io.ReadAll(os.Stdin)
	if err != nil {
		return err
	}
	house := policy.Default()
	if c.Policy != "" {
		file, err := os.ReadFile(c.Policy)
		if err != nil {
			return err
		}
		if house, err = rules.ReadPolicy(file); err != nil {
			return badFile(c.Policy, err)
		}
	}
	r, err := k.Run(raw, house)
	if err != nil {
		return badInput(err)
	}
	return printJSON(os.Stdout, r)
}

func lookup(name string) (calc.Calculation, error) {
	if k := calc.Lookup(name); k != nil {
		return k, nil
	}
	return nil, badInput(quantity.Invalid("name", fmt.Sprintf("%q is not a calculation", name), "see 'jadegate calc list'"))
}

func describe(d calc.Description) {
	fmt.Printf("%s: %s\n\n%s\nSource: %s\n", d.Name, d.Title, d.Summary, d.Source)
	if d.Caution != "" {
		fmt.Println("Caution:", d.Caution)
	}
	for _, part := range []struct {
		title  string
		fields []schema.Field
	}{{"Inputs", d.Inputs}, {"Outputs", d.Outputs}, {"House limits", d.Limits}} {
		if len(part.fields) > 0 {
			fmt.Printf("\n%s\n", part.title)
			fields(part.fields, "  ")
		}
	}
	if len(d.Levers) > 0 {
		fmt.Println("\nLevers")
		for _, l := range d.Levers {
			fmt.Printf("  %-26s %s\n", l.Key, l.Title)
		}
	}
}

func fields(list []schema.Field, indent string) {
	for i := range list {
		f := &list[i]
		var notes []string
		if f.Unit != "" {
			notes = append(notes, f.Unit)
		}
		if f.Min != nil || f.Max != nil {
			lo, hi := f.Range()
			notes = append(notes, fmt.Sprintf("%g…%g", lo, hi))
		}
		if len(f.Enum) > 0 {
			notes = append(notes, strings.Join(f.Enum, "|"))
		}
		if f.Default != "" && f.Default != "{}" {
			notes = append(notes, "default "+f.Default)
		}
		if f.Required {
			notes = append(notes, "required")
		}
		fmt.Printf("%s%-*s %s  %s\n", indent, 28-len(indent), f.Name, f.Doc, strings.Join(notes, ", "))
		fields(f.Fields, indent+"  ")
	}
}

type traceCmd struct {
	File        string   `arg:"" help:"trace file (CSV)"`
	BiteLeftMm  *float64 `help:"Lever travel at which the left pads bite, mm."`
	BiteRightMm *float64 `help:"The same, right."`
	IdleA       float64  `help:"Current with the wheel still, A."`
	CutoffKmh   *float64 `help:"Assist limit of the class, km/h (pedal stop)."`
	Required    []string `default:"left,right" help:"Levers that must pass."`
}

func (c traceCmd) Run() error {
	data, err := os.ReadFile(c.File)
	if err != nil {
		return err
	}
	opt := cutoff.Options{IdleA: c.IdleA, Required: c.Required, LeversCut: true, ShiftPort: "own_port"}
	for _, o := range []struct {
		from *float64
		to   *quantity.Opt
	}{{c.BiteLeftMm, &opt.BiteLeftMm}, {c.BiteRightMm, &opt.BiteRightMm}, {c.CutoffKmh, &opt.CutoffKmh}} {
		if o.from != nil {
			*o.to = quantity.Some(*o.from)
		}
	}
	h := policy.Default()
	out, err := cutoff.Read(&cutoff.TraceInput{CSV: string(data), Options: opt}, policy.Of[cutoff.TraceLimits](h), nil)
	if err != nil {
		return badInput(err)
	}
	if err := printJSON(os.Stdout, calc.TraceResult(&out, policy.Of[cutoff.TraceLimits](h))); err != nil {
		return err
	}
	if !out.Pass {
		return exit(exitJudged)
	}
	return nil
}
