package decide

import "jadegate/core/say"

// Verdict of an inspection.
type Verdict string

// The verdicts, best first.
const (
	GateOpen Verdict = "open" // nothing but notes
	GateAjar Verdict = "ajar" // watch findings or a restriction stand
	GateHeld Verdict = "held" // something to mend, or a check open or doubtful
	GateShut Verdict = "shut" // a stop stands: nobody rides it
)

// Words are how a verdict is written.
func (v Verdict) Words() string {
	switch v {
	case GateOpen:
		return say.T("Gate open")
	case GateAjar:
		return say.T("Gate ajar")
	case GateHeld:
		return say.T("Gate held")
	case GateShut:
		return say.T("Gate shut")
	}
	return say.T("Not begun")
}

// VerdictOf takes the worst: any stop shuts the gate; a fix, or a required check
// open or doubtful, holds it; a watch leaves it ajar.
func VerdictOf(worst Severity, findings, unsettled int) Verdict {
	switch {
	case findings > 0 && worst == Stop:
		return GateShut
	case unsettled > 0 || (findings > 0 && worst == Fix):
		return GateHeld
	case findings > 0 && worst == Watch:
		return GateAjar
	}
	return GateOpen
}
