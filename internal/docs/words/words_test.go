package main

import (
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

func write(t *testing.T, name, text string) string {
	t.Helper()
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return dir
}

func TestTextsAreFound(t *testing.T) {
	for name, k := range map[string]struct {
		file, text string
		want       []string
	}{
		"a screen": {"A.vue", `<p :title="$t('the &quot;own&quot; key')">{{ $t('{n} left', { n }) }}{{ $t("the rider's") }}</p>{{
			$t(
				'it\'s "so"',
				{},
			) }}`, []string{`it's "so"`, `the "own" key`, "the rider's", "{n} left"}},
		"a script": {"a.ts", `const a = [$t('one'), other('two'), term(three)]`, []string{"one"}},
		"code": {"a.go", "package a\n\nvar ErrA = errors.New(\"a sentinel\")\n\nfunc f() error {\n\t_ = say.T(`plain`) + say.F(\"%d of\", 1) + fmt.Errorf(\"not said\").Error()\n" +
			"\treturn quantity.Invalid(\"field\", \"is missing\", say.N(\"give it\"))\n}\n\ntype T struct {\n\tA string `words:\"rear_hub,mid\"`\n}\n",
			[]string{"%d of", "a sentinel", "give it", "is missing", "mid", "plain", "rear hub"}},
	} {
		found, dir := texts{}, write(t, k.file, k.text)
		for _, err := range []error{found.screens(dir), found.code(dir)} {
			if err != nil {
				t.Errorf("%s: %v", name, err)
			}
		}
		if got := slices.Sorted(maps.Keys(found)); !slices.Equal(got, k.want) {
			t.Errorf("%s: %q, want %q", name, got, k.want)
		}
	}
	for _, text := range []string{"$t(`${n} left`)", "$t(problem)", "$t(n === 1 ? 'a' : 'b')"} {
		if err := (texts{}).screens(write(t, "A.vue", text)); err == nil || !strings.Contains(err.Error(), "A.vue") {
			t.Errorf("%s, which nobody could translate, is taken: %v", text, err)
		}
	}
}
