package picture

import (
	"bytes"
	"context"
	"encoding/gob"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"runtime/debug"
	"strconv"
	"time"

	"golang.org/x/sys/unix"

	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// What a picture may take (house): the largest one that is let in needs some 600 MB.
const (
	seconds = 20 // of the processor
	patient = 30 * time.Second
)

// memory is how much the work may take, bytes; tests make it small.
var memory uint64 = 1024 << 20

// worker is set in the environment of the process that does the work, to its memory.
const worker = "JADEGATE_PICTURE_WORKER"

// answer is what the process writes.
type answer struct {
	Made          *Made
	Problem, Want string
}

// Work does the work and ends the process if this is the process for it. A program that
// calls Apart calls it first.
func Work() {
	if v := os.Getenv(worker); v != "" {
		most, err := strconv.ParseUint(v, 10, 64)
		if err != nil {
			os.Exit(2)
		}
		os.Exit(work(most))
	}
}

func work(memory uint64) int {
	// What may be written to is counted; what the runtime and the C library only set
	// aside is much more and says little.
	for what, most := range map[int]uint64{unix.RLIMIT_DATA: memory, unix.RLIMIT_AS: 4 * memory, unix.RLIMIT_CPU: seconds, unix.RLIMIT_CORE: 0} {
		if err := unix.Setrlimit(what, &unix.Rlimit{Cur: most, Max: most}); err != nil {
			fmt.Fprintln(os.Stderr, "limit:", err)
			return 2
		}
	}
	debug.SetMemoryLimit(int64(memory / 2)) // it collects before it is at the wall
	data, err := read(os.Stdin, MaxBytes)
	var a answer
	if err == nil {
		a.Made, err = Make(data)
	}
	if f := schema.FieldErrors(err); len(f) > 0 {
		a.Problem, a.Want, err = f[0].Problem, f[0].Want, nil
	}
	if err == nil {
		err = gob.NewEncoder(os.Stdout).Encode(a)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 2
	}
	return 0
}

// turns lets a few pictures be worked on at a time.
var turns = make(chan struct{}, 2)

// Apart is Make in a process of its own with a limit on memory and time, a few at a time.
// A picture that ends that process is refused by name; nothing else notices.
func Apart(ctx context.Context, data []byte) (*Made, error) {
	if _, err := check(data); err != nil {
		return nil, err
	}
	select {
	case turns <- struct{}{}:
		defer func() { <-turns }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	exe, err := os.Executable()
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, patient)
	defer cancel()
	cmd := exec.CommandContext(ctx, exe)
	cmd.Env = []string{worker + "=" + strconv.FormatUint(memory, 10), "GOMAXPROCS=1", "MALLOC_ARENA_MAX=1"}
	var out, said bytes.Buffer
	cmd.Stdin, cmd.Stdout, cmd.Stderr = bytes.NewReader(data), &out, &said
	if err := cmd.Run(); err != nil {
		var ended *exec.ExitError
		if !errors.As(err, &ended) {
			return nil, err // it could not be begun: no fault of the picture
		}
		slog.WarnContext(ctx, "a picture ended its process", "error", err, "bytes", len(data), "said", firstLine(said.Bytes()))
		return nil, quantity.Invalid("photo", "takes more memory or time than a picture may", "upload a smaller one")
	}
	var a answer
	if err := gob.NewDecoder(&out).Decode(&a); err != nil {
		return nil, err
	}
	if a.Made == nil {
		return nil, quantity.Invalid("photo", a.Problem, a.Want)
	}
	return a.Made, nil
}

func firstLine(b []byte) string {
	line, _, _ := bytes.Cut(b, []byte("\n"))
	return string(line[:min(len(line), 200)])
}
