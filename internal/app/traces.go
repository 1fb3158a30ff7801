package app

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"io"
	"sync"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/internal/store"
)

// traceCache remembers what was read out of traces: the same file read in the
// same way always gives the same answer.
type traceCache struct {
	store   *store.Store
	mu      sync.Mutex
	results map[string]any
}

const maxCached = 200

// Analyse implements inspection.TraceReader.
func (c *traceCache) Analyse(sha string, opt cutoff.Options, lim *cutoff.Limits) (*cutoff.TraceOutput, error) {
	return cached(c, sha, []any{sha, opt, lim}, func(tr *cutoff.Trace) cutoff.TraceOutput { return cutoff.Analyse(tr, opt, lim) })
}

// Bench implements inspection.TraceReader.
func (c *traceCache) Bench(sha string, run *bench.Run, v bench.Vehicle, h bench.House) (*bench.Outcome, error) {
	return cached(c, sha, []any{sha, run, v, h}, func(tr *cutoff.Trace) bench.Outcome { return bench.Judge(tr, run, v, h, true) })
}

// cached reads a trace unless the same way of reading it is remembered.
func cached[T any](c *traceCache, sha string, way []any, read func(*cutoff.Trace) T) (*T, error) {
	key, err := json.Marshal(way)
	if err != nil {
		return nil, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if r, ok := c.results[string(key)].(*T); ok {
		return r, nil
	}
	_, gz, err := c.store.Trace(context.Background(), sha)
	if err != nil {
		return nil, err
	}
	data, err := unpack(gz)
	if err != nil {
		return nil, err
	}
	tr, err := cutoff.Parse(data, nil)
	if err != nil {
		return nil, err
	}
	out := read(tr)
	if len(c.results) >= maxCached {
		clear(c.results)
	}
	c.results[string(key)] = &out
	return &out, nil
}

func unpack(gz []byte) ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(gz))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(z)
}
