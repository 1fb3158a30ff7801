// Package demo fills a workshop with the made-up Skerry Isles Lending Library:
// converted bicycles and trikes that carry books between ferry landings, and
// the people and tools of its Quay Bench.
package demo

import (
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/internal/account"
	"jadegate/internal/sound"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
	"jadegate/internal/yamldoc"
)

//go:embed sheets/*.yaml
var sheets embed.FS

var people = []store.Person{
	{ID: "maren", Name: sound.Lead, Role: "lead"},
	{ID: "ivo", Name: inspector, Role: "inspector"},
	{ID: "pell", Name: "Pell Osk", Role: "helper"},
	{ID: "una", Name: "Una Brine", Role: "guest"},
}

const inspector = "Ivo Strand"

// Fill builds the demo workshop through the same path as any user's entries.
func Fill(ctx context.Context, w *workshop.Workshop) error {
	real := w.Now
	defer func() { w.Now, w.Practice = real, true }()
	w.Practice = true
	at := real().UTC().Truncate(time.Hour).Add(-26 * time.Hour)
	f := &filler{ctx: ctx, w: w, at: at}
	w.Now = func() time.Time { return f.at }
	w.Demo = true
	if err := w.Register(ctx, sound.Lead, store.RegisterWorkshop, "name",
		store.WorkshopName{Name: "Skerry Isles Lending Library", Place: sound.Place}); err != nil {
		return err
	}
	for _, p := range people {
		if err := w.Book.Enter(ctx, sound.Lead, p, account.DemoPassword); err != nil {
			return err
		}
	}
	for _, i := range sound.Tools(at) {
		if err := w.Register(ctx, sound.Lead, store.RegisterInstrument, i.ID, i); err != nil {
			return err
		}
	}
	if err := readLaw(ctx, w); err != nil {
		return err
	}
	for _, build := range []func(time.Time) *sound.Log{sedge, bracken, thrift, campion, burnet, tansy} {
		f.replay(build(f.at))
	}
	f.fresh("sorrel", "SI-0423", "4", "Landing at Ness")
	f.fresh("yarrow", "SI-0424", "3", "Ferry quay")
	if f.err != nil {
		return f.err
	}
	return w.Register(ctx, sound.Lead, store.RegisterShare, "demo-bracken", store.Guests{Guests: []string{"una"}})
}

// byLaw is the text of the islands' own by-law.
const byLaw = "Harbour and Lanes By-law 12, as read at the Quay Bench: lane cycles (2) and quay carriers (3), by power, speed, mass and what is asked of each."

// readLaw is the lead's review of the islands' by-law, which shows what a review is.
func readLaw(ctx context.Context, w *workshop.Workshop) error {
	text, err := w.PutLawText(ctx, sound.Lead, "skerry_isles", "by-law-12.txt", []byte(byLaw))
	if err != nil {
		return err
	}
	review, err := w.Review(ctx, "skerry_isles")
	if err != nil {
		return err
	}
	var asks []*workshop.Ask
	for _, f := range review.Facts {
		asks = append(asks, &workshop.Ask{Classes: f.Classes, Field: f.Field, Status: limits.Confirmed, Section: "By-law 12", Text: text.Sha256, Version: review.Version})
	}
	return w.AnswerReview(ctx, sound.Lead, "skerry_isles", asks...)
}

// GoOn takes up a workshop that Fill filled before. It refuses any other: a real one
// must not become a practice workshop.
func GoOn(ctx context.Context, w *workshop.Workshop) error {
	v, err := w.View(ctx, "demo-sedge")
	if err != nil || !v.State.Opened.Practice {
		return errors.New("the directory holds something else than a demo: the demo starts from nothing, or where a demo ended")
	}
	w.Practice, w.Demo = true, true
	return nil
}

// filler hands entries to the workshop on a clock of its own; the first error stays.
type filler struct {
	ctx context.Context
	w   *workshop.Workshop
	at  time.Time
	err error
}

// fresh opens the inspection of a vehicle that has just come.
func (f *filler) fresh(file, number, bay, brought string) {
	raw, err := sheets.ReadFile("sheets/" + file + ".yaml")
	if err == nil {
		raw, _, err = yamldoc.Read(raw)
	}
	var body []byte
	if err == nil {
		body, err = json.Marshal(inspection.Opened{Number: number, Place: sound.Place, Bay: bay, Brought: brought, Sheet: raw})
	}
	if err == nil && f.err == nil {
		id := "demo-" + file
		_, err = f.w.Open(f.ctx, id, workshop.Draft{ID: id + "-entry-1", By: sound.Lead, Body: body})
	}
	if err != nil && f.err == nil {
		f.err = fmt.Errorf("%s: %w", file, err)
	}
}

// replay hands in a log that was written in memory: its pictures and recordings first,
// then each entry at its time.
func (f *filler) replay(l *sound.Log) {
	if f.err == nil && l.Err != nil {
		f.err = l.Err
	}
	if f.err != nil {
		return
	}
	shas, err := f.pictures(l)
	for sha, data := range l.Traces {
		if err == nil {
			_, _, err = f.w.ImportTrace(f.ctx, l.Names[sha], data, nil)
		}
	}
	for i := range l.Entries {
		if err != nil {
			break
		}
		e := &l.Entries[i]
		if f.at, err = time.Parse(time.RFC3339, e.At); err != nil {
			break
		}
		err = f.entry(l, e, shas)
	}
	if err != nil {
		f.err = fmt.Errorf("%s: %w", l.ID, err)
		return
	}
	f.at = l.At
}

// entry hands in one entry as a person would: how the tools stood, and what judged a
// signature, the workshop puts in itself.
func (f *filler) entry(l *sound.Log, e *inspection.Entry, shas map[string]string) error {
	var m map[string]json.RawMessage
	if err := json.Unmarshal(e.Body, &m); err != nil {
		return err
	}
	d := workshop.Draft{ID: e.ID, By: e.By, Kind: e.Kind}
	if raw, ok := m["instrument"]; ok && e.Kind == inspection.KindSet {
		var t quantity.Instrument
		if err := json.Unmarshal(raw, &t); err != nil {
			return err
		}
		d.Instrument = t.ID
	}
	for _, own := range []string{"instrument", "instruments", "practice", "judged", "evaluation"} {
		delete(m, own)
	}
	if e.Kind == inspection.KindPhoto {
		var sha string
		if err := json.Unmarshal(m["sha256"], &sha); err != nil {
			return err
		}
		m["sha256"] = json.RawMessage(`"` + shas[sha] + `"`)
	}
	var err error
	if d.Body, err = json.Marshal(m); err != nil {
		return err
	}
	if e.Kind == inspection.KindOpened {
		_, err = f.w.Open(f.ctx, l.ID, d)
	} else {
		_, err = f.w.Append(f.ctx, l.ID, d)
	}
	return err
}

func vehicleOf(id string) sound.Vehicle {
	for _, v := range sound.All() {
		if v.ID == id {
			return v
		}
	}
	panic("no sound vehicle " + id)
}

// sedge: sound in every check; the gate stands open.
func sedge(at time.Time) *sound.Log {
	l := sound.Build(vehicleOf("sedge"), at)
	l.Sign(sound.Lead, "lead")
	return l
}

// bracken: one finding was lowered to watch by the lead; the gate stands ajar.
func bracken(at time.Time) *sound.Log {
	v := sound.Vehicle{ID: "bracken", Number: "SI-0415", Name: "Bracken 7", Brought: "Landing at Howe", Kind: "bicycle",
		Motors: []sound.Motor{{Kind: "rear_hub", Kit: "Orrin R10"}}, Packs: 1, Front: "rim", Rear: "disc", Throttle: true, Frame: "rust"}
	l := v.Start(at)
	v.Intake(l)
	l.By = inspector
	l.Answer("axle.cable", inspection.AnswerFail, "Loop's lowest point 18 mm below the entry, 25 asked; sealed sleeve fitted.")
	v.Axles(l)
	v.Fasteners(l)
	v.Wiring(l)
	v.Battery(l)
	v.Bench(l)
	l.By = sound.Lead
	l.Add(inspection.KindRule, inspection.Overrule{Check: "axle.cable", Severity: decide.Watch, Role: "lead",
		Reason: "Sealed sleeve keeps water off; shorter ferry rounds till the new lead is in."})
	v.Ride(l)
	v.Law(l)
	l.Sign(sound.Lead, "lead")
	return l
}

// thrift: one pull of the right lever did not cut the motor; the gate is shut.
func thrift(at time.Time) *sound.Log {
	v := sound.Vehicle{ID: "thrift", Number: "SI-0420", Name: "Thrift 2", Brought: "Ferry quay", Bay: "2", Kind: "delta",
		Motors: []sound.Motor{{Kind: "front_hub", Kit: "Orrin F4"}}, Packs: 1, Front: "drum", Rear: "disc", Throttle: true, Frame: "cream", Missed: true}
	l := v.Start(at)
	v.Intake(l)
	l.By = inspector
	v.Axles(l)
	v.Fasteners(l)
	v.Wiring(l)
	v.Battery(l)
	v.Bench(l)
	return l
}

// campion: two packs over a combiner; ridden and judged by law it is not yet.
func campion(at time.Time) *sound.Log {
	v := sound.Vehicle{ID: "campion", Number: "SI-0436", Name: "Campion 5", Brought: "Landing at Howe", Bay: "5", Kind: "delta",
		Motors: []sound.Motor{{Kind: "front_hub", Kit: "Orrin F4"}}, Packs: 2, Front: "drum", Rear: "disc", Throttle: true, Frame: "moss"}
	return v.Through(v.Start(at), 6)
}

// burnet: all of it done, and the gate open; nobody has signed yet. The library has another
// bicycle with the same kit.
func burnet(at time.Time) *sound.Log {
	v := vehicleOf("burnet")
	v.Bay = "6"
	l := v.Start(at)
	l.Set("sister", "Bracken 7")
	return v.Through(l, 8)
}

// tansy: in work. The right nut is not read yet, and one arm alone will not do.
func tansy(at time.Time) *sound.Log {
	v := sound.Tansy()
	return v.Through(v.Start(at), 5)
}
