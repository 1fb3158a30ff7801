package e2e

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"
)

// peak is the most memory that a process has held, MiB.
func peak(t *testing.T, pid int) int {
	t.Helper()
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		t.Fatal(err)
	}
	m := regexp.MustCompile(`VmHWM:\s+(\d+) kB`).FindSubmatch(raw)
	kb, err := strconv.Atoi(string(m[1]))
	if err != nil {
		t.Fatal(err)
	}
	return kb >> 10
}

// TestLargestBodies: the largest body of every kind, many at once by one person, is refused or
// taken in its turn: the server stays under 512 MB and goes on answering somebody else.
func TestLargestBodies(t *testing.T) {
	s := start(t, "demo", "--addr", "127.0.0.1:0")
	const mib = 1 << 20
	array := func(n int) string { return "[" + strings.Repeat("1,", n/2-1) + "1]" }
	var ride strings.Builder
	ride.WriteString("t_s,speed_kmh,ele_m\n")
	for i := 0; ride.Len() < 60*mib; i++ {
		fmt.Fprintf(&ride, "%d,%.2f,%.1f\n", i, 20+float64(i%97)/50, 12.5)
	}
	var trace strings.Builder
	trace.WriteString("t_s,left,right,current_a\n")
	for i := 0; trace.Len() < 60*mib; i++ {
		fmt.Fprintf(&trace, "%.3f,0,0,%.2f\n", float64(i)/1000, float64(i%31)/100)
	}
	text := func(s string, most int) string { return strings.ReplaceAll(s[:most], "\n", `\n`) }
	note := func(of string) string { return `{"id":"note-%d","kind":"note","body":{"text":` + of + `}}` }
	set := func(of string) string {
		return `{"id":"ride-%d","kind":"set","body":{"path":"given.climb.csv","value":` + of + `}}`
	}
	const entries = "/api/inspections/demo-tansy/entries"
	kinds := []struct {
		what, path, body string
		n                int
		want             []int
	}{
		{"an array in a calculation", "/api/calc/type-bound", `{"values":` + array(60*mib) + `}`, 2, []int{413}},
		{"an array that just passes", "/api/calc/type-bound", `{"values":` + array(mib-1000) + `}`, 20, []int{422}},
		{"a recording in a calculation", "/api/calc/cutoff-trace", `{"csv":"` + text(trace.String(), 50*mib) + `"}`, 2, []int{200, 422}},
		{"an array in a note", entries, note(array(15 * mib)), 10, []int{413}},
		{"an array in a short note", entries, note(array(255 << 10)), 20, []int{422}},
		{"a ride in an entry", entries, set(`"` + text(ride.String(), 12*mib) + `"`), 8, []int{200, 422}},
		{"an opening", "/api/inspections", `{"id":"open-%d","body":{"number":"X","place":"Y","sheet":` + array(15*mib) + `}}`, 8, []int{413}},
		{"a trace", "/api/traces?name=long.csv", trace.String(), 2, []int{200}},
		{"stops in a trace", "/api/stops", trace.String(), 2, []int{200, 422}},
		{"a ride's file", "/api/rides", ride.String(), 2, []int{200, 422}},
		{"a picture that is none", "/api/photos", ride.String()[:20*mib], 20, []int{422}},
		{"one too long", "/api/photos", ride.String()[:21*mib], 4, []int{413}},
	}
	cookie, other := s.cookie(), s.as("Ivo Strand").cookie()
	s.get("/api/board", nil)
	begun := peak(t, s.cmd.Process.Pid)
	var wg sync.WaitGroup
	for k := range kinds {
		kind := &kinds[k]
		for i := range kind.n {
			wg.Go(func() {
				body := kind.body
				if strings.Contains(body[:min(len(body), 40)], "%d") {
					body = strings.Replace(body, "%d", fmt.Sprintf("%06d", i), 1)
				}
				req, err := http.NewRequest("POST", s.url+kind.path, strings.NewReader(body))
				if err != nil {
					t.Error(err)
					return
				}
				req.AddCookie(cookie)
				req.Header.Set("Content-Type", map[bool]string{true: "application/json", false: "text/csv"}[body[0] == '{'])
				if strings.HasPrefix(kind.path, "/api/photos") {
					req.Header.Set("Content-Type", "application/octet-stream")
				}
				res, err := http.DefaultClient.Do(req)
				if err != nil {
					t.Errorf("%s: %v", kind.what, err)
					return
				}
				said, _ := io.ReadAll(io.LimitReader(res.Body, 500))
				_, _ = io.Copy(io.Discard, res.Body)
				_ = res.Body.Close()
				if !slices.Contains(kind.want, res.StatusCode) {
					t.Errorf("%s: %d %.200s", kind.what, res.StatusCode, bytes.TrimSpace(said))
				}
			})
		}
	}
	done := make(chan bool)
	go func() { wg.Wait(); close(done) }()
	var worst time.Duration
	asked := 0
	for over := false; !over; asked++ {
		select {
		case <-done:
			over = true
		case <-time.After(100 * time.Millisecond):
		}
		req, err := http.NewRequest("GET", s.url+"/api/board", nil)
		if err != nil {
			t.Fatal(err)
		}
		req.AddCookie(other)
		begin := time.Now()
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		_ = res.Body.Close()
		if res.StatusCode != 200 {
			t.Errorf("the board meanwhile: %s", res.Status)
		}
		worst = max(worst, time.Since(begin))
	}
	most := peak(t, s.cmd.Process.Pid)
	t.Logf("%d MiB at its start, %d at the most; the board came %d times, after %s at the worst", begun, most, asked, worst.Round(time.Millisecond))
	if most >= 512 {
		t.Errorf("the server held %d MiB", most)
	}
	if worst > patience {
		t.Errorf("somebody else waited %s for the board", worst)
	}
}
