// Package backups makes backups as they fall due and clears away those that no rule keeps.
package backups

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// Plan says when backups are made, and which are kept: the newest of each of the last
// days, weeks and months that have one.
type Plan struct {
	Dir     string
	Every   time.Duration
	Daily   int
	Weekly  int
	Monthly int
}

// stamp is how a backup's time stands in its name.
const (
	stamp  = "2006-01-02T150405"
	prefix = "jadegate-"
	suffix = ".db"
)

// Name is the name of a backup of a moment.
func Name(at time.Time) string { return prefix + at.Format(stamp) + suffix }

// timeOf reads the moment from a name; false of a file that is none of ours.
func timeOf(name string) (time.Time, bool) {
	s, ok := strings.CutPrefix(name, prefix)
	if s, ok2 := strings.CutSuffix(s, suffix); ok && ok2 {
		t, err := time.ParseInLocation(stamp, s, time.Local)
		return t, err == nil
	}
	return time.Time{}, false
}

// Keep tells which of the moments are kept, newest first. The newest always is.
func (p Plan) Keep(all []time.Time) []time.Time {
	all = slices.Clone(all)
	slices.SortFunc(all, func(a, b time.Time) int { return b.Compare(a) })
	kept := map[time.Time]bool{}
	if len(all) > 0 {
		kept[all[0]] = true
	}
	for _, r := range []struct {
		n      int
		period func(t time.Time) string
	}{
		{p.Daily, func(t time.Time) string { return t.Format(time.DateOnly) }},
		{p.Weekly, func(t time.Time) string {
			y, w := t.ISOWeek()
			return fmt.Sprint(y, " ", w)
		}},
		{p.Monthly, func(t time.Time) string { return t.Format("2006-01") }},
	} {
		seen := map[string]bool{}
		for _, t := range all {
			if of := r.period(t); len(seen) < r.n && !seen[of] {
				seen[of], kept[t] = true, true
			}
		}
	}
	return slices.DeleteFunc(all, func(t time.Time) bool { return !kept[t] })
}

// list finds the backups of the directory.
func (p Plan) list() ([]time.Time, error) {
	files, err := os.ReadDir(p.Dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var out []time.Time
	for _, f := range files {
		if t, ok := timeOf(f.Name()); ok && f.Type().IsRegular() {
			out = append(out, t)
		}
	}
	return out, err
}

// Due makes a backup if the newest is older than the plan has it, and clears away what is
// not kept once it is there. It reports whether one was made.
func (p Plan) Due(now time.Time, back func(to string) error) (bool, error) {
	all, err := p.list()
	if err != nil {
		return false, err
	}
	for _, t := range all {
		if now.Sub(t) < p.Every && !t.After(now) {
			return false, nil
		}
	}
	if err := os.MkdirAll(p.Dir, 0o750); err != nil {
		return false, fmt.Errorf("directory of the backups: %w", err)
	}
	now = now.Truncate(time.Second)
	if err := back(filepath.Join(p.Dir, Name(now))); err != nil {
		return false, err
	}
	all = append(all, now)
	kept := p.Keep(all)
	for _, t := range all {
		if !slices.ContainsFunc(kept, t.Equal) {
			err = errors.Join(err, os.Remove(filepath.Join(p.Dir, Name(t))))
		}
	}
	return true, err
}

// lookEvery is how often it is looked whether a backup is due.
const lookEvery = time.Minute

// Run makes backups as they fall due until it is ended. told, if not nil, hears how each ended.
func (p Plan) Run(ctx context.Context, back func(ctx context.Context, to string) error, told func(error)) {
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		made, err := p.Due(time.Now(), func(to string) error { return back(ctx, to) })
		if err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "backup", "dir", p.Dir, "error", err)
		} else if made {
			slog.InfoContext(ctx, "backup made, read back and checked", "dir", p.Dir)
		}
		if told != nil && (made || err != nil) {
			told(err)
		}
		select {
		case <-tick.C:
		case <-ctx.Done():
			return
		}
	}
}
