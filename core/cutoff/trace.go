// Package cutoff reads recorded brake tests and measures how soon the motor
// lets go: for each pull of a lever, from the switch edge to the current's end.
package cutoff

import (
	"bytes"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
	"unsafe"

	"jadegate/core/order"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Trace is a recording in columns, one slice a signal, all of one length. A
// signal that the file does not hold is nil.
type Trace struct {
	T, Current              []float64 // s, A
	LeverLeft, LeverRight   []float64 // 0…1
	Shift, Throttle         []float64 // 0…1
	Cadence                 []float64 // 1/min
	Voltage, Speed          []float64 // V, km/h
	TravelLeft, TravelRight []float64 // mm
	Plug                    []float64 // °C, of the motor's plug
	Notes                   [][2]string
	Ignored                 []string // names of columns that were not known
	Dt                      float64  // median step, s
}

// column finds a signal's slot by its name in the header; nil if not known.
func (tr *Trace) column(name string) *[]float64 {
	if name == "t_s" {
		return &tr.T
	}
	for i := range channels {
		if channels[i].column == name {
			return channels[i].trace(tr)
		}
	}
	return nil
}

// Has reports whether a channel was recorded, by the kind that devices name.
func (tr *Trace) Has(kind string) bool {
	i, known := channelOf[kind]
	return known && *channels[i].trace(tr) != nil
}

// LineError says in which line of a trace file something is wrong.
type LineError struct {
	Line    int
	Problem string
}

func (e *LineError) Error() string { return say.F("line %d: %s", e.Line, e.Problem) }

// MinSamples is the smallest trace that is analysed, minRate the slowest, Hz
// (house).
const (
	MinSamples = 50
	minRate    = 50
)

// maxValue bounds any figure in a trace.
const maxValue = 1e9

// progressEvery is how many bytes pass between two calls of a progress function.
const progressEvery = 1 << 19

// Parse reads a trace file: CSV in UTF-8 with a header line, "# key: value"
// notes before it, and columns by name in any order. progress, if not nil, is
// called now and then with the share read (0…1); an error from it ends the
// reading and is returned. A file that cannot be used gives a *LineError, or a
// FieldError when the whole file is at fault (too short, too slow).
func Parse(data []byte, progress func(float64) error) (*Trace, error) {
	tr := &Trace{}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	total := len(data)
	line := 0
	next := func() (row []byte, ok bool) {
		if len(data) == 0 {
			return nil, false
		}
		line++
		i := bytes.IndexByte(data, '\n')
		if i < 0 {
			row, data = data, nil
		} else {
			row, data = data[:i], data[i+1:]
		}
		return bytes.TrimSuffix(row, []byte("\r")), true
	}
	var slots []*[]float64
	for {
		row, ok := next()
		if !ok {
			return nil, &LineError{max(line, 1), say.T("no header: the file ends before a line of column names")}
		}
		if note, is := bytes.CutPrefix(row, []byte("#")); is {
			k, v, _ := strings.Cut(string(note), ":")
			tr.Notes = append(tr.Notes, [2]string{strings.TrimSpace(k), strings.TrimSpace(v)})
			continue
		}
		if len(bytes.TrimSpace(row)) == 0 {
			continue
		}
		if !utf8.Valid(row) {
			return nil, &LineError{line, say.T("is not UTF-8 text")}
		}
		var err error
		if slots, err = tr.header(string(row), line); err != nil {
			return nil, err
		}
		break
	}
	rows := bytes.Count(data, []byte{'\n'}) + 1
	for _, s := range slots {
		if s != nil {
			*s = make([]float64, 0, rows)
		}
	}
	mark := total - progressEvery
	for {
		row, ok := next()
		if !ok {
			break
		}
		if len(row) == 0 {
			continue
		}
		if err := tr.row(row, slots, line); err != nil {
			return nil, err
		}
		if progress != nil && len(data) < mark {
			mark -= progressEvery
			if err := progress(1 - float64(len(data))/float64(total)); err != nil {
				return nil, err
			}
		}
	}
	return tr, tr.finish()
}

// header reads the column names.
func (tr *Trace) header(row string, line int) ([]*[]float64, error) {
	names := strings.Split(row, ",")
	slots := make([]*[]float64, len(names))
	var seen []string
	known := 0
	for i, n := range names {
		n = strings.Trim(strings.TrimSpace(n), `"`)
		if slices.Contains(seen, n) {
			return nil, &LineError{line, say.F("column %s appears twice", strconv.Quote(n))}
		}
		seen = append(seen, n)
		if slots[i] = tr.column(n); slots[i] == nil {
			tr.Ignored = append(tr.Ignored, n)
		} else {
			known++
		}
	}
	if known == 0 {
		return nil, &LineError{line, say.T("no header: the first line names no column that is known here")}
	}
	for _, must := range []string{"t_s", "current_a"} {
		if !slices.Contains(seen, must) {
			return nil, &LineError{line, say.F("required column %s is missing", must)}
		}
	}
	return slots, nil
}

// row reads one line of figures.
func (tr *Trace) row(row []byte, slots []*[]float64, line int) error {
	last := len(slots) - 1
	for i, slot := range slots {
		x, n, plain := fixed(row)
		if !plain {
			if n = bytes.IndexByte(row, ','); n < 0 {
				n = len(row)
			}
		}
		cell := row[:n]
		switch {
		case n == len(row) && i < last:
			return &LineError{line, say.F("has %d cells, the header names %d columns", i+1, len(slots))}
		case n < len(row) && i == last:
			return &LineError{line, say.F("has more cells than the header's %d columns", len(slots))}
		case n < len(row):
			row = row[n+1:]
		}
		if slot == nil {
			continue
		}
		if !plain {
			var problem string
			if x, problem = number(cell); problem != "" {
				return &LineError{line, say.F("column %d: %q %s", i+1, string(cell), problem)}
			}
		}
		if x > maxValue || x < -maxValue {
			return &LineError{line, say.F("column %d: %g is beyond what any signal reaches", i+1, x)}
		}
		*slot = append(*slot, x)
	}
	if n := len(tr.T); n > 1 && tr.T[n-1] <= tr.T[n-2] {
		return &LineError{line, say.F("time goes from %g back to %g; t_s must increase", tr.T[n-2], tr.T[n-1])}
	}
	return nil
}

// number reads a cell that is no plain decimal; problem says why it is none at all.
func number(cell []byte) (x float64, problem string) {
	cell = bytes.Trim(cell, " \t\"")
	// The string shares the cell's bytes for the length of this call.
	x, err := strconv.ParseFloat(unsafe.String(unsafe.SliceData(cell), len(cell)), 64)
	switch {
	case err != nil:
		return 0, say.T("is not a number")
	case math.IsNaN(x) || math.IsInf(x, 0):
		return 0, say.T("is not a finite number")
	}
	return x, ""
}

var pow10 = [...]float64{1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15}

// fixed reads the plain decimal of up to 15 digits that a row begins with, up to
// its comma or the row's end; n is its length. A float64 holds such a number exactly
// before its one division; anything else (ok is false) is left to strconv.
func fixed(row []byte) (x float64, n int, ok bool) {
	from := 0
	if len(row) > 0 && row[0] == '-' {
		from = 1
	}
	var m uint64
	n = len(row)
	point := -1
	for k := from; k < len(row); k++ {
		c := row[k]
		if d := c - '0'; d <= 9 {
			m = m*10 + uint64(d)
			continue
		}
		if c == ',' {
			n = k
			break
		}
		if c != '.' || point >= 0 {
			return 0, 0, false
		}
		point = k
	}
	digits := n - from
	if point >= 0 {
		digits--
	}
	if digits <= 0 || digits > 15 {
		return 0, 0, false
	}
	x = float64(m)
	if point >= 0 {
		x /= pow10[n-1-point]
	}
	if from == 1 {
		x = -x
	}
	return x, n, true
}

// finish checks what can only be said of the whole file.
func (tr *Trace) finish() error {
	n := len(tr.T)
	if n < MinSamples {
		return quantity.Invalid("csv", say.F("holds %d samples", n), say.F("record at least %d", MinSamples))
	}
	steps := make([]float64, n-1)
	for i := range steps {
		steps[i] = tr.T[i+1] - tr.T[i]
	}
	tr.Dt = order.Median(steps)
	if r := 1 / tr.Dt; r < minRate {
		return quantity.Invalid("csv", say.F("has a median rate of %.4g Hz", r), say.F("record at %d Hz or faster, better 200", minRate))
	}
	return nil
}
