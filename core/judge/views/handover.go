package views

import (
	"fmt"
	"strconv"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/limits"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// Handover is the rider's sheet: what the record says to whoever rides the vehicle, in
// plain words.
type Handover struct {
	Vehicle string        `json:"vehicle"`
	Number  string        `json:"number" doc:"of the inspection"`
	Words   string        `json:"words" doc:"whether it may be ridden"`
	Rides   bool          `json:"rides" doc:"it may be ridden"`
	Signed  string        `json:"signed" doc:"who signed, and on which day; empty while nobody has"`
	Parts   []HandoverBit `json:"parts"`
	Hash    string        `json:"hash" doc:"first 16 digits of the last entry's hash"`
}

// HandoverBit is a part of the sheet.
type HandoverBit struct {
	Title string   `json:"title"`
	Lines []string `json:"lines"`
}

// HandoverOf makes the rider's sheet from an inspection and its evaluation. Nothing on it
// is promised that the record does not hold: what is not known is not written.
func HandoverOf(s *inspection.State, ev *verdict.Evaluation, env bind.Env) *Handover {
	sh := s.Sheet
	out := &Handover{Vehicle: sh.Name, Number: s.Opened.Number, Words: ev.Verdict.Words(), Rides: ev.Verdict == decide.GateOpen || ev.Verdict == decide.GateAjar,
		Parts: []HandoverBit{}, Hash: s.Head[:min(16, len(s.Head))]}
	if s.Signed != nil {
		out.Signed = fmt.Sprintf("%s, %s", s.Signed.T.Name, env.Day(s.Signed.At))
	}
	add := func(title string, lines ...string) {
		if len(lines) > 0 {
			out.Parts = append(out.Parts, HandoverBit{title, lines})
		}
	}
	if !out.Rides {
		var why []string
		for _, f := range ev.Findings {
			if f.Severity == decide.Stop || f.Severity == decide.Fix {
				why = append(why, f.Title+": "+f.Words)
			}
		}
		if ev.Unsettled > 0 {
			why = append(why, leftOver(ev.Unsettled))
		}
		add(say.T("Do not ride it"), why...)
	}
	var conditions []string
	for _, f := range ev.Findings {
		if f.Severity == decide.Watch && out.Rides {
			line := f.Title + ": " + f.Words
			if f.Due != "" {
				line += say.F("; recheck by %s", f.Due)
			}
			conditions = append(conditions, line)
		}
	}
	if out.Rides {
		for _, c := range ev.Conditions {
			conditions = append(conditions, say.Upper(c)+".")
		}
	}
	add(say.T("Ride it under these conditions"), conditions...)
	add("Limits", limitLines(sh, out.Rides)...)
	var class *limits.ClassResult // told to the rider once it is certain, never before
	if c := ev.Check("law.class"); c != nil && c.Outcome == decide.OutcomePass {
		class = bestClass(s, env)
	}
	if class != nil {
		var law []string
		for _, r := range class.Requirements {
			if r.ID == "assist" && r.Value.V > 0 {
				law = append(law, say.F("The motor helps up to %s.", speedIn(class, r.Value.V)))
			}
		}
		for _, w := range class.Rider {
			law = append(law, say.Upper(w)+".")
		}
		for _, w := range class.Papers {
			law = append(law, say.F("Paper still missing: %s.", say.Term(w)))
		}
		add(env.Packs[sh.Use.Place].Name+", "+class.Name, append(law, limits.ClassNote())...)
	}
	add("Charging", chargeLines(sh)...)
	add(say.T("Check these by hand before each ride"), verdict.RecheckedByHand(sh)...)
	add(say.T("Stop and call the workshop if"),
		say.T("the motor keeps driving after a brake lever is pulled, or after you stop pedalling"),
		say.T("a wheel shifts in the frame, an axle nut's mark no longer lines up, an arm or band moves"),
		say.T("a plug, lead, pack or motor smells, smokes or is too hot to touch"),
		say.T("the display goes dark or blinks while riding"))
	return out
}

func leftOver(n int) string {
	if n == 1 {
		return say.T("1 check is not settled.")
	}
	return say.F("%d checks are not settled.", n)
}

// limitLines are the limits of the sheet; those that are conditions stand among these.
func limitLines(sh *vehicle.Sheet, conditions bool) []string {
	var out []string
	if f := sh.Use.AllowedKg.Value; f.Ok {
		out = append(out, say.F("Vehicle, rider and load together: %s kg at most.", plainNumber(f.V)))
	}
	for _, w := range []struct {
		name string
		w    *vehicle.Wheel
	}{{"Front", &sh.Front}, {"Rear", &sh.Rear}} {
		low, high := w.w.PressureMinBar.Value, w.w.PressureMaxBar.Value
		if low.Ok && high.Ok {
			out = append(out, say.F("%s tyre: %s to %s bar.", say.Term(w.name), plainNumber(low.V), plainNumber(high.V)))
		}
	}
	for i := range sh.WordLimits {
		if l := &sh.WordLimits[i]; !conditions || !l.Held() {
			out = append(out, say.Upper(l.Words)+".")
		}
	}
	return out
}

func chargeLines(sh *vehicle.Sheet) []string {
	if len(sh.Packs) == 0 {
		return nil
	}
	line := say.T("Only with this vehicle's own charger")
	if v := sh.Found.ChargerV.Value; v.Ok {
		line += fmt.Sprintf(", %s V", plainNumber(v.V))
	}
	if n := sh.Found.ChargerNumber.Value; n != "" {
		line += say.F(", number %s", n)
	}
	out := []string{line + ".", say.T("Never unattended, never next to an exit. On a base that does not burn; not straight after the ride, and not in frost."),
		say.T("A pack that swells, hisses, smells or gets hot is taken outdoors, well away from everything, by trained people. Nobody opens it.")}
	if len(sh.Packs) > 1 {
		out = append(out, say.T("Change packs over as the workshop showed you: force nothing, and push every plug in to its mark."))
	}
	return out
}

// bestClass is the class of the place that the vehicle is judged by; nil if none is.
func bestClass(s *inspection.State, env bind.Env) *limits.ClassResult {
	t := Law(s, env, nil)
	if len(t.Places) == 0 || t.Places[0].Role != "place" {
		return nil
	}
	for i := range t.Places[0].Classes {
		if k := &t.Places[0].Classes[i]; k.Class == t.Places[0].Best && k.Result != limits.Out && k.Result != limits.NotInForce {
			return k
		}
	}
	return nil
}

func plainNumber(v float64) string { return strconv.FormatFloat(v, 'g', 4, 64) }
