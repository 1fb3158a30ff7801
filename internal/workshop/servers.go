package workshop

import "context"

// Follow keeps this server true to what others write into the same data base, until it is
// ended: what they lengthened is read anew when it is next asked for, and whoever looks at
// it hears of it at once.
func (w *Workshop) Follow(ctx context.Context) {
	w.Store.Listen(ctx, func(id string, seq int64) {
		if id == "" {
			w.forgetRegisters()
			return
		}
		w.behind(id, seq)
		w.publish(id, seq)
		w.publish(boardTopic, 0)
	}, func() {
		w.forgetRegisters()
		for _, id := range w.live.Keys() {
			w.behind(id, -1)
			w.publish(id, 0)
		}
		w.publish(boardTopic, 0)
	})
}

// behind drops what is at hand of an inspection if its log has gone on to a sequence
// number; with -1 whatever is at hand.
func (w *Workshop) behind(id string, seq int64) {
	l, ok := w.live.Peek(id)
	if !ok {
		return
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.state != nil && (seq < 0 || l.state.Seq < seq) {
		l.state, l.eval = nil, nil
	}
}

func (w *Workshop) forgetRegisters() {
	w.kits.Store(nil)
	w.Book.Forget()
}
