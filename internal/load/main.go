// Command load works a demo server as a workshop's people do: reads, entries, reports and
// live streams, bounded in number and time. It prints how long answers took and what the
// server's memory did. It talks to this machine alone.
package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/netip"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"
)

// meter notes how long answers took, by what was asked.
type meter struct {
	mu     sync.Mutex
	took   map[string][]time.Duration
	failed map[string]int
	why    string
}

func (m *meter) note(what string, took time.Duration, err error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.took[what] = append(m.took[what], took)
	if err != nil {
		m.failed[what]++
		m.why = what + ": " + err.Error()
	}
}

// person is somebody at a browser of their own.
type person struct {
	base   string
	client *http.Client
	m      *meter
	rnd    *rand.Rand
	kept   *acknowledged // of a server that is killed now and then; else nil
}

// newPerson signs in as one of a demo's people.
func newPerson(base string, m *meter, n int, who string) (*person, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	p := &person{base: base, client: &http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: 4}}, m: m,
		rnd: rand.New(rand.NewPCG(uint64(n), uint64(os.Getpid())))}
	_, err = p.ask(context.Background(), "sign in", "POST", "/api/session/visit", map[string]any{"person": who})
	return p, err
}

// errAway is of a server that does not answer, which one that is killed may be.
var errAway = errors.New("the server is away")

// enter makes an entry, again under the same id until it is acknowledged where the server is
// killed now and then.
func (p *person) enter(ctx context.Context, inspection, id string, entry map[string]any) {
	for {
		got, err := p.ask(ctx, "entry", "POST", "/api/inspections/"+inspection+"/entries", entry)
		if p.kept == nil {
			return
		}
		if err == nil {
			if err := p.kept.note(inspection, id, got); err != nil {
				p.m.note("entry", 0, err)
			}
			return
		}
		if !errors.Is(err, errAway) {
			return
		}
		select {
		case <-time.After(time.Second):
		case <-ctx.Done():
			return
		}
	}
}

func (p *person) ask(ctx context.Context, what, method, path string, body any) ([]byte, error) {
	var r io.Reader
	if body != nil {
		raw, err := json.Marshal(body)
		if err != nil {
			return nil, err
		}
		r = bytes.NewReader(raw)
	}
	req, err := http.NewRequestWithContext(ctx, method, p.base+path, r)
	if err != nil {
		return nil, err
	}
	req.Header.Set("Content-Type", "application/json")
	begin := time.Now()
	res, err := p.client.Do(req)
	var got []byte
	if err == nil {
		got, err = io.ReadAll(res.Body)
		err = errors.Join(err, res.Body.Close())
		if err == nil && res.StatusCode >= 400 {
			err = fmt.Errorf("%s %.200s", res.Status, got)
		}
	}
	if p.kept != nil && err != nil && (res == nil || res.StatusCode == http.StatusServiceUnavailable || got == nil) {
		return got, fmt.Errorf("%w: %w", errAway, err)
	}
	if ctx.Err() == nil {
		p.m.note(what, time.Since(begin), err)
	}
	return got, err
}

// listen keeps a live stream open and counts what comes.
func (p *person) listen(ctx context.Context, id string, heard *atomic.Int64) {
	for ctx.Err() == nil {
		req, err := http.NewRequestWithContext(ctx, "GET", p.base+"/api/inspections/"+id+"/events?screen="+fmt.Sprintf("load-%016x", p.rnd.Uint64()), nil)
		if err != nil {
			return
		}
		req.Header.Set("Accept", "text/event-stream")
		res, err := p.client.Do(req)
		if err != nil {
			if p.kept != nil && ctx.Err() == nil {
				time.Sleep(time.Second)
				continue
			}
			if ctx.Err() == nil {
				p.m.note("stream", 0, err)
			}
			return
		}
		lines := bufio.NewReaderSize(res.Body, 1<<16)
		for {
			line, err := lines.ReadSlice('\n')
			if bytes.HasPrefix(line, []byte("event: at")) || bytes.HasPrefix(line, []byte("event: change")) {
				heard.Add(1)
			}
			if err != nil && !errors.Is(err, bufio.ErrBufferFull) {
				break
			}
		}
		_ = res.Body.Close()
		if ctx.Err() == nil && p.kept == nil {
			p.m.note("stream", 0, errors.New("ended by the server"))
		}
	}
}

// work does what people do, one thing after the other with a pause between.
func (p *person) work(ctx context.Context, n int, id string) {
	var stands struct {
		Evaluation struct {
			Checks []struct{ ID, Calc string }
		}
	}
	raw, err := p.ask(ctx, "view", "GET", "/api/inspections/"+id, nil)
	if err == nil {
		err = json.Unmarshal(raw, &stands)
	}
	if err != nil {
		if ctx.Err() == nil {
			p.m.note("view", 0, err)
		}
		return
	}
	computed := stands.Evaluation.Checks
	computed = slices.DeleteFunc(computed, func(c struct{ ID, Calc string }) bool { return c.Calc == "" })
	for k := 0; ctx.Err() == nil; k++ {
		select {
		case <-time.After(time.Duration(500+p.rnd.IntN(1000)) * time.Millisecond):
		case <-ctx.Done():
			return
		}
		switch x := p.rnd.IntN(100); {
		case x < 45:
			eid := fmt.Sprintf("load-%016x", p.rnd.Uint64())
			p.enter(ctx, id, eid, map[string]any{"id": eid, "kind": "set", "body": map[string]any{"path": "use.total_kg", "value": map[string]any{"value": 100 + float64(n+k%40)/10, "source": "measured",
				"instrument": "QB-03"}}, "instrument": "QB-03"})
		case x < 60:
			_, _ = p.ask(ctx, "view", "GET", "/api/inspections/"+id, nil)
		case x < 72:
			_, _ = p.ask(ctx, "board", "GET", "/api/board", nil)
		case x < 82:
			_, _ = p.ask(ctx, "explain", "GET", "/api/inspections/"+id+"/checks/"+computed[p.rnd.IntN(len(computed))].ID, nil)
		case x < 90:
			_, _ = p.ask(ctx, "ledger", "GET", "/api/inspections/"+id+"/ledger", nil)
		case x < 98:
			_, _ = p.ask(ctx, "workshop", "GET", "/api/workshop", nil)
		default:
			_, _ = p.ask(ctx, "report", "GET", "/api/inspections/"+id+"/report.pdf", nil)
		}
	}
}

// memory of the server, kB, from what the kernel says of it.
func memory(pid int) (kb int) {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(raw)) {
		if rest, ok := strings.CutPrefix(line, "VmRSS:"); ok {
			_, _ = fmt.Sscan(rest, &kb)
		}
	}
	return kb
}

func main() {
	base := flag.String("url", "http://127.0.0.1:8480", "address of a demo server on this machine")
	people := flag.Int("people", 50, "how many work at once, at most 200")
	whole := flag.Duration("for", 10*time.Minute, "how long, at most an hour")
	pid := flag.Int("pid", 0, "process of the server, to read its memory")
	server := flag.String("soak", "", "program of a server to be started, and killed every so often, in place of one at an address")
	every := flag.Duration("kill-every", 2*time.Minute, "how often it is killed")
	flag.Parse()
	*people, *whole = min(*people, 200), min(*whole, time.Hour)
	var err error
	if *server != "" {
		err = soak(*server, *people, *whole, max(*every, 10*time.Second))
	} else {
		ctx, cancel := context.WithTimeout(context.Background(), *whole)
		defer cancel()
		var at atomic.Int64
		at.Store(int64(*pid))
		err = run(ctx, *base, *people, *whole, &at, nil)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "load:", err)
		os.Exit(1)
	}
}

// run has people work until the time is over. kept, if not nil, takes what a server that is
// killed now and then has acknowledged.
func run(ctx context.Context, base string, people int, whole time.Duration, pid *atomic.Int64, kept *acknowledged) error {
	u, err := url.Parse(base)
	if err != nil {
		return err
	}
	if ip, err := netip.ParseAddr(u.Hostname()); err != nil || !ip.IsLoopback() {
		return fmt.Errorf("%s is not an address of this machine", base)
	}
	m := &meter{took: map[string][]time.Duration{}, failed: map[string]int{}}
	ids := []string{"demo-tansy", "demo-thrift", "demo-sorrel", "demo-yarrow"}
	staff := []string{"maren", "ivo", "pell"}
	var heard atomic.Int64
	var wg sync.WaitGroup
	server := func() int { return memory(int(pid.Load())) / 1024 }
	before := server()
	for n := range people {
		p, err := newPerson(base, m, n, staff[n%len(staff)])
		if err != nil {
			return err
		}
		if n%5 == 0 && n/5 < 8 { // a vehicle of its own for each five
			id := fmt.Sprintf("load-%d-%d", os.Getpid(), n)
			if _, err := p.ask(ctx, "open", "POST", "/api/inspections", map[string]any{"id": "opening-" + id, "inspection": id,
				"body": map[string]any{"number": "L-" + id, "place": "Quay Bench", "sheet": map[string]any{"name": "Marram", "kind": "bicycle",
					"drives": []any{map[string]any{"kind": "front_hub", "axle": map[string]any{}}}}}}); err != nil {
				return err
			}
			ids = append(ids, id)
		}
		p.kept = kept
		id := ids[n%len(ids)]
		wg.Go(func() { p.listen(ctx, id, &heard) })
		wg.Go(func() { p.work(ctx, n, id) })
	}
	var mem []int
	tick := time.NewTicker(max(whole/10, time.Second))
	defer tick.Stop()
	for done := false; !done; {
		select {
		case <-tick.C:
			mem = append(mem, server())
		case <-ctx.Done():
			done = true
		}
	}
	wg.Wait()
	fmt.Printf("%d people, %s; memory of the server, MB: %d before, then %v; %d views streamed\n", people, whole, before, mem, heard.Load())
	var all []time.Duration
	failed := 0
	for _, what := range slices.Sorted(keys(m.took)) {
		d := m.took[what]
		failed += m.failed[what]
		if what != "report" {
			all = append(all, d...)
		}
		printLatencies(what, d, m.failed[what])
	}
	printLatencies("all but reports", all, failed)
	if failed > 0 {
		return errors.New(m.why)
	}
	return nil
}

func keys(m map[string][]time.Duration) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

func printLatencies(what string, d []time.Duration, failed int) {
	if len(d) == 0 {
		return
	}
	slices.Sort(d)
	at := func(q float64) float64 { return float64(d[int(q*float64(len(d)-1))].Microseconds()) / 1000 }
	fmt.Printf("%-16s %6d asked, %d failed; ms: median %.1f, p95 %.1f, p99 %.1f, worst %.0f\n", what, len(d), failed, at(0.5), at(0.95), at(0.99), at(1))
}
