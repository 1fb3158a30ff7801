// Command words writes docs/words.pot: every text that the program says, for whoever puts
// it into another language. The screens' stand in $t('…') calls, the server's in calls of
// package say and of the few functions that say what they are given; what stands in a
// table is taken from there.
package main

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"html"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/leonelquinteros/gotext"

	"jadegate/core/bench"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/rig"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// said are the functions that say what they are given, and which of their arguments.
var said = map[string][]int{
	"T": {0}, "F": {0}, "N": {0}, "Errorf": {0},
	"Invalid": {1, 2}, "Step": {0, 1, 4},
	"Must": {1}, "AtLeast": {1}, "AtMost": {1}, "Within": {1}, "Unknown": {1},
	"foundAtLeast": {1}, "foundAtMost": {1},
}

var (
	onScreen = regexp.MustCompile(`\$t\(\s*('(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*")`)
	// unseen is a text that is only known when the screen runs: nobody could translate it.
	unseen = regexp.MustCompile(`\$t\(\s*[^'"\s:)][^)\n]*`)
)

// finds are the two places that may look up what they are given: the function itself, and
// the words of enumerations, which are taken from there.
var finds = []string{"say.ts", "words.ts"}

// texts are the places of each.
type texts map[string]map[string]bool

func (t texts) add(text, place string) {
	if text == "" {
		return
	}
	if t[text] == nil {
		t[text] = map[string]bool{}
	}
	t[text][place] = true
}

func main() {
	all := texts{}
	for _, err := range []error{all.screens("web/src"), all.code("core"), all.code("internal")} {
		if err != nil {
			fmt.Fprintln(os.Stderr, "words:", err)
			os.Exit(1)
		}
	}
	all.tables()
	out := gotext.NewDomain()
	out.Headers = gotext.HeaderMap{}
	out.Headers.Set("Content-Type", "text/plain; charset=UTF-8")
	out.Headers.Set("Language", "")
	for _, text := range slices.Sorted(maps.Keys(all)) {
		out.Set(text, "")
		out.SetRefs(text, slices.Sorted(maps.Keys(all[text])))
	}
	raw, err := out.MarshalText()
	if err == nil {
		_, err = os.Stdout.Write(raw)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "words:", err)
		os.Exit(1)
	}
}

func walk(root string, take func(path string, raw []byte) error, ext ...string) error {
	return filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !slices.Contains(ext, filepath.Ext(path)) || strings.HasSuffix(path, "_test.go") {
			return err
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		return take(path, raw)
	})
}

func (t texts) screens(root string) error {
	return walk(root, func(path string, raw []byte) error {
		if m := unseen.Find(raw); m != nil && !slices.Contains(finds, filepath.Base(path)) {
			return fmt.Errorf("%s: %s: give a text as it is, or use term() for an enumeration", path, m)
		}
		for _, m := range onScreen.FindAllStringSubmatch(string(raw), -1) {
			text := m[1][1 : len(m[1])-1]
			if filepath.Ext(path) == ".vue" {
				text = html.UnescapeString(text)
			}
			text, err := strconv.Unquote(`"` + strings.ReplaceAll(strings.ReplaceAll(text, `\'`, `'`), `"`, `\"`) + `"`)
			if err != nil {
				return fmt.Errorf("%s: %s: %w", path, m[1], err)
			}
			t.add(text, path)
		}
		return nil
	}, ".vue", ".ts")
}

func (t texts) code(root string) error {
	return walk(root, func(path string, raw []byte) error {
		file, err := parser.ParseFile(token.NewFileSet(), path, raw, 0)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			if f, ok := n.(*ast.Field); ok && f.Tag != nil {
				if tag, err := strconv.Unquote(f.Tag.Value); err == nil {
					for _, list := range []string{"words", "enum"} {
						for e := range strings.SplitSeq(reflect.StructTag(tag).Get(list), ",") {
							t.term(e, path)
						}
					}
				}
			}
			call, ok := n.(*ast.CallExpr)
			if !ok {
				return true
			}
			name := ""
			switch f := call.Fun.(type) {
			case *ast.Ident:
				name = f.Name
			case *ast.SelectorExpr:
				name = f.Sel.Name
				if pkg, ok := f.X.(*ast.Ident); ok && (pkg.Name == "errors" && name == "New") {
					name = "T" // a sentinel is said where it becomes an answer
				} else if ok && pkg.Name != "say" && (name == "Errorf" || name == "F" || name == "T" || name == "N") {
					return true
				}
			}
			for _, i := range said[name] {
				if i >= len(call.Args) {
					continue
				}
				if l, ok := call.Args[i].(*ast.BasicLit); ok && l.Kind == token.STRING {
					if text, err := strconv.Unquote(l.Value); err == nil {
						t.add(text, path)
					}
				}
			}
			return true
		})
		return nil
	}, ".go")
}

// tables take what the program keeps in lists, and the words of its enumerations.
func (t texts) tables() {
	for _, c := range catalogue.All() {
		t.add(c.Title, "core/catalogue/catalogue.go")
		t.add(c.Ask, "core/catalogue/catalogue.go")
	}
	for _, o := range catalogue.Operations() {
		t.add(o.Title, "core/catalogue/operations.go")
	}
	for _, b := range bench.Tests() {
		t.add(b.Title, "core/bench/tests.go")
		t.add(b.Before, "core/bench/tests.go")
		for _, s := range b.Steps {
			t.add(s.Words, "core/bench/tests.go")
		}
	}
	for _, c := range calc.All() {
		d := c.Describe()
		for _, text := range []string{d.Title, d.Summary, d.Source, d.Caution} {
			t.add(text, "core/calc/builtin.go")
		}
		for _, fields := range [][]schema.Field{d.Inputs, d.Outputs, d.Limits} {
			t.fields(fields, "core/calc/"+d.Name)
		}
	}
	t.fields(vehicle.Fields(), "core/vehicle/sheet.go")
	for _, k := range quantity.Kinds() {
		t.term(k, "core/quantity/instrument.go")
	}
	for _, k := range slices.Concat(rig.Bench(0).Kinds(), rig.Hand().Kinds()) {
		t.term(k, "core/rig/instruments.go")
	}
	for _, k := range rig.Kinds() {
		t.term(k, "core/rig/faults.go")
	}
	for i := range catalogue.GateLast {
		t.add(catalogue.GateName(i+1), "core/catalogue/check.go")
	}
	house := schema.Describe(policy.Document())
	t.fields(house, "core/policy/house.go")
	for i := range house {
		if house[i].Name == "schools" {
			for k := range house[i].Fields {
				t.term(house[i].Fields[k].Name, "core/policy/house.go")
			}
		}
	}
}

// term adds the word for a value of an enumeration.
func (t texts) term(value, place string) { t.add(strings.ReplaceAll(value, "_", " "), place) }

func (t texts) fields(fields []schema.Field, place string) {
	for i := range fields {
		f := &fields[i]
		if t.add(f.Doc, place); f.Doc == "" {
			t.term(f.Name, place)
		}
		for _, e := range f.Enum {
			t.term(e, place)
		}
		t.fields(f.Fields, place)
	}
}
