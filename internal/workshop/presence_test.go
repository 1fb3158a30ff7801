package workshop

import (
	"testing"
	"time"
)

// Who is at another server is seen for as long as that server says so, and whoever looks
// is told when it falls silent.
func TestSilentServer(t *testing.T) {
	w := workshop(t)
	told, stop := w.SubscribeHere("a")
	defer stop()
	defer w.Come("a", Present{Screen: "1", Name: "Ivo Strand", Place: "axle"})()
	<-told
	w.hear("far", []byte(`{"a":[{"screen":"2","name":"Pell Osk","place":"gate/2"}]}`))
	<-told
	if here := w.Here("a"); len(here) != 2 || here[1].Name != "Pell Osk" {
		t.Fatal(here)
	}
	w.hear("far", []byte(`rubbish`))
	w.forgetSilent()
	if here := w.Here("a"); len(here) != 2 {
		t.Fatal("forgotten too soon: ", here)
	}
	w.presence.far["far"] = elsewhere{w.presence.far["far"].here, time.Now().Add(-hereFor - time.Second)}
	w.forgetSilent()
	select {
	case <-told:
	default:
		t.Error("nobody was told that it fell silent")
	}
	if here := w.Here("a"); len(here) != 1 {
		t.Error(here)
	}
}
