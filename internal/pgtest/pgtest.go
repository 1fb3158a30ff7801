// Package pgtest runs a PostgreSQL server of its own for tests: Debian's, in a directory of
// the test, reached by a socket in it alone.
package pgtest

import (
	"bytes"
	"errors"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"sync/atomic"
	"syscall"
	"testing"

	"github.com/jackc/pgx/v5"
)

// find looks for one of the server's programs, which Debian keeps out of the path.
func find(name string) (string, error) {
	if p, err := exec.LookPath(name); err == nil {
		return filepath.EvalSymlinks(p)
	}
	all, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name) // the pattern is well formed
	if len(all) == 0 {
		return "", errors.New("PostgreSQL is not installed: run make postgres")
	}
	return all[len(all)-1], nil
}

// Server is a running server.
type Server struct {
	dir, data string
	as        *syscall.Credential // whom it runs as; nil: as the test
	n         atomic.Int64
}

// Start starts a server that ends with the test.
func Start(t testing.TB) *Server {
	t.Helper()
	s, end, err := New()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(end)
	return s
}

// New starts a server that runs until it is ended.
func New() (s *Server, end func(), err error) {
	// A socket's path may have 100 characters.
	dir, err := os.MkdirTemp("/tmp", "jg-pg-")
	if err != nil {
		return nil, nil, err
	}
	s = &Server{dir: dir, data: filepath.Join(dir, "data")}
	end = func() {
		_ = s.Stop() // it may be stopped
		_ = os.RemoveAll(dir)
	}
	if os.Geteuid() == 0 { // it refuses to run as root
		var u *user.User
		if u, err = user.Lookup("postgres"); err == nil {
			uid, _ := strconv.Atoi(u.Uid)
			gid, _ := strconv.Atoi(u.Gid)
			s.as = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
			err = os.Chown(dir, uid, gid)
		}
	}
	if err == nil {
		err = s.run("initdb", "-D", s.data, "-U", "jadegate", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "-N")
	}
	if err == nil {
		err = s.Again()
	}
	if err != nil {
		end()
		return nil, nil, err
	}
	return s, end, nil
}

func (s *Server) run(name string, args ...string) error {
	path, err := find(name)
	if err != nil {
		return err
	}
	cmd := exec.Command(path, args...)
	cmd.Dir = s.dir
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: s.as}
	var out bytes.Buffer
	cmd.Stderr = &out
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%s: %w: %s", name, err, out.String())
	}
	return nil
}

// Stop ends the server hard, and Again starts it anew.
func (s *Server) Stop() error {
	return s.run("pg_ctl", "-D", s.data, "-m", "immediate", "stop")
}

// Again starts a stopped server.
func (s *Server) Again() error {
	return s.run("pg_ctl", "-D", s.data, "-w", "-l", filepath.Join(s.dir, "log"), "-o", "-c listen_addresses='' -k "+s.dir, "start")
}

// Database makes an empty data base and gives its address.
func (s *Server) Database(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("test%d", s.n.Add(1))
	address := func(name string) string {
		u := url.URL{Scheme: "postgres", User: url.User("jadegate"), Path: "/" + name, RawQuery: "host=" + url.QueryEscape(s.dir) + "&sslmode=disable"}
		return u.String()
	}
	c, err := pgx.Connect(t.Context(), address("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	_, err = c.Exec(t.Context(), "CREATE DATABASE "+name)
	if err := errors.Join(err, c.Close(t.Context())); err != nil {
		t.Fatal(err)
	}
	return address(name)
}
