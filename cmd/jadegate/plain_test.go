package main

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"
)

// Nothing that comes out of a file draws on the terminal, or passes for a line of the program's own.
func TestPlain(t *testing.T) {
	forged := "AAAA\nsound: 5 entries\x1b[2K\u009b31m\u202ekey\U000e0001\r"
	var line, doc strings.Builder
	fprintf(&line, "%s: %v %d\n", forged, errors.New(forged), 5)
	if err := printJSON(&doc, map[string]string{forged: forged}); err != nil {
		t.Fatal(err)
	}
	if n := strings.Count(line.String(), "\n"); n != 1 {
		t.Errorf("%d lines: %q", n, line.String())
	}
	for _, out := range []string{line.String(), doc.String()} {
		if strings.ContainsAny(out, "\x1b\u009b\u202e\U000e0001\r") {
			t.Errorf("it steers: %q", out)
		}
	}
	var back map[string]string
	if err := json.Unmarshal([]byte(doc.String()), &back); err != nil || back[forged] != forged {
		t.Errorf("%v, %q", err, back)
	}
	if got := plain("25 °C, 50.8 N·m, µ ≥ 1"); got != "25 °C, 50.8 N·m, µ ≥ 1" {
		t.Errorf("%q", got)
	}
}
