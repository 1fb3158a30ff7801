package workshop

import (
	"cmp"
	"context"
	"errors"
	"reflect"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/internal/rules"
	"jadegate/internal/store"
)

// packSet is the rule packs in force: those that the program came with, and the workshop's
// own in their place.
type packSet struct {
	byID    map[string]*limits.RulePack // as this workshop has read them
	unread  map[string]*limits.RulePack // as they came, or were written here
	own     map[string]store.PackFile
	answers map[string][]limits.ReviewAnswer
	alone   bool
	read    atomic.Int64 // when the register was last seen as it is here, ns
}

// packsKept is how long the register of packs is taken as read: another server may publish.
const packsKept = 2 * time.Second

// packSet gives the packs in force; the same pointer as long as nothing was published.
func (w *Workshop) packSet() *packSet {
	now := time.Now()
	held := w.packs.Load()
	if held != nil && now.UnixNano()-held.read.Load() < int64(packsKept) {
		return held
	}
	files, err := w.Store.Packs(context.Background())
	answers, errReview := w.reviewAnswers(context.Background())
	alone, errPeople := w.alone(context.Background())
	if errors.Join(err, errReview, errPeople) != nil && held != nil {
		return held // out of reach for a moment: what was in force stays
	}
	set := &packSet{byID: make(map[string]*limits.RulePack, len(w.Packs)+len(files)), unread: make(map[string]*limits.RulePack, len(w.Packs)+len(files)),
		own: map[string]store.PackFile{}, answers: answers, alone: alone}
	set.read.Store(now.UnixNano())
	same := held != nil && len(files) == len(held.own) && alone == held.alone && reflect.DeepEqual(answers, held.answers)
	for _, f := range files {
		same = same && held.own[f.ID] == f
		set.own[f.ID] = f
	}
	if same {
		held.read.Store(now.UnixNano())
		return held
	}
	for id, p := range w.Packs {
		set.unread[id] = p
	}
	for _, f := range files {
		if p, err := rules.ReadPack([]byte(f.YAML)); err == nil {
			p.Own, p.Reviewed = true, nil // not for a file to say
			set.unread[p.ID] = p
		} else {
			delete(set.unread, f.ID) // what cannot be read decides nothing: the place has no pack
		}
	}
	for id, p := range set.unread {
		if set.byID[id] = p; len(answers[id]) > 0 {
			set.byID[id] = p.Review(answers[id], set.own[id].By, alone)
		}
	}
	w.packs.Store(set)
	return set
}

// RulePackView is a rule pack in force.
type RulePackView struct {
	Pack    *limits.RulePack `json:"pack"`
	Shipped bool             `json:"shipped" doc:"as the program came with it"`
	Done    bool             `json:"done" doc:"its review is complete and not too old; a made-up law needs none"`
	Reason  string           `json:"reason" doc:"why it was published; of the workshop's own"`
	By      string           `json:"by"`
	At      string           `json:"at"`
}

// RulePacks lists the packs in force, by name.
func (w *Workshop) RulePacks() []RulePackView {
	set := w.packSet()
	out := make([]RulePackView, 0, len(set.byID))
	for id, p := range set.byID {
		f, own := set.own[id]
		out = append(out, RulePackView{Pack: p, Shipped: !own, Done: p.MadeUp || p.Reviewed.Done(w.today()), Reason: f.Reason, By: f.By, At: f.At})
	}
	slices.SortFunc(out, func(a, b RulePackView) int {
		return cmp.Or(strings.Compare(a.Pack.Name, b.Pack.Name), strings.Compare(a.Pack.ID, b.Pack.ID))
	})
	return out
}

// RulePackFile is a pack in force as a file. ErrNotFound: there is none.
func (w *Workshop) RulePackFile(id string) ([]byte, error) {
	set := w.packSet()
	if f, ok := set.own[id]; ok {
		return []byte(f.YAML), nil
	}
	if p := set.byID[id]; p != nil {
		if raw := rules.PackFile(id); raw != nil {
			return raw, nil
		}
		return rules.WritePack(p)
	}
	return nil, store.ErrNotFound
}

// PackTrial is what a pack would do if it were in force.
type PackTrial struct {
	Pack     *limits.RulePack  `json:"pack"`
	Against  int               `json:"against" doc:"version in force that it is held against; 0: none of that id"`
	Changes  []limits.PackEdit `json:"changes"`
	Tried    int               `json:"tried" doc:"inspections of that place that it was tried on"`
	Vehicles []PackEffect      `json:"vehicles" doc:"those of which something would change"`
}

// PackEffect is an inspection that would be judged otherwise.
type PackEffect struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Number  string `json:"number"`
	Signed  bool   `json:"signed" doc:"what was signed stays; only today's word beside it would change"`
	Verdict string `json:"verdict"`
	Would   string `json:"would" doc:"verdict that it would have"`
	Class   string `json:"class" doc:"best class now, with its result"`
	Then    string `json:"then" doc:"best class then"`
}

// mostTried is how many inspections a pack is tried on, the newest first.
const mostTried = 300

// TryPack reads a pack and tries it against the inspections of its place. Nothing is
// stored. FieldErrors name line and field of what is wrong in the file.
func (w *Workshop) TryPack(ctx context.Context, raw []byte) (*PackTrial, error) {
	p, err := rules.ReadPack(raw)
	if err != nil {
		return nil, err
	}
	p.Own, p.Reviewed = true, nil
	out := &PackTrial{Pack: p, Changes: []limits.PackEdit{}, Vehicles: []PackEffect{}}
	set := w.packSet()
	now := set.byID[p.ID]
	if now != nil {
		out.Against = now.Version
		if out.Changes, err = limits.ComparePacks(now, p); err != nil {
			return nil, err
		}
	}
	with := make(map[string]*limits.RulePack, len(set.byID)+1)
	for id, k := range set.byID {
		with[id] = k
	}
	with[p.ID] = p
	other := bind.NewRules(w.House, with, w.kitSheets())
	for _, list := range []string{store.ListStanding, store.ListSigned} {
		after := ""
		for {
			page, err := w.Board(ctx, store.BoardQuery{List: list, After: after, Limit: store.MaxPage})
			if err != nil {
				return nil, err
			}
			for _, line := range page.Lines {
				if out.Tried >= mostTried {
					return out, nil
				}
				v, err := w.View(ctx, line.ID)
				if err != nil {
					return nil, err
				}
				place := v.State.Sheet.Use.Place
				if place != p.ID && (set.byID[place] == nil || set.byID[place].BasedOn != p.ID) {
					continue
				}
				out.Tried++
				if e := w.effect(v.State, other); e != nil {
					out.Vehicles = append(out.Vehicles, *e)
				}
			}
			if after = page.Next; after == "" {
				break
			}
		}
	}
	return out, nil
}

// effect is what other packs change of an inspection; nil if nothing.
func (w *Workshop) effect(s *inspection.State, rules *bind.Rules) *PackEffect {
	env := w.Env(s)
	other := env
	other.Rules = rules
	e := &PackEffect{ID: s.ID, Name: s.Sheet.Name, Number: s.Opened.Number, Signed: s.Signed != nil,
		Verdict: string(verdict.Evaluate(s, env).Verdict), Would: string(verdict.Evaluate(s, other).Verdict), Class: classOf(s, env), Then: classOf(s, other)}
	if e.Verdict == e.Would && e.Class == e.Then {
		return nil
	}
	return e
}

func classOf(s *inspection.State, env bind.Env) string {
	t := views.Law(s, env, nil)
	if len(t.Places) == 0 || t.Places[0].Role != "place" {
		return say.T("no pack")
	}
	for _, c := range t.Places[0].Classes {
		if c.Class == t.Places[0].Best {
			return c.Name + ": " + say.Term(c.Result)
		}
	}
	return t.Places[0].Result
}

// PublishPack puts a pack of the workshop's own in force, in place of the one with its id.
// Its version must be the next one, and a reason is asked: it stands in the register's log.
func (w *Workshop) PublishPack(ctx context.Context, by string, raw []byte, reason string) (*limits.RulePack, error) {
	p, err := rules.ReadPack(raw)
	if err != nil {
		return nil, err
	}
	if len(strings.TrimSpace(reason)) < leastReason {
		return nil, quantity.Invalid("reason", "is missing", "say in a few words what changed in the law, or why it is written")
	}
	if now := w.packSet().byID[p.ID]; now != nil && p.Version <= now.Version {
		return nil, quantity.Invalid("version", say.F("is %d, and %d is in force", p.Version, now.Version), say.F("give at least %d", now.Version+1))
	}
	err = w.Register(ctx, by, store.RegisterPack, p.ID, store.PackFile{ID: p.ID, Version: p.Version, YAML: string(raw), Reason: strings.TrimSpace(reason),
		By: by, At: w.stamp()})
	w.packs.Store(nil)
	return p, err
}

// leastReason is how long a reason is at least, in letters.
const leastReason = 8
