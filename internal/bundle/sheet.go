package bundle

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/judge/accept"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/internal/yamldoc"
)

// FromSheet makes a log of a conversion sheet (YAML or JSON) and, if given, a CSV of
// readings with the columns path, value, source and, if there, u and instrument. Every
// figure is accepted as one that somebody enters. Tools that it names come from a list
// (YAML or JSON) of instruments.
func FromSheet(sheetFile, readingsFile, toolsFile string) (*Bundle, error) {
	sheet, err := readDoc(sheetFile)
	if err != nil {
		return nil, err
	}
	tools, err := readTools(toolsFile)
	if err != nil {
		return nil, err
	}
	b := &Bundle{Format: Format, Inspection: "file", Policy: json.RawMessage("{}"), Traces: map[string][]byte{}}
	named, err := pick(tools, sheet)
	if err != nil {
		return nil, err
	}
	if err := inspection.CheckSheet(sheet); err != nil {
		return nil, err
	}
	opened, err := json.Marshal(inspection.Opened{Number: "file", Sheet: sheet, Instruments: named})
	if err != nil {
		return nil, err
	}
	if err := b.add(inspection.KindOpened, opened); err != nil {
		return nil, err
	}
	if _, err := inspection.Fold(b.Entries); err != nil || readingsFile == "" {
		return b, err
	}
	f, err := os.Open(readingsFile)
	if err != nil {
		return nil, err
	}
	defer f.Close() // read only
	return b, b.readings(csv.NewReader(f), tools)
}

// readDoc reads a YAML or JSON file as JSON.
func readDoc(file string) ([]byte, error) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	doc, _, err := yamldoc.Read(raw)
	if err != nil {
		return nil, quantity.Invalid(file, err.Error(), "give YAML or JSON")
	}
	return doc, nil
}

// readTools reads a list of instruments; none without a file.
func readTools(file string) (map[string]*quantity.Instrument, error) {
	out := map[string]*quantity.Instrument{}
	if file == "" {
		return out, nil
	}
	doc, err := readDoc(file)
	if err != nil {
		return nil, err
	}
	var list []quantity.Instrument
	if err := json.Unmarshal(doc, &list); err != nil {
		return nil, quantity.Invalid(file, err.Error(), "give a list of tools with id, name, kind, unit, max and valid_to")
	}
	for i := range list {
		if err := list[i].Check(); err != nil {
			return nil, fmt.Errorf("%s, tool %d: %w", file, i+1, err)
		}
		out[list[i].ID] = &list[i]
	}
	return out, nil
}

// pick finds the tools that the figures of a value name.
func pick(tools map[string]*quantity.Instrument, raw []byte) (map[string]*quantity.Instrument, error) {
	ids, err := inspection.ToolsNamed(raw)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	out := map[string]*quantity.Instrument{}
	for _, id := range ids {
		if out[id] = tools[id]; out[id] == nil {
			return nil, quantity.Invalid("instrument", fmt.Sprintf("%q is not on the list of tools", id), "give it with --tools")
		}
	}
	return out, nil
}

func (b *Bundle) add(kind string, body []byte) error {
	n := len(b.Entries)
	prev := record.Genesis
	if n > 0 {
		prev = b.Entries[n-1].Hash
	}
	now := time.Now().UTC().Format("2006-01-02T15:04:05.000Z") // a file is read as of now
	e := inspection.Entry{ID: fmt.Sprintf("file-%d", n+1), Inspection: b.Inspection, Seq: int64(n + 1), At: now, By: "file", Kind: kind, Body: body}
	if err := e.Seal(prev); err != nil {
		return err
	}
	b.Entries = append(b.Entries, e)
	return nil
}

func (b *Bundle) readings(r *csv.Reader, tools map[string]*quantity.Instrument) error {
	head, err := r.Read()
	if err != nil {
		return quantity.Invalid("readings", "has no header", "begin with the line path,value,source,u,instrument")
	}
	col := map[string]int{}
	for i, n := range head {
		col[strings.TrimSpace(n)] = i
	}
	for _, must := range []string{"path", "value", "source"} {
		if _, ok := col[must]; !ok {
			return quantity.Invalid("readings", "has no column "+must, "begin with the line path,value,source,u,instrument")
		}
	}
	state, err := inspection.Fold(b.Entries)
	if err != nil {
		return err
	}
	for rows := 0; ; rows++ {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return quantity.Invalid("readings", err.Error(), "correct the line")
		}
		line, _ := r.FieldPos(0)
		if rows == maxReadings {
			return quantity.Invalid("readings", fmt.Sprintf("line %d is one too many", line), fmt.Sprintf("give at most %d", maxReadings))
		}
		fig := map[string]any{"value": scalar(row[col["value"]]), "source": row[col["source"]]}
		if i, ok := col["u"]; ok && row[i] != "" {
			fig["u"] = scalar(row[i])
		}
		if i, ok := col["instrument"]; ok && row[i] != "" {
			fig["instrument"] = row[i]
		}
		value, err := json.Marshal(fig)
		if err != nil {
			return err
		}
		named, err := pick(tools, value)
		if err != nil {
			return fmt.Errorf("readings, line %d: %w", line, err)
		}
		set, err := json.Marshal(inspection.Set{Path: row[col["path"]], Value: value, Instruments: named})
		if err != nil {
			return err
		}
		if err := b.add(inspection.KindSet, set); err != nil {
			return err
		}
		e := &b.Entries[len(b.Entries)-1]
		if err := accept.Accept(state, nil, e); err != nil {
			return fmt.Errorf("readings, line %d: %w", line, err)
		}
		if err := state.Add(e); err != nil {
			return fmt.Errorf("readings, line %d: %w", line, err)
		}
	}
}

// scalar is the cell as a number if it is one, else as a word.
func scalar(s string) any {
	if v, err := quantity.ParseDecimal(s); err == nil {
		return v
	}
	if s == "true" || s == "false" {
		return s == "true"
	}
	return s
}

// maxReadings is how many lines a file of readings has at most.
const maxReadings = 5000
