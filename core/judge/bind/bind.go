package bind

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"jadegate/core/axle"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/limits"
	"jadegate/core/memo"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"

	"github.com/tidwall/gjson"
)

// Need is an input of a check that is not as it should be.
type Need struct {
	Path  string `json:"path"`
	Title string `json:"title"`
	Why   string `json:"why"`   // a reason of package evidence, or a sentence
	Words string `json:"words"` // the reason, and what would settle it
	Shown bool   `json:"-"`     // a figure is there and does not count
}

// Source is one input of a computed check with where it comes from.
type Source struct {
	Path       string               `json:"path"`
	Input      string               `json:"input"` // the calculation's own name for it
	Title      string               `json:"title"`
	Value      quantity.Opt         `json:"value"`
	Word       string               `json:"word,omitempty"`
	Unit       string               `json:"unit,omitempty"`
	Source     string               `json:"source"`
	U          float64              `json:"u"`
	Instrument *quantity.Instrument `json:"instrument,omitempty"`
	Readings   int                  `json:"readings,omitempty"` // standing ones, if more than one
	Counts     bool                 `json:"counts"`
	Why        string               `json:"why,omitempty"` // it does not count
}

// School tells how one school judges the readings.
type School struct {
	ID     string `json:"id"`
	Title  string `json:"title"`
	Pass   bool   `json:"pass"`
	Chosen bool   `json:"chosen"`
}

// Session is what the checks of one evaluation share.
type Session struct {
	weighed  map[weighing]*weight // standing readings, once for a check
	hold     map[int]*held        // by drive
	kit      map[string]float64
	known    bool // the kit sheets were read
	law      *lawAnswer
	circuit  *Circuit // of the power leads, once it is worked out
	ride     *rideAnswer
	stops    *[]Contradiction   // of the stops with one another
	metal    *[]Contradiction   // of what was measured with the kits' sheets
	plain    *[]Contradiction   // of the sheet and the recordings
	repeated map[int]bool       // by recording: it is one that was entered before
	put      map[string]float64 // figures in place of what was read, by sheet path
}

// Trying is a session in which figures stand in place of what was read.
func Trying(put map[string]float64) *Session { return &Session{hold: map[int]*held{}, put: put} }

// Beside is a session for the other of two hands that judge at the same time.
func (ses *Session) Beside() *Session {
	other := *ses
	other.hold = map[int]*held{}
	return &other
}

// Join takes what the other hand read of the ride's file.
func (ses *Session) Join(other *Session) {
	if ses.ride == nil {
		ses.ride = other.ride
	}
}

// After is a session for the state after one more entry: the ride's file and the kit sheets are not read anew where the
// entry speaks of other things.
func (ses *Session) After(e *inspection.Entry, bears func(*catalogue.Check) bool) *Session {
	n := Trying(nil)
	if ses == nil || e == nil || e.Kind == inspection.KindOpened || e.Kind == inspection.KindCorrect {
		return n
	}
	root, rest := "", ""
	if e.Kind == inspection.KindSet {
		root, rest, _ = strings.Cut(SetPath(e), ".")
	}
	if root == "given" && rest != "" || root == "found" && rest != "charger_number" {
		n.plain = ses.plain
	}
	if root != "given" || !strings.HasPrefix("road_speed", rest) && !strings.HasPrefix(rest, "road_speed") {
		n.ride = ses.ride
	}
	if bears != nil && !bears(&catalogue.Check{ID: "brake.stop", Base: "brake.stop", Gate: catalogue.GateRide, Computed: true}) {
		n.stops = ses.stops
	}
	if !slices.Contains([]string{"drives", "packs", "apart", "bolts", "front", "rear", "kind"}, root) {
		n.kit, n.known = ses.kit, ses.known
		n.metal = ses.metal
		for path := range n.kit {
			if root == "given" && strings.HasPrefix(path, "given."+rest) {
				n.metal = nil
				break
			}
		}
	}
	if e.Kind == inspection.KindPhoto || e.Kind == inspection.KindRepair {
		n.metal = nil
	}
	return n
}

// lawAnswer is how the vehicle stands to the packs of its place.
type lawAnswer struct {
	in      *limits.ClassInput
	out     limits.ClassOutput
	err     error
	sources []Source
	why     []string
}

// rideAnswer is what the recorded ride shows.
type rideAnswer struct {
	out    limits.RoadOutput
	err    error
	unfair string // why the runs that somebody marked are not counted
}

// other is a standing reading beside the one that a check is judged by.
type other struct {
	path  string
	value float64
	u     float64
	word  string // in place of the value
	whole bool   // it may make the check doubtful too, not only fail it
}

// Binder takes what a check needs from the sheet, and says what is wanting.
type Binder struct {
	check     string // its id
	State     *inspection.State
	Env       Env
	Session   *Session
	UndoneSeq int64 // readings of what a repair disturbs count only after this
	undo      inspection.Undoing
	U         map[string]float64 // by the calculation's names: what passes
	own       map[string]float64 // the tool's own: what fails
	Needs     []Need
	Doubts    []Need
	Sources   []Source

	over   *other  // a reading that takes the place of the one judged by
	others []other // standing readings beside those judged by

	Judged  []decide.Judged
	Schools []School
	Result  decide.Outcome // set when the calculation says it itself
	Why     []string
	Loose   []string // windows that are looser than the shipped ones
	Explain func(full bool) *Explanation
	LastOut any // of the calculation that ran last
}

// House is the policy that it is judged by.
func (b *Binder) House() *policy.House { return b.Env.House }

// title says what a path holds; a fastener by its place.
func (b *Binder) title(path string) string {
	if k := boltOf(b.State.Sheet, path); k != nil {
		return inspection.Title(path) + ", " + k.Place
	}
	if name, ok := strings.CutPrefix(path, "bolts."); ok { // one that the list of fasteners does not have yet
		return say.F("torque, %s", say.Term(name))
	}
	return inspection.Title(path)
}

func (b *Binder) need(path, why string) {
	b.Needs = append(b.Needs, Need{Path: path, Title: b.title(path), Why: why, Words: evidence.Words(why, inspection.FieldAt(path))})
}

// Discount names a figure that is there and does not count.
func (b *Binder) Discount(path, why string) {
	b.need(path, why)
	b.Needs[len(b.Needs)-1].Shown = true
}

func (b *Binder) doubt(path, why string) {
	b.Doubts = append(b.Doubts, Need{Path: path, Title: b.title(path), Why: why, Words: evidence.Words(why, inspection.FieldAt(path))})
}

// Missing reports whether an input is not there at all, so that nothing can be
// worked out.
func (b *Binder) Missing() bool {
	return slices.ContainsFunc(b.Needs, func(n Need) bool { return !n.Shown })
}

// figure takes a number; input is the calculation's name for it. fresh says that
// any repair which undoes the check spoils the reading, whatever the field says.
func (b *Binder) figure(path string, f quantity.Figure, input string, required, fresh bool) quantity.Opt {
	put, replaced := b.Session.put[path]
	if replaced {
		f.Value = quantity.Some(put)
	}
	if !f.Value.Ok {
		if required {
			b.need(path, evidence.Missing)
		}
		return f.Value
	}
	field := inspection.FieldAt(path)
	p := b.State.From[path]
	if r := b.stronger(path, field, &f, p.Seq, fresh); r != nil && !replaced {
		f = quantity.Figure{Value: quantity.Some(r.Value), U: r.U, Source: r.Source}
		p = inspection.Provenance{Entry: r.ID, Seq: r.Seq, At: r.At, By: r.By, Instrument: r.Instrument}
	}
	src := Source{Path: path, Input: input, Title: b.title(path), Value: f.Value, Unit: inspection.Unit(path), Source: f.Source, Instrument: p.Instrument}
	st := b.settle(field, path, evidence.Reading{Value: f.Value.V, U: f.U, Source: f.Source, Instrument: p.Instrument, Day: b.Env.Day(p.At), Unit: src.Unit})
	u, own, why := st.U, st.OwnU, st.Why
	if why == "" && b.stale(field, path, f.Source, p.Seq, fresh) {
		why = evidence.Undone
	}
	value := f.Value
	if why == "" && !replaced {
		value.V, u, own = b.standing(path, field, value.V, u, own, fresh, &src)
	}
	if b.over != nil && b.over.path == path {
		value.V, u, own = b.over.value, b.over.u, b.over.u
	}
	src.U, src.Value, src.Counts, src.Why = u, value, why == "", why
	b.Sources = append(b.Sources, src)
	switch why {
	case "":
	case evidence.Undone, evidence.Lapsed:
		b.need(path, why)
		return quantity.Opt{}
	default:
		b.Discount(path, why)
	}
	if u > 0 {
		b.U[input] = u
	}
	if own > 0 {
		b.own[input] = own
	}
	return value
}

// stronger is the reading that stands at a path in place of what was said last: one of a
// source that is worth more, which a lower one never replaces; and of a rating, the bound
// that a label or kit sheet gives, until work on the setting is written down. nil: none.
func (b *Binder) stronger(path string, field *schema.Field, f *quantity.Figure, seq int64, fresh bool) *inspection.Reading {
	all := b.State.Readings[b.State.Key(path)]
	if len(all) < 2 || field == nil {
		return nil
	}
	var best *inspection.Reading
	for i := range all {
		r := &all[i]
		if r.Seq >= seq || r.TakenBack || b.stale(field, path, r.Source, r.Seq, fresh) {
			continue
		}
		bound := isSetting(path) && f.Source == quantity.FromMeasured && (r.Source == quantity.FromLabel || r.Source == quantity.FromKit) &&
			r.Value > f.Value.V && b.setSince(path) < r.Seq
		higher := Rank(r.Source) > Rank(f.Source) && Rank(r.Source) > Rank(quantity.FromStated)
		if !bound && !higher || best != nil && Rank(best.Source) > Rank(r.Source) {
			continue
		}
		st := b.settle(field, path, evidence.Reading{Value: r.Value, U: r.U, Source: r.Source, Instrument: r.Instrument, Day: b.Env.Day(r.At),
			Unit: inspection.Unit(path)})
		if st.Why == "" {
			best = r
		}
	}
	return best
}

// isSetting: a figure that a controller is set to, at most what its label says.
func isSetting(path string) bool {
	return strings.HasPrefix(path, "drives.") && strings.HasSuffix(path, "_limit_a")
}

// setSince is the last work on a controller's settings: the operation, or a check put right
// by name that rests on the figure.
func (b *Binder) setSince(path string) int64 {
	seq := b.undo.NamedAt
	for i := range b.State.Repairs {
		if r := &b.State.Repairs[i]; !r.TakenBack && (slices.Contains(r.T.Operations, "setting_changed") || slices.Contains(r.T.Operations, "controller_changed")) {
			seq = max(seq, r.Seq)
		}
	}
	return seq
}

func (b *Binder) settle(field *schema.Field, path string, r evidence.Reading) evidence.Settled {
	if field == nil {
		return evidence.Settled{Why: evidence.WrongSource}
	}
	s := b.House().Evidence.Settle(field, r,
		func() bool { return b.photographed(path) },
		func() bool { return b.inKit(path, r.Value) })
	if k := b.kitOf(path); s.Why == evidence.NotInKit && k != nil && !k.Vouched() {
		s.Why = evidence.KitUnvouched
	}
	return s
}

// kitOf is the kit sheet of the drive that a path speaks of; nil if there is none.
func (b *Binder) kitOf(path string) *vehicle.Kit {
	rest, ok := strings.CutPrefix(path, "drives.")
	if !ok {
		return nil
	}
	n, _, _ := strings.Cut(rest, ".")
	if i, err := strconv.Atoi(n); err == nil && i < len(b.State.Sheet.Drives) {
		return b.Env.Kits[b.State.Sheet.Drives[i].Kit]
	}
	return nil
}

// renewers are the operations after which a label or a kit figure must be read
// again: another part may bear another label.
var renewers = map[string]string{"controller_changed": "drives.", "pack_changed": "packs.", "charger_changed": "charger", "tyre_changed": ""}

// stale: the reading was made before work that spoils it.
func (b *Binder) stale(field *schema.Field, path, source string, seq int64, fresh bool) bool {
	if b.UndoneSeq <= seq {
		return false
	}
	switch source {
	case quantity.FromMeasured, quantity.FromCount, quantity.FromSeen:
		if strings.HasPrefix(path, "use.") {
			return b.undo.All[catalogue.UseLimited] > seq || b.undo.BareAt > seq
		}
		if b.undo.BareAt > seq {
			return true
		}
		if fresh || field == nil || len(field.Touched) == 0 {
			return b.worked(path, seq)
		}
		return slices.ContainsFunc(field.Touched, func(op string) bool { return b.undo.All[op] > seq && !b.otherSide(path, b.undo.All[op]) })
	case quantity.FromLabel, quantity.FromKit:
		for op, at := range renewers {
			if b.undo.All[op] > seq && at != "" && strings.HasPrefix(path, at) {
				return true
			}
		}
	}
	return false
}

// otherSide: the work was done on one side of an axle, and the path lies on the other.
func (b *Binder) otherSide(path string, seq int64) bool {
	i := slices.IndexFunc(b.State.Repairs, func(r inspection.GivenRepair) bool { return r.Seq == seq })
	if i < 0 {
		return false
	}
	axle, side, ok := strings.Cut(b.State.Repairs[i].T.At, ".axle.")
	rest, under := strings.CutPrefix(path, axle+".axle.")
	of, _, _ := strings.Cut(rest, ".")
	return ok && under && (of == "left" || of == "right") && of != side
}

// worked: work that undoes the check was done after an entry, other than lowering a limit
// of use, which touches nothing of the vehicle.
func (b *Binder) worked(path string, seq int64) bool {
	for op, at := range b.undo.All {
		if at > seq && op != catalogue.UseLimited && !b.otherSide(path, at) {
			return true
		}
	}
	return len(b.undo.All) == 0
}

// weighing names the readings of a path as one check sees them.
type weighing struct {
	check, path string
	fresh       bool
}

// weight is what standing readings come to.
type weight struct {
	v, u, own float64
	others    []other
	doubts    int // times that they disagree
	readings  int
}

// standing weighs all readings of a path since the check was last undone. The
// answer is the value to judge by with its uncertainties; what else stands is
// kept in others.
func (b *Binder) standing(path string, field *schema.Field, v, u, own float64, fresh bool, src *Source) (float64, float64, float64) {
	all := b.State.Readings[b.State.Key(path)]
	if len(all) < 2 && (len(all) == 0 || !all[0].TakenBack) {
		return v, u, own
	}
	key := weighing{b.check, path, fresh}
	w := b.Session.weighed[key]
	if w == nil {
		w = b.weigh(all, path, field, v, u, own, fresh, src.Unit)
		if b.Session.weighed == nil {
			b.Session.weighed = map[weighing]*weight{}
		}
		b.Session.weighed[key] = w
	}
	b.others = append(b.others, w.others...)
	for range w.doubts {
		b.doubt(path, evidence.Disagree)
	}
	src.Readings = w.readings
	return w.v, w.u, w.own
}

// weigh does the work of standing.
func (b *Binder) weigh(all []inspection.Reading, path string, field *schema.Field, v, u, own float64, fresh bool, unit string) *weight {
	w := &weight{v: v, u: u, own: own}
	var good standings
	for i := range all {
		r := &all[i]
		if b.stale(field, path, r.Source, r.Seq, fresh) || r.Source != quantity.FromMeasured && r.Source != quantity.FromCount {
			continue
		}
		st := b.settle(field, path, evidence.Reading{Value: r.Value, U: r.U, Source: r.Source, Instrument: r.Instrument, Day: b.Env.Day(r.At), Unit: unit})
		switch {
		case st.Why != "":
		case r.TakenBack:
			if !b.State.Mistaken(b.State.Key(path), r) {
				w.others = append(w.others, other{path: path, value: r.Value, u: st.OwnU})
			}
		default:
			good.add(standingReading{v: r.Value, u: st.U, own: st.OwnU})
		}
	}
	if good.n < 2 {
		return w
	}
	w.readings = good.n
	repeat := evidence.Repeats(field)
	if repeat == evidence.Drifts || repeat == evidence.Sample {
		for _, r := range good.list {
			if r != good.last || r.n > 1 {
				w.others = append(w.others, other{path: path, value: r.v, u: r.own, whole: repeat == evidence.Sample})
			}
		}
		return w
	}
	// The same state: do they agree?
	sum, agreed := 0.0, 0
	best := good.last
	tie := true
	for _, r := range good.list {
		friends := r.n - 1
		for _, x := range good.list {
			if x != r && evidence.Agree(r.v, r.own, x.v, x.own) {
				friends += x.n
			}
		}
		if friends == 0 && good.n == 2 {
			w.doubts++
		} else if friends*2 >= good.n-1 && friends > 0 {
			sum += r.v * float64(r.n)
			agreed += r.n
		}
		if r.own < best.own*(1-1e-9) {
			best = r
		}
	}
	if good.n > 2 && agreed < 2 {
		w.doubts++
	}
	for _, r := range good.list {
		tie = tie && r.own >= best.own*(1-1e-9) && r.own <= best.own*(1+1e-9)
	}
	judgedBy := *best
	switch {
	case agreed >= 3:
		judgedBy = standingReading{v: sum / float64(agreed), u: best.own, own: best.own}
		tie = false
	case tie:
		judgedBy = *good.last
	}
	for _, r := range good.list {
		if *r != judgedBy {
			w.others = append(w.others, other{path: path, value: r.v, u: r.own, whole: tie})
		}
	}
	w.v, w.u, w.own = judgedBy.v, judgedBy.u, judgedBy.own
	return w
}

// standingReading is a reading that stands, and how often just that was read.
type standingReading struct {
	v, u, own float64
	n         int
}

// standings are the readings of one path that count, each value once.
type standings struct {
	list []*standingReading
	last *standingReading
	n    int
}

// mostStandings bounds the different values of one path that are weighed against one
// another. Past it the one in the middle gives way: the worst lie at the ends.
const mostStandings = 40

func (s *standings) add(r standingReading) {
	s.n++
	i, found := slices.BinarySearchFunc(s.list, r, func(x *standingReading, r standingReading) int {
		return cmp.Or(cmp.Compare(x.v, r.v), cmp.Compare(x.own, r.own), cmp.Compare(x.u, r.u))
	})
	if !found {
		s.list = slices.Insert(s.list, i, &r)
	}
	s.last = s.list[i]
	s.last.n++
	if len(s.list) > mostStandings {
		mid := len(s.list) / 2
		if s.list[mid] == s.last {
			mid++
		}
		s.n -= s.list[mid].n
		s.list = slices.Delete(s.list, mid, mid+1)
	}
}

// photographed: a photo of the label shows what the path is about, made since
// that part was last changed.
func (b *Binder) photographed(path string) bool {
	for i := range b.State.Photos {
		p := &b.State.Photos[i]
		if p.T.View != "label" || p.T.Path == "" || !Covers(p.T.Path, path) {
			continue
		}
		if p.Seq > b.UndoneSeq || !b.stale(nil, path, quantity.FromLabel, p.Seq, false) {
			return true
		}
	}
	return false
}

// pictured: a photo was taken of this very thing.
func (b *Binder) pictured(path string) bool {
	return slices.ContainsFunc(b.State.Photos, func(p inspection.GivenPhoto) bool { return p.T.Path == path })
}

// labelled are the places under "given" whose labels are those of a part.
var labelled = map[string]string{"given.wire_run": "leads", "given.pack_retention": "packs", "given.speedo_check": "front", "given.mid_mount": "drives",
	"given.range_estimate": "packs", "given.rotor_bolt": "drives"}

// Covers: the photo's path names the figure, or the part that it is a label of.
func Covers(photo, path string) bool {
	if slices.Contains([]string{"drives", "packs", "leads", "lights", "bolts", "outlets", "combiners", "chargers", "found", "papers", "equipment"}, photo) {
		return false // of which of them?
	}
	under := func(p string) bool { return p == photo || strings.HasPrefix(p, photo+".") }
	if under(path) {
		return true
	}
	for given, part := range labelled {
		if rest, ok := strings.CutPrefix(path, given); ok {
			n := "0"
			if r, ok := strings.CutPrefix(rest, "_"); ok {
				n, _, _ = strings.Cut(r, ".")
			}
			return under(part+"."+n) || part == "front" && under(part)
		}
	}
	return false
}

// inKit: the kit sheet of the library says that figure of that place.
func (b *Binder) inKit(path string, v float64) bool {
	said, ok := b.kitSays()[path]
	return ok && said == v
}

// kitSays are the figures that the kit sheets tell of the vehicle's motors, by sheet path.
func (b *Binder) kitSays() map[string]float64 {
	if !b.Session.known {
		b.Session.known = true
		b.Session.kit = map[string]float64{}
		for i := range b.State.Sheet.Drives {
			if k := b.Env.Kits[b.State.Sheet.Drives[i].Kit]; k != nil && k.Vouched() && k.Kind == b.State.Sheet.Drives[i].Kind && !b.State.Sheet.Drives[i].Differs {
				maps.Copy(b.Session.kit, k.Says(b.State.Sheet, i))
			}
		}
	}
	return b.Session.kit
}

// fact takes a word.
func (b *Binder) fact(path string, f quantity.Fact, required bool) string {
	if b.over != nil && b.over.path == path && b.over.word != "" {
		f.Value = b.over.word
	}
	if f.Value == "" {
		if required {
			b.need(path, evidence.Missing)
		}
		return ""
	}
	if f.Source == quantity.FromGuess || f.Source == "" {
		b.Discount(path, evidence.Guessed)
	} else if k := inspection.FieldAt(path); k != nil && len(k.From) > 0 && !slices.Contains(k.From, f.Source) {
		b.Discount(path, evidence.WrongSource)
	}
	word := f.Value
	if len(word) > inspection.LongWord {
		word = say.F("a file of %d characters", len(word))
	}
	b.wordsBeside(path, f.Value)
	b.Sources = append(b.Sources, Source{Path: path, Title: b.title(path), Word: word, Source: f.Source, Counts: f.Source != quantity.FromGuess && f.Source != ""})
	return f.Value
}

// wordsBeside keeps the other words that were said at a path since the check was last
// undone: each of them may fail it.
func (b *Binder) wordsBeside(path, now string) {
	for _, w := range b.State.Words[b.State.Key(path)] {
		if w.Value != now && !b.stale(inspection.FieldAt(path), path, w.Source, w.Seq, false) && !b.State.Withdrawn(&w, b.State.Key(path)) {
			b.others = append(b.others, other{path: path, word: w.Value})
		}
	}
}

// plain are the materials that an eye and a magnet may tell: the weakest of each
// family, and those that are refused anyhow.
var plain = []string{"steel_plain", "stainless_304", "al_cast", "magnesium", "carbon"}

// material takes a material: from a kit sheet, from a stamp on a photo, or by eye
// as the weakest of its family.
func (b *Binder) material(path string, f quantity.Fact) string {
	m := b.fact(path, f, true)
	switch f.Source {
	case quantity.FromMeasured, quantity.FromSeen, quantity.FromStated, quantity.FromCount, quantity.FromHouse, quantity.FromRecord:
		if m != "" && !slices.Contains(plain, m) {
			b.Discount(path, say.T("by eye it is the weakest of its family; a kit sheet, or a stamp on a photo, says more"))
		}
	case quantity.FromLabel:
		if m != "" && !b.photographed(path) {
			b.Discount(path, evidence.NoPhoto)
		}
	case quantity.FromKit:
		if m != "" && !b.kitNamed(path) {
			b.Discount(path, evidence.NotInKit)
		}
	}
	return m
}

// kitNamed: the part belongs to a drive whose kit is in the library. A frame's own
// dropout is no part of a kit; its maker's sheet is a label with a photo.
func (b *Binder) kitNamed(path string) bool {
	k := b.kitOf(path)
	if k == nil || k.Axle == nil || !k.Vouched() {
		return false
	}
	switch ax := k.Axle; {
	case strings.Contains(path, ".tab_washer.") && ax.TabWasher != nil:
		return b.wordAt(path) == ax.TabWasher.Material
	case strings.Contains(path, ".arm.") && ax.Arm != nil:
		return b.wordAt(path) == ax.Arm.Material
	}
	return false
}

func (b *Binder) wordAt(path string) string { return b.State.WordAt(path) }

// limit gives a limit on an input that input's own uncertainties.
func (b *Binder) limit(l decide.Limit, input string) decide.Judged {
	l.U = b.U[input]
	l.FailU = quantity.Some(b.own[input])
	return l.Decide()
}

// Day is the date of a time stamp in the workshop: a certificate ends with its day.
func (env *Env) Day(at string) string {
	return days.Get(stampIn{at, env.Zone}, func(k stampIn) string {
		if t, err := time.Parse(time.RFC3339, k.at); err == nil && k.zone != nil {
			return t.In(k.zone).Format(time.DateOnly)
		}
		d, _, _ := strings.Cut(k.at, "T")
		return d
	})
}

type stampIn struct {
	at   string
	zone *time.Location
}

var days memo.Of[stampIn, string]

// New is a binder for one check of a state; a nil session is a fresh one.
func New(s *inspection.State, env Env, c *catalogue.Check, ses *Session) *Binder {
	if ses == nil {
		ses = &Session{}
	}
	undone := s.UndoneAt[c.ID]
	return &Binder{check: c.ID, State: s, Env: env, Session: ses, UndoneSeq: undone.Seq, undo: undone, U: map[string]float64{}, own: map[string]float64{},
		Sources: make([]Source, 0, 6)}
}

// Judge runs the check's rule once by the readings it is judged by, and once for
// each other reading that stands: one of them that fails, fails the check.
func Judge(s *inspection.State, env Env, c *catalogue.Check, ses *Session) *Binder {
	decider := deciderOf(c)
	b := New(s, env, c, ses)
	decider(b, c)
	b.FiguresOfLook(c)
	if len(b.others) == 0 {
		return b
	}
	for i := range b.others {
		o := &b.others[i]
		k := New(s, env, c, nil)
		k.Session.kit, k.Session.known, k.Session.weighed, k.Session.repeated, k.over = b.Session.kit, b.Session.known, b.Session.weighed, b.Session.repeated, o
		decider(k, c)
		k.FiguresOfLook(c)
		for n := range k.Judged {
			if n >= len(b.Judged) || b.Judged[n].Output != k.Judged[n].Output {
				if k.Judged[n].Result == decide.Fail {
					b.Judged = append(b.Judged, k.Judged[n])
				}
				continue
			}
			was, is := b.Judged[n].Result, k.Judged[n].Result
			if is == decide.Fail && was != decide.Fail || o.whole && was == decide.Pass && is != decide.Pass {
				b.Judged[n] = k.Judged[n]
				b.Judged[n].Words += o.stands()
				if b.Judged[n].Wrong != "" {
					b.Judged[n].Wrong += o.stands()
				}
			}
		}
		if k.Result == decide.OutcomeFail {
			b.Result = k.Result
			b.Why = append(b.Why, k.Why...)
		}
	}
	return b
}

// stands says that a check is judged by what somebody said before and nothing mended.
func (o *other) stands() string {
	if o.word != "" {
		return say.F(", by “%s”, which was said and stands until work on it is written down", say.Term(o.word))
	}
	return say.F(", by the reading of %s that stands", Figure(o.value))
}

// Figure writes a number with up to six digits.
func Figure(v float64) string { return strconv.FormatFloat(v, 'g', 6, 64) }

// Renewed: after a repair, something that the work touched was given again. What the work does
// not touch renews nothing.
func (b *Binder) Renewed(c *catalogue.Check) bool {
	if c.Calc == "cutoff-trace" {
		return slices.ContainsFunc(b.State.Traces, func(t inspection.GivenTrace) bool { return t.Seq > b.UndoneSeq })
	}
	return slices.ContainsFunc(b.Touched(), func(src *Source) bool { return b.SaidAt(src.Path) > b.UndoneSeq })
}

// Touched are the inputs that the last work touched: readings that it spoiled; where there
// are none, what is read off papers, labels and recordings; and else all there is.
func (b *Binder) Touched() []*Source {
	var spoiled, papers, all []*Source
	for i := range b.Sources {
		src := &b.Sources[i]
		all = append(all, src)
		switch src.Source {
		case quantity.FromMeasured, quantity.FromCount, quantity.FromSeen:
			if b.stale(inspection.FieldAt(src.Path), src.Path, src.Source, b.UndoneSeq-1, false) {
				spoiled = append(spoiled, src)
			}
		case quantity.FromHouse, quantity.FromStated:
		default:
			papers = append(papers, src)
		}
	}
	switch {
	case len(spoiled) > 0:
		return spoiled
	case len(papers) > 0:
		return papers
	}
	return all
}

// SaidAt is the entry that gave what stands at a path, by itself or with what holds it.
func (b *Binder) SaidAt(path string) int64 { return b.State.SaidAt(path) }

// WorstInput is the measured input with the largest share in the doubt: of the
// inputs that have an uncertainty, the widest in proportion to its value.
func (b *Binder) WorstInput() string {
	best, worst := "", 0.0
	for _, s := range b.Sources {
		if s.Value.V != 0 && s.U/s.Value.V > worst {
			best, worst = s.Path, s.U/s.Value.V
		}
	}
	return best
}

// Explanation is what a working sheet shows of a computed check.
type Explanation struct {
	Check    string            `json:"check"`
	Calc     string            `json:"calc"`
	Input    any               `json:"input,omitempty"` // the calculation's input as it was bound
	U        any               `json:"u,omitempty"`
	Result   *calc.Result      `json:"result,omitempty"`
	Remedies []calc.Remedy     `json:"remedies"`
	Scatter  *axle.HoldScatter `json:"scatter,omitempty"` // of an axle: what was not measured
	Peak     *PeakBasis        `json:"peak,omitempty"`    // of an axle: where the motor's peak comes from

	TryAll bool `json:"-"` // each remedy is to be tried on the whole vehicle
}

// PeakBasis says where a motor's peak torque comes from.
type PeakBasis struct {
	Nm    float64 `json:"nm"`
	Words string  `json:"words"`
	Ratio bool    `json:"by_ratio"` // the phase current is only the house's ratio over the battery limit
}

// SetPath is where an entry put a value; empty for any other entry.
func SetPath(e *inspection.Entry) string {
	if e == nil || e.Kind != inspection.KindSet {
		return ""
	}
	return gjson.GetBytes(e.Body, "path").String()
}
