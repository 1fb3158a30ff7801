package calc

import (
	"math"
	"math/rand/v2"
	"reflect"
	"sort"

	"jadegate/core/order"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// Propagate carries the standard uncertainties of inputs (by path, k = 1) to
// every numeric output to first order: u² = Σ(∂y/∂x·u_x)², the derivatives by
// central difference with h = max(10⁻⁴·|x|, u_x/10), one-sided at the edge of an
// input's range. The budget gives each input's share of u², largest first.
// Source: JCGM 100 (GUM) 5.1.
func (s *Spec[In, Lim, Out]) Propagate(in *In, lim *Lim, u map[string]float64) (map[string]float64, map[string][]Share) {
	shares := map[string][]Share{}
	sum, _ := s.propagate(in, lim, u, shares)
	for path, q := range sum {
		for i := range shares[path] {
			shares[path][i].Share /= q * q
		}
		sort.SliceStable(shares[path], func(i, j int) bool { return shares[path][i].Share > shares[path][j].Share })
	}
	return sum, shares
}

// propagate is Propagate without the budget; the squares that make it up are put
// into shares, if it is not nil. Vague are the outputs that come or go inside a step:
// no slope tells how sure they are.
func (s *Spec[In, Lim, Out]) propagate(in *In, lim *Lim, u map[string]float64, shares map[string][]Share) (sum map[string]float64, vague map[string]bool) {
	if len(u) == 0 {
		return nil, nil
	}
	inputs, _ := schema.Leaves(reflect.ValueOf(in))
	var base, up, down Out
	var err error
	if base, err = s.Eval(in, lim, nil); err != nil {
		return nil, nil
	}
	outs, fixed := schema.Leaves(reflect.ValueOf(&base))
	var a, b []schema.Leaf
	squares := make([]float64, len(outs))
	for _, x := range inputs {
		ux := u[x.Path]
		if ux <= 0 {
			continue
		}
		v := *x.Ptr
		h := max(1e-4*math.Abs(v), ux/10)
		hi, lo := min(v+h, x.Hi), max(v-h, x.Lo)
		*x.Ptr = hi
		up, err = s.Eval(in, lim, nil)
		if err != nil {
			up, hi = base, v
		}
		*x.Ptr = lo
		down, err = s.Eval(in, lim, nil)
		if err != nil {
			down, lo = base, v
		}
		*x.Ptr = v
		if hi <= lo {
			continue
		}
		if !fixed || a == nil || len(a) != len(outs) || len(b) != len(outs) {
			a = schema.NumbersInto(reflect.ValueOf(&up), a)
			b = schema.NumbersInto(reflect.ValueOf(&down), b)
		}
		if len(a) != len(outs) || len(b) != len(outs) {
			if vague == nil {
				vague = map[string]bool{}
			}
			a, b = matched(outs, &up, vague), matched(outs, &down, vague)
		}
		for i, o := range outs {
			if !a[i].Present() || !b[i].Present() {
				if vague == nil {
					vague = map[string]bool{}
				}
				vague[o.Path] = true
				continue
			}
			d := (*a[i].Ptr - *b[i].Ptr) / (hi - lo) * ux
			if d != 0 && usable(d) {
				squares[i] += d * d
				if shares != nil {
					shares[o.Path] = append(shares[o.Path], Share{x.Path, d * d})
				}
			}
		}
	}
	sum = make(map[string]float64, len(outs))
	for i, q := range squares {
		if q > 0 {
			sum[outs[i].Path] = math.Sqrt(q)
		}
	}
	return sum, vague
}

// matched finds the numbers of another output under the same paths; one that is not
// there is vague, and stands for itself.
func matched[Out any](outs []schema.Leaf, other *Out, vague map[string]bool) []schema.Leaf {
	found, _ := schema.Leaves(reflect.ValueOf(other))
	by := make(map[string]schema.Leaf, len(found))
	for _, l := range found {
		by[l.Path] = l
	}
	list := make([]schema.Leaf, len(outs))
	for i, o := range outs {
		l, ok := by[o.Path]
		if !ok {
			vague[o.Path] = true
			l = o
		}
		list[i] = l
	}
	return list
}

// Tries before a draw is given up as impossible.
const maxRedraws = 10_000

// monteCarlo draws normal inputs and fills in the 5 %, 50 % and 95 % points of
// every numeric output. A draw outside an input's valid range, or one that the
// calculation refuses, is drawn anew. Same seed, same answer.
func (s *Spec[In, Lim, Out]) monteCarlo(in *In, lim *Lim, rq request, r *Result) error {
	columns, paths, err := s.draw(in, lim, rq)
	if err != nil {
		return err
	}
	r.P05, r.P50, r.P95 = map[string]float64{}, map[string]float64{}, map[string]float64{}
	for i, path := range paths {
		c := columns[i]
		if len(c) == 0 {
			continue
		}
		if constant(c) {
			r.P05[path], r.P50[path], r.P95[path] = c[0], c[0], c[0]
			continue
		}
		r.P05[path], r.P50[path], r.P95[path] = quantiles(c)
	}
	return nil
}

// constant reports whether the uncertain inputs leave an output alone.
func constant(x []float64) bool {
	for _, v := range x {
		if v != x[0] {
			return false
		}
	}
	return true
}

// draw evaluates rq.draws times and returns the outputs by column.
func (s *Spec[In, Lim, Out]) draw(in *In, lim *Lim, rq request) (columns [][]float64, paths []string, err error) {
	type source struct {
		schema.Leaf
		mean, u float64
	}
	var sources []source
	leaves, _ := schema.Leaves(reflect.ValueOf(in))
	for _, l := range leaves {
		if ux := rq.u[l.Path]; ux > 0 {
			sources = append(sources, source{l, *l.Ptr, ux})
		}
	}
	defer func() {
		for _, x := range sources {
			*x.Ptr = x.mean
		}
	}()
	out := new(Out)
	if *out, err = s.Eval(in, lim, nil); err != nil {
		return nil, nil, err
	}
	outs, fixed := schema.Leaves(reflect.ValueOf(out))
	paths = make([]string, len(outs))
	columns = make([][]float64, len(outs))
	backing := make([]float64, len(outs)*rq.draws)
	for i, o := range outs {
		paths[i] = o.Path
		columns[i] = backing[i*rq.draws : i*rq.draws : (i+1)*rq.draws]
	}
	rng := rand.New(rand.NewPCG(rq.seed, 0x6a616465))
	redraws := 0
	for n := 0; n < rq.draws; {
		for i := range sources {
			x := &sources[i]
			v := x.mean + x.u*rng.NormFloat64()
			for v < x.Lo || v > x.Hi {
				if redraws++; redraws > maxRedraws+rq.draws {
					return nil, nil, quantity.Invalid("u."+x.Path, "is too wide for the input's range", "give a smaller uncertainty")
				}
				v = x.mean + x.u*rng.NormFloat64()
			}
			*x.Ptr = v
		}
		if *out, err = s.Eval(in, lim, nil); err != nil {
			if redraws++; redraws > maxRedraws+rq.draws {
				return nil, nil, err
			}
			continue
		}
		if !fixed {
			if outs = schema.NumbersInto(reflect.ValueOf(out), outs); len(outs) != len(paths) {
				if redraws++; redraws > maxRedraws+rq.draws {
					return nil, nil, quantity.Invalid("u", "is so wide that the shape of the result changes", "give smaller uncertainties")
				}
				continue
			}
		}
		for i := range outs {
			if v := *outs[i].Ptr; usable(v) && outs[i].Present() {
				columns[i] = append(columns[i], v)
			}
		}
		n++
	}
	return columns, paths, nil
}

// quantiles returns the 5 %, 50 % and 95 % points, by linear interpolation
// between order statistics at (n−1)·q. It reorders x.
func quantiles(x []float64) (p05, p50, p95 float64) {
	at := func(q float64) float64 {
		pos := q * float64(len(x)-1)
		k := int(pos)
		lo := order.Select(x, k)
		if k+1 >= len(x) {
			return lo
		}
		hi := x[k+1]
		for _, v := range x[k+2:] {
			hi = min(hi, v)
		}
		return lo + (pos-float64(k))*(hi-lo)
	}
	return at(0.05), at(0.50), at(0.95)
}
