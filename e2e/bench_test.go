package e2e

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
)

// BenchmarkEntryToJudgement measures how long a screen takes from an entry to the new
// judgement, in a log of 2,000 entries, and from a lever that is dragged to the ribbon
// that follows it.
func BenchmarkEntryToJudgement(b *testing.B) {
	s := startDemo(b)
	for n := s.record("demo-tansy").Seq; n < 2000; n++ {
		s.as("Ivo Strand").do("POST", "/api/inspections/demo-tansy/entries", map[string]any{"id": fmt.Sprintf("many-entries-%d", n), "kind": "set",
			"body": json.RawMessage(fmt.Sprintf(`{"path":"drives.0.axle.left.nut_nm","value":{"value":%.1f,"source":"measured","instrument":"QB-07"}}`,
				39.5+float64(n%10)/10))}, nil)
	}
	p := open(b, s, "/i/demo-tansy/axle", 1280, 800)
	p.see("h2", "axle nut torque, right")
	p.pick(`.reading [data-source]`, "tool:QB-07")
	took := p.MustEval(`async () => {
		const field = document.querySelector('[data-test="reading"]')
		const out = []
		for (let i = 0; i < 60; i++) {
			const value = (39.5 + (i % 10) / 10).toFixed(1)
			field.value = value
			field.dispatchEvent(new Event('input'))
			await new Promise((r) => setTimeout(r, 30))
			const shown = () => document.querySelector('[data-test="hold"]').dataset.seq
			const before = shown()
			const from = performance.now()
			field.form.requestSubmit()
			while (shown() === before && performance.now() - from < 5000) await new Promise((r) => requestAnimationFrame(r))
			out.push(performance.now() - from)
		}
		return out
	}`).Arr()
	ms := make([]float64, len(took))
	for i := range took {
		ms[i] = took[i].Num()
	}
	slices.Sort(ms)
	b.ReportMetric(ms[len(ms)/2], "entry-median-ms")
	b.ReportMetric(ms[len(ms)*95/100], "entry-p95-ms")
	// A lever that is dragged: how long until the ribbon and the schools follow.
	drag := p.MustEval(`async () => {
		const lever = document.querySelector('.whatif input[type=range]')
		const shown = () => document.querySelector('.whatif svg')?.getAttribute('aria-label') ?? document.querySelector('.whatif')?.innerText
		const out = []
		for (let i = 0; i < 40; i++) {
			const before = shown()
			lever.value = 20 + i * 0.5
			const from = performance.now()
			lever.dispatchEvent(new Event('input'))
			while (shown() === before && performance.now() - from < 3000) await new Promise((r) => requestAnimationFrame(r))
			out.push(performance.now() - from)
		}
		return out.sort((a, b) => a - b)
	}`).Arr()
	b.ReportMetric(drag[len(drag)/2].Num(), "lever-median-ms")
	b.ReportMetric(drag[len(drag)*95/100].Num(), "lever-p95-ms")
	p.clean()
}

// BenchmarkWire counts what goes over the wire for the first look at a station, with
// nothing kept from before, and for one entry while it is open, seen by the screen that
// makes it: its answer, the change on the stream, and what the station asks anew.
func BenchmarkWire(b *testing.B) {
	s := startDemo(b)
	for n, v := range []struct{ name, path string }{
		{"board", "/"}, {"intake", "/i/demo-tansy/intake"}, {"walk-round", "/i/demo-tansy/gate/2"}, {"axle", "/i/demo-tansy/axle"}, {"ledger",
			"/i/demo-tansy/ledger"},
		{"bench", "/i/demo-thrift/bench"}, {"verdict", "/i/demo-tansy/verdict"}, {"sums", "/sums"},
	} {
		p := open(b, s, "", 1280, 800)
		p.MustNavigate("about:blank")
		p.private.MustPage("about:blank")
		_ = proto.NetworkClearBrowserCache{}.Call(p)
		var bytes atomic.Int64
		go p.EachEvent(func(e *proto.NetworkDataReceived) { bytes.Add(int64(e.EncodedDataLength)) })()
		time.Sleep(200 * time.Millisecond)
		p.MustNavigate(s.url + v.path).MustWaitLoad()
		p.see("main .panel", "")
		still := func() {
			last := int64(-1000)
			for range 4 { // a beat is less than this, and the stand's own frames never end
				if bytes.Load()-last < 100 {
					return
				}
				last = bytes.Load()
				time.Sleep(1200 * time.Millisecond)
			}
		}
		still()
		b.ReportMetric(float64(bytes.Load())/1000, v.name+"-first-kB")
		if id, ok := strings.CutPrefix(v.path, "/i/"); ok {
			id, _, _ = strings.Cut(id, "/")
			before := bytes.Load()
			var said []byte
			if res := s.as("Ivo Strand").do("POST", "/api/inspections/"+id+"/entries", map[string]any{"id": fmt.Sprintf("on-the-wire-%d", n), "kind": "set",
				"body": json.RawMessage(fmt.Sprintf(`{"path":"drives.0.axle.left.nut_nm","value":{"value":39.%d,"source":"measured","instrument":"QB-07"}}`,
					n+1))}, &said); res.StatusCode != 200 {
				b.Fatalf("%s %s", res.Status, said)
			}
			still()
			b.ReportMetric(float64(bytes.Load()-before)/1000, v.name+"-entry-kB")
		}
		p.MustClose()
	}
}
