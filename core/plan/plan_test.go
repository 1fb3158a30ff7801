package plan

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"jadegate/core/schema"
)

func rework(t *testing.T, in ReworkInput) ReworkOutput {
	t.Helper()
	if in.Start == "" {
		in.Start = "2026-11-24T16:00:00+01:00"
	}
	for i := range in.Tasks {
		if in.Tasks[i].Who == "" {
			in.Tasks[i].Who = "bench"
		}
	}
	if in.Day.Open == "" {
		in.Day = Day{Open: "08:00", Close: "17:00", Breaks: [][2]string{{"12:00", "12:30"}}}
	}
	out, err := Rework(&in, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestWorkStopsAtNightAndWaitsRunOn(t *testing.T) {
	out := rework(t, ReworkInput{People: People{Bench: 1}, Tasks: []Task{
		{ID: "glue", Minutes: 90, WaitMinutes: 60}, {ID: "test", Minutes: 240, After: []string{"glue"}}}})
	want := []Slot{
		{"glue", "2026-11-24T16:00:00+01:00", "2026-11-25T08:30:00+01:00", "2026-11-25T09:30:00+01:00"},
		{"test", "2026-11-25T09:30:00+01:00", "2026-11-25T14:00:00+01:00", "2026-11-25T14:00:00+01:00"}, // over the break
	}
	if !slices.Equal(out.Schedule, want) || out.Finish != want[1].End {
		t.Errorf("%+v", out.Schedule)
	}
	if !slices.Equal(out.Critical, []string{"glue", "test"}) || out.ChainMinutes != 390 {
		t.Errorf("%v %g", out.Critical, out.ChainMinutes)
	}
	// A wait that ends at night leaves the work for the morning.
	out = rework(t, ReworkInput{People: People{Bench: 1}, Tasks: []Task{{ID: "a", Minutes: 30, WaitMinutes: 300}, {ID: "b", Minutes: 10, After: []string{"a"}}}})
	if out.Schedule[1].Start != "2026-11-25T08:00:00+01:00" {
		t.Errorf("%+v", out.Schedule[1])
	}
}

func TestLongestChainGoesFirst(t *testing.T) {
	out := rework(t, ReworkInput{Start: "2026-11-24T08:00:00Z", People: People{Bench: 1}, Tasks: []Task{
		{ID: "a short", Minutes: 20}, {ID: "z begins a chain", Minutes: 10}, {ID: "end", Minutes: 60, After: []string{"z begins a chain"}}}})
	if out.Schedule[0].ID != "z begins a chain" || out.SlackMinutes["a short"] != 50 || out.SlackMinutes["end"] != 0 {
		t.Errorf("%+v %v", out.Schedule, out.SlackMinutes)
	}
	// Ties go by id; two hands work side by side; a supplier takes nobody's time.
	out = rework(t, ReworkInput{Start: "2026-11-24T08:00:00Z", People: People{Bench: 2}, Tasks: []Task{
		{ID: "c", Minutes: 10}, {ID: "b", Minutes: 10}, {ID: "a", Minutes: 10}, {ID: "s", Minutes: 5, Who: "supplier"}}})
	starts := map[string]string{}
	for _, s := range out.Schedule {
		starts[s.ID] = s.Start[11:16]
	}
	if starts["a"] != "08:00" || starts["b"] != "08:00" || starts["c"] != "08:10" || starts["s"] != "08:00" {
		t.Errorf("%v", starts)
	}
}

// TestScheduleHoldsItsRules: whatever the tasks, nobody does two at once and
// nothing starts before what it waits for.
func TestScheduleHoldsItsRules(t *testing.T) {
	var tasks []Task
	for i := range 60 {
		k := Task{ID: fmt.Sprintf("t%02d", i), Minutes: float64(5 + i*7%50), WaitMinutes: float64(i % 3 * 200)}
		if i%4 == 0 {
			k.Who = "helper"
		}
		for _, back := range []int{3, 11} {
			if i >= back && i%back == 1 {
				k.After = append(k.After, tasks[i-back].ID)
			}
		}
		tasks = append(tasks, k)
	}
	out := rework(t, ReworkInput{Tasks: tasks, People: People{Bench: 2, Helper: 1}})
	if len(out.Schedule) != len(tasks) {
		t.Fatalf("%d of %d placed", len(out.Schedule), len(tasks))
	}
	at := map[string]Slot{}
	for _, s := range out.Schedule {
		at[s.ID] = s
	}
	parse := func(s string) time.Time { d, _ := time.Parse(time.RFC3339, s); return d }
	for _, k := range tasks {
		for _, a := range k.After {
			if parse(at[k.ID].Start).Before(parse(at[a].Ready)) {
				t.Errorf("%s starts before %s is ready", k.ID, a)
			}
		}
		busy := 0
		for _, o := range tasks {
			if (o.Who == "helper") == (k.Who == "helper") && !parse(at[o.ID].Start).After(parse(at[k.ID].Start)) && parse(at[o.ID].End).After(parse(at[k.ID].Start)) {
				busy++
			}
		}
		if people := map[bool]int{true: 1, false: 2}[k.Who == "helper"]; busy > people {
			t.Errorf("%d at work when %s starts, there are %d", busy, k.ID, people)
		}
	}
}

func rechecks(t *testing.T, in RecheckInput) map[string][]string {
	t.Helper()
	lim := new(RecheckLimits)
	schema.Presets(lim)
	out, err := Rechecks(&in, lim, nil)
	if err != nil {
		t.Fatal(err)
	}
	due := map[string][]string{}
	for i, r := range out.Rechecks {
		due[r.What] = append(due[r.What], r.Due)
		if i > 0 && r.Due < out.Rechecks[i-1].Due {
			t.Errorf("%s is out of order", r.Due)
		}
	}
	return due
}

func TestRecheckWhicheverComesFirst(t *testing.T) {
	slow := rechecks(t, RecheckInput{Released: "2026-08-31", KmPerWeek: 5, HubMotor: true})
	if !slices.Equal(slow["axle nuts"], []string{"2026-09-14", "2027-02-28"}) {
		t.Errorf("14 days, then six months to the month's last day: %v", slow["axle nuts"])
	}
	fast := rechecks(t, RecheckInput{Released: "2026-08-31", KmPerWeek: 100, HubMotor: true})
	if !slices.Equal(fast["axle nuts"], []string{"2026-09-03", "2026-10-05"}) {
		t.Errorf("50 km, then 500 km: %v", fast["axle nuts"])
	}
	hard := rechecks(t, RecheckInput{Released: "2026-08-31", KmPerWeek: 5, Straps: true, Rented: true})
	if !slices.Equal(hard["straps"], []string{"2026-09-14", "2026-11-30"}) || hard["axle nuts"] != nil {
		t.Errorf("rented: every three months, and only what it has: %v", hard)
	}
	own := rechecks(t, RecheckInput{Released: "2026-08-31", Watch: []Watched{{"lead", "2026-09-02"}}, Instruments: []Certificate{{"QB-07", "2027-03-12"}}})
	if own["lead"][0] != "2026-09-02" || own["QB-07"][0] != "2027-03-12" || own["insulation"][0] != "2027-08-31" {
		t.Errorf("%v", own)
	}
}
