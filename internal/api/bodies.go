package api

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"jadegate/core/say"
)

// Bounds of request bodies, bytes: what people type; an entry; one with a recorded ride in
// it; a long trace or ride.
const (
	maxBody  = 1 << 20
	maxTyped = 256 << 10
	maxEntry = 16 << 20
	maxTrace = 64 << 20
)

// bodyTimeout is how long a body may take to come.
const bodyTimeout = 2 * time.Minute

// beside is how much of a JSON body may stand beside the one file in it. A recording or a
// ride is one long text; a body that is long in any other way takes many times its length
// to read.
var beside = map[string]int64{"open": maxTyped, "append": maxTyped, "calculate": maxBody}

// spooled is a request whose body has come whole.
type spooled struct {
	asked
	body io.Reader
}

// asked is a name to embed it by: huma.Context has a method Context.
type asked huma.Context

func (s spooled) BodyReader() io.Reader { return s.body }

// Unwrap gives the request as it came.
func (s spooled) Unwrap() huma.Context { return s.asked }

// spool takes in the body of an operation that may have a long one: a long one waits on the
// disk until it is its turn, since one alone takes a good part of the memory.
func (s *Server) spool(ctx huma.Context, next func(huma.Context)) {
	o := ctx.Operation()
	if o.MaxBodyBytes <= maxBody && beside[o.OperationID] == 0 {
		next(ctx)
		return
	}
	if err := ctx.SetReadDeadline(time.Now().Add(bodyTimeout)); err != nil && !errors.Is(err, http.ErrNotSupported) {
		refuse(ctx, &Problem{Title: say.T("Cannot be read"), Status: http.StatusInternalServerError})
		return
	}
	var head bytes.Buffer
	switch _, err := io.CopyN(&head, ctx.BodyReader(), maxTyped+1); {
	case errors.Is(err, io.EOF):
		next(spooled{ctx, &head})
		return
	case err != nil:
		refuse(ctx, &Problem{Title: say.T("Cannot be read"), Status: http.StatusRequestTimeout, Detail: say.T("the request ended before its end: send it again")})
		return
	}
	f, err := os.CreateTemp(s.temporary, "body-")
	if err != nil {
		refuse(ctx, asProblem(ctx.Context(), err))
		return
	}
	defer os.Remove(f.Name()) // in a directory that is emptied at the next start
	defer f.Close()           // read by then
	n, err := io.Copy(f, io.MultiReader(&head, io.LimitReader(ctx.BodyReader(), o.MaxBodyBytes-int64(head.Len())+1)))
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		refuse(ctx, asProblem(ctx.Context(), err))
		return
	}
	bound, what := o.MaxBodyBytes, n
	if b := beside[o.OperationID]; b > 0 && n <= bound {
		longest, err := longestText(f)
		if err == nil {
			_, err = f.Seek(0, io.SeekStart)
		}
		if err != nil {
			refuse(ctx, asProblem(ctx.Context(), err))
			return
		}
		bound, what = b, n-longest
	}
	if what > bound {
		refuse(ctx, &Problem{Title: say.T("Too large"), Status: http.StatusRequestEntityTooLarge,
			Detail: say.F("what is handed in holds more than %s: hand in less at once, or a shorter recording", size(bound))})
		return
	}
	if err := s.heavy.enter(ctx.Context(), who(ctx.Context()).ID); err != nil {
		refuse(ctx, asProblem(ctx.Context(), err))
		return
	}
	defer s.heavy.leave()
	next(spooled{ctx, f})
}

func size(n int64) string {
	if n >= 1<<20 {
		return fmt.Sprintf("%d MiB", n>>20)
	}
	return fmt.Sprintf("%d KiB", n>>10)
}

// longestText is the length of the longest string in a JSON text, with its quotes. What is
// no JSON gives any length: it is refused later.
func longestText(r io.Reader) (longest int64, err error) {
	in := bufio.NewReaderSize(r, 64<<10)
	var now int64
	inside, escaped := false, false
	for {
		c, err := in.ReadByte()
		if errors.Is(err, io.EOF) {
			return longest, nil
		}
		if err != nil {
			return 0, err
		}
		switch {
		case !inside:
			inside, now = c == '"', 1
			continue
		case escaped:
			escaped = false
		case c == '\\':
			escaped = true
		case c == '"':
			inside = false
		}
		if now++; !inside {
			longest = max(longest, now)
		}
	}
}
