// Package yamldoc reads the YAML that people hand in (kit sheets, packs, policies, sheets
// with readings) as plain JSON: no aliases, and bounded in size, depth and number of
// parts, so that a small file cannot take the whole machine.
package yamldoc

import (
	"encoding/json"
	"strings"
	"unicode/utf8"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/lexer"
	"github.com/goccy/go-yaml/parser"
	"github.com/goccy/go-yaml/token"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Bounds of a document (house): the largest that is shipped has a tenth of each.
const (
	maxBytes  = 1 << 20
	maxDepth  = 32
	maxTokens = 60_000
)

// Read gives a document as JSON, and its parts with the lines that they stand in. The
// error names the field (file).
func Read(raw []byte) ([]byte, *ast.File, error) {
	if err := bounded(raw); err != nil {
		return nil, nil, err
	}
	file, err := parser.ParseBytes(raw, 0)
	if err != nil {
		return nil, nil, quantity.Invalid("(file)", say.F("is not YAML: %s", strings.TrimSpace(yaml.FormatError(err, false, true))), "correct the line")
	}
	doc, err := yaml.YAMLToJSON(raw)
	if err != nil {
		return nil, nil, quantity.Invalid("(file)", strings.TrimSpace(yaml.FormatError(err, false, true)), "correct the line")
	}
	if !json.Valid(doc) {
		return nil, nil, quantity.Invalid("(file)", "holds something that has no place in a document", "write plain names, texts, numbers and lists")
	}
	return doc, file, nil
}

// bounded looks at the signs of a document one after the other, before anything follows
// its nesting.
func bounded(raw []byte) error {
	if len(raw) > maxBytes {
		return quantity.Invalid("(file)", say.F("has %d bytes", len(raw)), say.F("give at most %d", maxBytes))
	}
	if !utf8.Valid(raw) {
		return quantity.Invalid("(file)", "is not UTF-8 text", "save it as UTF-8")
	}
	// The lexer itself takes long over a line of brackets alone.
	depth, line := 0, 1
	for _, c := range raw {
		switch c {
		case '\n':
			line++
		case '\t', '\r':
		case '[', '{':
			depth++
		case ']', '}':
			depth = max(0, depth-1)
		default:
			if c < ' ' || c == 0x7f {
				return quantity.Invalid("(file)", say.F("line %d: contains the character %#02x, which no text has", line, c), "take it out")
			}
		}
		if depth > 4*maxDepth {
			return tooDeep(line)
		}
	}
	tokens := lexer.Tokenize(string(raw))
	if len(tokens) > maxTokens {
		return quantity.Invalid("(file)", say.F("has %d parts", len(tokens)), say.F("give at most %d", maxTokens))
	}
	depth, entries, last := 0, 0, 0
	for _, t := range tokens {
		if t.Position.Line != last {
			last, entries = t.Position.Line, 0
		}
		switch t.Type {
		case token.AnchorType, token.AliasType, token.MergeKeyType:
			return quantity.Invalid("(file)", say.F("line %d: refers to another part of itself", t.Position.Line), "write the part out")
		case token.SequenceStartType, token.MappingStartType:
			depth++
		case token.SequenceEndType, token.MappingEndType:
			depth--
		case token.SequenceEntryType, token.MappingKeyType:
			entries++
		}
		// Nesting by indentation takes at least one column a level.
		if depth > maxDepth || entries > maxDepth || t.Position.Column > 1000 && (t.Type == token.SequenceEntryType || t.Type == token.MappingKeyType) ||
			t.Position.IndentNum > 8*maxDepth {
			return tooDeep(t.Position.Line)
		}
	}
	return nil
}

func tooDeep(line int) error {
	return quantity.Invalid("(file)", say.F("line %d: is nested too deep", line), say.F("nest at most %d levels", maxDepth))
}
