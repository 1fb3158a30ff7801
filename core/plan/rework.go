// Package plan puts rework in order on the workshop's clock and says when a
// vehicle is looked at again.
package plan

import (
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Task is one piece of rework.
type Task struct {
	ID          string   `json:"id"`
	Minutes     float64  `json:"minutes" unit:"min" min:"0" max:"100000" doc:"working time"`
	After       []string `json:"after" doc:"ids that must be done, waits and all, before it"`
	Who         string   `json:"who" preset:"bench" words:"bench,helper,supplier"`
	WaitMinutes float64  `json:"wait_minutes" unit:"min" preset:"0" min:"0" max:"1000000" doc:"waiting time for parts, paint, epoxy or thread locker; runs on overnight"`
}

// People is how many work.
type People struct {
	Bench  int `json:"bench" preset:"1" min:"0" max:"50"`
	Helper int `json:"helper" preset:"0" min:"0" max:"50"`
}

// Day is the workshop's day.
type Day struct {
	Open   string      `json:"open" preset:"08:00"`
	Close  string      `json:"close" preset:"17:00"`
	Breaks [][2]string `json:"breaks" doc:"start and end of each"`
}

// ReworkInput is the work and who does it.
type ReworkInput struct {
	Tasks  []Task `json:"tasks" required:"true"`
	People People `json:"people" preset:"{}"`
	Start  string `json:"start" doc:"RFC 3339; its offset is the workshop's clock"`
	Day    Day    `json:"day" preset:"{}"`
}

// Slot is a task on the clock.
type Slot struct {
	ID    string `json:"id"`
	Start string `json:"start"`
	End   string `json:"end"`
	Ready string `json:"ready" doc:"end of its wait: others may follow"`
}

// ReworkOutput is the plan.
type ReworkOutput struct {
	Schedule     []Slot             `json:"schedule" doc:"in the order of their starts"`
	Finish       string             `json:"finish"`
	Critical     []string           `json:"critical" doc:"ids on the longest chain, first to last"`
	SlackMinutes map[string]float64 `json:"slack_minutes" unit:"min" doc:"how much later each could start, people aside"`
	ChainMinutes float64            `json:"chain_minutes" unit:"min" doc:"length of the longest chain"`
}

const maxTasks = 500

// Rework schedules tasks: those that are ready by the longest remaining chain,
// then by id; a task stops at the day's end and goes on next day, waits run on.
// Source: list scheduling and critical path, textbook. FieldErrors: a task named
// twice or unknown, a cycle (named), nobody to do a task, a day that cannot be.
func Rework(in *ReworkInput, _ *struct{}, w *working.Working) (ReworkOutput, error) {
	var out ReworkOutput
	if len(in.Tasks) == 0 || len(in.Tasks) > maxTasks {
		return out, quantity.Invalid("tasks", say.F("hold %d items", len(in.Tasks)), say.F("give 1 to %d", maxTasks))
	}
	start, err := time.Parse(time.RFC3339, in.Start)
	if err != nil || start.Year() < 1970 || start.Year() > 2200 {
		return out, quantity.Invalid("start", "is not a time", "write it as 2026-11-24T09:00:00+00:00")
	}
	cal, err := newCalendar(in.Day)
	if err != nil {
		return out, err
	}
	g, err := newGraph(in)
	if err != nil {
		return out, err
	}
	out.Critical, out.SlackMinutes, out.ChainMinutes = g.critical()
	out.Schedule, out.Finish = g.schedule(in.People, cal, start)
	if w != nil {
		w.Step("chain", "minutes and waits along the longest chain", out.ChainMinutes, "min", "critical path, textbook")
	}
	return out, nil
}

// graph is the tasks with who waits for whom, and each one's longest chain.
type graph struct {
	tasks []Task
	pred  [][]int
	succ  [][]int
	order []int     // topological
	tail  []float64 // minutes from a task's start to the end of all that follows
}

func newGraph(in *ReworkInput) (*graph, error) {
	g := &graph{tasks: in.Tasks, pred: make([][]int, len(in.Tasks)), succ: make([][]int, len(in.Tasks)), tail: make([]float64, len(in.Tasks))}
	index := map[string]int{}
	for i, t := range in.Tasks {
		if _, twice := index[t.ID]; twice {
			return nil, quantity.Invalid(fmt.Sprintf("tasks.%d.id", i), say.F("%q appears twice", t.ID), "give each task its own id")
		}
		index[t.ID] = i
		if (t.Who == "bench" && in.People.Bench == 0 || t.Who == "helper" && in.People.Helper == 0) && t.Minutes > 0 {
			return nil, quantity.Invalid("people."+t.Who, "is 0", say.F("somebody must do %q", t.ID))
		}
	}
	for i, t := range in.Tasks {
		for k, a := range t.After {
			j, ok := index[a]
			if !ok {
				return nil, quantity.Invalid(fmt.Sprintf("tasks.%d.after.%d", i, k), say.F("%q is not a task", a), "name a task of the list")
			}
			g.pred[i] = append(g.pred[i], j)
			g.succ[j] = append(g.succ[j], i)
		}
	}
	return g, g.sort()
}

// sort orders the tasks; a cycle is an error that names it.
func (g *graph) sort() error {
	state := make([]int, len(g.tasks)) // 0 new, 1 on the way, 2 done
	var path []int
	var visit func(i int) error
	visit = func(i int) error {
		switch state[i] {
		case 1:
			from := slices.Index(path, i)
			var names []string
			for _, k := range path[from:] {
				names = append(names, g.tasks[k].ID)
			}
			slices.Reverse(names)
			return quantity.Invalid("tasks", say.F("wait for one another: %s", strings.Join(append(names, names[0]), " → ")), "break the circle")
		case 2:
			return nil
		}
		state[i] = 1
		path = append(path, i)
		for _, j := range g.pred[i] {
			if err := visit(j); err != nil {
				return err
			}
		}
		path = path[:len(path)-1]
		state[i] = 2
		g.order = append(g.order, i)
		return nil
	}
	for i := range g.tasks {
		if err := visit(i); err != nil {
			return err
		}
	}
	for k := len(g.order) - 1; k >= 0; k-- {
		i := g.order[k]
		for _, j := range g.succ[i] {
			g.tail[i] = max(g.tail[i], g.tail[j])
		}
		g.tail[i] += g.tasks[i].Minutes + g.tasks[i].WaitMinutes
	}
	return nil
}

// critical finds the longest chain and everyone's slack, people apart.
func (g *graph) critical() (ids []string, slack map[string]float64, length float64) {
	early := make([]float64, len(g.tasks))
	for _, i := range g.order {
		for _, j := range g.pred[i] {
			early[i] = max(early[i], early[j]+g.tasks[j].Minutes+g.tasks[j].WaitMinutes)
		}
		length = max(length, early[i]+g.tail[i])
	}
	slack = make(map[string]float64, len(g.tasks))
	at := -1
	for _, i := range g.order {
		s := length - early[i] - g.tail[i]
		slack[g.tasks[i].ID] = s
		if s < 1e-9 && early[i] == 0 && (at < 0 || g.tasks[i].ID < g.tasks[at].ID) {
			at = i
		}
	}
	ids = []string{}
	for at >= 0 {
		ids = append(ids, g.tasks[at].ID)
		end, next := early[at]+g.tasks[at].Minutes+g.tasks[at].WaitMinutes, -1
		for _, j := range g.succ[at] {
			if slack[g.tasks[j].ID] < 1e-9 && early[j]-end < 1e-9 && (next < 0 || g.tasks[j].ID < g.tasks[next].ID) {
				next = j
			}
		}
		at = next
	}
	return
}

// schedule puts the tasks on the clock.
func (g *graph) schedule(p People, cal *calendar, start time.Time) ([]Slot, string) {
	free := map[string][]time.Time{"bench": make([]time.Time, p.Bench), "helper": make([]time.Time, p.Helper)}
	ready := make([]time.Time, len(g.tasks)) // end of work and wait; zero: not placed
	placed := make([]bool, len(g.tasks))
	out := make([]Slot, 0, len(g.tasks))
	now := cal.next(start)
	finish := now
	for len(out) < len(g.tasks) {
		// Who could start now, the longest chain first.
		var can []int
		for i := range g.tasks {
			if !placed[i] && g.open(i, placed, ready, now) {
				can = append(can, i)
			}
		}
		sort.SliceStable(can, func(a, b int) bool {
			if g.tail[can[a]] != g.tail[can[b]] {
				return g.tail[can[a]] > g.tail[can[b]]
			}
			return g.tasks[can[a]].ID < g.tasks[can[b]].ID
		})
		for _, i := range can {
			t := &g.tasks[i]
			slots := free[t.Who]
			k := slices.IndexFunc(slots, func(f time.Time) bool { return !f.After(now) })
			if t.Who != "supplier" && t.Minutes > 0 && k < 0 {
				continue
			}
			end := cal.add(now, t.Minutes)
			if t.Who != "supplier" && t.Minutes > 0 {
				slots[k] = end
			}
			placed[i] = true
			ready[i] = end.Add(time.Duration(t.WaitMinutes * float64(time.Minute)))
			if ready[i].After(finish) {
				finish = ready[i]
			}
			out = append(out, Slot{t.ID, now.Format(time.RFC3339), end.Format(time.RFC3339), ready[i].Format(time.RFC3339)})
		}
		// The next moment at which something changes.
		var then time.Time
		consider := func(t time.Time) {
			if t.After(now) && (then.IsZero() || t.Before(then)) {
				then = t
			}
		}
		for i := range g.tasks {
			if placed[i] {
				consider(ready[i])
			}
		}
		for _, slots := range free {
			for _, f := range slots {
				consider(f)
			}
		}
		if then.IsZero() {
			if len(can) == 0 {
				break
			}
			continue // tasks without minutes were placed: look again
		}
		if len(out) < len(g.tasks) {
			now = cal.next(then)
		}
	}
	return out, finish.Format(time.RFC3339)
}

// open: all that the task waits for is ready.
func (g *graph) open(i int, placed []bool, ready []time.Time, now time.Time) bool {
	for _, j := range g.pred[i] {
		if !placed[j] || ready[j].After(now) {
			return false
		}
	}
	return true
}

// calendar is a day's working spans, in minutes from midnight.
type calendar struct{ spans [][2]int }

func newCalendar(d Day) (*calendar, error) {
	at := func(field, s string) (int, error) {
		t, err := time.Parse("15:04", s)
		if err != nil {
			return 0, quantity.Invalid(field, say.F("%q is not a time of day", s), "write it as 08:30")
		}
		return t.Hour()*60 + t.Minute(), nil
	}
	open, err := at("day.open", d.Open)
	if err != nil {
		return nil, err
	}
	shut, err := at("day.close", d.Close)
	if err != nil {
		return nil, err
	}
	if shut <= open {
		return nil, quantity.Invalid("day.close", "is not after day.open", "give a day that ends after it begins")
	}
	c := &calendar{}
	from := open
	breaks := slices.Clone(d.Breaks)
	slices.SortFunc(breaks, func(a, b [2]string) int { return strings.Compare(a[0], b[0]) })
	for i, b := range breaks {
		a, err := at(fmt.Sprintf("day.breaks.%d", i), b[0])
		if err != nil {
			return nil, err
		}
		z, err := at(fmt.Sprintf("day.breaks.%d", i), b[1])
		if err != nil {
			return nil, err
		}
		if a < from || z <= a || z > shut {
			return nil, quantity.Invalid(fmt.Sprintf("day.breaks.%d", i), "does not fit into the day", "give breaks in order, inside opening hours")
		}
		if a > from {
			c.spans = append(c.spans, [2]int{from, a})
		}
		from = z
	}
	if from < shut {
		c.spans = append(c.spans, [2]int{from, shut})
	}
	if len(c.spans) == 0 {
		return nil, quantity.Invalid("day.breaks", "leave no time to work", "give shorter breaks")
	}
	return c, nil
}

func midnight(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, t.Location())
}

// next is the first working moment at or after t.
func (c *calendar) next(t time.Time) time.Time {
	for {
		day := midnight(t)
		for _, s := range c.spans {
			from, to := day.Add(time.Duration(s[0])*time.Minute), day.Add(time.Duration(s[1])*time.Minute)
			if t.Before(to) {
				if t.Before(from) {
					return from
				}
				return t
			}
		}
		t = day.AddDate(0, 0, 1)
	}
}

// add is the moment after so many minutes of working time from t.
func (c *calendar) add(t time.Time, minutes float64) time.Time {
	left := time.Duration(minutes * float64(time.Minute))
	for left > 0 {
		t = c.next(t)
		day := midnight(t)
		for _, s := range c.spans {
			to := day.Add(time.Duration(s[1]) * time.Minute)
			if !t.Before(to) || t.Before(day.Add(time.Duration(s[0])*time.Minute)) {
				continue
			}
			if step := to.Sub(t); step < left {
				left -= step
				t = to
			} else {
				return t.Add(left)
			}
		}
	}
	return t
}
