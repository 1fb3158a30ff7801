// Package views is what the stations show beside the checks, worked out from the same readings:
// the fastener ledger, the wiring as it is drawn, the packs, the plan of a trike, the law of the
// place, the sheet for the rider, and what would mend a check.
package views
