package bind

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"time"

	"jadegate/core/catalogue"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/vehicle"
)

// Rules is one snapshot of what judges: the shop rules, the rule packs by id, the kit
// sheets of the library by name, and the edition of the catalogue. It is never changed; what
// changes makes another. Whatever is remembered of a judgement is remembered under its hash.
type Rules struct {
	House *policy.House
	Packs map[string]*limits.RulePack
	Kits  map[string]*vehicle.Kit
	hash  string
}

// NewRules takes the snapshot. Nothing that it is given may be changed afterwards.
func NewRules(house *policy.House, packs map[string]*limits.RulePack, kits map[string]*vehicle.Kit) *Rules {
	r := &Rules{House: house, Packs: packs, Kits: kits}
	h := sha256.New()
	// Maps are written in the order of their keys; a value that cannot be written is none of ours.
	_ = json.NewEncoder(h).Encode([]any{catalogue.Edition, house, packs, kits})
	r.hash = hex.EncodeToString(h.Sum(nil))
	return r
}

// Hash is the SHA-256 of the snapshot, in hexadecimal.
func (r *Rules) Hash() string { return r.hash }

// Env is what a log is judged under.
type Env struct {
	*Rules
	Traces TraceReader
	Today  string         // YYYY-MM-DD in the workshop; bears on due dates only
	Zone   *time.Location // of the workshop; nil: UTC
}

// Circumstances tells environments apart under which the same log may be judged differently.
type Circumstances struct {
	rules, today, zone string
	traces             TraceReader
}

// Circumstances is what of an environment bears on a judgement, as one comparable value.
func (env *Env) Circumstances() Circumstances {
	zone := "UTC"
	if env.Zone != nil {
		zone = env.Zone.String()
	}
	return Circumstances{env.hash, env.Today, zone, env.Traces}
}
