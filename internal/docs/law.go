package docs

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"jadegate/core/limits"
	"jadegate/internal/rules"
)

// law writes what the shipped packs say: which classes a conversion reaches and by which
// evidence, and each fact with its source and grade.
func law() []byte {
	var b bytes.Buffer
	b.WriteString(made + `# The law as it is shipped

Each pack was written down from memory. It is nobody's word: a lead of the workshop reads the law of a place once, fact by fact, before a vehicle passes a class of it (the day board says where that is missing). Local law and the authority decide, and a class here is no approval.

Grades: c certain, l likely, u unsure. What is unsure is asked of the law, in its review, and never of a vehicle.

## What a conversion reaches

A conversion from a kit that a workshop can buy is *in* a class by the evidence named here, once the law was read; *on paper* where the class asks for papers, until they are on file.

| place | class | a conversion | by which evidence |
| --- | --- | --- | --- |
`)
	packs := rules.Packs()
	for _, id := range rules.PackIDs() {
		p := packs[id]
		for i := range p.Classes {
			c := &p.Classes[i]
			reach, by := reached(c)
			fmt.Fprintf(&b, "| %s%s | %s | %s | %s |\n", p.Name, kindOf(p), c.Name, reach, strings.Join(by, "; "))
		}
	}
	b.WriteString("\n## Every fact\n")
	for _, id := range rules.PackIDs() {
		p := packs[id]
		fmt.Fprintf(&b, "\n### %s%s (`%s`, as of %s, version %d)\n\n", p.Name, kindOf(p), id, p.AsOf, p.Version)
		for _, s := range p.Sources {
			fmt.Fprintf(&b, "- `%s`: %s, %d\n", s.ID, s.Title, s.Year)
		}
		b.WriteString("\n| class | field | says | source | grade |\n| --- | --- | --- | --- | --- |\n")
		for i := range p.Classes {
			c := &p.Classes[i]
			for _, f := range limits.Asked() {
				from, grade := "", "u"
				if fact, ok := c.Facts[f]; ok {
					from, grade = strings.TrimSuffix(fact.Source+", "+fact.Section, ", "), fact.Grade
				}
				fmt.Fprintf(&b, "| %s | %s | %s | %s | %s |\n", c.ID, f, c.Means(f), from, grade)
			}
		}
	}
	return b.Bytes()
}

func kindOf(p *limits.RulePack) string {
	if p.Kind == "product" {
		return " (product law)"
	}
	return ""
}

// reached says whether a conversion comes into a class, and by which evidence.
func reached(c *limits.Class) (string, []string) {
	out := "in"
	var by []string
	add := func(when bool, words string) {
		if when {
			by = append(by, words)
		}
	}
	if c.Power != nil {
		add(c.Power.Basis == "rated_continuous", "maker's continuous rating with its photo, and the controllers' current")
		add(c.Power.Basis == "unstated", "the figure that the law means, by its review: a maker's rating, or the shaft power; or a current so low that it is under by any")
		add(c.Power.Basis == "shaft", "shaft power on a dynamometer, or a current so low that it cannot be more")
		add(c.Power.Basis == "nominal" || c.Power.Basis == "peak", "battery voltage and the controllers' current")
	}
	add(c.Assist != nil, "true speed at which assistance ends, and that no rider lifts it")
	add(c.Fade != nil, "a recorded fading, or the maker's declaration")
	add(c.PedalStop != nil, "recordings of the pedals' stop")
	add(c.Throttle != nil, "kind of throttle, with its speed where one is bounded")
	add(c.Walk != nil, "speed of the walking help")
	add(c.Mass != nil, "weighed, or the declared mass")
	add(c.Size != nil, "sizes by tape")
	add(c.Stop != nil, "a measured stop")
	add(c.MotorOff != nil, "what ends the drive, tried")
	if c.Equipment != nil {
		add(len(c.Equipment.Defines) > 0, "seen and photographed: "+strings.Join(c.Equipment.Defines, ", "))
	}
	add(c.FirstUseBefore != "", "a dated invoice or registration of the electric form")
	if c.Ratio != nil {
		out = "hardly: a bench with two torques settles the ratio, which few workshops have, or the type certification of that very model, which a conversion has not"
	}
	if c.Paper != nil {
		kinds := slices.Concat(c.Paper.All, c.Paper.Any)
		out = "on paper: " + strings.ReplaceAll(strings.Join(kinds, ", "), "_", " ")
		if slices.Contains(kinds, "type_approval") {
			out += "; an approval of this very vehicle, from the authority or a technical service, is seldom given to a conversion"
		}
		if slices.Equal(kinds, []string{"declaration"}) {
			out += "; whoever converts it for somebody else is its maker, and declares it"
		}
	}
	return out, by
}
