// Package round puts the work that is left on a vehicle in the order that takes the least time, where a stop that is found
// may end it.
package round

import (
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// SharedAct is done once in a round, whichever task comes to it first.
type SharedAct struct {
	ID      string  `json:"id"`
	Seconds float64 `json:"seconds" unit:"s" min:"0" max:"100000"`
}

// Item is one thing to do.
type Item struct {
	ID      string      `json:"id"`
	Place   string      `json:"place" required:"false" doc:"where on the vehicle"`
	Tool    string      `json:"tool" required:"false" doc:"tool in the hand; none: the hand keeps what it holds"`
	State   string      `json:"state" words:"off,on,ride" doc:"power off, on the bench with power, on the road"`
	Rank    string      `json:"rank" words:"off,on,ride" required:"false" doc:"before which state it is due, if not its own"`
	Setup   string      `json:"setup" required:"false" doc:"what must stand for it"`
	Seconds float64     `json:"seconds" unit:"s" min:"0" max:"100000" doc:"time for the task itself"`
	Acts    []SharedAct `json:"acts" doc:"what is done once for all that need it"`
	After   []string    `json:"after" doc:"tasks that come before it"`
	PStop   float64     `json:"p_stop" preset:"0" min:"0" max:"1" doc:"chance that it shuts the gate"`
}

// ChangeCosts are what a change takes.
type ChangeCosts struct {
	Tool  float64            `json:"tool" unit:"s" min:"0" max:"100000" preset:"15" doc:"another tool"`
	Place float64            `json:"place" unit:"s" min:"0" max:"100000" preset:"8" doc:"another place of the vehicle"`
	State map[string]float64 `json:"state" min:"0" max:"100000" doc:"another state, off>on for one; a missing one costs nothing"`
	Setup map[string]float64 `json:"setup" min:"0" max:"100000" doc:"setting something up"`
}

// Standpoint is where one stands.
type Standpoint struct {
	Place string `json:"place" required:"false"`
	Tool  string `json:"tool" required:"false"`
	State string `json:"state" words:"off,on,ride" preset:"off"`
}

// RoundInput is what is left to do.
type RoundInput struct {
	Tasks []Item      `json:"tasks" required:"true"`
	Costs ChangeCosts `json:"costs" preset:"{}"`
	At    Standpoint  `json:"at" preset:"{}"`
}

// RoundOutput is the order.
type RoundOutput struct {
	Order        []string `json:"order"`
	Seconds      float64  `json:"seconds" unit:"s" doc:"all of it"`
	Expected     float64  `json:"expected_seconds" unit:"s" doc:"what it comes to on average, as a stop ends it"`
	Gate         float64  `json:"gate_order_seconds" unit:"s" doc:"all of it, in the order given"`
	GateExpected float64  `json:"gate_order_expected" unit:"s" doc:"on average, in the order given"`
	Tools        []string `json:"tools" doc:"what to fetch, in the order of first use"`
	Bound        float64  `json:"bound" unit:"s" doc:"no order is shorter on average"`
}

const (
	exact   = 9       // tasks up to which every order is weighed
	same    = 1e-9    // s; closer sums are equal, and the first by its ids is taken
	longest = 3       // tasks that are moved together
	effort  = 900_000 // positions that are summed at most while an order is bettered
)

// task is a task in numbers.
type task struct {
	place, tool, state, rank, setup int // tool and setup: -1 for none
	seconds, stop                   float64
	acts                            []int
	after                           []int
}

// model is the input in numbers.
type model struct {
	tasks  []task
	acts   []float64 // seconds by act
	setups []float64
	change [3][3]float64
	costs  *ChangeCosts
	at     spot
}

// spot is where one stands, with what is held and what was done.
type spot struct {
	place, tool, state int
	standing, done     bits
}

// bits is a set of small numbers.
type bits []uint64

func (b bits) has(i int) bool { return b[i/64]&(1<<(i%64)) != 0 }
func (b bits) set(i int)      { b[i/64] |= 1 << (i % 64) }
func room(n int) bits         { return make(bits, n/64+1) }

var states = []string{"off", "on", "ride"}

const ride = 2

// Round finds the order with the least expected time. Up to nine tasks every order is weighed (branch and bound); beyond
// that moving and turning stretches betters the shorter of a greedy order and the one given, never to a longer one.
// Source: sequencing with stopping (house); Or-opt and 2-opt, textbook. FieldErrors: an id twice or unknown, a task after
// one of a later state, a circle.
func Round(in *RoundInput, _ *struct{}, w *working.Working) (RoundOutput, error) {
	m, err := build(in)
	if err != nil {
		return RoundOutput{}, err
	}
	n := len(m.tasks)
	given := make([]int, n)
	for i := range given {
		given[i] = i
	}
	out := RoundOutput{Order: []string{}, Tools: []string{}, Bound: m.bound()}
	out.Gate, out.GateExpected = m.sum(given)
	var order []int
	if n <= exact {
		order = m.weighAll(in)
	} else {
		order = m.greedy(in)
		if m.legal(given) {
			if _, a := m.sum(order); a > out.GateExpected {
				order = given
			}
		}
		order = m.better(order)
	}
	out.Seconds, out.Expected = m.sum(order)
	for _, i := range order {
		t := &in.Tasks[i]
		out.Order = append(out.Order, t.ID)
		if t.Tool != "" && !slices.Contains(out.Tools, t.Tool) {
			out.Tools = append(out.Tools, t.Tool)
		}
	}
	if w != nil {
		w.Step("expected", "Σ cost · Π (1 − p_stop) of what came before", out.Expected, "s", "house")
	}
	return out, nil
}

func build(in *RoundInput) (*model, error) {
	at := map[string]int{}
	for i := range in.Tasks {
		id := in.Tasks[i].ID
		if _, twice := at[id]; twice || id == "" {
			return nil, quantity.Invalid("tasks."+strconv.Itoa(i)+".id", say.F("is %q, which is another task's", id), "give each task an id of its own")
		}
		at[id] = i
	}
	number := func() func(string) int {
		known := map[string]int{}
		return func(s string) int {
			if s == "" {
				return -1
			}
			if _, ok := known[s]; !ok {
				known[s] = len(known)
			}
			return known[s]
		}
	}
	places, tools, setups, acts := number(), number(), number(), number()
	m := &model{costs: &in.Costs}
	m.at = spot{place: places(in.At.Place), tool: tools(in.At.Tool), state: max(slices.Index(states, in.At.State), 0)}
	for i := range in.Tasks {
		t := &in.Tasks[i]
		k := task{place: places(t.Place), tool: tools(t.Tool), state: slices.Index(states, t.State), setup: setups(t.Setup), seconds: t.Seconds, stop: t.PStop}
		if k.rank = slices.Index(states, t.Rank); k.rank < 0 {
			k.rank = k.state
		}
		if k.setup >= len(m.setups) {
			m.setups = append(m.setups, in.Costs.Setup[t.Setup])
		}
		for _, a := range t.Acts {
			n := acts(a.ID)
			if n < 0 {
				continue
			}
			if n >= len(m.acts) {
				m.acts = append(m.acts, a.Seconds)
			}
			k.acts = append(k.acts, n)
		}
		for j, id := range t.After {
			before, known := at[id]
			if !known {
				return nil, quantity.Invalid("tasks."+strconv.Itoa(i)+".after."+strconv.Itoa(j), say.F("is %q, which is no task", id), "name a task of the list")
			}
			k.after = append(k.after, before)
		}
		m.tasks = append(m.tasks, k)
	}
	for i := range m.tasks {
		for _, j := range m.tasks[i].after {
			if m.tasks[j].rank > m.tasks[i].rank {
				return nil, quantity.Invalid("tasks."+strconv.Itoa(i)+".after", say.F("%s comes after %s, which is done in a later state", in.Tasks[i].ID, in.Tasks[j].ID),
					"leave out what the states forbid")
			}
		}
	}
	for i, a := range states {
		for j, b := range states {
			m.change[i][j] = in.Costs.State[a+">"+b]
		}
	}
	m.at.standing, m.at.done = room(len(m.setups)), room(len(m.acts))
	if i := m.circle(); i >= 0 {
		return nil, quantity.Invalid("tasks."+strconv.Itoa(i)+".after", say.F("%s would come after itself", in.Tasks[i].ID), "leave out one of the circle")
	}
	return m, nil
}

// circle is a task that comes after itself; -1 if there is none.
func (m *model) circle() int {
	waits, left := make([]int, len(m.tasks)), len(m.tasks)
	for i := range m.tasks {
		waits[i] = len(m.tasks[i].after)
	}
	for again := true; again; {
		again = false
		for i := range waits {
			if waits[i] != 0 {
				continue
			}
			waits[i], again = -1, true
			left--
			for j := range m.tasks {
				for _, a := range m.tasks[j].after {
					if a == i {
						waits[j]--
					}
				}
			}
		}
	}
	if left == 0 {
		return -1
	}
	return slices.IndexFunc(waits, func(n int) bool { return n > 0 })
}

// step is the cost of a task from where one stands, and where one stands then. The sets of the spot are changed in place.
func (m *model) step(s *spot, i int) float64 {
	t := &m.tasks[i]
	cost := t.seconds
	if t.place != s.place {
		cost += m.costs.Place
		s.place = t.place
	}
	if t.tool >= 0 && t.tool != s.tool {
		cost += m.costs.Tool
		s.tool = t.tool
	}
	if t.state != s.state {
		cost += m.change[s.state][t.state]
		if t.state == ride {
			clear(s.standing)
		}
		s.state = t.state
	}
	if t.setup >= 0 && !s.standing.has(t.setup) {
		cost += m.setups[t.setup]
		s.standing.set(t.setup)
	}
	for _, a := range t.acts {
		if !s.done.has(a) {
			cost += m.acts[a]
			s.done.set(a)
		}
	}
	return cost
}

// copyTo copies a spot into the room of another.
func (s *spot) copyTo(to *spot) {
	standing, done := to.standing, to.done
	*to = *s
	to.standing, to.done = append(standing[:0], s.standing...), append(done[:0], s.done...)
}

// sum is the whole and the expected time of an order.
func (m *model) sum(order []int) (whole, expected float64) {
	var s spot
	m.at.copyTo(&s)
	alive := 1.0
	for _, i := range order {
		c := m.step(&s, i)
		whole += c
		expected += alive * c
		alive *= 1 - m.tasks[i].stop
	}
	return whole, expected
}

// legal: nothing comes before what it waits for, nor before what is done in an earlier state.
func (m *model) legal(order []int) bool {
	done := room(len(m.tasks))
	rank := 0
	for _, i := range order {
		t := &m.tasks[i]
		if t.rank < rank {
			return false
		}
		rank = t.rank
		for _, a := range t.after {
			if !done.has(a) {
				return false
			}
		}
		done.set(i)
	}
	return true
}

// bound is the expected time of the bare tasks in the order of seconds by chance of a stop: what no order is under.
func (m *model) bound() float64 {
	order := make([]int, len(m.tasks))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return m.tasks[order[a]].bare() < m.tasks[order[b]].bare() })
	sum, alive := 0.0, 1.0
	for _, i := range order {
		sum += alive * m.tasks[i].seconds
		alive *= 1 - m.tasks[i].stop
	}
	return sum
}

func (t *task) bare() float64 {
	if t.stop <= 0 {
		return math.Inf(1)
	}
	return t.seconds / t.stop
}

// weighAll goes through every legal order in the sequence of ids, leaving out what cannot be better than the best so far.
func (m *model) weighAll(in *RoundInput) []int {
	n := len(m.tasks)
	byID := make([]int, n)
	for i := range byID {
		byID[i] = i
	}
	sort.Slice(byID, func(a, b int) bool { return strings.Compare(in.Tasks[byID[a]].ID, in.Tasks[byID[b]].ID) < 0 })
	least := make([]int, n) // by place in byID: nothing
	copy(least, byID)
	sort.SliceStable(least, func(a, b int) bool { return m.tasks[least[a]].bare() < m.tasks[least[b]].bare() })
	var best, at []int
	bestTime := math.Inf(1)
	used := make([]bool, n)
	spots := make([]spot, n+1)
	for i := range spots {
		m.at.copyTo(&spots[i])
	}
	// rest is what the tasks that are left come to at least.
	rest := func(alive float64) (sum float64) {
		for _, i := range least {
			if !used[i] {
				sum += alive * m.tasks[i].seconds
				alive *= 1 - m.tasks[i].stop
			}
		}
		return sum
	}
	var deeper func(depth int, expected, alive float64)
	deeper = func(depth int, expected, alive float64) {
		if depth == n {
			best, bestTime = slices.Clone(at), expected
			return
		}
		rank := 3
		for i := range m.tasks {
			if !used[i] {
				rank = min(rank, m.tasks[i].rank)
			}
		}
		for _, i := range byID {
			t := &m.tasks[i]
			if used[i] || t.rank > rank || slices.ContainsFunc(t.after, func(a int) bool { return !used[a] }) {
				continue
			}
			spots[depth].copyTo(&spots[depth+1])
			sum := expected + alive*m.step(&spots[depth+1], i)
			used[i] = true
			left := alive * (1 - t.stop)
			if sum+rest(left) < bestTime-same {
				at = append(at, i)
				deeper(depth+1, sum, left)
				at = at[:len(at)-1]
			}
			used[i] = false
		}
	}
	deeper(0, 0, 1)
	return best
}

// greedy takes what is quickest for its chance of a stop, and what is nearest among the rest; equal ones by their ids.
func (m *model) greedy(in *RoundInput) []int {
	n := len(m.tasks)
	used := make([]bool, n)
	var order []int
	var s, tried spot
	m.at.copyTo(&s)
	for range n {
		rank := 3
		for i := range m.tasks {
			if !used[i] {
				rank = min(rank, m.tasks[i].rank)
			}
		}
		best, bestWorth := -1, 0.0
		for i := range m.tasks {
			t := &m.tasks[i]
			if used[i] || t.rank > rank || slices.ContainsFunc(t.after, func(a int) bool { return !used[a] }) {
				continue
			}
			s.copyTo(&tried)
			worth := m.step(&tried, i) / (t.stop + 0.02)
			if best < 0 || worth < bestWorth-same || worth < bestWorth+same && in.Tasks[i].ID < in.Tasks[best].ID {
				best, bestWorth = i, worth
			}
		}
		m.step(&s, best)
		used[best] = true
		order = append(order, best)
	}
	return order
}

// search is an order that is being bettered, with what it comes to up to each place.
type search struct {
	m        *model
	order    []int
	spots    []spot // before each place
	expected []float64
	alive    []float64
	position []int // of each task
	trial    []int
	left     int // places that may still be summed
	free     spot
}

func (m *model) better(order []int) []int {
	n := len(order)
	s := &search{m: m, order: slices.Clone(order), spots: make([]spot, n+1), expected: make([]float64, n+1), alive: make([]float64, n+1),
		position: make([]int, n), trial: make([]int, n), left: effort}
	s.settle(0)
	for again := true; again && s.left > 0; {
		again = false
		for from := 0; from < n && s.left > 0; from++ {
			for length := 1; length <= longest && from+length <= n; length++ {
				for to := 0; to+length <= n && s.left > 0; to++ {
					again = to != from && s.move(from, length, to) || again
				}
			}
			for end := from + 2; end <= n && s.left > 0; end++ {
				again = s.turn(from, end) || again
			}
		}
	}
	return s.order
}

// settle sums the order from a place on.
func (s *search) settle(from int) {
	if from == 0 {
		s.m.at.copyTo(&s.spots[0])
		s.expected[0], s.alive[0] = 0, 1
	}
	for k := from; k < len(s.order); k++ {
		i := s.order[k]
		s.position[i] = k
		s.spots[k].copyTo(&s.spots[k+1])
		s.expected[k+1] = s.expected[k] + s.alive[k]*s.m.step(&s.spots[k+1], i)
		s.alive[k+1] = s.alive[k] * (1 - s.m.tasks[i].stop)
	}
}

// move tries a stretch at another place.
func (s *search) move(from, length, to int) bool {
	low, high := min(from, to), max(from, to)+length
	t := s.trial[:0]
	t = append(t, s.order[:low]...)
	if to < from {
		t = append(t, s.order[from:from+length]...)
		t = append(t, s.order[to:from]...)
	} else {
		t = append(t, s.order[from+length:to+length]...)
		t = append(t, s.order[from:from+length]...)
	}
	return s.try(append(t, s.order[high:]...), low, high)
}

// turn tries a stretch the other way round.
func (s *search) turn(from, end int) bool {
	t := append(s.trial[:0], s.order...)
	slices.Reverse(t[from:end])
	return s.try(t, from, end)
}

// try takes an order that differs between two places, if it is legal and better.
func (s *search) try(order []int, low, high int) bool {
	s.left -= high - low
	place := func(i int) int { // in the new order
		if k := s.position[i]; k < low || k >= high {
			return k
		}
		return low + slices.Index(order[low:high], i)
	}
	rank := 0
	if low > 0 {
		rank = s.m.tasks[order[low-1]].rank
	}
	for k := low; k < high; k++ {
		t := &s.m.tasks[order[k]]
		if t.rank < rank || slices.ContainsFunc(t.after, func(a int) bool { return place(a) > k }) {
			return false
		}
		rank = t.rank
	}
	s.spots[low].copyTo(&s.free)
	expected, alive := s.expected[low], s.alive[low]
	n := len(order)
	for k := low; k < n; k++ {
		i := order[k]
		expected += alive * s.m.step(&s.free, i)
		alive *= 1 - s.m.tasks[i].stop
		s.left--
		if expected >= s.expected[n]-same {
			return false
		}
	}
	copy(s.order, order)
	s.settle(low)
	return true
}
