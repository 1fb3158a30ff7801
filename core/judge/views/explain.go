package views

import (
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
)

// Explain shows how a computed check came about, and what would make it pass.
func Explain(s *inspection.State, env bind.Env, id string) *bind.Explanation {
	for _, c := range catalogue.Applicable(s.Sheet) {
		if c.ID != id || !c.Computed {
			continue
		}
		b := bind.New(s, env, &c, nil)
		b.Decide(&c)
		x := &bind.Explanation{}
		if b.Explain != nil {
			x = b.Explain(true)
		}
		if x.TryAll {
			x.Remedies = unbroken(b, &c, x)
		}
		x.Check, x.Calc, x.U = c.ID, c.Calc, b.U
		if x.Remedies == nil {
			x.Remedies = []calc.Remedy{}
		}
		return x
	}
	return nil
}
