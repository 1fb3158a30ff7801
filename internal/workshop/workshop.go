// Package workshop wires the core to the store: it appends entries, keeps the folded
// state of each inspection at hand, and notifies subscribers.
package workshop

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/judge/accept"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
	"jadegate/internal/account"
	"jadegate/internal/instruments"
	"jadegate/internal/rules"
	"jadegate/internal/seal"
	"jadegate/internal/store"
)

// Workshop is the running application behind every interface.
type Workshop struct {
	Store *store.Store
	House *policy.House
	Packs map[string]*limits.RulePack // rule packs that the program came with, by id; see RulePacks
	Now   func() time.Time
	Hub   *instruments.Hub
	// Practice marks a demo or practice workshop: evidence of simulated vehicles and
	// tools counts in what is opened here.
	Practice bool
	// Version of the program; a signature keeps it.
	Version string
	// Key seals signatures and bundles; without one they bear none.
	Key *seal.Key
	// Book knows the people again.
	Book *account.Book
	// Demo lets anybody in as one of the made-up people.
	Demo bool

	kits     atomic.Pointer[map[string]*vehicle.Kit] // kit sheets by name
	packs    atomic.Pointer[packSet]
	snapshot atomic.Pointer[ruleSet]

	mu    sync.Mutex
	bench *LiveBench // the test that runs on the bench
	live  *lru.Cache[string, *live]
	subs  map[string]map[chan int64]struct{}

	traces   traceCache
	presence presence
	faults   []store.Fault // of the data, as it was found at the start
}

// live is one inspection at hand.
type live struct {
	mu         sync.Mutex
	entries    []inspection.Entry
	known      map[string]int64 // sequence numbers by entry id
	state      *inspection.State
	eval       *verdict.Evaluation   // of the state; nil until somebody asks for it
	under      conditions            // what it was judged under
	lookedUp   []inspection.Identity // for which it was looked up what stood before
	clockNoted bool                  // it was written down that the clock was set back
	behind     bool                  // another server made the log longer
	alone      *turn                 // other servers wait for who was told of a conflict to come again
}

// judged is the evaluation of an inspection as it stands, made when it is first asked for.
// It is made anew on another day, and under other rule packs or kit sheets.
func (w *Workshop) judged(l *live) *verdict.Evaluation {
	now := conditions{w.Now().Format(time.DateOnly), w.rules()}
	if l.eval == nil || l.under != now {
		l.eval, l.under = w.judge(l.state), now
	}
	return l.eval
}

// conditions is what an evaluation depends on beside the log.
type conditions struct {
	day   string
	rules *bind.Rules
}

// ruleSet is a snapshot of what judges, with what it was taken of.
type ruleSet struct {
	packs *packSet
	kits  *map[string]*vehicle.Kit
	rules *bind.Rules
}

// rules is the snapshot of what judges; another one once a pack or a kit sheet changed.
func (w *Workshop) rules() *bind.Rules {
	sheets := w.kitSheets()
	packs, kits := w.packSet(), w.kits.Load()
	if r := w.snapshot.Load(); r != nil && r.packs == packs && r.kits == kits && r.rules.House == w.House {
		return r.rules
	}
	r := &ruleSet{packs, kits, bind.NewRules(w.House, packs.byID, sheets)}
	w.snapshot.Store(r)
	return r.rules
}

// New makes a workshop on a store.
func New(s *store.Store, h *policy.House) *Workshop {
	w := &Workshop{Store: s, House: h, Packs: rules.Packs(), Now: time.Now, Hub: instruments.NewHub(), subs: map[string]map[chan int64]struct{}{}}
	w.Book = account.New(s, func() time.Time { return w.Now() }, w.Register)
	w.live, _ = lru.New[string, *live](atHand) // a size over 0 cannot fail
	w.traces.store = s
	w.traces.results, _ = lru.New[string, any](maxCached)
	return w
}

// Conflict is the answer to an entry on a stale sequence number: what came
// between.
type Conflict struct {
	Seq     int64
	Between []inspection.Entry
}

func (c *Conflict) Error() string {
	return say.F("the log is at %d; %d entries came between", c.Seq, len(c.Between))
}

// Broken is the answer where a log on the disk is not what was written: it was changed
// behind the workshop, or the disk lost some of it.
type Broken struct {
	ID  string
	Seq int64
	Err error
}

func (b *Broken) Error() string {
	return say.F("the log of %s does not hold together from entry %d: %v", b.ID, b.Seq, b.Err)
}

// Unwrap gives what is wrong with the entry.
func (b *Broken) Unwrap() error { return b.Err }

// Twice is the answer to an id that was used before for something else: nothing is
// stored, and both are shown.
type Twice struct {
	Stored inspection.Entry
	Sent   json.RawMessage
}

func (t *Twice) Error() string {
	return say.F("the id %s belongs to another entry: nothing was stored; choose a new id", t.Stored.ID)
}

// fingerprint tells what was handed in apart from anything else that could be.
func (d *Draft) fingerprint() (string, error) {
	raw, err := json.Marshal(struct {
		By, Kind, Instrument string
		Body                 json.RawMessage
	}{d.By, d.Kind, d.Instrument, d.Body})
	if err != nil {
		return "", quantity.Invalid("body", say.F("is no JSON: %s", err.Error()), "give an object")
	}
	return record.Hash("", raw)
}

// sameDraft refuses a known id that comes with something else than before. Of an entry of an
// older edition only the kind is known.
func (w *Workshop) sameDraft(ctx context.Context, old *inspection.Entry, d *Draft) error {
	was, err := w.Store.Fingerprint(ctx, old.ID)
	if err != nil {
		return err
	}
	now, err := d.fingerprint()
	if err != nil {
		return err
	}
	if old.Kind != d.Kind || was != "" && was != now {
		return &Twice{*old, d.Body}
	}
	return nil
}

// View is an inspection as it stands at one moment.
type View struct {
	State *inspection.State
	Eval  *verdict.Evaluation
}

// Env is what an inspection is judged under now; under its day once it is signed.
func (w *Workshop) Env(s *inspection.State) bind.Env {
	zone := w.Now().Location()
	today := w.Now().Format(time.DateOnly)
	if s.Signed != nil {
		if at, err := time.Parse(time.RFC3339, s.Signed.At); err == nil {
			today = at.In(zone).Format(time.DateOnly)
		}
	}
	return bind.Env{Rules: w.rules(), Zone: zone, Traces: &w.traces, Today: today}
}

// kitSheets are the sheets of the library by name, read once and after each import.
func (w *Workshop) kitSheets() map[string]*vehicle.Kit {
	if k := w.kits.Load(); k != nil {
		return *k
	}
	out := map[string]*vehicle.Kit{}
	all, err := w.Kits(context.Background())
	if err != nil {
		return out // a figure that no sheet says does not count
	}
	for i := range all {
		out[all[i].Kit.Name] = all[i].Kit
	}
	w.kits.Store(&out)
	return out
}

// judge evaluates a state. What was signed stays as it was signed; what today's rules
// would say stands beside it.
func (w *Workshop) judge(s *inspection.State) *verdict.Evaluation {
	ev := verdict.Evaluate(s, w.Env(s))
	if s.Signed == nil {
		return ev
	}
	return verdict.AsSigned(s, ev)
}

// atHand is how many inspections are kept in memory, at about a megabyte each once they are
// signed; the rest is read again when it is asked for, in some 20 ms.
const atHand = 64

// acquire finds an inspection, reads it in if need be, and locks it.
func (w *Workshop) acquire(ctx context.Context, id string) (*live, error) {
	l, ok := w.live.Get(id)
	if !ok {
		l = &live{}
		if other, was, _ := w.live.PeekOrAdd(id, l); was {
			l = other
		}
	}
	l.mu.Lock()
	var err error
	switch {
	case l.state == nil:
		err = w.load(ctx, l, id)
	case l.behind:
		err = w.catchUp(ctx, l, id)
	}
	if err != nil {
		w.live.Remove(id) // what is not there takes no room
		l.mu.Unlock()
		return nil, err
	}
	return l, nil
}

// load reads an inspection's log and folds it.
func (w *Workshop) load(ctx context.Context, l *live, id string) error {
	entries, err := w.Store.Entries(ctx, id, 0)
	if err == nil && len(entries) == 0 {
		err = store.ErrNotFound
	}
	if err != nil {
		return err
	}
	l.entries, l.behind = entries, false
	l.known = make(map[string]int64, len(entries))
	for _, e := range entries {
		l.known[e.ID] = e.Seq
	}
	if at, err := inspection.Verify(entries); err != nil {
		return &Broken{id, at, err}
	}
	if err := w.refold(l); err != nil {
		l.state = nil
		return err
	}
	if err := w.whole(ctx, l, id); err != nil {
		l.state = nil
		return err
	}
	l.lookedUp = inspection.Identities(l.state.Tree)
	return nil
}

// whole gives a *Broken where a log does not end where it ended when it was written, or a file
// that it names is gone.
func (w *Workshop) whole(ctx context.Context, l *live, id string) error {
	if err := w.Store.CheckHead(ctx, id, l.state.Seq, l.state.Head); err != nil {
		return asBroken(id, err)
	}
	var photos, recordings []string
	for _, p := range l.state.Photos {
		photos = append(photos, p.T.Sha256)
	}
	for _, t := range l.state.Traces {
		recordings = append(recordings, t.T.Sha256)
	}
	missing, err := w.Store.MissingFiles(ctx, photos, recordings)
	if err == nil && len(missing) > 0 {
		err = &Broken{id, l.state.Seq, say.Errorf("%q, which it names, is gone", missing[0])}
	}
	return err
}

// asBroken is an error of the store as one of a log, where it is one.
func asBroken(id string, err error) error {
	var cut *store.CutError
	if errors.As(err, &cut) {
		return &Broken{id, cut.Seq, err}
	}
	return err
}

// catchUp reads what another server wrote behind what is at hand.
func (w *Workshop) catchUp(ctx context.Context, l *live, id string) error {
	fresh, err := w.Store.Entries(ctx, id, l.state.Seq)
	if err != nil {
		return err
	}
	if at, err := inspection.VerifyAfter(l.state.Seq, l.state.Head, fresh); err != nil {
		l.state = nil
		return &Broken{id, at, err}
	}
	corrects := func(e inspection.Entry) bool { return e.Kind == inspection.KindCorrect }
	if slices.ContainsFunc(fresh, corrects) {
		return w.load(ctx, l, id)
	}
	for i := range fresh {
		if err := w.advance(l, &fresh[i]); err != nil {
			l.state = nil
			return err
		}
		l.known[fresh[i].ID] = fresh[i].Seq
	}
	l.entries, l.behind = append(slices.Clip(l.entries), fresh...), false
	l.lookedUp = inspection.Identities(l.state.Tree)
	return nil
}

func (w *Workshop) refold(l *live) error {
	s, err := inspection.Fold(l.entries)
	if err != nil {
		return err
	}
	l.state, l.eval = s, nil
	return nil
}

// View gives an inspection as it stands.
func (w *Workshop) View(ctx context.Context, id string) (View, error) {
	l, err := w.acquire(ctx, id)
	if err != nil {
		return View{}, err
	}
	defer l.mu.Unlock()
	return View{l.state, w.judged(l)}, nil
}

// Explain shows how a computed check came about.
func (w *Workshop) Explain(ctx context.Context, id, check string) (*bind.Explanation, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return nil, err
	}
	x := views.Explain(v.State, w.Env(v.State), check)
	if x == nil {
		return nil, store.ErrNotFound
	}
	return x, nil
}

// Draft is an entry as it is handed in.
type Draft struct {
	ID         string
	By         string
	Kind       string
	Body       json.RawMessage
	Instrument string // id of the tool that a reading was taken with
	After      *int64 // last sequence number that the sender has seen, if it minds
	// Second stands by it: another person who signed in for it.
	Second *store.Person
	live   bool // of a test of the bench, not of a person
}

// Open begins an inspection.
func (w *Workshop) Open(ctx context.Context, id string, d Draft) (View, error) {
	d.Kind = inspection.KindOpened
	if old, err := w.Store.Entry(ctx, d.ID); err == nil {
		if err := w.sameDraft(ctx, &old, &d); err != nil {
			return View{}, err
		}
		return w.View(ctx, old.Inspection)
	}
	said, err := d.fingerprint()
	if err != nil {
		return View{}, err
	}
	body, keys, err := w.opening(ctx, d.Body)
	if err != nil {
		return View{}, err
	}
	e := inspection.Entry{ID: d.ID, Inspection: id, Seq: 1, At: w.stamp(), By: d.By, Kind: inspection.KindOpened, Body: body}
	if err := inspection.OpenedWell(&e); err != nil {
		return View{}, err
	}
	if err := e.Seal(record.Genesis); err != nil {
		return View{}, err
	}
	l := &live{entries: []inspection.Entry{e}, known: map[string]int64{e.ID: 1}, lookedUp: keys}
	if err := w.refold(l); err != nil {
		return View{}, err
	}
	p := &store.Projection{Held: w.held(nil, l.state), Fingerprints: map[string]string{e.ID: said}}
	if p.Line, err = w.line(l); err != nil {
		return View{}, err
	}
	if err := w.Store.Append(ctx, p, e); err != nil {
		if errors.Is(err, store.ErrStale) {
			if first, e := w.Store.Entries(ctx, id, 0); e == nil && len(first) > 0 {
				return View{}, &Twice{first[0], d.Body} // the inspection's id is taken
			}
			return View{}, quantity.Invalid("number", "is taken", "give a number that no inspection has")
		}
		return View{}, err
	}
	v := View{l.state, w.judged(l)} // before others can have it: from then on it is read under its lock
	w.live.Add(id, l)
	w.publish(boardTopic, 0)
	return v, nil
}

// opening puts into an opening what the workshop knows: how the tools stood that the
// sheet's figures name, whether this is a practice workshop, and what stood when this
// vehicle was here before.
func (w *Workshop) opening(ctx context.Context, raw json.RawMessage) (json.RawMessage, []inspection.Identity, error) {
	var b inspection.Opened
	err := schema.Strict(raw, &b)
	if err != nil {
		return nil, nil, quantity.Invalid("body", say.F("is not an opening: %s", err.Error()), "give number, place and sheet")
	}
	if b.Instruments, err = w.named(ctx, b.Sheet); err != nil {
		return nil, nil, err
	}
	b.Practice = w.Practice
	if err := inspection.CheckSheet(b.Sheet); err != nil {
		return nil, nil, err
	}
	keys := inspection.IdentitiesOf(b.Sheet)
	c, err := w.carried(ctx, keys, "")
	if err != nil {
		return nil, nil, err
	}
	b.Carried, b.Unsigned = c.Carried, c.Unsigned
	out, err := json.Marshal(b)
	return out, keys, err
}

// named are the tools of the register that the figures of a value name, as they stand.
func (w *Workshop) named(ctx context.Context, raw json.RawMessage) (map[string]*quantity.Instrument, error) {
	ids, err := inspection.ToolsNamed(raw)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	tools, err := w.Store.Instruments(ctx)
	if err != nil {
		return nil, err
	}
	out := map[string]*quantity.Instrument{}
	for _, id := range ids {
		for i := range tools {
			if tools[i].ID == id {
				out[id] = &tools[i]
			}
		}
		if out[id] == nil {
			return nil, quantity.Invalid("instrument", say.F("%q is not in the register", id), "use a tool of the register")
		}
	}
	return out, nil
}

const stampFormat = "2006-01-02T15:04:05.000Z"

func (w *Workshop) stamp() string { return w.Now().UTC().Format(stampFormat) }

// Receipt says that an entry is on the disk, and where.
type Receipt struct {
	Seq  int64  `json:"seq"`
	At   string `json:"at"`
	Hash string `json:"hash"`
}

// Append adds one entry to an inspection's log. A known id is not stored again;
// a stale After gives a *Conflict. When it returns without an error the entry is
// on the disk.
func (w *Workshop) Append(ctx context.Context, id string, d Draft) (Receipt, error) {
	got, err := w.AppendAll(ctx, id, d)
	if err != nil {
		return Receipt{}, err
	}
	return got[0], nil
}

// An append that found the log longer than it knew begins again from the log as it is then,
// after a pause that grows from the first to the last, for so long. It is alone with the
// log by then: other servers wait.
const (
	firstPause = 5 * time.Millisecond
	lastPause  = 320 * time.Millisecond
	restWithin = 5 * time.Second
)

// ErrBusy says that a log did not come to rest for as long as an append may wait. Nothing
// was stored; the same again, a little later, may be.
var ErrBusy = errors.New("others write into this inspection without a pause")

// AppendAll adds several entries, all or none. The error wraps ErrBusy where others were
// before it for too long.
func (w *Workshop) AppendAll(ctx context.Context, id string, drafts ...Draft) (out []Receipt, err error) {
	err = untilRest(ctx, func(err error) bool { return errors.Is(err, store.ErrStale) }, func(again bool) error {
		l, err := w.acquire(ctx, id)
		if err != nil {
			return err
		}
		defer l.mu.Unlock()
		if l.alone == nil && !again {
			out, err = w.appendTo(ctx, l, id, drafts)
			var conflict *Conflict
			if !w.Store.Shared() || !errors.As(err, &conflict) {
				return err
			}
		}
		out, err = w.appendInTurn(ctx, l, id, drafts)
		return err
	})
	return out, err
}

// turn is a log that this server has alone.
type turn struct {
	ctx     context.Context
	release func()
}

// comesAgain is how long other servers wait for somebody who was told what came between: on
// a log into which others write without a pause it would always be something else.
const comesAgain = 150 * time.Millisecond

// appendInTurn appends to the newest log there is, while other servers wait.
func (w *Workshop) appendInTurn(ctx context.Context, l *live, id string, drafts []Draft) ([]Receipt, error) {
	if l.alone == nil {
		held, release, err := w.Store.Hold(context.WithoutCancel(ctx), id, restWithin)
		if err != nil {
			return nil, err
		}
		l.alone = &turn{held, release}
		if err := w.catchUp(ctx, l, id); err != nil {
			l.release()
			return nil, err
		}
	}
	out, err := w.appendTo(l.alone.ctx, l, id, drafts)
	var conflict *Conflict
	if !errors.As(err, &conflict) || !w.Store.Shared() {
		l.release()
		return out, err
	}
	mine := l.alone
	time.AfterFunc(comesAgain, func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		if l.alone == mine {
			l.release()
		}
	})
	return nil, err
}

// release lets other servers append again.
func (l *live) release() {
	l.alone.release()
	l.alone = nil
}

// untilRest tries until others are not before it.
func untilRest(ctx context.Context, late func(error) bool, try func(again bool) error) error {
	err := try(false)
	for pause, begin := firstPause, time.Now(); late(err); pause = min(2*pause, lastPause) {
		if time.Since(begin) > restWithin {
			return fmt.Errorf("%w: %w", ErrBusy, err)
		}
		select {
		case <-time.After(pause/2 + rand.N(pause)):
		case <-ctx.Done():
			return ctx.Err()
		}
		err = try(true)
	}
	return err
}

func (w *Workshop) appendTo(ctx context.Context, l *live, id string, drafts []Draft) ([]Receipt, error) {
	// Readers hold shorter slices of the same log: the new places are not theirs.
	next := &live{entries: l.entries, state: l.state, eval: l.eval, under: l.under, lookedUp: l.lookedUp, clockNoted: l.clockNoted}
	var fresh []inspection.Entry
	var out []Receipt
	prints := map[string]string{}
	for _, d := range drafts {
		if seq, ok := l.known[d.ID]; ok {
			old := l.entries[seq-1]
			if err := w.sameDraft(ctx, &old, &d); err != nil {
				return nil, err
			}
			out = append(out, Receipt{old.Seq, old.At, old.Hash})
			continue
		}
		if d.After != nil && *d.After != l.state.Seq {
			if *d.After > l.state.Seq && !l.behind && w.Store.Shared() { // seen at a server that is further
				l.behind = true
				return nil, store.ErrStale
			}
			return nil, l.conflict(*d.After)
		}
		if e, err := w.noteClockSetBack(next, id); err != nil {
			return nil, err
		} else if e != nil {
			fresh = append(fresh, *e)
		}
		e, err := w.next(ctx, next, id, d)
		if err != nil {
			return nil, err
		}
		if prints[d.ID], err = d.fingerprint(); err != nil {
			return nil, err
		}
		fresh = append(fresh, *e)
		out = append(out, Receipt{e.Seq, e.At, e.Hash})
	}
	if len(fresh) == 0 {
		return out, nil
	}
	if e, err := w.carry(ctx, next, id); err != nil {
		return nil, err
	} else if e != nil {
		fresh = append(fresh, *e)
	}
	p := &store.Projection{Held: w.held(l.state, next.state), Fingerprints: prints}
	if next.state.Signed != nil { // what is signed is looked up by others; the rest waits for who looks at the board
		line, err := w.line(next)
		if err != nil {
			return nil, err
		}
		p.Line = line
	}
	if err := w.Store.Append(ctx, p, fresh...); err != nil {
		if !errors.Is(err, store.ErrStale) {
			return nil, asBroken(id, err)
		}
		// Either the log has moved on behind us, and is read anew, or an id is another
		// inspection's.
		if head, e := w.Store.Head(ctx, id); e != nil || head == l.state.Seq {
			return nil, errors.Join(e, w.idTaken(ctx, fresh))
		}
		l.behind = true
		return nil, err
	}
	l.entries, l.state, l.eval, l.under, l.lookedUp, l.clockNoted = next.entries, next.state, next.eval, next.under, next.lookedUp, next.clockNoted
	for i := range fresh {
		l.known[fresh[i].ID] = fresh[i].Seq
	}
	w.publish(id, l.state.Seq)
	w.publish(boardTopic, 0)
	return out, nil
}

// idTaken names the entry of another inspection whose id was handed in.
func (w *Workshop) idTaken(ctx context.Context, fresh []inspection.Entry) error {
	for i := range fresh {
		if old, err := w.Store.Entry(ctx, fresh[i].ID); err == nil {
			return &Twice{old, fresh[i].Body}
		}
	}
	return quantity.Invalid("id", "belongs to another entry", "choose a new id")
}

// conflict lists what came after a sequence number.
func (l *live) conflict(after int64) *Conflict {
	between := []inspection.Entry{}
	for _, e := range l.entries {
		if e.Seq > after {
			between = append(between, e)
		}
	}
	return &Conflict{l.state.Seq, between}
}

// next accepts one more entry into a log that is being made longer.
func (w *Workshop) next(ctx context.Context, l *live, id string, d Draft) (*inspection.Entry, error) {
	body, err := w.complete(ctx, l, d)
	if err != nil {
		return nil, err
	}
	e := &inspection.Entry{ID: d.ID, Inspection: id, Seq: l.state.Seq + 1, At: w.stampAfter(l), By: d.By, Kind: d.Kind, Body: body}
	if err := inspection.Named(e); err != nil {
		return nil, err
	}
	if err := e.Seal(l.state.Head); err != nil {
		return nil, err
	}
	after, err := accept.Next(l.state, func() *verdict.Evaluation { return w.judged(l) }, e)
	if err != nil {
		return nil, err
	}
	if e.Kind == inspection.KindCorrect {
		if err := inspection.MayTakeBack(l.entries, e); err != nil {
			return nil, err
		}
		l.entries = append(l.entries, *e)
		return e, w.refold(l)
	}
	l.entries, l.state, l.eval = append(l.entries, *e), after, nil
	return e, nil
}

// advance computes the state after the last entry.
func (w *Workshop) advance(l *live, e *inspection.Entry) error {
	s := l.state.Clone()
	if err := s.Add(e); err != nil {
		return err
	}
	l.state, l.eval = s, nil
	return nil
}

// complete puts into an entry what the workshop knows and nobody may say: how a tool
// stood, a person's role, what a verdict was judged by.
func (w *Workshop) complete(ctx context.Context, l *live, d Draft) (json.RawMessage, error) {
	switch d.Kind {
	case inspection.KindPhoto:
		return d.Body, w.stored(ctx, l.state.ID, d.Body)
	case inspection.KindSet:
		return w.completeSet(ctx, d)
	case inspection.KindTrace:
		return w.completeTrace(ctx, l.state.ID, d)
	case inspection.KindRule:
		b, err := read[inspection.Overrule](d.Body, say.T("give check, output, severity and reason"))
		if err != nil {
			return nil, err
		}
		if b.Role, err = w.roleOf(ctx, d.By); err != nil {
			return nil, err
		}
		b.Countersigned, b.CountersignedID, b.Tied = w.second(&d)
		return json.Marshal(b)
	case inspection.KindCorrect:
		b, err := read[inspection.Correct](d.Body, say.T("give entry and reason"))
		if err != nil {
			return nil, err
		}
		b.Second, b.SecondID, b.Tied = w.second(&d)
		b.Alone, err = w.alone(ctx)
		if err != nil {
			return nil, err
		}
		return json.Marshal(b)
	case inspection.KindSign:
		b, err := read[inspection.Sign](d.Body, say.T("give the verdict"))
		if err != nil {
			return nil, err
		}
		role, err := w.roleOf(ctx, d.By)
		if err != nil {
			return nil, err
		}
		full, err := verdict.SignOf(l.state, w.Env(l.state), w.judged(l), d.By, role, w.Version)
		if err != nil {
			return nil, err
		}
		full.Verdict = b.Verdict // as it was read
		if w.Key != nil {
			full.Key = w.Key.Public()
			message, err := full.Message(l.state.Head)
			if err != nil {
				return nil, err
			}
			full.Seal = w.Key.Sign(message)
		}
		return json.Marshal(full)
	}
	return d.Body, nil
}

// alone: exactly one person works here.
func (w *Workshop) alone(ctx context.Context) (bool, error) {
	people, err := w.Book.People(ctx)
	n := 0
	for i := range people {
		if people[i].Left == "" {
			n++
		}
	}
	return n == 1, err
}

// read decodes a body, refusing what it does not know.
func read[T any](raw json.RawMessage, want string) (*T, error) {
	var b T
	if err := schema.Strict(raw, &b); err != nil {
		return nil, quantity.Invalid("body", say.F("cannot be read: %s", err.Error()), want)
	}
	return &b, nil
}

func (w *Workshop) completeSet(ctx context.Context, d Draft) (json.RawMessage, error) {
	b, err := read[inspection.Set](d.Body, say.T("give path and value"))
	if err != nil {
		return nil, err
	}
	if b.Instruments, err = w.named(ctx, b.Value); err != nil {
		return nil, err
	}
	b.Instrument = nil
	if d.Instrument != "" {
		if b.Instrument, err = w.tool(ctx, d.Instrument); err != nil {
			return nil, err
		}
	}
	return json.Marshal(b)
}

// tool finds a tool of the register.
func (w *Workshop) tool(ctx context.Context, id string) (*quantity.Instrument, error) {
	tools, err := w.Store.Instruments(ctx)
	if err != nil {
		return nil, err
	}
	for i := range tools {
		if tools[i].ID == id {
			return &tools[i], nil
		}
	}
	return nil, quantity.Invalid("instrument", "is not in the register", "use a tool of the register")
}

func (w *Workshop) completeTrace(ctx context.Context, id string, d Draft) (json.RawMessage, error) {
	b, err := read[inspection.TraceAdded](d.Body, say.T("give sha256 and name"))
	if err != nil {
		return nil, err
	}
	if _, _, err := w.Store.Trace(ctx, b.Sha256); errors.Is(err, store.ErrNotFound) {
		return nil, quantity.Invalid("sha256", "is not a stored recording", "upload the file first")
	} else if err != nil {
		return nil, err
	}
	prints, err := w.traces.Prints(b.Sha256)
	if err != nil {
		return nil, err
	}
	keys := make([]string, len(prints))
	for i, p := range prints {
		keys[i] = verdict.PrintKey(p)
	}
	if err := w.notHeldElsewhere(ctx, id, verdict.HeldPrint, keys); err != nil {
		return nil, err
	}
	if err := w.notTheFaceOfAnother(ctx, id, b); err != nil {
		return nil, err
	}
	b.Instrument = nil
	if !d.live {
		b.StandIn = false
		if b.Run != nil {
			return nil, quantity.Invalid("run", "is made by the bench alone", "leave it out of a recording that is brought in")
		}
	}
	if b.Logger != "" {
		if b.Instrument, err = w.tool(ctx, b.Logger); err != nil {
			return nil, err
		}
	}
	if b.Made != "" {
		made, err := time.Parse(time.RFC3339, b.Made)
		switch {
		case err != nil:
			return nil, quantity.Invalid("made", "is no time", "give RFC 3339")
		case made.After(w.Now().Add(time.Minute)):
			return nil, quantity.Invalid("made", "lies ahead", "give the time at which it was recorded")
		}
		b.Made = made.UTC().Format(stampFormat)
	}
	return json.Marshal(b)
}

// Log reads an inspection's entries.
func (w *Workshop) Log(ctx context.Context, id string) ([]inspection.Entry, error) {
	l, err := w.acquire(ctx, id)
	if err != nil {
		return nil, err
	}
	defer l.mu.Unlock()
	return l.entries, nil
}

const boardTopic = "board"

// Subscribe notifies of each change of an inspection ("board": of any) by its
// sequence number. A slow subscriber misses numbers, never the last one.
func (w *Workshop) Subscribe(topic string) (<-chan int64, func()) {
	c := make(chan int64, 1)
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.subs[topic] == nil {
		w.subs[topic] = map[chan int64]struct{}{}
	}
	w.subs[topic][c] = struct{}{}
	return c, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		if delete(w.subs[topic], c); len(w.subs[topic]) == 0 {
			delete(w.subs, topic)
		}
	}
}

// Watched reports whether anybody is notified of the changes of a topic.
func (w *Workshop) Watched(topic string) bool {
	w.mu.Lock()
	defer w.mu.Unlock()
	return len(w.subs[topic]) > 0
}

func (w *Workshop) publish(topic string, seq int64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for c := range w.subs[topic] {
		select {
		case <-c:
		default:
		}
		c <- seq
	}
}

// ImportTrace reads, analyses and stores a trace file. Nothing is stored if it
// cannot be used or if progress ends it with an error.
func (w *Workshop) ImportTrace(ctx context.Context, name string, data []byte, progress func(float64) error) (sha string, tr *cutoff.Trace, err error) {
	if tr, err = cutoff.Parse(data, progress); err != nil {
		return "", nil, err
	}
	h := sha256.Sum256(data)
	sha = hex.EncodeToString(h[:])
	var b bytes.Buffer
	z, _ := gzip.NewWriterLevel(&b, gzip.BestSpeed)
	for rest := data; len(rest) > 0; {
		n := min(len(rest), 1<<20)
		if _, err := z.Write(rest[:n]); err != nil {
			return "", nil, err
		}
		rest = rest[n:]
		if progress != nil {
			if err := progress(1); err != nil {
				return "", nil, err
			}
		}
	}
	if err := z.Close(); err != nil {
		return "", nil, err
	}
	if err := w.Store.PutTrace(ctx, sha, name, len(tr.T), b.Bytes()); err != nil {
		return "", nil, err
	}
	return sha, tr, nil
}

// Trace reads a stored trace back.
func (w *Workshop) Trace(ctx context.Context, sha string) (*cutoff.Trace, error) {
	data, err := w.TraceFile(ctx, sha)
	if err != nil {
		return nil, err
	}
	return cutoff.Parse(data, nil)
}

// TraceFile gives a stored trace file as it came.
func (w *Workshop) TraceFile(ctx context.Context, sha string) ([]byte, error) {
	_, gz, err := w.Store.Trace(ctx, sha)
	if err != nil {
		return nil, err
	}
	return unpack(gz)
}

// JudgeRun gives what a run of a test of the bench showed.
func (w *Workshop) JudgeRun(sha string, run *bench.Run, s *inspection.State) (*bench.TestOutcome, error) {
	return w.traces.Bench(sha, run, bind.BenchVehicle(s), bench.RulesOf(w.House))
}

// Analyse gives the analysis of a stored trace.
func (w *Workshop) Analyse(sha string, opt cutoff.Options) (*cutoff.TraceOutput, error) {
	return w.traces.Analyse(sha, opt, policy.Of[cutoff.TraceLimits](w.House))
}
