package bundle_test

import (
	"testing"

	"jadegate/core/decide"
	"jadegate/internal/bundle"
)

// TestEarlierEditionStaysSigned (12.13): what an earlier edition signed verifies and shows
// as signed. What today's rules say stands beside it and changes nothing.
func TestEarlierEditionStaysSigned(t *testing.T) {
	for file, signed := range map[string]decide.Verdict{"edition1-sedge.zip": decide.GateOpen, "edition1-bracken.zip": decide.GateAjar} {
		b, err := bundle.Read("testdata/" + file)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := b.Verify(); err != nil {
			t.Errorf("%s: %v", file, err)
		}
		_, e, err := b.Judge("2026-11-27")
		if err != nil {
			t.Fatal(err)
		}
		if !e.Signed || !e.VerdictOnly || e.Verdict != signed {
			t.Errorf("%s: signed %t, verdict only %t, %s, want %s", file, e.Signed, e.VerdictOnly, e.Verdict, signed)
		}
		if e.Today == "" || e.Today == decide.GateOpen {
			t.Errorf("%s: today's rules say %q of evidence that names no tools", file, e.Today)
		}
	}
}
