package backups

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"
)

// The newest is kept whatever the plan says, and a directory of a backup's name is none.
func TestNewestStays(t *testing.T) {
	p := Plan{Dir: t.TempDir(), Every: time.Hour}
	at := time.Date(2026, 1, 1, 3, 0, 0, 0, time.Local)
	for _, x := range []time.Time{at, at.Add(2 * time.Hour)} {
		if _, err := p.Due(x, func(to string) error { return os.WriteFile(to, nil, 0o600) }); err != nil {
			t.Fatal(err)
		}
	}
	if all, err := p.list(); err != nil || len(all) != 1 || !all[0].Equal(at.Add(2*time.Hour)) {
		t.Errorf("%v, %v", all, err)
	}
	if err := os.Mkdir(filepath.Join(p.Dir, Name(at.Add(9*time.Hour))), 0o700); err != nil {
		t.Fatal(err)
	}
	if all, err := p.list(); err != nil || len(all) != 1 {
		t.Errorf("a directory counts: %v, %v", all, err)
	}
}

// Of a backup each six hours over a year, the last days, weeks and months keep theirs, and
// the newest always; what fails clears nothing away, and a clock that was set back does
// not end the backups.
func TestKeepRules(t *testing.T) {
	p := Plan{Dir: filepath.Join(t.TempDir(), "b"), Every: 6 * time.Hour, Daily: 7, Weekly: 4, Monthly: 12}
	write := func(to string) error { return os.WriteFile(to, nil, 0o600) }
	at := time.Date(2026, 1, 1, 3, 0, 0, 0, time.Local)
	for range 4 * 365 {
		at = at.Add(6 * time.Hour)
		if made, err := p.Due(at, write); !made || err != nil {
			t.Fatal(at, made, err)
		}
		if made, err := p.Due(at.Add(5*time.Hour), write); made || err != nil {
			t.Fatalf("one too many at %v: %v", at, err)
		}
	}
	all, err := p.list()
	if err != nil {
		t.Fatal(err)
	}
	if n := len(all); n < 18 || n > 7+4+12 {
		t.Errorf("%d are kept", n)
	}
	oldest := at
	for _, x := range all {
		if x.Before(oldest) {
			oldest = x
		}
	}
	if months := at.Sub(oldest).Hours() / 24 / 30; months < 10 || months > 12.5 {
		t.Errorf("they reach back %.1f months", months)
	}
	if _, err := p.Due(at.Add(24*time.Hour), func(string) error { return errors.New("disk full") }); err == nil {
		t.Error("a failure is kept quiet")
	}
	if again, _ := p.list(); len(again) != len(all) {
		t.Errorf("%d are left after a failure", len(again))
	}
	if made, err := p.Due(at.Add(-48*time.Hour), write); !made || err != nil {
		t.Errorf("after the clock was set back: %v %v", made, err)
	}
	stray := filepath.Join(p.Dir, "jadegate-notes.db")
	if err := write(stray); err != nil {
		t.Fatal(err)
	}
	if _, err := p.Due(at.Add(96*time.Hour), write); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(stray); err != nil {
		t.Error("a file that is no backup was cleared away")
	}
}

// Run makes what is due at once, tells how it ended, and ends with its context.
func TestRun(t *testing.T) {
	p := Plan{Dir: filepath.Join(t.TempDir(), "b"), Every: time.Hour, Daily: 1}
	ctx, end := context.WithCancel(t.Context())
	told, ended := make(chan error, 2), make(chan struct{})
	full := errors.New("the disk is full")
	go func() {
		defer close(ended)
		p.Run(ctx, func(context.Context, string) error { return full }, func(err error) { told <- err })
	}()
	if err := <-told; !errors.Is(err, full) {
		t.Errorf("a backup that failed is told as %v", err)
	}
	end()
	<-ended
	ctx, end = context.WithCancel(t.Context())
	ended = make(chan struct{})
	go func() {
		defer close(ended)
		p.Run(ctx, func(_ context.Context, to string) error { return os.WriteFile(to, nil, 0o600) }, func(err error) { told <- err })
	}()
	if err := <-told; err != nil {
		t.Error(err)
	}
	end()
	<-ended
	if all, err := p.list(); err != nil || len(all) != 1 {
		t.Errorf("%v, %v", all, err)
	}
}
