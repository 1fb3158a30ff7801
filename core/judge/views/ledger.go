package views

import (
	"jadegate/core/catalogue"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/ledger"
)

// Ledger lists every fastener of the vehicle in the order of the checks.
func Ledger(s *inspection.State, env bind.Env) []ledger.Fastener {
	out := []ledger.Fastener{}
	for _, c := range catalogue.Applicable(s.Sheet) {
		if !c.Torque() {
			continue
		}
		b := bind.New(s, env, &c, nil)
		out = append(out, b.Lines(&c)...)
	}
	ledger.Next(out)
	return out
}
