package store

import (
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"
)

// maxKept bounds the rows of one table that are kept at hand.
const maxKept = 1000

// kept keeps at hand the rows that every request asks for. Only the server that holds the
// data directory's lock has one, since nobody else writes behind it; nil reads and writes
// through.
type kept[V any] struct {
	mu   sync.Mutex // no row that was read before a write is put in after it
	rows *lru.Cache[string, V]
}

func newKept[V any]() *kept[V] {
	rows, _ := lru.New[string, V](maxKept) // a size over 0 cannot fail
	return &kept[V]{rows: rows}
}

// get gives a row that is at hand, and otherwise reads it; one that there is not is not kept.
func (k *kept[V]) get(key string, read func() (V, bool, error)) (V, bool, error) {
	if k == nil {
		return read()
	}
	if v, ok := k.rows.Get(key); ok {
		return v, true, nil
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	v, ok, err := read()
	if ok && err == nil {
		k.rows.Add(key, v)
	}
	return v, ok, err
}

// change writes a row, which is read anew when it is next asked for.
func (k *kept[V]) change(key string, write func() error) error {
	if k == nil {
		return write()
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	defer k.rows.Remove(key)
	return write()
}
