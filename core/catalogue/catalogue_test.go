package catalogue

import (
	"slices"
	"strings"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/vehicle"
)

// vehicles of every kind, as far as the catalogue asks.
func vehicles() map[string]*vehicle.Sheet {
	none := quantity.Fact{Value: "none", Source: quantity.FromSeen}
	two := &vehicle.Sheet{Kind: "bicycle", Drives: []vehicle.Drive{{Kind: "front_hub", Axle: &vehicle.Axle{}}, {Kind: "rear_hub", Axle: &vehicle.Axle{}}},
		Packs: make([]vehicle.Pack, 2), Leads: make([]vehicle.Lead, 3)}
	quiet := &vehicle.Sheet{Kind: "bicycle", Drives: []vehicle.Drive{{Kind: "front_hub", Axle: &vehicle.Axle{}}}, Throttle: none, PedalSensor: new(bool)}
	return map[string]*vehicle.Sheet{
		"nothing said": {}, "front hub": {Kind: "bicycle", Drives: []vehicle.Drive{{Kind: "front_hub", Axle: &vehicle.Axle{}}}}, "two of all": two,
		"mid": {Kind: "bicycle", Drives: []vehicle.Drive{{Kind: "mid"}}}, "tadpole": {Kind: "tadpole", Drives: []vehicle.Drive{{Kind: "rear_hub", Axle: &vehicle.Axle{}}}},
		"delta": {Kind: "delta", Drives: []vehicle.Drive{{Kind: "front_hub", Axle: &vehicle.Axle{}}}}, "no throttle": quiet,
	}
}

// TestCatalogueHoldsTogether: ids are given once and for ever, what a check names is
// there, and nothing that can stop a vehicle can be said not to apply.
func TestCatalogueHoldsTogether(t *testing.T) {
	seen := map[string]bool{}
	for _, c := range All() {
		if seen[c.ID] || strings.Trim(c.ID, "abcdefghijklmnopqrstuvwxyz_.0123456789") != "" {
			t.Errorf("%q is an id twice, or no id", c.ID)
		}
		seen[c.ID] = true
	}
	for _, c := range All() {
		if c.Gate < GateIntake || c.Gate >= GateLast || GateName(c.Gate) == "" {
			t.Errorf("%s stands at gate %d", c.ID, c.Gate)
		}
		for _, op := range c.UndoneBy {
			if !Known(op) {
				t.Errorf("%s is undone by %q, which no repair is", c.ID, op)
			}
		}
		for _, id := range append(slices.Clone(c.DependsOn), c.SamePlace...) {
			if !seen[id] {
				t.Errorf("%s names %q", c.ID, id)
			}
		}
		if slices.Contains(c.DependsOn, c.ID) {
			t.Errorf("%s leans on itself", c.ID)
		}
		if c.MayLack != nil && (c.Severity == decide.Stop || c.CanStop) {
			t.Errorf("%s can stop a vehicle and may be lacking", c.ID)
		}
		if c.Given != "" && c.Calc == "" {
			t.Errorf("%s has readings and no calculation", c.ID)
		}
		if c.Ask == "" || c.Title == "" || c.Zone == "" != (c.PerHub || c.PerStub) || c.Minutes <= 0 {
			t.Errorf("%s does not say what, where or how long", c.ID)
		}
		if !Is(c.ID) || !Is(c.ID+".rear") || Is(c.ID+"x") {
			t.Errorf("%s is not known again", c.ID)
		}
	}
}

// TestEveryPartHasItsCheck: of two hubs, packs and leads each has checks of its own, told
// apart by id and by where their readings are kept.
func TestEveryPartHasItsCheck(t *testing.T) {
	for name, s := range vehicles() {
		ids, given := map[string]bool{}, map[string]string{}
		for _, c := range Applicable(s) {
			if ids[c.ID] {
				t.Errorf("%s: %s comes twice", name, c.ID)
			}
			ids[c.ID] = true
			if c.PerLead && len(s.Leads) > 0 {
				if other := given[c.Given+c.Base]; other != "" {
					t.Errorf("%s: %s and %s share their readings", name, other, c.ID)
				}
				given[c.Given+c.Base] = c.ID
			}
			for _, d := range c.DependsOn {
				if strings.HasSuffix(d, ".front") || strings.HasSuffix(d, ".rear") {
					continue // of its own axle, which may not be asked of it
				}
				if !Is(d) {
					t.Errorf("%s: %s leans on %s", name, c.ID, d)
				}
			}
			if c.Base == "" || !strings.HasPrefix(c.ID, c.Base) {
				t.Errorf("%s: %s of %q", name, c.ID, c.Base)
			}
		}
		switch name {
		case "two of all":
			for _, id := range []string{"axle.hold.front", "axle.hold.rear", "pack.hold.0", "pack.hold.1", "wire.run.0", "wire.run.2", "wire.fuse.1"} {
				if !ids[id] {
					t.Errorf("%s: %s is not asked", name, id)
				}
			}
		case "mid":
			if ids["axle.hold"] || !ids["mid.seat"] {
				t.Errorf("%s: axle %t, mount %t", name, ids["axle.hold"], ids["mid.seat"])
			}
		case "tadpole", "delta":
			if !ids["trike.tip"] {
				t.Errorf("%s: whether it tips is not asked", name)
			}
		case "front hub":
			if ids["trike.tip"] || !ids["axle.hold"] || !ids["pack.hold"] || !ids["brake.static"] {
				t.Errorf("%s: %v", name, ids)
			}
		case "nothing said": // silence takes no check away that a bicycle has
			for _, id := range []string{"cutoff.left", "cutoff.right", "brake.static", "pack.hold", "wire.fuse", "frame.crack"} {
				if !ids[id] {
					t.Errorf("%s: %s is not asked", name, id)
				}
			}
		}
	}
}

// TestWorkUndoesMore: more work never undoes less, work undone again is the same, and what
// is put right by name undoes itself and what leans on it alone.
func TestWorkUndoesMore(t *testing.T) {
	for name, s := range vehicles() {
		all := make([]string, 0, len(operations))
		for _, o := range Operations() {
			all = append(all, o.ID)
		}
		whole := Undone(all, s)
		for _, op := range all {
			closure := Closure([]string{op}, s)
			for more := range closure {
				if !Known(more) {
					t.Errorf("%s: %s brings %q", name, op, more)
				}
			}
			for id := range Undone([]string{op}, s) {
				if !whole[id] {
					t.Errorf("%s: %s undoes %s, all work together does not", name, op, id)
				}
			}
		}
		for _, c := range Applicable(s) {
			undone := UndoneWith(nil, []string{c.ID}, s)
			if !undone[c.ID] {
				t.Errorf("%s: %s put right is not open again", name, c.ID)
			}
		}
		if n := len(UndoneWith(nil, []string{"nothing.there"}, s)); n != 0 || len(Undone(nil, s)) != 0 {
			t.Errorf("%s: nothing at all undoes %d checks", name, n)
		}
	}
}
