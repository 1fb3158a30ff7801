package bind

import (
	"strings"
	"testing"

	"jadegate/core/schema"
)

// TestDeclared: what judging rests on can work, and what could not is named.
func TestDeclared(t *testing.T) {
	if err := Declared(); err != nil {
		t.Error(err)
	}
	figuresOfLooks["wire.nothing"] = []figureOfLook{{Path: "found.nothing", key: "looks.nothing"}}
	deciders["nobody.asks"] = decideGiven
	defer func() {
		delete(figuresOfLooks, "wire.nothing")
		delete(deciders, "nobody.asks")
	}()
	err := Declared()
	for _, want := range []string{`a figure of "wire.nothing"`, "no field found.nothing", "no figure looks.nothing", `a rule of "nobody.asks"`} {
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q is not named: %v", want, err)
		}
	}
	var said []string
	hear := func(_ string, a ...any) { said = append(said, a[0].(string)) }
	fillable("c", []schema.Field{{Name: "a", Kind: "list", Items: "string"}, {Name: "b", Kind: "map"}, {Name: "c", Kind: "list", Items: "number"}}, hear)
	declared("c", []schema.Field{{Name: "d", Class: schema.Design}, {Name: "e", Class: "fixed"}}, func(string, []string) {}, hear)
	if strings.Join(said, " ") != "c.a c.b c.e" {
		t.Errorf("not fillable: %v", said)
	}
}
