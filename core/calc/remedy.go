package calc

import (
	"math"
	"sort"

	"jadegate/core/decide"
	"jadegate/core/policy"
)

// Remedy is one way to make a failing result pass, or a lever that cannot.
type Remedy struct {
	Changes []Change        `json:"changes"`
	Enough  bool            `json:"enough"` // false: no value of this lever passes
	Minutes float64         `json:"minutes"`
	Undoes  []string        `json:"undoes"` // operations that the work is
	Judged  []decide.Judged `json:"judged"` // the limits after the change

	After any                `json:"-"` // pointer to the changed input
	Sets  map[string]float64 `json:"-"` // what an inspection would read once it is done, by sheet path
}

// Change is one lever pulled.
type Change struct {
	Key   string  `json:"key"`
	Title string  `json:"title"`
	Unit  string  `json:"unit,omitempty"`
	From  float64 `json:"from"`
	To    float64 `json:"to"`
}

// Remedies searches what would make the limits of a part ("" for all) pass: for
// each single lever the smallest change that passes, rounded to what can be had,
// and, if none is enough, the cheapest pair. Every remedy shown as enough has
// been evaluated with its changes and passes. Source: house.
func (s *Spec[In, Lim, Out]) Remedies(in *In, h *policy.House, u map[string]float64, part string) []Remedy {
	if s.Levers == nil || s.Judge == nil {
		return nil
	}
	lim := s.limits(h)
	t := trial[In, Lim, Out]{s, lim, u, part}
	if t.passes(in) {
		return nil
	}
	var levers []decide.Adjustment[In]
	for _, l := range s.Levers(lim) {
		if l.Applies == nil || l.Applies(in) {
			levers = append(levers, l)
		}
	}
	remedies := []Remedy{}
	found := false
	for _, l := range levers {
		if v, ok := t.single(in, l); ok {
			found = true
			remedies = append(remedies, t.remedy(in, []decide.Adjustment[In]{l}, []float64{v}))
		} else {
			r := t.remedy(in, []decide.Adjustment[In]{l}, []float64{leverEnd(l, in)})
			r.Enough = false
			remedies = append(remedies, r)
		}
	}
	if !found {
		if r, ok := t.pair(in, levers); ok {
			remedies = append(remedies, r)
		}
	}
	sort.SliceStable(remedies, func(i, j int) bool {
		if remedies[i].Enough != remedies[j].Enough {
			return remedies[i].Enough
		}
		return remedies[i].Minutes < remedies[j].Minutes
	})
	return remedies
}

// trial evaluates changed inputs against the limits of one part.
type trial[In, Lim, Out any] struct {
	s    *Spec[In, Lim, Out]
	lim  *Lim
	u    map[string]float64
	part string
}

func (t *trial[In, Lim, Out]) judged(in *In) []decide.Judged {
	out, err := t.s.Eval(in, t.lim, nil)
	if err != nil {
		return nil
	}
	u, vague := t.s.propagate(in, t.lim, t.u, nil)
	all := t.s.judge(in, t.lim, &out, u, t.u, vague)
	if t.part == "" {
		return all
	}
	var own []decide.Judged
	for _, j := range all {
		if j.Part == t.part {
			own = append(own, j)
		}
	}
	return own
}

func (t *trial[In, Lim, Out]) passes(in *In) bool {
	judged := t.judged(in)
	for _, j := range judged {
		if j.Result != decide.Pass && j.Result != decide.Missing {
			return false
		}
	}
	return judged != nil
}

// places is how many points of a lever's range are tried before it is given up.
const places = 12

// with returns a copy of the input with the levers set.
func with[In any](in *In, levers []decide.Adjustment[In], values []float64) In {
	c := *in
	for i, l := range levers {
		l.Set(&c, values[i])
	}
	return c
}

// leverEnd is the lever's end in the direction that helps, never back from where it
// stands.
func leverEnd[In any](l decide.Adjustment[In], in *In) float64 {
	now := l.Get(in)
	if len(l.Catalogue) > 0 {
		if sizes := sizesBeyond(l, now); len(sizes) > 0 {
			return sizes[len(sizes)-1]
		}
		return now
	}
	if l.Up {
		return max(l.Hi, now)
	}
	return min(max(l.Lo, l.Least*now), now)
}

// sizesBeyond lists the catalogue's sizes beyond the present one, nearest first.
func sizesBeyond[In any](l decide.Adjustment[In], now float64) []float64 {
	var out []float64
	for _, v := range l.Catalogue {
		if (l.Up && v > now) || (!l.Up && v < now) {
			out = append(out, v)
		}
	}
	sort.Slice(out, func(i, j int) bool { return (out[i] < out[j]) == l.Up })
	return out
}

// single finds the smallest change of one lever that passes.
func (t *trial[In, Lim, Out]) single(in *In, l decide.Adjustment[In]) (float64, bool) {
	try := func(v float64) bool {
		c := with(in, []decide.Adjustment[In]{l}, []float64{v})
		return t.passes(&c)
	}
	now := l.Get(in)
	if len(l.Catalogue) > 0 {
		for _, v := range sizesBeyond(l, now) {
			if try(v) {
				return v, true
			}
		}
		return 0, false
	}
	end := leverEnd(l, in)
	if end == now {
		return 0, false
	}
	// The end of the range need not pass where the middle does (an uncertainty
	// that does not shrink with its value): take the first of a few places that
	// passes, and look between it and the one before.
	bad, good, found := now, end, false
	for k := 1; k <= places && !found; k++ {
		good = now + (end-now)*float64(k)/places
		if found = try(good); !found {
			bad = good
		}
	}
	if !found {
		return 0, false
	}
	for range 60 {
		if mid := (bad + good) / 2; try(mid) {
			good = mid
		} else {
			bad = mid
		}
	}
	if l.Step > 0 {
		// To the safe side, and no farther than the end.
		n := good / l.Step
		if l.Up {
			good = min(math.Ceil(n-1e-9)*l.Step, end)
		} else {
			good = max(math.Floor(n+1e-9)*l.Step, end)
		}
	}
	return good, try(good)
}

// pair finds the cheapest two levers that pass together: for each pair by cost,
// the first lever in as small a step as lets the second do the rest.
func (t *trial[In, Lim, Out]) pair(in *In, levers []decide.Adjustment[In]) (Remedy, bool) {
	type two struct{ a, b decide.Adjustment[In] }
	var pairs []two
	for i := range levers {
		for j := i + 1; j < len(levers); j++ {
			a, b := levers[i], levers[j]
			if len(a.Catalogue) == 0 && len(b.Catalogue) > 0 {
				a, b = b, a // step through sizes, slide the other
			}
			pairs = append(pairs, two{a, b})
		}
	}
	sort.SliceStable(pairs, func(i, j int) bool {
		return pairs[i].a.Cost+pairs[i].b.Cost < pairs[j].a.Cost+pairs[j].b.Cost
	})
	for _, p := range pairs {
		now, end := p.a.Get(in), leverEnd(p.a, in)
		values := sizesBeyond(p.a, now)
		if len(p.a.Catalogue) == 0 {
			for k := 1; k <= 4; k++ {
				values = append(values, now+(end-now)*float64(k)/4)
			}
		}
		for _, v := range values {
			c := with(in, []decide.Adjustment[In]{p.a}, []float64{v})
			if w, ok := t.single(&c, p.b); ok {
				return t.remedy(in, []decide.Adjustment[In]{p.a, p.b}, []float64{v, w}), true
			}
		}
	}
	return Remedy{}, false
}

// remedy describes a set of changes and evaluates it.
func (t *trial[In, Lim, Out]) remedy(in *In, levers []decide.Adjustment[In], values []float64) Remedy {
	r := Remedy{Undoes: []string{}}
	for i, l := range levers {
		r.Changes = append(r.Changes, Change{l.Key, l.Title, l.Unit, l.Get(in), values[i]})
		r.Minutes += l.Cost
		r.Undoes = append(r.Undoes, l.Undoes...)
	}
	c := with(in, levers, values)
	r.After = &c
	r.Judged = t.judged(&c)
	r.Enough = t.passes(&c)
	return r
}
