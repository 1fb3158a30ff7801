package mutants

import (
	"fmt"
	"slices"
	"sort"
	"strings"
)

// Table writes the figures of a run: by gate, by vehicle, and every excused rule with
// its reason.
func Table(results []Result) string {
	var b strings.Builder
	b.WriteString("# Mutants of the verdict\n\nMade by `make mutants`; do not edit. Each sound vehicle is changed in one thing by rule. *Caught*: the verdict is as bad as the defect asks, or the change is refused. *No defect*: a reviewed line below says why. *Escaped*: a better verdict than asked.\n\n")
	count := func(title string, key func(*Result) string) {
		rows := map[string]*[4]int{}
		var order []string
		for i := range results {
			r := &results[i]
			k := key(r)
			if rows[k] == nil {
				rows[k] = &[4]int{}
				order = append(order, k)
			}
			n := 1
			switch {
			case r.Escaped:
				n = 3
			case r.Excused != "":
				n = 2
			}
			rows[k][0]++
			rows[k][n]++
		}
		sort.Strings(order)
		fmt.Fprintf(&b, "| %s | mutants | caught | no defect | escaped |\n| --- | --- | --- | --- | --- |\n", title)
		var sum [4]int
		for _, k := range order {
			fmt.Fprintf(&b, "| %s | %d | %d | %d | %d |\n", k, rows[k][0], rows[k][1], rows[k][2], rows[k][3])
			for i := range sum {
				sum[i] += rows[k][i]
			}
		}
		fmt.Fprintf(&b, "| all | %d | %d | %d | %d |\n\n", sum[0], sum[1], sum[2], sum[3])
	}
	count("gate", func(r *Result) string {
		if r.Gate == 0 {
			return "several"
		}
		return fmt.Sprint(r.Gate)
	})
	count("vehicle", func(r *Result) string { return r.Vehicle })
	b.WriteString("## Changes that are no defect\n\n| rule | of | why |\n| --- | --- | --- |\n")
	var used []string
	for i := range results {
		if w := results[i].Excused; w != "" && !slices.Contains(used, w) {
			used = append(used, w)
		}
	}
	for _, r := range reviewed {
		if slices.Contains(used, r.why) {
			fmt.Fprintf(&b, "| %s | %s | %s |\n", strings.ReplaceAll(r.rule, "*", "any"), r.what, r.why)
		}
	}
	return b.String()
}
