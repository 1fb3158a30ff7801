package store

import (
	"testing"
	"time"
)

// A row that was read before it was changed is not kept after it: who was signed out would
// stay in.
func TestKeptRowIsNeverOld(t *testing.T) {
	k := newKept[string]()
	row := "before"
	reading, goOn := make(chan bool), make(chan bool)
	read := make(chan bool)
	go func() {
		_, _, _ = k.get("a", func() (string, bool, error) {
			old := row
			close(reading)
			<-goOn
			return old, true, nil
		})
		close(read)
	}()
	<-reading
	changed := make(chan error)
	go func() { changed <- k.change("a", func() error { row = "after"; return nil }) }()
	select {
	case <-changed:
		t.Error("the row is changed while it is read")
	case <-time.After(20 * time.Millisecond):
	}
	close(goOn)
	<-read
	if err := <-changed; err != nil {
		t.Fatal(err)
	}
	reads := 0
	for range 2 {
		v, ok, err := k.get("a", func() (string, bool, error) { reads++; return row, true, nil })
		if v != "after" || !ok || err != nil {
			t.Errorf("%q %t %v", v, ok, err)
		}
	}
	if reads != 1 {
		t.Errorf("read %d times", reads)
	}
	for range 2 {
		_, _, _ = k.get("none", func() (string, bool, error) { reads++; return "", false, nil })
	}
	if reads != 3 {
		t.Error("what is not there is kept")
	}
}
