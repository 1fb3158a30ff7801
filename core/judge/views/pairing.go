package views

import (
	"strconv"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// Pairing holds what belongs to a vehicle against what belongs to the one that it could be
// mixed up with, as that one was last recorded.
type Pairing struct {
	With       string     `json:"with" doc:"the other vehicle"`
	Number     string     `json:"number" doc:"its newest inspection, by number"`
	Inspection string     `json:"inspection" doc:"the same, by id"`
	Lines      []PairLine `json:"lines"`
}

// PairLine is one thing of both.
type PairLine struct {
	What  string `json:"what"`
	Own   string `json:"own" doc:"empty: not known"`
	Other string `json:"other" doc:"empty: not known"`
	// What to do about it; empty where there is nothing.
	Words string `json:"words"`
	Stop  bool   `json:"stop" doc:"mixed up, it hurts somebody"`
}

// Pair compares packs, keys and chargers of two vehicles. House.
func Pair(own, other *vehicle.Sheet) []PairLine {
	out := []PairLine{}
	figure := func(f quantity.Figure, unit string) string {
		if !f.Value.Ok {
			return ""
		}
		return strings.TrimSpace(strconv.FormatFloat(f.Value.V, 'g', 5, 64) + " " + unit)
	}
	same := func(a, b string) bool {
		return quantity.Folded(a) != "" && quantity.SameName(a, b)
	}
	add := func(what, a, b string, wrong bool, words string, stop bool) {
		l := PairLine{What: what, Own: a, Other: b}
		if wrong {
			l.Words, l.Stop = words, stop
		}
		out = append(out, l)
	}
	const one = "the same number on both: one of the two is not its own"
	for i := range max(len(own.Packs), len(other.Packs)) {
		var a, b vehicle.Pack
		if i < len(own.Packs) {
			a = own.Packs[i]
		}
		if i < len(other.Packs) {
			b = other.Packs[i]
		}
		twice := ""
		for k := range other.Packs { // wherever it hangs on the other
			if same(a.Number.Value, other.Packs[k].Number.Value) {
				twice = one
			}
		}
		add(say.F("number of pack %d", i+1), a.Number.Value, b.Number.Value, twice != "", twice, false)
		add(say.F("key of pack %d", i+1), a.Key.Value, b.Key.Value, same(a.Key.Value, b.Key.Value), say.T("one key opens both: it says nothing of which is whose"),
			false)
		add(say.F("cells in series of pack %d", i+1), figure(a.Series, ""), figure(b.Series, ""),
			a.Series.Value.Ok && b.Series.Value.Ok && a.Series.Value.V != b.Series.Value.V, say.T("mark packs and chargers: one overcharges the other"), true)
	}
	av, bv := own.Found.ChargerV, other.Found.ChargerV
	add(say.T("charger's final voltage"), figure(av, "V"), figure(bv, "V"), av.Value.Ok && bv.Value.Ok && av.Value.V != bv.Value.V,
		say.T("never change their chargers"), true)
	add(say.T("charger, number"), own.Found.ChargerNumber.Value, other.Found.ChargerNumber.Value,
		same(own.Found.ChargerNumber.Value, other.Found.ChargerNumber.Value), one, false)
	return out
}
