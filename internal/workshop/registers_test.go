package workshop

import (
	"errors"
	"testing"

	"jadegate/internal/seal"
	"jadegate/internal/store"
)

// What the server judges by is written down once, and again only when it is another; each
// change is sealed, and a seal that does not fit is found.
func TestRulesAreNoted(t *testing.T) {
	w := workshop(t)
	key, err := seal.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	w.Key = key
	ctx := t.Context()
	changes := func() []store.RegisterChange {
		t.Helper()
		out, err := w.Store.Changes(ctx, 0, 1000)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	if err := w.NoteRules(ctx); err != nil {
		t.Fatal(err)
	}
	first := changes()
	if len(first) < 1+len(w.Packs) {
		t.Fatalf("%d changes are noted of a policy and %d packs", len(first), len(w.Packs))
	}
	if err := w.NoteRules(ctx); err != nil {
		t.Fatal(err)
	}
	if again := changes(); len(again) != len(first) {
		t.Errorf("the same rules are noted again: %d, %d before", len(again), len(first))
	}
	house := *w.House
	house.Version++
	w.House = &house
	if err := w.NoteRules(ctx); err != nil {
		t.Fatal(err)
	}
	now := changes()
	if len(now) != len(first)+1 || now[0].ID != "house policy" {
		t.Errorf("%d more, the last of %s", len(now)-len(first), now[0].ID)
	}
	if err := w.CheckRegisters(ctx); err != nil {
		t.Errorf("nothing was touched: %v", err)
	}
	for _, c := range now {
		if err := seal.Verify(c.Key, c.Seal, c.Message()); err != nil {
			t.Fatalf("%s %s: %v", c.Kind, c.ID, err)
		}
	}
	// A change with a seal of something else, in its place in the chain.
	foreign := func(c *store.RegisterChange) { c.Key, c.Seal = key.Public(), key.Sign([]byte("something else")) }
	if err := w.Store.PutChanges(ctx, foreign, store.RegisterChange{At: w.stamp(), By: "nobody", Kind: store.RegisterRules, ID: "house policy",
		Data: []byte(`{"name":"another"}`)}); err != nil {
		t.Fatal(err)
	}
	var broken *store.BrokenRegister
	if err := w.CheckRegisters(ctx); !errors.As(err, &broken) || broken.Seq != now[0].Seq+1 {
		t.Errorf("a seal that does not fit: %v", err)
	}
}
