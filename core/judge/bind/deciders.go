package bind

import "jadegate/core/catalogue"

// Decide runs the rule of a computed check.
func (b *Binder) Decide(c *catalogue.Check) { deciderOf(c)(b, c) }

// deciderOf is the rule of a computed check: its own if it has one, else its calculation
// on what was given for it.
func deciderOf(c *catalogue.Check) func(*Binder, *catalogue.Check) {
	if d := deciders[c.Base]; d != nil {
		return d
	}
	return decideGiven
}

// deciders are the rules of the computed checks that need more than their calculation,
// by the catalogue's ids.
var deciders map[string]func(*Binder, *catalogue.Check)

func init() {
	deciders = map[string]func(*Binder, *catalogue.Check){
		"intake.absent":        decideAbsent,
		"axle.arm_fix":         decideArmFix,
		"brake.static":         decideBrakes,
		"axle.keep":            decideKeep,
		"intake.agree":         decideAgree,
		"intake.identity":      decideIdentity,
		"intake.carbon":        decideCarbon,
		"intake.temporary":     decideMakeshifts,
		"intake.rules_by_word": decideWordLimits,
		"wire.restrict":        decideRestrictions,
		"axle.stack":           decideStack,
		"axle.hold":            decideHold,
		"axle.rock":            decideHold,
		"wheel.drag":           decideDrag,
		"wheel.tyre":           decideTyres,
		"mid.hold":             decideMount,
		"mid.seat":             decideMount,
		"mid.chain_line":       decideChainLine,
		"mid.crank":            decideCranks,
		"crank.sensor":         decideCup,
		"trike.tip":            decideTip,
		"trike.rear":           decidePair,
		"trike.pitch":          decidePitch,
		"trike.grip":           decideGrip,
		"load.stand":           decideLoad,
		"torque.axle_nuts":     decideTorques,
		"torque.rotor":         decideTorques,
		"torque.caliper":       decideTorques,
		"torque.controls":      decideTorques,
		"torque.stem_bar":      decideTorques,
		"torque.crank_pedal":   decideTorques,
		"torque.mid":           decideTorques,
		"torque.rack_battery":  decideTorques,
		"torque.untouched":     decideTorques,
		"torque.arm":           decideTorques,
		"torque.brake":         decideTorques,
		"fast.locking":         decideLocking,
		"wire.run":             decideRun,
		"wire.steer":           decideSteer,
		"wire.fuse":            decideFuse,
		"pack.match":           decidePacks,
		"pack.hold":            decideRetention,
		"cutoff.left":          decideCutoff,
		"cutoff.right":         decideCutoff,
		"cutoff.lead":          decideLead,
		"cutoff.mount":         decideSwitchMount,
		"wheel.centre":         decideCentre,
		"cutoff.shift":         decideTrace,
		"pedal.stop":           decideTrace,
		"speed.stand":          decideStand,
		"brake.stop":           decideStopping,
		"brake.alone":          decideAlone,
		"brake.fast":           decideFast,
		"regen.brake":          decideRegen,
		"ride.speed":           decideRide,
		"law.power":            decidePower,
		"law.speed":            decideLaw,
		"law.class":            decideLaw,
		"law.product":          decideProduct,
		"range.honest":         decideRange,
	}
}
