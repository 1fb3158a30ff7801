package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// shell runs the program as people do, in a directory of its own.
type shell struct {
	t        *testing.T
	bin, dir string
}

func newShell(t *testing.T) *shell {
	t.Helper()
	s := &shell{t: t, dir: t.TempDir()}
	s.bin = filepath.Join(s.dir, "jadegate")
	if out, err := exec.Command("go", "build", "-o", s.bin, ".").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	return s
}

func (s *shell) run(in string, args ...string) (code int, out, says string) {
	s.t.Helper()
	cmd := exec.Command(s.bin, args...)
	cmd.Dir, cmd.Stdin = s.dir, strings.NewReader(in)
	var o, e bytes.Buffer
	cmd.Stdout, cmd.Stderr = &o, &e
	err := cmd.Run()
	var failed *exec.ExitError
	if err != nil && !errors.As(err, &failed) {
		s.t.Fatal(err)
	}
	return cmd.ProcessState.ExitCode(), o.String(), e.String()
}

func (s *shell) write(name, text string) {
	s.t.Helper()
	if err := os.WriteFile(filepath.Join(s.dir, name), []byte(text), 0o600); err != nil {
		s.t.Fatal(err)
	}
}

// TestCommands: what can be used gives 0, a judgement that is no pass 1, and what cannot be
// used 2 with the field, or the line, and what would be right. Nothing is made on the way.
func TestCommands(t *testing.T) {
	s := newShell(t)
	_, house, _ := s.run("", "policy", "show")
	_, pack, _ := s.run("", "packs", "show", "skerry_isles")
	s.write("house.yaml", house)
	s.write("fast.yaml", strings.Replace(house, "worst_ms: 250", "worst_ms: fast", 1))
	s.write("loose.yaml", strings.Replace(house, "worst_ms: 250", "worst_ms: 900", 1))
	s.write("pack.yaml", pack)
	s.write("three.yaml", strings.Replace(pack, "version: 3", "version: three", 1))
	s.write("words.csv", "a,b\n1,2\n")
	s.write("sheet.json", `{"name":"Thrift","kind":"bicycle","drives":[{"kind":"front_hub","axle":{}}]}`)
	s.write("figures.json", `{"battery_limit_a":17}`)
	before, err := os.ReadDir(s.dir)
	if err != nil {
		t.Fatal(err)
	}
	const motor = `{"declared_peak_nm":45,"spin_rpm":305,"spin_v":38.2,"battery_limit_a":17}`
	for _, k := range []struct {
		args, in string
		code     int
		says     string
	}{
		{"calc list", "", 0, "axle-hold"},
		{"calc describe axle-hold", "", 0, "Source: plastic limit analysis"},
		{"calc motor-torque", motor, 0, `"peak_nm": 50.8`},
		{"calc motor-torque", `{"spin":3}`, 2, "spin: is not a field here; known fields: declared_peak_nm"},
		{"calc motor-torque", motor + "x", 2, "(input)"},
		{"calc motor-torque", strings.Replace(motor, "305", `"fast"`, 1), 2, "spin_rpm"},
		{"calc motor-torque", strings.Replace(motor, "305", "-305", 1), 2, "spin_rpm"},
		{"calc motor-torque", "", 2, "(input)"},
		{"calc nothing", "{}", 2, "is not a calculation"},
		{"policy check house.yaml", "", 0, "sound"},
		{"policy check fast.yaml", "", 2, ": cutoff_trace.worst_ms: is not a number"},
		{"policy check loose.yaml", "", 2, "cutoff_trace.worst_ms"},
		{"packs check pack.yaml", "", 0, "sound"},
		{"packs check three.yaml", "", 2, "line 6: version: is not a number"},
		{"packs show nowhere", "", 2, "is not a shipped pack"},
		{"kits check pack.yaml", "", 2, "give one of front_hub, rear_hub, mid"},
		{"trace words.csv", "", 2, "line 1: no header"},
		{"trace none.csv", "", 1, "none.csv"},
		{"verify words.csv", "", 2, "holds no bundle.json"},
		{"evaluate sheet.json", "", 1, `"verdict": "held"`},
		{"evaluate figures.json", "", 2, "name: is missing"},
		{"restore words.csv --data-dir new", "", 1, "does not hold together"},
		{"rebuild --data-dir nowhere", "", 2, "nowhere holds no data"},
		{"backup --data-dir nowhere --to copy.db", "", 1, "nowhere"},
		{"key show --data-dir nowhere", "", 1, "nowhere"},
		{"serve --addr 300.1.1.1:1 --policy none.yaml", "", 80, "none.yaml"},
		{"dance", "", 80, "dance"},
	} {
		code, out, says := s.run(k.in, strings.Fields(k.args)...)
		if code != k.code || !strings.Contains(out+says, k.says) {
			t.Errorf("%s < %q: %d, want %d and %q\n%.300s\n%.300s", k.args, k.in, code, k.code, k.says, out, says)
		}
		if code == 2 && strings.HasPrefix(k.args, "calc") {
			var problem struct {
				Errors []struct{ Field, Problem, Want string }
			}
			if err := json.Unmarshal([]byte(says), &problem); err != nil || len(problem.Errors) == 0 || problem.Errors[0].Field == "" || problem.Errors[0].Want == "" {
				t.Errorf("%s < %q: %v, %s", k.args, k.in, err, says)
			}
		}
	}
	after, err := os.ReadDir(s.dir)
	if err != nil {
		t.Fatal(err)
	}
	if len(after) != len(before) {
		t.Errorf("files were made by what was refused: %v, before %v", after, before)
	}
}
