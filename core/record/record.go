// Package record makes a log tamper-evident: canonical JSON (RFC 8785) and a
// chain of SHA-256 hashes over it.
package record

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/tidwall/gjson"

	"jadegate/core/say"
)

// Canonical rewrites a JSON text in the canonical form of RFC 8785: members
// sorted by UTF-16 code units, numbers in the shortest form of ECMAScript, no
// space. Numbers are read as float64, as the RFC has it. Of a member that is there
// twice the last counts. What is nested deeper than a hundred values is refused.
func Canonical(raw []byte) ([]byte, error) {
	if !json.Valid(raw) {
		var v any
		return nil, say.Errorf("canonical JSON: %w", json.Unmarshal(raw, &v))
	}
	return appendValue(make([]byte, 0, len(raw)), gjson.ParseBytes(raw), 0)
}

// deepest is how many values may stand one inside the other; each level is read over once
// more.
const deepest = 100

func appendValue(b []byte, v gjson.Result, depth int) (_ []byte, err error) {
	if depth > deepest {
		return nil, say.Errorf("canonical JSON: more than %d values one inside the other", deepest)
	}
	switch v.Type {
	case gjson.Null:
		return append(b, "null"...), nil
	case gjson.False, gjson.True:
		return append(b, v.Raw...), nil
	case gjson.String:
		s, err := text(v.Raw)
		return quote(b, s), err
	case gjson.Number:
		f, err := strconv.ParseFloat(v.Raw, 64)
		if err != nil || math.IsInf(f, 0) {
			return nil, say.Errorf("canonical JSON: %s is not a number that can be held", v.Raw)
		}
		return append(b, number(f)...), nil
	}
	if v.IsArray() {
		return appendArray(b, v, depth+1)
	}
	return appendObject(b, v, depth+1)
}

func appendArray(b []byte, v gjson.Result, depth int) (_ []byte, err error) {
	b = append(b, '[')
	first := true
	v.ForEach(func(_, e gjson.Result) bool {
		if !first {
			b = append(b, ',')
		}
		first = false
		b, err = appendValue(b, e, depth)
		return err == nil
	})
	return append(b, ']'), err
}

func appendObject(b []byte, v gjson.Result, depth int) (_ []byte, err error) {
	type member struct {
		key   string
		value gjson.Result
	}
	var members []member
	v.ForEach(func(key, value gjson.Result) bool {
		var k string
		k, err = text(key.Raw)
		members = append(members, member{k, value})
		return err == nil
	})
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(members, func(x, y member) int { return compare16(x.key, y.key) })
	b = append(b, '{')
	for i, m := range members {
		if i+1 < len(members) && members[i+1].key == m.key {
			continue
		}
		if b[len(b)-1] != '{' {
			b = append(b, ',')
		}
		b = append(quote(b, m.key), ':')
		if b, err = appendValue(b, m.value, depth); err != nil {
			return nil, err
		}
	}
	return append(b, '}'), nil
}

// text reads a JSON string; most are as they stand.
func text(raw string) (string, error) {
	if s := raw[1 : len(raw)-1]; !strings.ContainsRune(s, '\\') && utf8.ValidString(s) {
		return s, nil
	}
	var s string
	err := json.Unmarshal([]byte(raw), &s)
	return s, err
}

// compare16 orders by UTF-16 code units. Up to U+D7FF they are ordered as the bytes of
// UTF-8 are.
func compare16(a, b string) int {
	n := 0
	for n < len(a) && n < len(b) && a[n] == b[n] {
		n++
	}
	if n == len(a) || n == len(b) || a[n] < 0xed && b[n] < 0xed {
		return cmp.Compare(a, b)
	}
	return slices.Compare(utf16.Encode([]rune(a)), utf16.Encode([]rune(b)))
}

func quote(b []byte, s string) []byte {
	b = append(b, '"')
	for i := 0; i < len(s); i++ { // what is escaped is one byte long
		switch c := s[i]; c {
		case '"', '\\':
			b = append(b, '\\', c)
		case '\b':
			b = append(b, `\b`...)
		case '\t':
			b = append(b, `\t`...)
		case '\n':
			b = append(b, `\n`...)
		case '\f':
			b = append(b, `\f`...)
		case '\r':
			b = append(b, `\r`...)
		default:
			if c < 0x20 {
				b = fmt.Appendf(b, `\u%04x`, c)
			} else {
				b = append(b, c)
			}
		}
	}
	return append(b, '"')
}

// number writes a float as ECMAScript's Number::toString does.
func number(f float64) string {
	if f == 0 {
		return "0"
	}
	if a := math.Abs(f); a >= 1e21 || a < 1e-6 {
		s := strconv.FormatFloat(f, 'e', -1, 64)
		// Go writes e-07 and e+21; ECMAScript e-7 and e+21.
		if n := len(s); n >= 4 && s[n-2] == '0' && (s[n-3] == '-' || s[n-3] == '+') {
			s = s[:n-2] + s[n-1:]
		}
		return s
	}
	return strconv.FormatFloat(f, 'f', -1, 64)
}

// Genesis is the hash before the first entry of a chain.
const Genesis = "0000000000000000000000000000000000000000000000000000000000000000"

// Hash chains one entry, given as JSON without its hash: the SHA-256, in hex,
// of the hash before it and the entry's canonical form.
func Hash(prev string, entry []byte) (string, error) {
	c, err := Canonical(entry)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	h.Write([]byte(prev))
	h.Write(c)
	return hex.EncodeToString(h.Sum(nil)), nil
}

// Digest is the SHA-256 of data, in hex.
func Digest(data []byte) string {
	h := sha256.Sum256(data)
	return hex.EncodeToString(h[:])
}

// Single refuses a JSON text in which an object has a member twice: of one such text two
// readers may take different things. The error names the member with what it stands in.
func Single(raw []byte) error {
	if !json.Valid(raw) {
		var v any
		return say.Errorf("canonical JSON: %w", json.Unmarshal(raw, &v))
	}
	return single(gjson.ParseBytes(raw), "", 0)
}

func single(v gjson.Result, path string, depth int) (err error) {
	if !v.IsObject() && !v.IsArray() {
		return nil
	}
	if depth > deepest {
		return say.Errorf("canonical JSON: more than %d values one inside the other", deepest)
	}
	seen, n := map[string]bool{}, 0
	v.ForEach(func(key, value gjson.Result) bool {
		k := strconv.Itoa(n)
		if n++; v.IsObject() {
			if k, err = text(key.Raw); err == nil && seen[k] {
				err = say.Errorf("%q is there twice", strings.TrimPrefix(path+"."+k, "."))
			}
			seen[k] = true
		}
		if err == nil {
			err = single(value, path+"."+k, depth+1)
		}
		return err == nil
	})
	return err
}
