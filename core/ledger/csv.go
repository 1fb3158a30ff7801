package ledger

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// columns are the columns of a ledger file (RFC 4180, header line first).
// Reading one needs place; the others may be absent, and what the core works
// out itself (window source, result) is written and not read.
var columns = []string{"place", "group", "thread", "ring", "low_nm", "high_nm", "window", "reading_nm", "tool", "direction", "locking", "witness",
	"no_tool", "by", "at", "result"}

// Bounds of a ledger file: a sheet lists 400 fasteners at most.
const (
	maxRows = 1000
	maxCell = 400 // bytes
)

// formula begin a cell that a spreadsheet would compute. Written out, such a cell is
// given an apostrophe, which spreadsheets do not show, and it is taken off again.
const formula = "=+-@\t\r"

func safe(cell string) string {
	if cell != "" && (strings.ContainsRune(formula, rune(cell[0])) || cell[0] == '\'') {
		return "'" + cell
	}
	return cell
}

func plain(cell string) string {
	if len(cell) > 1 && cell[0] == '\'' && (strings.ContainsRune(formula, rune(cell[1])) || cell[1] == '\'') {
		return cell[1:]
	}
	return cell
}

// WriteCSV writes the ledger as CSV.
func WriteCSV(w io.Writer, lines []Fastener) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	rows := [][]string{columns}
	num := func(o quantity.Opt) string {
		if !o.Ok {
			return ""
		}
		return strconv.FormatFloat(o.V, 'g', -1, 64)
	}
	for i := range lines {
		l := &lines[i]
		ring, tool, result := "", "", ""
		if l.Ring > 0 {
			ring = strconv.Itoa(l.Ring)
		}
		if l.Tool != nil {
			tool = l.Tool.ID
		}
		switch {
		case l.Judged != nil:
			result = l.Judged.Result
		case l.Why != "":
			result = l.Why
		}
		rows = append(rows, []string{l.Place, l.Group, l.Thread, ring, num(l.LowNm), num(l.HighNm), l.Window, num(l.ReadNm), tool, l.Direction, l.Locking,
			l.Witness, l.NoTool, l.By, l.ReadAt, result})
		last := rows[len(rows)-1]
		for k := range last {
			last[k] = safe(last[k])
		}
	}
	return out.WriteAll(rows)
}

// Value is one value that a ledger file gives.
type Value struct {
	inspection.Set
	Tool string // id of the tool in the register
}

// ReadCSV reads a ledger file and lists what it says that the sheet does not
// say already: lines is the ledger as it stands, bolts how many the sheet lists. A place that is not on the list is added to it. The error joins
// a FieldError for each line that is wrong; then nothing is to be taken over.
func ReadCSV(r io.Reader, lines []Fastener, bolts int) ([]Value, error) {
	in := csv.NewReader(r)
	in.TrimLeadingSpace = true
	head, err := in.Read()
	if err != nil {
		return nil, quantity.Invalid("line 1", "is no header", say.F("begin with %s", strings.Join(columns, ",")))
	}
	if len(head) > len(columns) {
		return nil, quantity.Invalid("line 1", say.F("has %d columns", len(head)), say.F("one each of %s", strings.Join(columns, ", ")))
	}
	f := file{lines: slices.Clip(lines), bolts: bolts, column: map[string]int{}, at: map[string]int{}}
	for i := range lines {
		if _, twice := f.at[lines[i].Place]; !twice {
			f.at[lines[i].Place] = i
		}
	}
	for i, name := range head {
		name = strings.TrimSpace(strings.TrimPrefix(name, "\ufeff"))
		if !slices.Contains(columns, name) {
			return nil, quantity.Invalid("line 1", say.F("%s is not a column", strconv.Quote(name)), say.F("one of %s", strings.Join(columns, ", ")))
		}
		if _, twice := f.column[name]; twice {
			return nil, quantity.Invalid("line 1", say.F("has the column %s twice", name), "leave one of them out")
		}
		f.column[name] = i
	}
	if _, ok := f.column["place"]; !ok {
		return nil, quantity.Invalid("line 1", "has no column place", "name where each fastener is")
	}
	var errs []error
	for rows := 0; ; rows++ {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			return f.out, errors.Join(errs...)
		}
		if err != nil {
			line := f.n + 1
			var where *csv.ParseError
			if errors.As(err, &where) {
				line, err = where.StartLine, where.Err
			}
			return nil, errors.Join(append(errs, quantity.Invalid(say.F("line %s", strconv.Itoa(line)), err.Error(), "correct the line"))...)
		}
		f.n, _ = in.FieldPos(0)
		if rows == maxRows {
			return nil, quantity.Invalid(say.F("line %s", strconv.Itoa(f.n)), "is one too many", say.F("give at most %d lines", maxRows))
		}
		for i := range row {
			if len(row[i]) > maxCell || !utf8.ValidString(row[i]) {
				return nil, quantity.Invalid(say.F("line %s", strconv.Itoa(f.n)), "holds a cell that is too long or no text", say.F("give at most %d bytes of UTF-8",
					maxCell))
			}
		}
		f.row = row
		if err := f.line(); err != nil {
			errs = append(errs, err)
		}
	}
}

type file struct {
	lines  []Fastener
	bolts  int // on the list, those of this file included
	column map[string]int
	at     map[string]int // lines by their place
	row    []string
	n      int
	out    []Value
}

func (f *file) cell(name string) string {
	i, ok := f.column[name]
	if !ok {
		return ""
	}
	return plain(strings.TrimSpace(f.row[i]))
}

func (f *file) bad(column, problem, want string) error {
	return quantity.Invalid(say.F("line %d, %s", f.n, column), problem, want)
}

func (f *file) set(path string, v any, tool string) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	f.out = append(f.out, Value{inspection.Set{Path: path, Value: raw}, tool})
	return nil
}

// number reads a cell; ok is false if it is empty.
func (f *file) number(name string) (v float64, ok bool, err error) {
	t := f.cell(name)
	if t == "" {
		return 0, false, nil
	}
	if v, err = quantity.ParseDecimal(t); err != nil || v < 0 || v > 300 {
		return 0, false, f.bad(name, say.F("%s cannot be used", strconv.Quote(t)), say.T("give N·m from 0 to 300, with a point"))
	}
	return v, true, nil
}

// word reads a cell that takes one of a field's words.
func (f *file) word(name string) (string, error) {
	t := f.cell(name)
	words := inspection.FieldAt("bolts.0." + name).Enum
	if t != "" && !slices.Contains(words, t) {
		return "", f.bad(name, say.F("%s is not known", strconv.Quote(t)), say.F("one of %s", strings.Join(words, ", ")))
	}
	return t, nil
}

func (f *file) line() error {
	place := f.cell("place")
	if place == "" {
		return f.bad("place", say.T("is empty"), say.T("say where the fastener is"))
	}
	reading, read, err := f.number("reading_nm")
	if err != nil {
		return err
	}
	at, listed := f.at[place]
	if !listed {
		if at, err = f.add(place); err != nil {
			return err
		}
		f.at[place] = at
	}
	l := f.lines[at]
	axle := l.Group == "axle_nuts"
	for _, name := range []string{"direction", "locking", "witness"} {
		t, err := f.word(name)
		if err != nil {
			return err
		}
		now := map[string]string{"direction": l.Direction, "locking": l.Locking, "witness": l.Witness}[name]
		if t == "" || t == now || axle {
			continue
		}
		var v any = t
		if name != "direction" {
			v = map[string]any{"value": t, "source": quantity.FromMeasured}
		}
		if err := f.set(l.At+"."+name, v, ""); err != nil {
			return err
		}
	}
	if why := f.cell("no_tool"); why != "" && why != l.NoTool {
		field := ".no_tool"
		if axle {
			field = ".nut_no_tool"
		}
		if err := f.set(l.At+field, why, ""); err != nil {
			return err
		}
	}
	tool := f.cell("tool")
	if !read || l.ReadNm.Ok && l.ReadNm.V == reading && (l.Tool == nil && tool == "" || l.Tool != nil && l.Tool.ID == tool) {
		return nil
	}
	v := map[string]any{"value": reading, "source": quantity.FromMeasured}
	if tool != "" {
		v["instrument"] = tool
	}
	return f.set(l.Path, v, tool)
}

// add puts a place of the file on the vehicle's list.
func (f *file) add(place string) (int, error) {
	group, err := f.word("group")
	if err != nil {
		return 0, err
	}
	if group == "" {
		return 0, f.bad("place", say.F("%s is not on this vehicle's list", strconv.Quote(place)), say.T("use a place of the list, or give its group to add it"))
	}
	b := map[string]any{"place": place, "group": group}
	if t := f.cell("thread"); t != "" {
		b["thread"] = t
	}
	for _, name := range []string{"low_nm", "high_nm"} {
		v, ok, err := f.number(name)
		if err != nil {
			return 0, err
		}
		if ok {
			b[name] = map[string]any{"value": v, "source": quantity.FromKit}
		}
	}
	if t := f.cell("ring"); t != "" {
		n, err := strconv.Atoi(t)
		if err != nil || n < 0 || n > 64 {
			return 0, f.bad("ring", say.F("%s is no number in a ring", strconv.Quote(t)), say.T("give 1 to 64, or nothing"))
		}
		b["ring"] = n
	}
	at := fmt.Sprintf("bolts.%d", f.bolts)
	f.bolts++
	f.lines = append(f.lines, Fastener{At: at, Path: at + ".torque_nm", Place: place, Group: group, Direction: "tighten"})
	return len(f.lines) - 1, f.set(at, b, "")
}
