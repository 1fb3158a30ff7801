package workshop

import (
	"testing"
	"time"
)

// Who is at another server is seen for as long as that server says so, and whoever looks
// is told when it falls silent.
func TestSilentServer(t *testing.T) {
	w := workshop(t)
	told, stop := w.SubscribeViewers("a")
	defer stop()
	defer w.Join("a", Present{Screen: "1", Name: "Ivo Strand", Place: "axle"})()
	<-told
	w.receivePresence("far", []byte(`{"a":[{"screen":"2","name":"Pell Osk","place":"gate/2"}]}`))
	<-told
	if here := w.Viewers("a"); len(here) != 2 || here[1].Name != "Pell Osk" {
		t.Fatal(here)
	}
	w.receivePresence("far", []byte(`rubbish`))
	w.dropSilentServers()
	if here := w.Viewers("a"); len(here) != 2 {
		t.Fatal("forgotten too soon: ", here)
	}
	w.presence.remote["far"] = remotePresence{w.presence.remote["far"].here, time.Now().Add(-presenceLifetime - time.Second)}
	w.dropSilentServers()
	select {
	case <-told:
	default:
		t.Error("nobody was told that it fell silent")
	}
	if here := w.Viewers("a"); len(here) != 1 {
		t.Error(here)
	}
}
