package api

import (
	"context"
	"errors"
	"slices"
	"sync"
)

// errFull says that more wait than a queue takes.
var errFull = errors.New("too much waits to be done; try again in a moment")

// queue lets one piece of heavy work run at a time. Who waits is served in turn by person,
// so that one who asks for sixty things delays another by one of them.
type queue struct {
	mu      sync.Mutex
	busy    bool
	people  []string // who waits, in the order in which they are served
	waiting map[string][]chan struct{}
	n       int
}

// most is how many may wait in a queue.
const most = 200

// enter waits for a person's turn; leave is called when the work is done.
func (q *queue) enter(ctx context.Context, person string) error {
	q.mu.Lock()
	if !q.busy {
		q.busy = true
		q.mu.Unlock()
		return nil
	}
	if q.n >= most {
		q.mu.Unlock()
		return errFull
	}
	if q.waiting == nil {
		q.waiting = map[string][]chan struct{}{}
	}
	turn := make(chan struct{})
	if len(q.waiting[person]) == 0 {
		q.people = append(q.people, person)
	}
	q.waiting[person] = append(q.waiting[person], turn)
	q.n++
	q.mu.Unlock()
	select {
	case <-turn:
		return nil
	case <-ctx.Done():
	}
	q.mu.Lock()
	at := slices.Index(q.waiting[person], turn)
	if at >= 0 {
		q.waiting[person] = slices.Delete(q.waiting[person], at, at+1)
		q.forget(person)
		q.n--
	}
	q.mu.Unlock()
	if at < 0 { // it came just now
		q.leave()
	}
	return ctx.Err()
}

// leave lets the next in.
func (q *queue) leave() {
	q.mu.Lock()
	defer q.mu.Unlock()
	if len(q.people) == 0 {
		q.busy = false
		return
	}
	person := q.people[0]
	q.people = append(q.people[1:], person) // behind the others with the rest of theirs
	close(q.waiting[person][0])
	q.waiting[person] = q.waiting[person][1:]
	q.forget(person)
	q.n--
}

// forget takes a person out of the turns who waits for nothing more.
func (q *queue) forget(person string) {
	if len(q.waiting[person]) > 0 {
		return
	}
	delete(q.waiting, person)
	q.people = slices.DeleteFunc(q.people, func(p string) bool { return p == person })
}
