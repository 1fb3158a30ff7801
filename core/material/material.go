// Package material holds the yield strengths of the metals that dropouts,
// washers and torque arms are made of.
package material

import "strings"

// Property of a material as supplied.
type Property struct {
	YieldMPa float64 // yield strength σ, MPa; 0: not to be counted on
	Ductile  bool    // bends before it breaks
}

var table = map[string]Property{
	"steel_plain":    {250, true},
	"steel_crmo":     {435, true},
	"stainless_304":  {215, true},
	"stainless_hard": {450, true},
	"al_6061_t6":     {240, true},
	"al_7005":        {290, true},
	"al_weld_zone":   {120, true},
	"al_cast":        {165, false},
	"magnesium":      {130, false},
	"titanium_3_2_5": {500, true},
	"carbon":         {0, false},
}

// Names lists the known materials for enumerations, in a fixed order.
const Names = "steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon"

// Of returns the property of a named material; ok is false for an unknown name.
// Source: usual minimum yield strengths of the alloys; house for the weld zone.
func Of(name string) (p Property, ok bool) { p, ok = table[name]; return }

// Steel reports whether the name is a steel, plain or stainless.
func Steel(name string) bool {
	return strings.HasPrefix(name, "steel_") || strings.HasPrefix(name, "stainless_")
}

// Light reports whether the name is an aluminium alloy or magnesium.
func Light(name string) bool { return strings.HasPrefix(name, "al_") || name == "magnesium" }
