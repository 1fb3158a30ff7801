package sound

import (
	"testing"
	"time"

	"jadegate/core/decide"
)

// TestSoundVehiclesAreOpen: evidence that counts opens the gate. What keeps one shut is
// printed.
func TestSoundVehiclesAreOpen(t *testing.T) {
	for _, v := range All() {
		l := Build(v, time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
		if l.Err != nil {
			t.Errorf("%s: %v", v.Name, l.Err)
		}
		if ev := l.Eval(); ev.Verdict != decide.GateOpen && ev.Verdict != decide.GateAjar {
			for _, s := range l.Open() {
				t.Errorf("%s: %s", v.Name, s)
			}
			t.Errorf("%s: %s", v.Name, ev.Words)
		}
	}
}
