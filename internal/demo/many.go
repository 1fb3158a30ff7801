package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"runtime"
	"slices"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/internal/sound"
	"jadegate/internal/workshop"
)

// Many fills a workshop with n inspections of about 150 entries each, for a look at how
// it fares when it is full: the fleet comes again and again, and all but the last few
// hundred are signed. The logs are written straight to the disk, sealed one by one, and
// the board is made from them; photos and recordings, which belong to one vehicle alone,
// are left out. progress, if not nil, is told how many are written.
func Many(ctx context.Context, w *workshop.Workshop, n int, progress func(int)) error {
	if n < 1 || n > mostMany {
		return quantity.Invalid("many", fmt.Sprintf("is %d", n), fmt.Sprintf("give 1 to %d", mostMany))
	}
	at := w.Now().UTC().Truncate(time.Hour)
	var forms []form
	for _, v := range sound.All() {
		l := sound.Build(v, at)
		if l.Err != nil {
			return fmt.Errorf("%s: %w", v.ID, l.Err)
		}
		f, err := formOf(w, l)
		if err != nil {
			return fmt.Errorf("%s: %w", v.ID, err)
		}
		forms = append(forms, f)
	}
	if err := writeMany(ctx, w, forms, n, at, progress); err != nil {
		return err
	}
	return w.Rebuild(ctx)
}

// writeMany seals logs on every processor and writes them a batch at a time.
func writeMany(whole context.Context, w *workshop.Workshop, forms []form, n int, at time.Time, progress func(int)) error {
	type job struct{ k, form int }
	g, ctx := errgroup.WithContext(whole)
	jobs, logs := make(chan job), make(chan []inspection.Entry, manyBatch)
	g.Go(func() error {
		defer close(jobs)
		r := rand.New(rand.NewPCG(1, 2)) // the same each time
		for k := range n {
			select {
			case jobs <- job{k, r.IntN(len(forms))}:
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		return nil
	})
	var sealing sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		own := make([]form, len(forms)) // a form is changed while it is written
		for i := range forms {
			own[i] = forms[i].clone()
		}
		sealing.Add(1)
		g.Go(func() error {
			defer sealing.Done()
			for j := range jobs {
				log, err := own[j.form].write(j.k, at.Add(-time.Duration(n-j.k)*manyEvery), j.k < n-standing(n))
				if err != nil {
					return err
				}
				select {
				case logs <- log:
				case <-ctx.Done():
					return ctx.Err()
				}
			}
			return nil
		})
	}
	g.Go(func() error {
		sealing.Wait()
		close(logs)
		return nil
	})
	g.Go(func() error {
		batch, written := make([][]inspection.Entry, 0, manyBatch), 0
		write := func() error {
			if err := w.Store.AppendLogs(ctx, batch...); err != nil {
				return err
			}
			written, batch = written+len(batch), batch[:0]
			if progress != nil {
				progress(written)
			}
			return nil
		}
		for log := range logs {
			if batch = append(batch, log); len(batch) == manyBatch {
				if err := write(); err != nil {
					return err
				}
			}
		}
		if len(batch) == 0 || ctx.Err() != nil {
			return ctx.Err()
		}
		return write()
	})
	return g.Wait()
}

const (
	mostMany  = 1_000_000
	manyBatch = 100
	manyEvery = 40 * time.Minute
	manyLong  = 150 // entries, with the opening and the signature
	fleet     = 640 // vehicles
)

// standing is how many of n inspections are not signed: what a workshop has about it, and
// of a small number of them no more than a hundredth.
func standing(n int) int { return min(200, max(1, n/100)) }

var names = []string{"Tansy", "Sedge", "Bracken", "Thrift", "Sorrel", "Yarrow", "Marram", "Clover", "Heather", "Campion", "Mallow", "Burnet", "Samphire",
	"Silverweed", "Eyebright", "Vetch"}

// form is a log that is written again and again under other names and times.
type form struct {
	opened  inspection.Opened
	sheet   map[string]any
	entries []inspection.Entry
	line    inspection.BoardLine
	sign    json.RawMessage // all of the signature but its line
}

func formOf(w *workshop.Workshop, of *sound.Log) (f form, err error) {
	opened, err := inspection.Body[inspection.Opened](&of.Entries[0])
	if err != nil {
		return f, err
	}
	f.opened = *opened
	if err := json.Unmarshal(opened.Sheet, &f.sheet); err != nil {
		return f, err
	}
	for _, e := range of.Entries[1:] {
		if e.Kind == inspection.KindSet || e.Kind == inspection.KindAnswer {
			f.entries = append(f.entries, e)
		}
	}
	for i := 1; len(f.entries) < manyLong-2; i++ {
		body, err := json.Marshal(inspection.Note{Text: fmt.Sprintf("Round %d of the quay: nothing loose, nothing warm.", i)})
		if err != nil {
			return f, err
		}
		f.entries = append(f.entries, inspection.Entry{By: inspector, Kind: inspection.KindNote, Body: body})
	}
	log, err := f.write(0, of.At, false)
	if err != nil {
		return f, err
	}
	s, err := inspection.Fold(log)
	if err != nil {
		return f, err
	}
	sign, err := verdict.SignOf(s, w.Env(s), verdict.Evaluate(s, w.Env(s)), sound.Lead, "lead", "demo")
	if err != nil {
		return f, err
	}
	f.line, sign.Line = *sign.Line, nil
	f.sign, err = json.Marshal(sign)
	return f, err
}

// clone is a form that can be written beside this one.
func (f *form) clone() form {
	c := *f
	c.sheet, c.entries, c.line.Held = maps.Clone(f.sheet), slices.Clone(f.entries), maps.Clone(f.line.Held)
	return c
}

// signature is the form's, with a line of its own.
func (f *form) signature(number, name, frame, opened string) (json.RawMessage, error) {
	f.line.Number, f.line.Name, f.line.Frame, f.line.OpenedAt, f.line.Held["frame"] = number, name, frame, opened, []string{frame}
	line, err := json.Marshal(f.line)
	return slices.Concat([]byte(`{"line":`), line, []byte(","), f.sign[1:]), err
}

// write makes the form's log of the k-th inspection.
func (f *form) write(k int, at time.Time, signed bool) (log []inspection.Entry, err error) {
	vehicle := k % fleet
	id := fmt.Sprintf("many-%07d", k)
	o := f.opened
	o.Number, o.Bay = fmt.Sprintf("SI-%07d", k), ""
	name, frame := fmt.Sprintf("%s %d", names[vehicle%len(names)], vehicle/len(names)+1), fmt.Sprintf("SLL-%04d", vehicle)
	f.sheet["name"], f.sheet["frame_number"] = name, map[string]any{"value": frame, "source": quantity.FromLabel}
	if o.Sheet, err = json.Marshal(f.sheet); err != nil {
		return nil, err
	}
	body, err := json.Marshal(o)
	if err != nil {
		return nil, err
	}
	entries := append([]inspection.Entry{{By: sound.Lead, Kind: inspection.KindOpened, Body: body}}, f.entries...)
	stamp := func(i int) string {
		return at.Add(time.Duration(i) * 15 * time.Second).Format("2006-01-02T15:04:05.000Z")
	}
	if signed {
		sign, err := f.signature(o.Number, name, frame, stamp(0))
		if err != nil {
			return nil, err
		}
		entries = append(entries, inspection.Entry{By: sound.Lead, Kind: inspection.KindSign, Body: sign})
	}
	prev := record.Genesis
	for i := range entries {
		e := &entries[i]
		e.ID, e.Inspection, e.Seq, e.At = fmt.Sprintf("%s-entry-%d", id, i+1), id, int64(i+1), stamp(i)
		if err := e.Seal(prev); err != nil {
			return nil, err
		}
		prev = e.Hash
	}
	return entries, nil
}
