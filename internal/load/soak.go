package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

// soaked is a demo server that is killed every so often and started again on its data.
type soaked struct {
	bin, dir string
	cmd      *exec.Cmd
	base     string
	kills    int
	slowest  time.Duration // from a kill to the first answer
}

// startWithin is how long a server may take until it listens.
const startWithin = 2 * time.Minute

// start starts the server: at first on any port, then on the one that it had.
func (s *soaked) start() error {
	addr := "127.0.0.1:0"
	if s.base != "" {
		addr = strings.TrimPrefix(s.base, "http://")
	}
	s.cmd = exec.Command(s.bin, "demo", "--addr", addr, "--data-dir", s.dir)
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := s.cmd.Start(); err != nil {
		return err
	}
	said := make(chan string, 1)
	go func() {
		for lines := bufio.NewScanner(out); lines.Scan(); {
			if at, ok := strings.CutPrefix(lines.Text(), "Jade Gate is at "); ok {
				said <- at
			}
		}
	}()
	select {
	case at := <-said:
		if s.base != "" && at != s.base {
			return fmt.Errorf("the server is at %s now, it was at %s", at, s.base)
		}
		s.base = at
		return nil
	case <-time.After(startWithin):
		return errors.New("the server does not start")
	}
}

// kill ends the server as a power cut does, and starts it again.
func (s *soaked) kill() error {
	begin := time.Now()
	if err := s.cmd.Process.Signal(syscall.SIGKILL); err != nil {
		return err
	}
	_ = s.cmd.Wait() // it was killed
	s.kills++
	if err := s.start(); err != nil {
		return err
	}
	s.slowest = max(s.slowest, time.Since(begin))
	return nil
}

// killing kills the server until the time is over.
func (s *soaked) killing(ctx context.Context, every time.Duration, pid *atomic.Int64) error {
	for tick := time.NewTicker(every); ; {
		select {
		case <-tick.C:
			if err := s.kill(); err != nil {
				return err
			}
			pid.Store(int64(s.cmd.Process.Pid))
		case <-ctx.Done():
			tick.Stop()
			return nil
		}
	}
}

// acknowledged are the entries that a server said are on its disk.
type acknowledged struct {
	mu sync.Mutex
	at map[string]map[string]int64 // by inspection and id: the sequence number
}

func (a *acknowledged) note(inspection, id string, answer []byte) error {
	var got struct{ Seq int64 }
	if err := json.Unmarshal(answer, &got); err != nil || got.Seq == 0 {
		return fmt.Errorf("an answer without a place in the log: %.200s", answer)
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.at[inspection] == nil {
		a.at[inspection] = map[string]int64{}
	}
	a.at[inspection][id] = got.Seq
	return nil
}

// check reads the logs and holds them against what was acknowledged.
func (a *acknowledged) check(ctx context.Context, p *person) (entries int, err error) {
	for inspection, ids := range a.at {
		raw, err := p.ask(ctx, "log", "GET", "/api/inspections/"+inspection+"/log", nil)
		if err != nil {
			return entries, err
		}
		var log []struct {
			ID  string
			Seq int64
		}
		if err := json.Unmarshal(raw, &log); err != nil {
			return entries, err
		}
		stands := map[string]int64{}
		for _, e := range log {
			if stands[e.ID] != 0 {
				return entries, fmt.Errorf("%s stands twice in %s", e.ID, inspection)
			}
			stands[e.ID] = e.Seq
		}
		for id, seq := range ids {
			if stands[id] != seq {
				return entries, fmt.Errorf("%s was acknowledged as %d of %s and stands at %d", id, seq, inspection, stands[id])
			}
			entries++
		}
	}
	return entries, nil
}

// soak works a server that it starts itself and kills every so often, and checks at the end
// that nothing acknowledged is lost or doubled and that all data is as it was written.
func soak(bin string, people int, whole, every time.Duration) error {
	dir, err := os.MkdirTemp("", "jadegate-soak-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	s := &soaked{bin: bin, dir: dir}
	if err := s.start(); err != nil {
		return err
	}
	defer func() { _ = s.cmd.Process.Kill(); _ = s.cmd.Wait() }() // it may have ended
	var pid atomic.Int64
	pid.Store(int64(s.cmd.Process.Pid))
	ctx, cancel := context.WithTimeout(context.Background(), whole)
	defer cancel()
	killed := make(chan error, 1)
	go func() { killed <- s.killing(ctx, every, &pid) }()
	kept := &acknowledged{at: map[string]map[string]int64{}}
	worked := run(ctx, s.base, people, whole, &pid, kept)
	if err := errors.Join(worked, <-killed); err != nil {
		return err
	}
	p, err := newPerson(s.base, &meter{took: map[string][]time.Duration{}, failed: map[string]int{}}, 0, "ivo")
	if err != nil {
		return err
	}
	n, err := kept.check(context.Background(), p)
	if err != nil {
		return err
	}
	fmt.Printf("%d kills, back after %.1f s at the most; %d entries acknowledged, each in its log once and in its place\n", s.kills, s.slowest.Seconds(), n)
	out, err := exec.Command(bin, "check", "--data-dir", dir).CombinedOutput()
	fmt.Printf("%s", out)
	return err
}
