// Package core_test guards the core's borders.
package core_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// TestCoreStandsAlone walks the import graph: the core reaches the standard
// library, gonum, a JSON splitter and Unicode's normal forms, and nothing else.
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
		case !strings.HasPrefix(p, "gonum.org/v1/gonum") && !strings.HasPrefix(p, "github.com/tidwall/") && !strings.HasPrefix(p, "golang.org/x/text/"):
			t.Errorf("core reaches %s", p)
		}
	}
	if own < 10 {
		t.Errorf("only %d packages of the core were seen", own)
	}
	// Arrows run one way: a package on the left reaches nothing of what is named.
	for pkg, never := range map[string]string{
		"axle":          "calc catalogue evidence inspection judge/bind ledger policy",
		"cutoff":        "calc catalogue evidence inspection judge/bind ledger policy",
		"fastener":      "calc catalogue evidence inspection judge/bind ledger policy",
		"vehicle":       "calc catalogue evidence inspection judge/bind ledger policy",
		"policy":        "axle battery bench braking calc catalogue cutoff fastener fault inspection judge/bind ledger limits middrive plan trike vehicle wiring",
		"evidence":      "calc catalogue inspection judge/bind ledger policy",
		"catalogue":     "calc evidence inspection judge/bind ledger policy",
		"inspection":    "judge/bind ledger",
		"ledger":        "judge/bind",
		"judge/bind":    "judge/verdict judge/accept judge/views",
		"judge/verdict": "judge/accept judge/views",
		"judge/accept":  "judge/views",
		"judge/views":   "judge/accept",
	} {
		out, err = exec.Command("go", "list", "-deps", "jadegate/core/"+pkg).Output()
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range append(strings.Fields(never), "../net/http", "../database/sql") {
			if strings.Contains(string(out), "jadegate/core/"+p+"\n") || strings.Contains(string(out), "\n"+strings.TrimPrefix(p, "../")+"\n") {
				t.Errorf("%s reaches %s", pkg, p)
			}
		}
	}
}

// Nobody can change what the core knows from outside: no exported variable is a list, a
// map or an array.
func TestNoExportedListsToChange(t *testing.T) {
	files, err := filepath.Glob("*/*.go")
	deeper, _ := filepath.Glob("*/*/*.go")
	files = append(files, deeper...)
	if err != nil || len(files) < 80 {
		t.Fatalf("%d files, %v", len(files), err)
	}
	changeable := regexp.MustCompile(`(?m)^(?:var |\t)([A-Z]\w*)(?: \S+)? = (?:map\[|\[)`)
	for _, f := range files {
		if strings.HasSuffix(f, "_test.go") {
			continue
		}
		src, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range changeable.FindAllStringSubmatch(string(src), -1) {
			t.Errorf("%s: %s can be changed from outside: make it a function", f, m[1])
		}
	}
}
