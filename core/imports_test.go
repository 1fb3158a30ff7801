// Package core_test guards the core's borders.
package core_test

import (
	"os/exec"
	"strings"
	"testing"
)

// TestCoreStandsAlone walks the import graph: the core reaches the standard
// library and gonum, and nothing else.
func TestCoreStandsAlone(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "-f", "{{if not .Standard}}{{.ImportPath}}{{end}}", "jadegate/core/...").CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	own := 0
	for _, p := range strings.Fields(string(out)) {
		switch {
		case strings.HasPrefix(p, "jadegate/core"):
			own++
		case !strings.HasPrefix(p, "gonum.org/v1/gonum"):
			t.Errorf("core reaches %s", p)
		}
	}
	if own < 10 {
		t.Errorf("only %d packages of the core were seen", own)
	}
	// The calculation packages do not know the registry or the inspection.
	out, err = exec.Command("go", "list", "-deps", "jadegate/core/axle", "jadegate/core/cutoff", "jadegate/core/fastener").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range []string{"core/calc", "core/inspection", "core/policy", "net/http", "database/sql"} {
		if strings.Contains(string(out), p+"\n") {
			t.Errorf("a calculation reaches %s", p)
		}
	}
}
