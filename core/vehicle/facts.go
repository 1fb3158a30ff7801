package vehicle

import (
	"fmt"
	"slices"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Facts take checks away: a vehicle said to have no throttle is not asked for its
// throttle. What is not known never takes a check away.

func (s *Sheet) driven(kind string) bool {
	for i := range s.Drives {
		if s.Drives[i].Kind == kind {
			return true
		}
	}
	return false
}

// FrontHub reports whether a motor sits in the front wheel.
func (s *Sheet) FrontHub() bool { return s.driven("front_hub") }

// RearHub reports whether a motor sits in the rear wheel.
func (s *Sheet) RearHub() bool { return s.driven("rear_hub") }

// MidDrive reports whether a motor sits at the cranks.
func (s *Sheet) MidDrive() bool { return s.driven("mid") }

// Throttled reports whether there may be a throttle: one is not said to be missing.
func (s *Sheet) Throttled() bool { return !s.Throttle.Is("none") || len(s.Throttles) > 0 }

// Sensed reports whether there may be a pedal sensor.
func (s *Sheet) Sensed() bool { return !said(s.PedalSensor, false) }

// Mixed reports whether plugs of mixed makes may be there.
func (s *Sheet) Mixed() bool { return !said(s.MixedPlugs, false) }

// Limited reports whether it may be held below what it could do.
func (s *Sheet) Limited() bool { return !said(s.Restricted, false) || len(s.Restrictions) > 0 }

// Held reports whether more than words holds the limit.
func (l *WordLimit) Held() bool { return l.HeldBy.Known() && !l.HeldBy.Is("word_only") }

// Proven says why a restriction counts as none; empty where it counts: it holds after
// switching off and on, no hand lifts it, and it does not fail toward more. Source: house.
func (r *Restriction) Proven() string {
	for _, f := range []struct {
		fact quantity.Fact
		good []string
		bad  string
		ask  string
	}{
		{r.Cycle, []string{"holds"}, say.T("it is gone after switching off and on"), say.T("nobody measured it after switching off and on")},
		{r.Kept, []string{"sealed", "locked"}, say.T("the rider can lift it"), say.T("nobody said whether the rider can lift it")},
		{r.Fails, []string{"lower", "stops"}, say.T("it goes to full if it comes off"), say.T("nobody tried what it goes to if it comes off")},
	} {
		switch {
		case f.fact.Source != quantity.FromMeasured && f.fact.Source != quantity.FromSeen:
			return f.ask
		case !slices.Contains(f.good, f.fact.Value):
			return f.bad
		}
	}
	return ""
}

// Holds reports whether the restriction is one of that of a motor.
func (r *Restriction) Holds(of string, drive int) bool {
	return r.Of == of && (r.Drive == nil || *r.Drive == drive)
}

// Restrained reports whether a restriction that counts holds a motor below what it could do.
func (s *Sheet) Restrained(of string, drive int) bool {
	return slices.ContainsFunc(s.Restrictions, func(r Restriction) bool { return r.Holds(of, drive) && r.Proven() == "" })
}

// Regenerates reports whether a motor may brake.
func (s *Sheet) Regenerates() bool {
	for i := range s.Drives {
		if !s.Drives[i].Regen.Is("no") {
			return true
		}
	}
	return false
}

// Even reports whether drive and brake of a trike's pair are said to work on both of its wheels, or on neither.
func (s *Sheet) Even() bool {
	even := func(f quantity.Fact) bool { return f.Is("both") || f.Is("none") }
	return even(s.Pair.Driven) && even(s.Pair.Braked)
}

// Disc reports whether a wheel may have a disc brake.
func (s *Sheet) Disc() bool {
	for _, w := range s.Wheels() {
		if w.Brake.Value == "" || w.Brake.Is("disc") {
			return true
		}
	}
	return false
}

func said(b *bool, v bool) bool { return b != nil && *b == v }

// Measured is a reading of a calculation by its own name; 0 if there is none.
func (s *Sheet) Measured(calculation, input string) float64 {
	given, _ := s.Given.V.(map[string]any)
	of, _ := given[calculation].(map[string]any)
	leaf, _ := of[input].(map[string]any)
	v, _ := leaf["value"].(float64)
	return v
}

// Yes reports whether a fact is said and true.
func Yes(b *bool) bool { return said(b, true) }

// Lack is a fact that can take a check away.
type Lack struct {
	Path  string `json:"path"`
	Words string `json:"words"` // what it says if there is none
	Known bool   `json:"known"`
	None  bool   `json:"none"` // it says that there is none
}

// Lacks lists the facts that can take checks away, in the order of the sheet. An
// intake confirms those that say "none" as one list.
func (s *Sheet) Lacks() []Lack {
	var out []Lack
	flag := func(path, words string, b *bool) {
		out = append(out, Lack{path, words, b != nil, said(b, false)})
	}
	word := func(path, words string, f quantity.Fact, none string) {
		out = append(out, Lack{path, words, f.Known(), f.Value == none})
	}
	word("throttle", say.T("no throttle"), s.Throttle, "none")
	flag("pedal_sensor", say.T("no pedal sensor"), s.PedalSensor)
	flag("restricted", say.T("nothing holds it below what it could do"), s.Restricted)
	flag("mixed_plugs", say.T("no mixed, cut or joined plugs"), s.MixedPlugs)
	flag("suspended", say.T("no suspension"), s.Suspended)
	for name, w := range s.Wheels() {
		word(name+".brake", say.F("no %s brake", say.Term(name)), w.Brake, "none")
	}
	for name, l := range s.Levers.Both() {
		word("levers."+name+".fitted", say.F("no %s brake lever", say.Term(name)), l.Fitted, "no")
		if l.Fitted.Is("no") {
			continue
		}
		word("levers."+name+".switch", say.F("no switch in the %s lever", say.Term(name)), l.Switch, "none")
		word("levers."+name+".works", say.F("the %s lever works no brake", say.Term(name)), l.Works, "none")
	}
	for i := range s.Drives {
		d := &s.Drives[i]
		word(fmt.Sprintf("drives.%d.regen", i), say.F("the %s does not brake", d.Words()), d.Regen, "no")
		if s.InPair(d) {
			word(fmt.Sprintf("drives.%d.axle_held", i), say.F("the axle of the %s stands in no dropouts: it is held at one end", d.Words()), d.AxleHeld, "one_end")
		}
	}
	if s.Trike() {
		out = append(out, Lack{"pair.driven", say.T("neither drive nor brake of the pair works on one wheel alone"), true, s.Even()})
	}
	if s.FrontHub() {
		flag("fork.suspension_cast", say.T("no dropouts cast into a suspension fork"), s.Fork.SuspensionCast)
	}
	if s.Throttled() {
		out = append(out, Lack{"throttles", say.T("no second throttle"), true, len(s.Throttles) < 2})
	}
	out = append(out, Lack{"chargers", say.T("no second charger"), true, len(s.Chargers) < 2}, Lack{"outlets", say.T("no outlet for accessories"), true, len(s.Outlets) == 0})
	out = append(out, Lack{"altered", say.T("no welded, brazed or drilled place that the frame's maker did not make"), true, len(s.Altered) == 0})
	out = append(out, Lack{"sister", say.T("no sister vehicle whose parts could be mixed up"), true, s.Sister == ""})
	if len(s.Drives) == 1 {
		out = append(out, Lack{"drives", say.T("no second motor"), true, true})
	}
	if len(s.Packs) == 1 {
		out = append(out, Lack{"packs", say.T("no second pack"), true, true})
	}
	return out
}

// Words say which motor it is.
func (d *Drive) Words() string { return say.T(kindWords[d.Kind]) }

var kindWords = map[string]string{"front_hub": say.N("front motor"), "rear_hub": say.N("rear motor"), "mid": say.N("mid-drive")}
