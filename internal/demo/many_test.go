package demo

import (
	"fmt"
	"runtime"
	"testing"
	"time"

	"jadegate/core/policy"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

// BenchmarkMany writes a full workshop, makes its board anew, and reads each inspection
// once: what stays in memory after it is bounded, however many there are.
func BenchmarkMany(b *testing.B) {
	s, err := store.Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	defer s.Close()
	w := workshop.New(s, policy.Default())
	const n = 1000
	begin := time.Now()
	var written time.Duration
	if err := Many(b.Context(), w, n, func(int) { written = time.Since(begin) }); err != nil {
		b.Fatal(err)
	}
	begin = time.Now()
	for b.Loop() {
		if err := w.Rebuild(b.Context()); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(n/written.Seconds(), "written/s")
	b.ReportMetric(n*float64(b.N)/b.Elapsed().Seconds(), "rebuilt/s")
	heap := func() float64 {
		var m runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&m)
		return float64(m.HeapAlloc) / (1 << 20)
	}
	before := heap()
	for k := range n {
		if _, err := w.View(b.Context(), fmt.Sprintf("many-%07d", k)); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(heap()-before, "MB-kept")
	runtime.KeepAlive(w) // what it keeps at hand is what is measured
}
