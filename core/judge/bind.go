package judge

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Need is an input of a check that is not as it should be.
type Need struct {
	Path  string `json:"path"`
	Title string `json:"title"`
	Why   string `json:"why"`   // a reason of package evidence, or a sentence
	Words string `json:"words"` // the reason, and what would settle it
	shown bool   // a figure is there and does not count
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

// session is what the checks of one evaluation share.
type session struct {
	weighed  map[weighing]*weight // standing readings, once for a check
	hold     map[int]*held        // by drive
	kit      map[string]float64
	known    bool // the kit sheets were read
	law      *lawAnswer
	circuit  *circuit // of the power leads, once it is worked out
	ride     *rideAnswer
	stops    *[]Contradiction   // of the stops with one another
	metal    *[]Contradiction   // of what was measured with the kits' sheets
	repeated map[int]bool       // by recording: it is one that was entered before
	put      map[string]float64 // figures in place of what was read, by sheet path
}

// after is a session for the state after one more entry: the ride's file and the kit sheets are not read anew where the
// entry speaks of other things.
func (ses *session) after(e *inspection.Entry, bears func(*catalogue.Check) bool) *session {
	n := &session{hold: map[int]*held{}}
	if ses == nil || e == nil || e.Kind == inspection.KindOpened || e.Kind == inspection.KindCorrect {
		return n
	}
	root, rest := "", ""
	if e.Kind == inspection.KindSet {
		root, rest, _ = strings.Cut(setPath(e), ".")
	}
	if root != "given" || !strings.HasPrefix("road_speed", rest) && !strings.HasPrefix(rest, "road_speed") {
		n.ride = ses.ride
	}
	if bears != nil && !bears(&catalogue.Check{ID: "brake.stop", Base: "brake.stop", Gate: catalogue.GateRide, Computed: true}) {
		n.stops = ses.stops
	}
	if !slices.Contains([]string{"drives", "bolts", "front", "rear", "kind"}, root) {
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

// binder takes what a check needs from the sheet, and says what is wanting.
type binder struct {
	check   string // its id
	s       *inspection.State
	env     Env
	ses     *session
	undone  int64 // readings of what a repair disturbs count only after this
	undo    inspection.Undoing
	u       map[string]float64 // by the calculation's names: what passes
	own     map[string]float64 // the tool's own: what fails
	needs   []Need
	doubts  []Need
	sources []Source

	over   *other  // a reading that takes the place of the one judged by
	others []other // standing readings beside those judged by

	judged  []decide.Judged
	schools []School
	result  decide.Outcome // set when the calculation says it itself
	why     []string
	loose   []string // windows that are looser than the shipped ones
	explain func(full bool) *Explanation
	lastOut any // of the calculation that ran last
}

func (b *binder) house() *policy.House { return b.env.House }

// title says what a path holds; a fastener by its place.
func (b *binder) title(path string) string {
	if k := boltOf(b.s.Sheet, path); k != nil {
		return inspection.Title(path) + ", " + k.Place
	}
	if name, ok := strings.CutPrefix(path, "bolts."); ok { // one that the list of fasteners does not have yet
		return say.F("torque, %s", say.Term(name))
	}
	return inspection.Title(path)
}

func (b *binder) need(path, why string) {
	b.needs = append(b.needs, Need{Path: path, Title: b.title(path), Why: why, Words: evidence.Words(why, inspection.FieldAt(path))})
}

// discount names a figure that is there and does not count.
func (b *binder) discount(path, why string) {
	b.need(path, why)
	b.needs[len(b.needs)-1].shown = true
}

func (b *binder) doubt(path, why string) {
	b.doubts = append(b.doubts, Need{Path: path, Title: b.title(path), Why: why, Words: evidence.Words(why, inspection.FieldAt(path))})
}

// missing reports whether an input is not there at all, so that nothing can be
// worked out.
func (b *binder) missing() bool {
	return slices.ContainsFunc(b.needs, func(n Need) bool { return !n.shown })
}

// figure takes a number; input is the calculation's name for it. fresh says that
// any repair which undoes the check spoils the reading, whatever the field says.
func (b *binder) figure(path string, f quantity.Figure, input string, required, fresh bool) quantity.Opt {
	put, replaced := b.ses.put[path]
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
	p := b.s.From[path]
	if r := b.stronger(path, field, &f, p.Seq, fresh); r != nil && !replaced {
		f = quantity.Figure{Value: quantity.Some(r.Value), U: r.U, Source: r.Source}
		p = inspection.Provenance{Entry: r.ID, Seq: r.Seq, At: r.At, By: r.By, Instrument: r.Instrument}
	}
	src := Source{Path: path, Input: input, Title: b.title(path), Value: f.Value, Unit: inspection.Unit(path), Source: f.Source, Instrument: p.Instrument}
	st := b.settle(field, path, evidence.Reading{Value: f.Value.V, U: f.U, Source: f.Source, Instrument: p.Instrument, Day: b.env.day(p.At), Unit: src.Unit})
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
	b.sources = append(b.sources, src)
	switch why {
	case "":
	case evidence.Undone, evidence.Lapsed:
		b.need(path, why)
		return quantity.Opt{}
	default:
		b.discount(path, why)
	}
	if u > 0 {
		b.u[input] = u
	}
	if own > 0 {
		b.own[input] = own
	}
	return value
}

// stronger is the reading that stands at a path in place of what was said last: one of a
// source that is worth more, which a lower one never replaces; and of a rating, the bound
// that a label or kit sheet gives, until work on the setting is written down. nil: none.
func (b *binder) stronger(path string, field *schema.Field, f *quantity.Figure, seq int64, fresh bool) *inspection.Reading {
	all := b.s.Readings[b.s.Key(path)]
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
		higher := rank(r.Source) > rank(f.Source) && rank(r.Source) > rank(quantity.FromStated)
		if !bound && !higher || best != nil && rank(best.Source) > rank(r.Source) {
			continue
		}
		st := b.settle(field, path, evidence.Reading{Value: r.Value, U: r.U, Source: r.Source, Instrument: r.Instrument, Day: b.env.day(r.At),
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
func (b *binder) setSince(path string) int64 {
	seq := b.undo.NamedAt
	for i := range b.s.Repairs {
		if r := &b.s.Repairs[i]; !r.TakenBack && (slices.Contains(r.T.Operations, "setting_changed") || slices.Contains(r.T.Operations, "controller_changed")) {
			seq = max(seq, r.Seq)
		}
	}
	return seq
}

func (b *binder) settle(field *schema.Field, path string, r evidence.Reading) evidence.Settled {
	if field == nil {
		return evidence.Settled{Why: evidence.WrongSource}
	}
	return b.house().Evidence.Settle(field, r,
		func() bool { return b.photographed(path) },
		func() bool { return b.inKit(path, r.Value) })
}

// renewers are the operations after which a label or a kit figure must be read
// again: another part may bear another label.
var renewers = map[string]string{"controller_changed": "drives.", "pack_changed": "packs.", "charger_changed": "charger", "tyre_changed": ""}

// stale: the reading was made before work that spoils it.
func (b *binder) stale(field *schema.Field, path, source string, seq int64, fresh bool) bool {
	if b.undone <= seq {
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
func (b *binder) otherSide(path string, seq int64) bool {
	i := slices.IndexFunc(b.s.Repairs, func(r inspection.GivenRepair) bool { return r.Seq == seq })
	if i < 0 {
		return false
	}
	axle, side, ok := strings.Cut(b.s.Repairs[i].T.At, ".axle.")
	rest, under := strings.CutPrefix(path, axle+".axle.")
	of, _, _ := strings.Cut(rest, ".")
	return ok && under && (of == "left" || of == "right") && of != side
}

// worked: work that undoes the check was done after an entry, other than lowering a limit
// of use, which touches nothing of the vehicle.
func (b *binder) worked(path string, seq int64) bool {
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
func (b *binder) standing(path string, field *schema.Field, v, u, own float64, fresh bool, src *Source) (float64, float64, float64) {
	all := b.s.Readings[b.s.Key(path)]
	if len(all) < 2 && (len(all) == 0 || !all[0].TakenBack) {
		return v, u, own
	}
	key := weighing{b.check, path, fresh}
	w := b.ses.weighed[key]
	if w == nil {
		w = b.weigh(all, path, field, v, u, own, fresh, src.Unit)
		if b.ses.weighed == nil {
			b.ses.weighed = map[weighing]*weight{}
		}
		b.ses.weighed[key] = w
	}
	b.others = append(b.others, w.others...)
	for range w.doubts {
		b.doubt(path, evidence.Disagree)
	}
	src.Readings = w.readings
	return w.v, w.u, w.own
}

// weigh does the work of standing.
func (b *binder) weigh(all []inspection.Reading, path string, field *schema.Field, v, u, own float64, fresh bool, unit string) *weight {
	w := &weight{v: v, u: u, own: own}
	var good standings
	for i := range all {
		r := &all[i]
		if b.stale(field, path, r.Source, r.Seq, fresh) || r.Source != quantity.FromMeasured && r.Source != quantity.FromCount {
			continue
		}
		st := b.settle(field, path, evidence.Reading{Value: r.Value, U: r.U, Source: r.Source, Instrument: r.Instrument, Day: b.env.day(r.At), Unit: unit})
		switch {
		case st.Why != "":
		case r.TakenBack:
			if !b.s.Mistaken(b.s.Key(path), r) {
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
func (b *binder) photographed(path string) bool {
	for i := range b.s.Photos {
		p := &b.s.Photos[i]
		if p.T.View != "label" || p.T.Path == "" || !covers(p.T.Path, path) {
			continue
		}
		if p.Seq > b.undone || !b.stale(nil, path, quantity.FromLabel, p.Seq, false) {
			return true
		}
	}
	return false
}

// pictured: a photo was taken of this very thing.
func (b *binder) pictured(path string) bool {
	return slices.ContainsFunc(b.s.Photos, func(p inspection.GivenPhoto) bool { return p.T.Path == path })
}

// labelled are the places under "given" whose labels are those of a part.
var labelled = map[string]string{"given.wire_run": "leads", "given.pack_retention": "packs", "given.speedo_check": "front", "given.mid_mount": "drives",
	"given.range_estimate": "packs", "given.rotor_bolt": "drives"}

// covers: the photo's path names the figure, or the part that it is a label of.
func covers(photo, path string) bool {
	if slices.Contains([]string{"drives", "packs", "leads", "lights", "bolts"}, photo) {
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
func (b *binder) inKit(path string, v float64) bool {
	said, ok := b.kitSays()[path]
	return ok && said == v
}

// kitSays are the figures that the kit sheets tell of the vehicle's motors, by sheet path.
func (b *binder) kitSays() map[string]float64 {
	if !b.ses.known {
		b.ses.known = true
		b.ses.kit = map[string]float64{}
		for i := range b.s.Sheet.Drives {
			if k := b.env.Kits[b.s.Sheet.Drives[i].Kit]; k != nil && k.Kind == b.s.Sheet.Drives[i].Kind && !b.s.Sheet.Drives[i].Differs {
				maps.Copy(b.ses.kit, k.Says(b.s.Sheet, i))
			}
		}
	}
	return b.ses.kit
}

// fact takes a word.
func (b *binder) fact(path string, f quantity.Fact, required bool) string {
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
		b.discount(path, evidence.Guessed)
	} else if k := inspection.FieldAt(path); k != nil && len(k.From) > 0 && !slices.Contains(k.From, f.Source) {
		b.discount(path, evidence.WrongSource)
	}
	word := f.Value
	if len(word) > inspection.LongWord {
		word = say.F("a file of %d characters", len(word))
	}
	b.wordsBeside(path, f.Value)
	b.sources = append(b.sources, Source{Path: path, Title: b.title(path), Word: word, Source: f.Source, Counts: f.Source != quantity.FromGuess && f.Source != ""})
	return f.Value
}

// wordsBeside keeps the other words that were said at a path since the check was last
// undone: each of them may fail it.
func (b *binder) wordsBeside(path, now string) {
	for _, w := range b.s.Words[b.s.Key(path)] {
		if w.Value != now && !b.stale(inspection.FieldAt(path), path, w.Source, w.Seq, false) && !b.s.Withdrawn(&w, b.s.Key(path)) {
			b.others = append(b.others, other{path: path, word: w.Value})
		}
	}
}

// plain are the materials that an eye and a magnet may tell: the weakest of each
// family, and those that are refused anyhow.
var plain = []string{"steel_plain", "stainless_304", "al_cast", "magnesium", "carbon"}

// material takes a material: from a kit sheet, from a stamp on a photo, or by eye
// as the weakest of its family.
func (b *binder) material(path string, f quantity.Fact) string {
	m := b.fact(path, f, true)
	switch f.Source {
	case quantity.FromMeasured, quantity.FromSeen, quantity.FromStated, quantity.FromCount, quantity.FromHouse, quantity.FromRecord:
		if m != "" && !slices.Contains(plain, m) {
			b.discount(path, say.T("by eye it is the weakest of its family; a kit sheet, or a stamp on a photo, says more"))
		}
	case quantity.FromLabel:
		if m != "" && !b.photographed(path) {
			b.discount(path, evidence.NoPhoto)
		}
	case quantity.FromKit:
		if m != "" && !b.kitNamed(path) {
			b.discount(path, evidence.NotInKit)
		}
	}
	return m
}

// kitNamed: the part belongs to a drive whose kit is in the library. A frame's own
// dropout is no part of a kit; its maker's sheet is a label with a photo.
func (b *binder) kitNamed(path string) bool {
	for i := range b.s.Sheet.Drives {
		if d := &b.s.Sheet.Drives[i]; b.env.Kits[d.Kit] != nil && strings.HasPrefix(path, "drives."+strconv.Itoa(i)+".") {
			ax := b.env.Kits[d.Kit].Axle
			switch {
			case strings.Contains(path, ".tab_washer.") && ax != nil && ax.TabWasher != nil:
				return b.wordAt(path) == ax.TabWasher.Material
			case strings.Contains(path, ".arm.") && ax != nil && ax.Arm != nil:
				return b.wordAt(path) == ax.Arm.Material
			}
		}
	}
	return false
}

func (b *binder) wordAt(path string) string { return b.s.WordAt(path) }

// limit gives a limit on an input that input's own uncertainties.
func (b *binder) limit(l decide.Limit, input string) decide.Judged {
	l.U = b.u[input]
	l.FailU = quantity.Some(b.own[input])
	return l.Decide()
}

// day is the date of a time stamp in the workshop: a certificate ends with its day.
func (env *Env) day(at string) string {
	if t, err := time.Parse(time.RFC3339, at); err == nil && env.Zone != nil {
		return t.In(env.Zone).Format(time.DateOnly)
	}
	d, _, _ := strings.Cut(at, "T")
	return d
}
