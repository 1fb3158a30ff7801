package say

import (
	"errors"
	"testing"
)

// spoke speaks a language until the test ends.
func spoke(t *testing.T, l *Language) {
	t.Helper()
	Speak(l)
	t.Cleanup(func() { Speak(nil) })
}

func TestSaid(t *testing.T) {
	for _, k := range []struct{ got, want string }{
		{T("measure it"), "measure it"}, {F("give at most %d", 3), "give at most 3"}, {Term("rear_hub"), "rear hub"}, {Tag(), "en"},
	} {
		if k.got != k.want {
			t.Errorf("in English %q, want %q", k.got, k.want)
		}
	}
	texts := map[string]string{"measure it": "mål det", "%s of %d": "av %[2]d: %[1]s", "rear hub": "baknav", "entry %d: %w": "post %d: %w", "empty": ""}
	spoke(t, &Language{Tag: "nb", Texts: texts})
	texts["measure it"] = "changed from outside"
	inner := errors.New("inner")
	err := Errorf("entry %d: %w", 7, inner)
	for _, k := range []struct{ got, want string }{
		{T("measure it"), "mål det"}, {F("%s of %d", "alt", 3), "av 3: alt"}, {Term("rear_hub"), "baknav"}, {Tag(), "nb"}, {err.Error(), "post 7: inner"},
		{T("not translated"), "not translated"}, {T("empty"), "empty"}, {N("measure it"), "measure it"}, {Texts()["rear hub"], "baknav"},
	} {
		if k.got != k.want {
			t.Errorf("%q, want %q", k.got, k.want)
		}
	}
	if !errors.Is(err, inner) {
		t.Error("an error loses the one that it wraps")
	}
	Texts()["rear hub"] = "changed from outside"
	if T("rear hub") != "baknav" {
		t.Error("who asks for the texts can change them")
	}
}

// TestLazily: made once a language, and made again when another is spoken.
func TestLazily(t *testing.T) {
	made := 0
	title := Lazily(func() string { made++; return T("measure it") })
	for range 2 {
		if got := title(); got != "measure it" {
			t.Errorf("in English %q", got)
		}
	}
	spoke(t, &Language{Tag: "nb", Texts: map[string]string{"measure it": "mål det"}})
	for range 2 {
		if got := title(); got != "mål det" {
			t.Errorf("in the other language %q", got)
		}
	}
	if made != 2 {
		t.Errorf("made %d times", made)
	}
}

// TestUpper: a letter is not a byte.
func TestUpper(t *testing.T) {
	for in, want := range map[string]string{"": "", "measure it": "Measure it", "øl": "Øl", "«a»": "«a»"} {
		if got := Upper(in); got != want {
			t.Errorf("%q becomes %q", in, got)
		}
	}
}
