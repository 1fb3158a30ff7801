package main

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"os"
	"slices"
	"strings"

	"github.com/alecthomas/kong"

	"jadegate/core/quantity"
	"jadegate/internal/yamldoc"
)

// envPrefix begins the environment variable of every flag: --data-dir is JADEGATE_DATA_DIR.
const envPrefix = "JADEGATE"

// fileValues are flags by their names, read from a configuration file. What the command
// line or the environment says goes before them.
type fileValues map[string]any

// readConfig reads a configuration file (YAML): the flags of a command by name, data_dir
// or data-dir.
func readConfig(r io.Reader) (kong.Resolver, error) {
	raw, err := io.ReadAll(io.LimitReader(r, 1<<20))
	if err != nil {
		return nil, err
	}
	doc, _, err := yamldoc.Read(raw)
	if err != nil {
		return nil, err
	}
	var found map[string]any
	if err := json.Unmarshal(doc, &found); err != nil {
		return nil, quantity.Invalid("(file)", "is no list of names and values", "write one flag a line: addr: 127.0.0.1:8480")
	}
	out := fileValues{}
	for k, v := range found {
		out[strings.ReplaceAll(k, "_", "-")] = v
	}
	return out, nil
}

// Validate refuses a name that is no flag of any command.
func (f fileValues) Validate(app *kong.Application) error {
	known := map[string]bool{}
	var walk func(n *kong.Node)
	walk = func(n *kong.Node) {
		for _, x := range n.Flags {
			known[x.Name] = true
		}
		for _, c := range n.Children {
			walk(c)
		}
	}
	walk(app.Node)
	for _, name := range slices.Sorted(maps.Keys(f)) {
		if !known[name] || name == "config" {
			return fmt.Errorf("configuration: %s is no flag of any command; see jadegate serve --help", name)
		}
	}
	return nil
}

// Resolve gives a flag that was set in no other way.
func (f fileValues) Resolve(_ *kong.Context, _ *kong.Path, flag *kong.Flag) (any, error) {
	for _, e := range flag.Envs {
		if _, set := os.LookupEnv(e); set {
			return nil, nil
		}
	}
	v, ok := f[flag.Name]
	if !ok {
		return nil, nil
	}
	if list, ok := v.([]any); ok {
		words := make([]string, len(list))
		for i, x := range list {
			words[i] = fmt.Sprint(x)
		}
		return strings.Join(words, ","), nil
	}
	return v, nil
}
