package decide

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
		return "Gate open"
	case GateAjar:
		return "Gate ajar"
	case GateHeld:
		return "Gate held"
	case GateShut:
		return "Gate shut"
	}
	return "Not begun"
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
