// Package rules reads house policies and rule packs: versioned YAML, strict, with
// errors that name the line, the field and what would be right.
package rules

import (
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"sort"
	"strings"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"

	_ "jadegate/core/bench" // these bring their limits into the policy
	_ "jadegate/core/calc"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
	"jadegate/internal/yamldoc"
)

//go:embed packs/*.yaml kits/*.yaml house.yaml
var files embed.FS

// LineError is a field error with the line that it stands in.
type LineError struct {
	Line int
	*quantity.FieldError
}

func (e *LineError) Error() string { return say.F("line %d: %s", e.Line, e.FieldError) }

// Unwrap gives the field error.
func (e *LineError) Unwrap() error { return e.FieldError }

// document parses YAML into the tree that the core's decoder reads.
func document(raw []byte) (any, *ast.File, error) {
	json, file, err := yamldoc.Read(raw)
	if err != nil {
		return nil, nil, err
	}
	tree, err := schema.Parse(json)
	return tree, file, err
}

// located gives each field error the line of the file that it stands in, or of
// the nearest thing around it.
func located(file *ast.File, err error) error {
	var out []error
	for _, f := range schema.FieldErrors(err) {
		out = append(out, &LineError{lineOf(file, f.Field), f})
	}
	if out == nil {
		return err
	}
	return errors.Join(out...)
}

func lineOf(file *ast.File, field string) int {
	parts := strings.Split(field, ".")
	for n := len(parts); n > 0; n-- {
		path := "$"
		for _, p := range parts[:n] {
			if strings.Trim(p, "0123456789") == "" {
				path += "[" + p + "]"
			} else {
				path += "." + p
			}
		}
		p, err := yaml.PathString(path)
		if err != nil {
			continue
		}
		if node, err := p.FilterFile(file); err == nil && node.GetToken() != nil {
			return node.GetToken().Position.Line
		}
	}
	return 1
}

// ReadPolicy reads a house policy; what it leaves out keeps the shipped value.
func ReadPolicy(raw []byte) (*policy.House, error) {
	tree, file, err := document(raw)
	if err != nil {
		return nil, err
	}
	h, err := policy.Read(tree)
	if err != nil {
		return nil, located(file, err)
	}
	if h.Format != policy.Format {
		return nil, located(file, quantity.Invalid("format", say.F("is %s", h.Format), say.F("this edition reads %s", policy.Format)))
	}
	return h, nil
}

// HouseFile is the shipped policy as a file.
func HouseFile() []byte {
	b, err := files.ReadFile("house.yaml")
	if err != nil {
		panic(err) // embedded
	}
	return b
}

// ReadPack reads a rule pack.
func ReadPack(raw []byte) (*limits.RulePack, error) {
	tree, file, err := document(raw)
	if err != nil {
		return nil, err
	}
	var p limits.RulePack
	if err := schema.Decode(tree, &p); err != nil {
		return nil, located(file, err)
	}
	if p.Format != limits.PackFormat {
		return nil, located(file, quantity.Invalid("format", say.F("is %s", p.Format), say.F("this edition reads %s", limits.PackFormat)))
	}
	if err := p.Check(); err != nil {
		return nil, located(file, err)
	}
	return &p, nil
}

// Packs are the shipped rule packs by id.
func Packs() map[string]*limits.RulePack {
	out := map[string]*limits.RulePack{}
	entries, err := files.ReadDir("packs")
	if err != nil {
		panic(err) // embedded
	}
	for _, e := range entries {
		raw, err := files.ReadFile("packs/" + e.Name())
		if err != nil {
			panic(err)
		}
		p, err := ReadPack(raw)
		if err != nil {
			panic(fmt.Sprintf("%s: %v", e.Name(), err))
		}
		out[p.ID] = p
	}
	return out
}

// ReadKit reads a kit sheet.
func ReadKit(raw []byte) (*vehicle.Kit, error) {
	tree, file, err := document(raw)
	if err != nil {
		return nil, err
	}
	k, err := vehicle.ReadKit(tree)
	if err != nil {
		return nil, located(file, err)
	}
	k.Own, k.By, k.Second, k.Alone = false, "", "", false // not for a file to say
	return k, nil
}

// KitFiles are the shipped kit sheets as files.
func KitFiles() [][]byte {
	entries, err := files.ReadDir("kits")
	if err != nil {
		panic(err) // embedded
	}
	var out [][]byte
	for _, e := range entries {
		raw, err := files.ReadFile("kits/" + e.Name())
		if err != nil {
			panic(err)
		}
		out = append(out, raw)
	}
	return out
}

// PackIDs lists the shipped packs in order.
func PackIDs() []string {
	var ids []string
	for id := range Packs() {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	return ids
}

// PackFile is a shipped pack as a file; nil if there is none.
func PackFile(id string) []byte {
	b, err := files.ReadFile("packs/" + id + ".yaml")
	if err != nil {
		return nil
	}
	return b
}

// Schemas are the JSON Schemas of the documents that this package reads.
func Schemas() map[string]map[string]any {
	of := func(title string, t reflect.Type) map[string]any {
		s := schema.JSONSchema(schema.Describe(t))
		s["$schema"], s["title"] = "https://json-schema.org/draft/2020-12/schema", title
		return s
	}
	return map[string]map[string]any{
		"policy.schema.json": of("Jade Gate house policy", policy.Document()),
		"pack.schema.json":   of("Jade Gate rule pack", reflect.TypeFor[limits.RulePack]()),
		"kit.schema.json":    of("Jade Gate kit sheet", reflect.TypeFor[vehicle.Kit]()),
	}
}

// WritePack writes a pack as a file that ReadPack reads: what it does not say is left out.
func WritePack(p *limits.RulePack) ([]byte, error) {
	raw, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	var tree any
	if err := json.Unmarshal(raw, &tree); err != nil {
		return nil, err
	}
	if raw, err = json.Marshal(said(tree)); err != nil {
		return nil, err
	}
	return yaml.JSONToYAML(raw)
}

// said is a document without its empty members.
func said(v any) any {
	m, ok := v.(map[string]any)
	if !ok {
		if l, ok := v.([]any); ok {
			for i := range l {
				l[i] = said(l[i])
			}
		}
		return v
	}
	for k, e := range m {
		if e == nil || e == "" {
			delete(m, k)
			continue
		}
		m[k] = said(e)
	}
	return m
}
