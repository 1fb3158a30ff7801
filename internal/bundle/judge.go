package bundle

import (
	"encoding/json"
	"fmt"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/record"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
	"jadegate/internal/rules"
)

// House is the policy that the bundle was judged by.
func (b *Bundle) House() (*policy.House, error) {
	tree, err := schema.Parse(b.Policy)
	if err != nil {
		return nil, err
	}
	return policy.Read(tree)
}

// rulePacks are the packs that the bundle carries; the shipped ones stand in for a
// sheet that carries none, and for packs of an earlier format.
func (b *Bundle) rulePacks() (map[string]*limits.RulePack, error) {
	out := rules.Packs()
	for _, raw := range b.Packs {
		var head struct {
			Format string `json:"format"`
		}
		if err := json.Unmarshal(raw, &head); err == nil && head.Format == "jadegate.pack/1" {
			continue
		}
		p, err := rules.ReadPack(raw)
		if err != nil {
			return nil, err
		}
		out[p.ID] = p
	}
	return out, nil
}

// kitSheets are the kit sheets that the bundle carries, over the shipped ones.
func (b *Bundle) kitSheets() (map[string]*vehicle.Kit, error) {
	out := map[string]*vehicle.Kit{}
	for _, raw := range append(rules.KitFiles(), bytesOf(b.Kits)...) {
		k, err := rules.ReadKit(raw)
		if err != nil {
			return nil, err
		}
		out[k.Name] = k
	}
	return out, nil
}

func bytesOf(raw []json.RawMessage) (out [][]byte) {
	for _, r := range raw {
		out = append(out, r)
	}
	return
}

// trace reads one of the bundle's own files, checked against its name.
func (b *Bundle) trace(sha string) (*cutoff.Trace, error) {
	data, ok := b.Traces[sha]
	if !ok {
		return nil, fmt.Errorf("trace %s is not in the bundle", sha)
	}
	if record.Digest(data) != sha {
		return nil, fmt.Errorf("trace %s was changed after it was stored", sha)
	}
	return cutoff.Parse(data, nil)
}

// Analyse implements bind.TraceReader.
func (b *Bundle) Analyse(sha string, opt cutoff.Options, lim *cutoff.TraceLimits) (*cutoff.TraceOutput, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	out := cutoff.Analyse(tr, opt, lim)
	return &out, nil
}

// Prints implements bind.TraceReader.
func (b *Bundle) Prints(sha string) ([]uint64, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	return tr.Prints(), nil
}

// Bench implements bind.TraceReader.
func (b *Bundle) Bench(sha string, run *bench.Run, v bench.Vehicle, h bench.Rules) (*bench.TestOutcome, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	out := bench.Judge(tr, run, v, h, true)
	return &out, nil
}

// env is what the bundle is judged under.
func (b *Bundle) env(today string) (bind.Env, error) {
	h, err := b.House()
	if err != nil {
		return bind.Env{}, err
	}
	packs, err := b.rulePacks()
	if err != nil {
		return bind.Env{}, err
	}
	kits, err := b.kitSheets()
	return bind.Env{Rules: bind.NewRules(h, packs, kits), Traces: b, Today: today}, err
}

// Judge folds and evaluates the bundle: as it was signed, with today's rules beside it,
// if it was.
func (b *Bundle) Judge(today string) (*inspection.State, *verdict.Evaluation, error) {
	env, err := b.env(today)
	if err != nil {
		return nil, nil, err
	}
	if err := inspection.AcceptLog(b.Entries); err != nil {
		return nil, nil, err
	}
	s, err := inspection.Fold(b.Entries)
	if err != nil {
		return nil, nil, err
	}
	ev := verdict.Evaluate(s, env)
	if s.Signed != nil {
		ev = verdict.AsSigned(s, ev)
	}
	return s, ev, nil
}
