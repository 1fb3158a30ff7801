package app

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"io"
	"sync"

	"jadegate/core/cutoff"
	"jadegate/internal/store"
)

// traceCache remembers analyses: the same file, options and limits always give
// the same answer.
type traceCache struct {
	store   *store.Store
	mu      sync.Mutex
	results map[string]*cutoff.TraceOutput
}

const maxCached = 200

// Analyse implements inspection.TraceReader.
func (c *traceCache) Analyse(sha string, opt cutoff.Options, lim *cutoff.Limits) (*cutoff.TraceOutput, error) {
	key, err := json.Marshal([]any{sha, opt, lim})
	if err != nil {
		return nil, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if r := c.results[string(key)]; r != nil {
		return r, nil
	}
	_, gz, err := c.store.Trace(context.Background(), sha)
	if err != nil {
		return nil, err
	}
	z, err := gzip.NewReader(bytes.NewReader(gz))
	if err != nil {
		return nil, err
	}
	data, err := io.ReadAll(z)
	if err != nil {
		return nil, err
	}
	tr, err := cutoff.Parse(data, nil)
	if err != nil {
		return nil, err
	}
	out := cutoff.Analyse(tr, opt, lim)
	if len(c.results) >= maxCached {
		clear(c.results)
	}
	c.results[string(key)] = &out
	return &out, nil
}
