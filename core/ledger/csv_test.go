package ledger

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"jadegate/core/quantity"
)

func listed(places ...string) (lines []Fastener) {
	for i, p := range places {
		lines = append(lines, Fastener{At: fmt.Sprintf("bolts.%d", i), Path: fmt.Sprintf("bolts.%d.torque_nm", i), Place: p, Group: "seat", Direction: "tighten"})
	}
	return lines
}

// What a spreadsheet would compute is written so that it does not, and reads back as it
// was.
func TestCellsOfFormulas(t *testing.T) {
	for _, place := range []string{`=HYPERLINK("http://x","y")`, "+1", "-bolt", "@sum", "\ttab", "'quoted", "''twice", "plain, with a comma", "ends with ="} {
		lines := listed(place)
		lines[0].NoTool = place
		var b bytes.Buffer
		if err := WriteCSV(&b, lines); err != nil {
			t.Fatal(err)
		}
		row := strings.Split(b.String(), "\r\n")[1]
		if cell := strings.Trim(row, `"`); strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
			t.Errorf("%q is written as %q", place, cell)
		}
		if strings.TrimSpace(place) != place {
			continue // a place is kept without the space around it
		}
		back, err := ReadCSV(&b, listed(place), 1)
		if err != nil || len(back) != 1 || back[0].Path != "bolts.0.no_tool" || string(back[0].Value) != marshalled(place) {
			t.Errorf("%q read back: %+v, %v", place, back, err)
		}
	}
}

func marshalled(s string) string {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	_ = e.Encode(s)
	return strings.TrimSpace(b.String())
}

// Files made to hurt, and files that a hand slipped in: each is refused with its line.
func TestHostileLedgerFiles(t *testing.T) {
	row := "seat clamp,6\n"
	for name, k := range map[string]struct{ file, want string }{
		"nothing":                     {"", "line 1"},
		"a header of 100,000 columns": {strings.Repeat("place,", 100_000) + "\n", "line 1"},
		"a column twice":              {"place,place\n", "twice"},
		"an unknown column":           {"place,colour\n", "colour"},
		"no place":                    {"reading_nm\n5\n", "place"},
		"a quote left open":           {"place,reading_nm\n\"seat clamp,6\n", "line 2"},
		"a quote inside":              {"place,reading_nm\nseat\"clamp,6\n", "line 2"},
		"a cell more":                 {"place,reading_nm\nseat clamp,6,7\n", "line 2"},
		"40,000 lines":                {"place,reading_nm\n" + strings.Repeat(row, 40_000), "one too many"},
		"a cell of a megabyte":        {"place,reading_nm\n" + strings.Repeat("x", 1<<20) + ",6\n", "too long"},
		"no text":                     {"place,reading_nm\n\xff\xfe,6\n", "no text"},
		"not a number":                {"place,reading_nm\nseat clamp,NaN\n", "reading_nm"},
		"another base":                {"place,reading_nm\nseat clamp,0x1p4\n", "reading_nm"},
		"an underscore":               {"place,reading_nm\nseat clamp,1_0\n", "reading_nm"},
		"endless":                     {"place,reading_nm\nseat clamp,1e999\n", "reading_nm"},
		"below nothing":               {"place,reading_nm\nseat clamp,-4\n", "reading_nm"},
		"a place that is not there":   {"place,reading_nm\nstem,6\n", "stem"},
		"an unknown group":            {"place,group\nstem,wings\n", "wings"},
	} {
		got, err := ReadCSV(strings.NewReader(k.file), listed("seat clamp"), 1)
		if err == nil || !strings.Contains(err.Error(), k.want) {
			t.Errorf("%s: %d values, %v", name, len(got), err)
		}
	}
}

func FuzzReadCSV(f *testing.F) {
	f.Add("place,group,reading_nm,tool\nseat clamp,,6,QB-07\nrack,rack_battery,5,\n")
	f.Add("\ufeffplace,no_tool\n\"seat clamp\",'=1\n")
	f.Fuzz(func(t *testing.T, file string) {
		got, err := ReadCSV(strings.NewReader(file), listed("seat clamp", "stem"), 2)
		if err != nil {
			return
		}
		for _, v := range got {
			if !json.Valid(v.Value) || v.Path == "" {
				t.Errorf("%+v", v)
			}
		}
	})
}

func TestParseDecimal(t *testing.T) {
	for s, want := range map[string]float64{"6": 6, "6.50": 6.5, ".5": 0.5, "-2": -2, "+3": 3, "1e3": 1000, "5.": 5} {
		if got, err := quantity.ParseDecimal(s); err != nil || got != want {
			t.Errorf("%q: %g, %v", s, got, err)
		}
	}
	for _, s := range []string{"", ".", "1_0", "0x1p4", "NaN", "Inf", "-inf", "1e999", "1e9999", "1,5", " 1", "1 ", "١", "1e", "--1"} {
		if got, err := quantity.ParseDecimal(s); err == nil {
			t.Errorf("%q is taken as %g", s, got)
		}
	}
}
