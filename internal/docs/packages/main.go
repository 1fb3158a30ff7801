// Command packages writes docs/architecture.md: the way of the data in words, and a
// picture of the packages as they import one another, taken from the code.
package main

import (
	_ "embed"
	"fmt"
	"os"
	"os/exec"
	"slices"
	"strings"
)

//go:embed architecture.md
var words string

func main() {
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}}\t{{.Doc}}\t{{join .Imports \" \"}}", "jadegate/cmd/...", "jadegate/core/...",
		"jadegate/internal/...").Output()
	if err != nil {
		fmt.Fprintln(os.Stderr, "go list:", err)
		os.Exit(1)
	}
	imports, about := map[string][]string{}, map[string]string{}
	var all []string
	for line := range strings.Lines(string(out)) {
		f := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
		name := short(f[0])
		if len(f) != 3 || name == "internal/docs/packages" {
			continue
		}
		all = append(all, name)
		about[name] = f[1]
		for _, p := range strings.Fields(f[2]) {
			if strings.HasPrefix(p, "jadegate/") {
				imports[name] = append(imports[name], short(p))
			}
		}
	}
	fmt.Print(words)
	fmt.Print("\n```mermaid\nflowchart TD\n")
	for _, dir := range []string{"cmd", "internal", "core"} {
		fmt.Printf("  subgraph %s\n", dir)
		for _, p := range all {
			if strings.HasPrefix(p, dir+"/") {
				fmt.Printf("    %s[%s]\n", id(p), strings.TrimPrefix(p, dir+"/"))
			}
		}
		fmt.Print("  end\n")
	}
	for _, p := range all {
		for _, q := range imports[p] {
			if !around(imports, p, q) {
				fmt.Printf("  %s --> %s\n", id(p), id(q))
			}
		}
	}
	fmt.Print("```\n\n| package | what it is |\n|---|---|\n")
	for _, p := range all {
		fmt.Printf("| `%s` | %s |\n", p, strings.TrimPrefix(about[p], "Package "+p[strings.LastIndexByte(p, '/')+1:]+" "))
	}
}

// around: another import of p reaches q too, so that the arrow says nothing new.
func around(imports map[string][]string, p, q string) bool {
	return slices.ContainsFunc(imports[p], func(r string) bool { return r != q && reaches(imports, r, q) })
}

func reaches(imports map[string][]string, p, q string) bool {
	return p == q || slices.ContainsFunc(imports[p], func(r string) bool { return reaches(imports, r, q) })
}

func short(path string) string { return strings.TrimPrefix(path, "jadegate/") }

func id(p string) string { return strings.NewReplacer("/", "_", "-", "_").Replace(p) }
