package workshop

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"io"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/internal/store"
)

// traceCache remembers what was read out of traces: the same file read in the
// same way always gives the same answer.
type traceCache struct {
	store   *store.Store
	results *lru.Cache[string, any]
	flight  singleflight.Group // one reading of the same kind at a time
}

const maxCached = 200

// Analyse implements bind.TraceReader.
func (c *traceCache) Analyse(sha string, opt cutoff.Options, lim *cutoff.TraceLimits) (*cutoff.TraceOutput, error) {
	return cached(c, sha, []any{sha, opt, lim}, func(tr *cutoff.Trace) cutoff.TraceOutput { return cutoff.Analyse(tr, opt, lim) })
}

// Bench implements bind.TraceReader.
func (c *traceCache) Bench(sha string, run *bench.Run, v bench.Vehicle, h bench.Rules) (*bench.TestOutcome, error) {
	return cached(c, sha, []any{sha, run, v, h}, func(tr *cutoff.Trace) bench.TestOutcome { return bench.Judge(tr, run, v, h, true) })
}

// Prints implements bind.TraceReader.
func (c *traceCache) Prints(sha string) ([]uint64, error) {
	out, err := cached(c, sha, []any{"prints", sha}, func(tr *cutoff.Trace) []uint64 { return tr.Prints() })
	if err != nil {
		return nil, err
	}
	return *out, nil
}

// cached reads a trace unless the same way of reading it is remembered.
func cached[T any](c *traceCache, sha string, way []any, read func(*cutoff.Trace) T) (*T, error) {
	key, err := json.Marshal(way)
	if err != nil {
		return nil, err
	}
	if r, ok := c.results.Get(string(key)); ok {
		return r.(*T), nil
	}
	r, err, _ := c.flight.Do(string(key), func() (any, error) {
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
		c.results.Add(string(key), &out)
		return &out, nil
	})
	if err != nil {
		return nil, err
	}
	return r.(*T), nil
}

func unpack(gz []byte) ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(gz))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(z)
}
