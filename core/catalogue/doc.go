// Package catalogue is what is asked of a vehicle: every check with its id, gate,
// place, severity, what undoes it, what it depends on and which vehicles it is
// for; and the operations that a repair can consist of. It decides nothing.
package catalogue

// Edition names this edition of the catalogue; a signature keeps it.
const Edition = "2026-11-26"
