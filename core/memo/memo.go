// Package memo remembers answers of pure functions that are asked the same again and again.
package memo

import "sync"

// Most is how many answers are kept; when there would be more, all are forgotten.
const Most = 4096

// Of remembers the answers of one function. The zero value is ready; several may ask at once.
type Of[K comparable, V any] struct {
	mu    sync.RWMutex
	known map[K]V
}

// Get gives the answer to a question, worked out once.
func (o *Of[K, V]) Get(k K, work func(K) V) V {
	o.mu.RLock()
	v, ok := o.known[k]
	o.mu.RUnlock()
	if ok {
		return v
	}
	v = work(k)
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.known == nil || len(o.known) >= Most {
		o.known = make(map[K]V)
	}
	o.known[k] = v
	return v
}
