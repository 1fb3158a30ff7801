package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"sync"
	"syscall"
	"time"

	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/internal/api"
	"jadegate/internal/demo"
	"jadegate/internal/instruments"
	"jadegate/internal/rules"
	"jadegate/internal/seal"
	"jadegate/internal/store"
	"jadegate/internal/webui"
	"jadegate/internal/workshop"
)

type serveCmd struct {
	Addr    string `default:"127.0.0.1:8480" help:"Address to listen on; a busy port gives the next free one."`
	DataDir string `default:"data" help:"Directory of the workshop's data."`
	Policy  string `type:"existingfile" help:"House policy (YAML) instead of the shipped one."`
	Packs   string `type:"existingdir" help:"Directory of rule packs (YAML) beside the shipped ones; one of the same id takes its place."`

	Host        []string `help:"Names by which the server is reached beside localhost and its plain address; may be given more than once."`
	Instruments []string `help:"Addresses of devices that speak JSON Lines over TCP (see docs/formats)."`
}

func (c serveCmd) Run() error {
	if err := os.MkdirAll(c.DataDir, 0o750); err != nil {
		return fmt.Errorf("data directory: %w", err)
	}
	w, err := openWorkshop(c.DataDir)
	if err != nil {
		return err
	}
	if err := c.rules(w); err != nil {
		return err
	}
	if err := w.NoteRules(context.Background()); err != nil {
		return err
	}
	return listen(w, c.Addr, c.Host, nil, c.Instruments...)
}

// rules puts the workshop's own policy and packs in force.
func (c serveCmd) rules(w *workshop.Workshop) error {
	if c.Policy != "" {
		raw, err := os.ReadFile(c.Policy)
		if err != nil {
			return err
		}
		if w.House, err = rules.ReadPolicy(raw); err != nil {
			return badFile(c.Policy, err)
		}
	}
	if c.Packs == "" {
		return nil
	}
	files, err := filepath.Glob(filepath.Join(c.Packs, "*.yaml"))
	if err != nil {
		return err
	}
	for _, f := range files {
		raw, err := os.ReadFile(f)
		if err != nil {
			return err
		}
		p, err := rules.ReadPack(raw)
		if err != nil {
			return badFile(f, err)
		}
		w.Packs[p.ID] = p
	}
	return nil
}

type demoCmd struct {
	Addr    string `default:"127.0.0.1:8480" help:"Address to listen on; a busy port gives the next free one."`
	DataDir string `help:"Directory to fill instead of a temporary one: an empty one, or one that a demo left, which goes on from there."`
	Many    int    `help:"Fill it with this many inspections of 150 entries more, to see how a full workshop fares."`
}

func (c demoCmd) Run() error {
	dir := c.DataDir
	if dir == "" {
		var err error
		if dir, err = os.MkdirTemp("", "jadegate-demo-"); err != nil {
			return err
		}
		defer os.RemoveAll(dir) // a demo leaves nothing behind
	} else if err := os.MkdirAll(dir, 0o750); err != nil {
		return err
	}
	full, err := filepath.Glob(filepath.Join(dir, "*"))
	if err != nil {
		return err
	}
	w, err := openWorkshop(dir)
	if err != nil {
		return err
	}
	if len(full) == 0 {
		err = demo.Fill(context.Background(), w)
	} else {
		err = demo.GoOn(context.Background(), w)
	}
	if err != nil {
		_ = w.Store.Close() // the first error says what is wrong
		return fmt.Errorf("demo workshop: %w", err)
	}
	if c.Many != 0 {
		if err := fillMany(w, c.Many); err != nil {
			_ = w.Store.Close() // the first error says what is wrong
			return err
		}
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return fmt.Errorf("the simulated vehicle's address: %w", err)
	}
	stand := instruments.NewStand(demoRate)
	return listen(w, c.Addr, nil, func(ctx context.Context) { _ = stand.Serve(ctx, l) }, l.Addr().String())
}

// fillMany says how far it is.
func fillMany(w *workshop.Workshop, n int) error {
	begin := time.Now()
	err := demo.Many(context.Background(), w, n, func(done int) {
		if done%1000 == 0 || done == n {
			fmt.Printf("%d of %d inspections written, %.0f s\n", done, n, time.Since(begin).Seconds())
		}
	})
	if err == nil {
		fmt.Printf("The board is made, %.0f s\n", time.Since(begin).Seconds())
	}
	return err
}

// demoRate is how often the demo's devices sample, Hz.
const demoRate = 500

type rigCmd struct {
	Listen  string   `default:"127.0.0.1:8490" help:"Address to listen on."`
	Fault   []string `help:"Faults to put in, by name."`
	Rate    float64  `default:"500" help:"Samples a second, 50 to 2000."`
	Vehicle string   `default:"one_motor" help:"What stands on the stand: one_motor, two_motors, two_packs or direct_drive."`
}

// Run runs the simulated vehicle and its devices by themselves.
func (c rigCmd) Run() error {
	if c.Rate < 50 || c.Rate > 2000 {
		return badInput(quantity.Invalid("rate", fmt.Sprintf("is %g", c.Rate), "give 50 to 2000"))
	}
	control := instruments.Control{Vehicle: c.Vehicle, Faults: c.Fault}
	stand := instruments.NewStand(c.Rate)
	if err := stand.Control(control); err != nil {
		return err
	}
	l, err := net.Listen("tcp", c.Listen)
	if err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	fmt.Printf("The simulated vehicle speaks at %s\n", l.Addr())
	return stand.Serve(ctx, l)
}

func openWorkshop(dir string) (*workshop.Workshop, error) {
	s, err := store.Open(dir)
	if err != nil {
		return nil, err
	}
	w := workshop.New(s, policy.Default())
	if w.Key, err = seal.Open(dir); err != nil {
		_ = s.Close() // the first error says what is wrong
		return nil, err
	}
	if err := w.CheckRegisters(context.Background()); err != nil {
		_ = s.Close() // the first error says what is wrong
		return nil, err
	}
	// A data base of an earlier edition has logs whose projections were never made.
	if old, err := s.Unprojected(context.Background()); err != nil || old {
		if err == nil {
			err = w.Rebuild(context.Background())
		}
		if err != nil {
			_ = s.Close() // the first error says what is wrong
			return nil, fmt.Errorf("make the board of an earlier edition's logs anew: %w", err)
		}
	}
	return w, nil
}

type rebuildCmd struct {
	DataDir string `default:"data" help:"Directory of the workshop's data."`
}

func (c rebuildCmd) Run() error {
	w, err := openWorkshop(c.DataDir)
	if err != nil {
		return err
	}
	defer w.Store.Close()
	return w.Rebuild(context.Background())
}

type keyCmd struct {
	DataDir string   `default:"data" help:"Directory of the workshop's data."`
	Show    struct{} `cmd:"" help:"Print the public key, for verify --key."`
	Rotate  struct{} `cmd:"" help:"Put a new key in its place while no server runs; the old one is kept beside it."`
}

func showKey(dir string) error {
	k, err := seal.Open(dir)
	if err != nil {
		return err
	}
	fmt.Println(k.Public())
	return nil
}

func rotateKey(dir string) error {
	s, err := store.Open(dir) // nobody else may be using it
	if err != nil {
		return err
	}
	defer s.Close()
	k, err := seal.Rotate(dir, time.Now())
	if err != nil {
		return err
	}
	fmt.Println(k.Public())
	return nil
}

type backupCmd struct {
	DataDir string `default:"data" help:"Directory of the workshop's data."`
	To      string `help:"File to write; it must not be there. Without it: one named by the time, in the directory backups."`
}

func (c backupCmd) Run() error {
	to := c.To
	if to == "" {
		to = filepath.Join("backups", "jadegate-"+time.Now().Format("2006-01-02T150405")+".db")
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o750); err != nil {
		return fmt.Errorf("directory of the backup: %w", err)
	}
	held, err := store.Backup(context.Background(), c.DataDir, to)
	if err != nil {
		return err
	}
	fmt.Printf("%s: %s, read back and checked\n", to, held)
	return nil
}

type restoreCmd struct {
	From    string `arg:"" type:"existingfile" help:"File that backup wrote."`
	DataDir string `default:"data" help:"Directory to bring it into; it must hold no data base."`
}

func (c restoreCmd) Run() error {
	held, err := store.Restore(context.Background(), c.From, c.DataDir)
	if err != nil {
		return err
	}
	fmt.Printf("%s: %s\n", c.DataDir, held)
	return nil
}

// portsTried is how many ports after the wanted one are tried when it is busy.
const portsTried = 50

// bind listens on the address, or on the next free port.
func bind(addr string) (net.Listener, error) {
	host, p, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, fmt.Errorf("address %q: %w", addr, err)
	}
	port, err := strconv.Atoi(p)
	if err != nil {
		return nil, fmt.Errorf("address %q: the port is not a number", addr)
	}
	for i := 0; ; i++ {
		l, err := net.Listen("tcp", net.JoinHostPort(host, strconv.Itoa(port+i)))
		if err == nil || port == 0 || i == portsTried || !errors.Is(err, syscall.EADDRINUSE) {
			return l, err
		}
	}
}

// listen serves until it is interrupted, then lets running requests end. beside,
// if not nil, runs along; devices are the addresses of instruments to link to.
func listen(w *workshop.Workshop, addr string, hosts []string, beside func(context.Context), devices ...string) error {
	defer w.Store.Close()
	var wg sync.WaitGroup
	defer wg.Wait()
	ui, err := webui.Handler()
	if err != nil {
		return err
	}
	l, err := bind(addr)
	if err != nil {
		return err
	}
	h, _ := api.New(w, ui, api.Options{Hosts: hosts})
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if beside != nil {
		wg.Go(func() { beside(ctx) })
	}
	for _, d := range devices {
		wg.Go(func() { w.Hub.Link(ctx, d) })
	}
	// Requests end with the server, so that streams of events do not hold it up.
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10, BaseContext: func(net.Listener) context.Context { return ctx }}
	fmt.Printf("Jade Gate is at http://%s\n", l.Addr())
	done := make(chan error, 1)
	go func() { done <- srv.Serve(l) }()
	select {
	case err := <-done:
		stop()
		return err
	case <-ctx.Done():
	}
	slog.Info("closing")
	drain, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return srv.Shutdown(drain)
}
