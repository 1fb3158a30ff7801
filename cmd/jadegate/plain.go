package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
	"unicode"
	"unicode/utf16"
)

// printf prints a line of which the parts may come from a file that somebody sent: what in
// them steers a terminal (line ends, escape sequences, changes of direction) is written out.
func printf(format string, args ...any) { fprintf(os.Stdout, format, args...) }

func fprintf(w io.Writer, format string, args ...any) {
	for i, a := range args {
		switch a := a.(type) {
		case string:
			args[i] = plain(a)
		case error:
			args[i] = plain(a.Error())
		case fmt.Stringer:
			args[i] = plain(a.String())
		}
	}
	_, _ = fmt.Fprintf(w, format, args...) // a terminal that is gone has nobody to be told
}

// plain is a text with everything in it that does not print as \u and its UTF-16 units,
// which JSON reads as what it was.
func plain(s string) string {
	if strings.IndexFunc(s, steers) < 0 {
		return s
	}
	var b strings.Builder
	for _, r := range s {
		if !steers(r) {
			b.WriteRune(r)
			continue
		}
		for _, unit := range utf16.Encode([]rune{r}) {
			fmt.Fprintf(&b, `\u%04x`, unit)
		}
	}
	return b.String()
}

func steers(r rune) bool { return !unicode.IsPrint(r) && r != '\u00a0' && r != '\u202f' }

func printJSON(w io.Writer, v any) error {
	var text strings.Builder
	e := json.NewEncoder(&text)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	if err := e.Encode(v); err != nil {
		return err
	}
	for line := range strings.Lines(text.String()) {
		if _, err := io.WriteString(w, plain(strings.TrimSuffix(line, "\n"))+"\n"); err != nil {
			return err
		}
	}
	return nil
}
