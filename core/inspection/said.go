package inspection

import (
	"slices"
	"strconv"
	"strings"

	"jadegate/core/bench"
	"jadegate/core/evidence"
	"jadegate/core/quantity"
	"jadegate/core/vehicle"
)

// Mistaken: a reading that was taken back is confirmed as a mistake. A second
// person stands by it, and two later readings agree. See Confirmed.
func (s *State) Mistaken(key string, r *Reading) bool {
	back := s.RetractionAt(r.ID, key)
	if back == nil {
		return false // cleared, not confirmed
	}
	var later []Reading
	for _, x := range s.Readings[key] {
		if x.Seq > back.Seq && !x.TakenBack && x.Instrument != nil {
			later = append(later, x)
		}
	}
	return len(later) >= 2 && later[0].Seq != later[1].Seq && s.Believed(back) &&
		evidence.Agree(later[0].Value, later[0].Instrument.U(later[0].Value), later[1].Value, later[1].Instrument.U(later[1].Value))
}

// Confirmed: a second person stands by the correction.
func (s *State) Confirmed(back *Retraction) bool {
	return strings.TrimSpace(back.T.Second) != "" && !quantity.SameName(back.T.Second, back.By)
}

// Believed: what was taken back is a mistake: a second person stands by it; or, where one
// works alone, what was given since shows the contrary.
func (s *State) Believed(back *Retraction) bool {
	return s.Confirmed(back) || back.T.Alone && s.contrary(back)
}

// TakenBackAlone are the paths of what one person alone took back, for page one.
func (s *State) TakenBackAlone() (paths []string) {
	for i := range s.Retracted {
		if r := &s.Retracted[i]; !r.T.Slip && !s.Confirmed(r) && s.Believed(r) {
			paths = append(paths, r.Path)
		}
	}
	return paths
}

// aloneReadings is how many further readings stand in for a second person (house).
const aloneReadings = 3

// contrary: a figure was read three times since, and the readings agree; a word or a flag
// is shown otherwise by a photo. Not for a torque that was too high, a stop or heat.
func (s *State) contrary(back *Retraction) bool {
	f := FieldAt(back.Path)
	if back.Kind != KindSet && back.Kind != KindOpened || f == nil {
		return false
	}
	shown := slices.ContainsFunc(s.Photos, func(p GivenPhoto) bool { return p.Seq > back.Seq && p.T.Path == back.Path })
	key := s.Key(back.Path)
	all := s.Readings[key]
	if len(all) == 0 {
		return shown
	}
	was := slices.IndexFunc(all, func(r Reading) bool { return r.ID == back.T.Entry })
	var later []Reading
	for _, r := range all {
		if r.Seq > back.Seq && !r.TakenBack && r.Instrument != nil {
			later = append(later, r)
		}
	}
	if !shown || was < 0 || len(later) < aloneReadings || f.Unit == "°C" || strings.HasPrefix(back.Path, "given.stopping") {
		return false
	}
	for i := range later {
		if f.Unit == "N·m" && all[was].Value > later[i].Value {
			return false // over-tightened is over-tightened
		}
		if i > 0 && !evidence.Agree(later[0].Value, later[0].Instrument.U(later[0].Value), later[i].Value, later[i].Instrument.U(later[i].Value)) {
			return false
		}
	}
	return true
}

// Retraction finds what took an entry back; nil if nothing did.
func (s *State) Retraction(entry string) *Retraction {
	for i := range s.Retracted {
		if s.Retracted[i].T.Entry == entry {
			return &s.Retracted[i]
		}
	}
	return nil
}

// RetractionAt finds what took back what an entry said under a key of readings; nil if
// nothing did.
func (s *State) RetractionAt(entry, key string) *Retraction {
	for i := range s.Retracted {
		r := &s.Retracted[i]
		if r.T.Entry == entry && (r.T.Path == "" || strings.HasPrefix(key+".", s.Key(r.T.Path)+".")) {
			return r
		}
	}
	return nil
}

// RecordedBefore: the same file was entered before; a recording counts once.
func (s *State) RecordedBefore(k int) bool {
	for i := range k {
		if s.Traces[i].T.Sha256 == s.Traces[k].T.Sha256 {
			return true
		}
	}
	return false
}

// SaidAt is when a path of the sheet was last said, by itself or with what holds it.
func (s *State) SaidAt(path string) int64 {
	seq := s.From[path].Seq
	for {
		n := strings.LastIndexByte(path, '.')
		if n < 0 {
			return seq
		}
		path = path[:n]
		seq = max(seq, s.From[path].Seq)
	}
}

// LastAnswer is the latest answer to a check that was not taken back; empty if there is none.
func (s *State) LastAnswer(id string) *GivenReply {
	a := s.Answers[id]
	for i := len(a) - 1; i >= 0; i-- {
		if !a[i].TakenBack {
			return &a[i]
		}
	}
	return &GivenReply{}
}

// Photographed reports whether a photo shows the vehicle from a side.
func (s *State) Photographed(view string) bool {
	for i := range s.Photos {
		if s.Photos[i].T.View == view {
			return true
		}
	}
	return false
}

// ShownBefore: the same picture was handed in before for another place.
func (s *State) ShownBefore(i int) bool {
	p := &s.Photos[i]
	for k := range i {
		if o := &s.Photos[k]; o.T.Sha256 == p.T.Sha256 && o.T.Check != p.T.Check {
			return true
		}
	}
	return false
}

// SeenOn reports whether a photo belongs to the check.
func (s *State) SeenOn(check string) bool {
	return slices.ContainsFunc(s.Photos, func(p GivenPhoto) bool { return p.T.Check == check })
}

// HasPulls reports whether a trace is read pull by pull for the cutoff itself: not
// one of a test whose levers are held for another reason.
func (t *TraceAdded) HasPulls() bool {
	if t.Run == nil {
		return true
	}
	test := bench.Lookup(t.Run.Test)
	return test != nil && test.Pulls && len(test.Steps) == 0
}

// OfMotor is the drive whose lead the clamp sat on, empty if nobody said.
func (t *TraceAdded) OfMotor() string {
	if t.Run != nil && t.Run.Motor != "" {
		return t.Run.Motor
	}
	return t.Motor
}

// LostLeads are the numbers of the leads that were measured and are on the list no more,
// since the last repair that opened the leads again: taking a lead off the list, and what
// was read of it back, mends nothing.
func (s *State) LostLeads() []int {
	var mended int64
	for id, u := range s.UndoneAt {
		if id == "wire.run" || strings.HasPrefix(id, "wire.run.") {
			mended = max(mended, u.Seq)
		}
	}
	var out []int
	for key, readings := range s.Readings {
		rest, ok := strings.CutPrefix(key, "given.wire_run_")
		if !ok {
			continue
		}
		n, err := strconv.Atoi(strings.SplitN(rest, ".", 2)[0])
		if err != nil || n < len(s.Sheet.Leads) || slices.Contains(out, n) {
			continue
		}
		if slices.ContainsFunc(readings, func(r Reading) bool { return r.Seq > mended }) {
			out = append(out, n)
		}
	}
	slices.Sort(out)
	return out
}

// Unlisted are the places of fasteners whose torque was read and that are not on the list
// any more, in order: what was read of a vehicle is not unsaid by shortening a list.
func (s *State) Unlisted() []string {
	var out []string
	for key, readings := range s.Readings {
		place, field, ok := strings.Cut(strings.TrimPrefix(key, "bolts["), "].")
		if !ok || !strings.HasPrefix(key, "bolts[") || field != "torque_nm" || len(readings) == 0 {
			continue
		}
		if !slices.ContainsFunc(s.Sheet.Bolts, func(b vehicle.Bolt) bool { return b.Place == place }) {
			out = append(out, place)
		}
	}
	slices.Sort(out)
	return out
}
