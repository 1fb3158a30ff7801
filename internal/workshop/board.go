package workshop

import (
	"context"
	"log/slog"
	"runtime"

	"golang.org/x/sync/errgroup"

	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
	"jadegate/core/say"
	"jadegate/internal/store"
)

// line is what the board says of an inspection.
func (w *Workshop) line(l *live) (*store.Summary, error) {
	line, err := verdict.BoardLineOf(l.state, func() *verdict.Evaluation { return w.judged(l) }, w.Env(l.state))
	if err != nil {
		return nil, err
	}
	signedAt := ""
	if l.state.Signed != nil {
		signedAt = l.state.Signed.At
	}
	return summaryOf(l.state.ID, l.state.Seq, signedAt, line), nil
}

func summaryOf(id string, seq int64, signedAt string, l *inspection.BoardLine) *store.Summary {
	return &store.Summary{ID: id, Seq: seq, Frame: l.Frame, Number: l.Number, Name: l.Name, Kind: l.Kind, Place: l.Place, Law: l.Law, Bay: l.Bay, Planned: l.Planned,
		Brought: l.Brought, OpenedAt: l.OpenedAt, Verdict: l.Verdict, Unsettled: l.Unsettled, Minutes: l.Minutes, Next: l.Next, Due: l.Due,
		Signed: l.Signed, SignedAt: signedAt}
}

// held is what a state holds that the one before did not. Nothing that was ever held is
// given up.
func (w *Workshop) held(before, after *inspection.State) []store.Held {
	keys := verdict.Held(before, after, w.Env(after))
	out := make([]store.Held, len(keys))
	for i, k := range keys {
		out[i] = store.Held{Kind: k.Kind, Key: k.Key, Inspection: after.ID}
	}
	return out
}

// Board reads a page of the board, once every line is as its log is.
func (w *Workshop) Board(ctx context.Context, q store.BoardQuery) (store.Page, error) {
	if err := w.refreshLines(ctx); err != nil {
		return store.Page{}, err
	}
	return w.Store.Board(ctx, q)
}

// refreshLines makes the lines of the board that are behind their logs. One whose log cannot be
// read stays as it was.
func (w *Workshop) refreshLines(ctx context.Context) error {
	late, err := w.Store.StaleLines(ctx)
	if err != nil {
		return err
	}
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.GOMAXPROCS(0))
	for id, seq := range late {
		g.Go(func() error {
			w.markBehind(id, seq)
			l, err := w.acquire(ctx, id)
			if err != nil {
				return w.keepStale(ctx, id, err)
			}
			defer l.mu.Unlock()
			line, err := w.line(l)
			if err != nil {
				return w.keepStale(ctx, id, err)
			}
			return w.Store.SaveLine(ctx, line)
		})
	}
	return g.Wait()
}

// keepStale lets a line stay behind its log.
func (w *Workshop) keepStale(ctx context.Context, id string, err error) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	slog.WarnContext(ctx, "a line of the board is behind its log", "inspection", id, "error", err)
	return nil
}

// Rebuild drops the board's projection and fills it from the logs. It holds a few
// inspections at a time, one for each processor. What a signature says of itself is not
// judged again.
func (w *Workshop) Rebuild(whole context.Context) error {
	stop, cancel := context.WithCancel(whole)
	defer cancel()
	g, ctx := errgroup.WithContext(stop)
	ends, lines := make(chan *store.LastEntry, 16), make(chan *store.Projection, 16)
	g.Go(func() error {
		defer close(ends)
		for end, err := range w.Store.LastEntries(ctx) {
			if err != nil {
				return err
			}
			select {
			case ends <- end:
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		return nil
	})
	var workers errgroup.Group
	for range runtime.GOMAXPROCS(0) {
		workers.Go(func() error {
			for end := range ends {
				p, err := w.project(ctx, end)
				if err != nil {
					return say.Errorf("inspection %s: %w", end.Inspection, err)
				}
				select {
				case lines <- p:
				case <-ctx.Done():
					return ctx.Err()
				}
			}
			return nil
		})
	}
	g.Go(func() error {
		defer close(lines)
		return workers.Wait()
	})
	return w.Store.ReplaceBoard(whole, func(yield func(*store.Projection, error) bool) {
		for p := range lines {
			if !yield(p, nil) {
				return
			}
		}
		// The lines have ended: because all are there, or because one could not be made.
		if err := g.Wait(); err != nil {
			yield(nil, err)
		}
	})
}

// project makes the projection of a log by its last entry, if this is a signature that
// holds its line, or else from all of it.
func (w *Workshop) project(ctx context.Context, end *store.LastEntry) (*store.Projection, error) {
	if end.Kind == inspection.KindSign {
		body, err := end.Open()
		if err != nil {
			return nil, err
		}
		line, err := inspection.ReadBoardLine(body)
		if err != nil {
			return nil, err
		}
		if line != nil {
			p := &store.Projection{Line: summaryOf(end.Inspection, end.Seq, end.At, line)}
			for kind, keys := range line.Held {
				for _, key := range keys {
					p.Held = append(p.Held, store.Held{Kind: kind, Key: key, Inspection: end.Inspection})
				}
			}
			return p, nil
		}
	}
	log, err := w.Store.Entries(ctx, end.Inspection, 0)
	if err != nil {
		return nil, err
	}
	l := &live{entries: log}
	if err := w.refold(l); err != nil {
		return nil, err
	}
	line, err := w.line(l)
	return &store.Projection{Line: line, Held: w.held(nil, l.state)}, err
}
