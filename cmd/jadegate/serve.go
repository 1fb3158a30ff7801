package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"sync"
	"syscall"
	"time"

	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/internal/account"
	"jadegate/internal/api"
	"jadegate/internal/backups"
	"jadegate/internal/demo"
	"jadegate/internal/instruments"
	"jadegate/internal/rules"
	"jadegate/internal/seal"
	"jadegate/internal/store"
	"jadegate/internal/webui"
	"jadegate/internal/workshop"
)

// dataFlags say where a workshop's data is.
type dataFlags struct {
	DataDir  string `default:"data" help:"Directory of the workshop's data: its data base, unless --database names another, and its key."`
	Database string `help:"Connection address of a PostgreSQL data base (postgres://…) in place of a file in the directory; several servers may share it."`
	Files    string `help:"Where photos and recordings are kept in place of the data base: a directory that all servers share, or s3://HOST/BUCKET (key and secret from AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY)."`
}

type serveCmd struct {
	Addr string `default:"127.0.0.1:8480" help:"Address to listen on; a busy port gives the next free one."`
	dataFlags
	Policy string `type:"existingfile" help:"House policy (YAML) instead of the shipped one."`
	Packs  string `type:"existingdir" help:"Directory of rule packs (YAML) beside the shipped ones; one of the same id takes its place."`

	Host        []string `help:"Names by which the server is reached beside localhost and its plain address; may be given more than once."`
	TLSCert     string   `type:"existingfile" and:"tls" help:"Certificate chain (PEM) to serve by TLS; read anew when it changes."`
	TLSKey      string   `type:"existingfile" and:"tls" help:"Its key (PEM)."`
	Proxy       []string `help:"Address ranges (CIDR) of proxies in front that speak TLS to the outside: their word on a client's address is taken, and cookies go over TLS alone."`
	MetricsAddr string   `help:"Address at which Prometheus may read counters; left out: nowhere."`
	LogFormat   string   `enum:"text,json" default:"text" help:"Lines on standard error: text or json."`

	BackupDir     string        `help:"Directory for scheduled backups; left out: none are made."`
	BackupEvery   time.Duration `default:"24h" help:"How old the newest backup may grow."`
	BackupDaily   int           `default:"7" help:"Of how many last days that have a backup the newest is kept."`
	BackupWeekly  int           `default:"4" help:"The same of weeks."`
	BackupMonthly int           `default:"12" help:"The same of months."`

	Instruments []string `help:"Addresses of devices that speak JSON Lines over TCP (see docs/formats)."`
}

func (c serveCmd) Run() error {
	w, err := openWorkshop(c.dataFlags)
	if err != nil {
		return err
	}
	if err := c.rules(w); err != nil {
		return err
	}
	if err := w.NoteRules(context.Background()); err != nil {
		return err
	}
	at, err := c.site()
	if err != nil {
		_ = w.Store.Close() // the first error says what is wrong
		return err
	}
	var beside func(context.Context)
	if c.BackupDir != "" {
		plan := backups.Plan{Dir: c.BackupDir, Every: c.BackupEvery, Daily: c.BackupDaily, Weekly: c.BackupWeekly, Monthly: c.BackupMonthly}
		beside = func(ctx context.Context) {
			plan.Run(ctx, func(ctx context.Context, to string) error {
				held, err := store.Backup(ctx, c.DataDir, to)
				for _, f := range held.Faults {
					slog.ErrorContext(ctx, "not as it was written", "inspection", f.Inspection, "what", f.What, "backup", to)
				}
				return err
			}, at.Metrics.BackedUp)
		}
	}
	return listen(w, at, beside, c.Instruments...)
}

// site is where a server stands.
type site struct {
	api.Options
	addr        string
	dataDir     string
	metricsAddr string
	tls         *tls.Config // nil: plain HTTP
}

// site checks where the server is to stand.
func (c serveCmd) site() (site, error) {
	at := site{Options: api.Options{Hosts: c.Host, Proxies: c.Proxy, Secure: c.TLSCert != "" || len(c.Proxy) > 0, Metrics: api.NewMetrics()}, addr: c.Addr,
		dataDir: c.DataDir, metricsAddr: c.MetricsAddr}
	if c.LogFormat == "json" {
		slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
	}
	for _, p := range c.Proxy {
		if _, err := netip.ParsePrefix(p); err != nil {
			return at, badInput(quantity.Invalid("proxy", fmt.Sprintf("%q is no address range", p), "give one as 192.0.2.7/32"))
		}
	}
	if c.BackupDir != "" && c.Database+c.Files != "" {
		return at, badInput(quantity.Invalid("backup_dir", "is for the data base in the data directory alone",
			"back up PostgreSQL and the files by their own means (docs/operations.md)"))
	}
	if c.BackupDir != "" && (c.BackupEvery < time.Minute || c.BackupDaily < 0 || c.BackupWeekly < 0 || c.BackupMonthly < 0) {
		return at, badInput(quantity.Invalid("backup_every", "is out of range", "give at least 1m, and numbers of backups from 0 up"))
	}
	if c.TLSCert != "" {
		k := &keyPair{cert: c.TLSCert, key: c.TLSKey}
		if _, err := k.get(nil); err != nil {
			return at, fmt.Errorf("tls: %w", err)
		}
		at.tls = &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: k.get}
	}
	return at, nil
}

// keyPair is a certificate that is read anew when its file changes, so that a renewed one
// is served without a new start.
type keyPair struct {
	cert, key string

	mu   sync.Mutex
	at   time.Time
	pair *tls.Certificate
}

func (k *keyPair) get(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	f, err := os.Stat(k.cert)
	if err == nil && k.pair != nil && f.ModTime().Equal(k.at) {
		return k.pair, nil
	}
	var pair tls.Certificate
	if err == nil {
		pair, err = tls.LoadX509KeyPair(k.cert, k.key)
	}
	if err != nil {
		if k.pair != nil {
			slog.Error("the new certificate cannot be read; the old one is served on", "error", err)
			return k.pair, nil
		}
		return nil, err
	}
	k.at, k.pair = f.ModTime(), &pair
	return k.pair, nil
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
		p.Reviewed = nil // not for a file to say
		w.Packs[p.ID] = p
	}
	return nil
}

type demoCmd struct {
	Addr    string `default:"127.0.0.1:8480" help:"Address to listen on; a busy port gives the next free one."`
	DataDir string `help:"Directory to fill instead of a temporary one: an empty one, or one that a demo left, which goes on from there."`
	Others  bool   `name:"let-others-in" help:"Take an address that other machines reach: a demo lets in whoever comes."`
	Many    int    `help:"Fill it with this many inspections of 150 entries more, to see how a full workshop fares."`
}

func (c demoCmd) Run() error {
	host, _, err := net.SplitHostPort(c.Addr)
	if err != nil {
		return fmt.Errorf("address %q: %w", c.Addr, err)
	}
	if ip, err := netip.ParseAddr(host); !c.Others && host != "localhost" && (err != nil || !ip.IsLoopback()) {
		return badInput(quantity.Invalid("addr", fmt.Sprintf("%q is reached by other machines, and a demo lets in whoever comes", c.Addr),
			"add --let-others-in, or give an address of this machine alone, as 127.0.0.1:8480"))
	}
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
	w, err := openWorkshop(dataFlags{DataDir: dir})
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
	stand.Watched = w.Hub.Listening
	return listen(w, site{addr: c.Addr, dataDir: dir}, func(ctx context.Context) { _ = stand.Serve(ctx, l) }, l.Addr().String())
}

// fillMany says how far it is.
func fillMany(w *workshop.Workshop, n int) error {
	begin := time.Now()
	err := demo.Many(context.Background(), w, n, func(done int) {
		if done%1000 == 0 || done == n {
			printf("%d of %d inspections written, %.0f s\n", done, n, time.Since(begin).Seconds())
		}
	})
	if err == nil {
		printf("The board is made, %.0f s\n", time.Since(begin).Seconds())
	}
	return err
}

// demoRate is how often the demo's devices sample, Hz.
const demoRate = 500

type rigCmd struct {
	Listen  string   `default:"127.0.0.1:8490" help:"Address to listen on."`
	Fault   []string `help:"Faults to put in, by name."`
	Rate    float64  `default:"500" help:"Samples a second, 50 to 2000."`
	Vehicle string   `default:"one_motor" help:"What stands on the stand: one_motor, two_motors, two_packs, mid_drive, rolling_start or direct_drive."`
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
	printf("The simulated vehicle speaks at %s\n", l.Addr())
	return stand.Serve(ctx, l)
}

func openStore(d dataFlags) (*store.Store, error) {
	if err := os.MkdirAll(d.DataDir, 0o750); err != nil {
		return nil, fmt.Errorf("data directory: %w", err)
	}
	var s *store.Store
	var err error
	if d.Database != "" {
		s, err = store.OpenPostgres(d.Database)
	} else {
		s, err = store.Open(d.DataDir)
	}
	if err == nil && d.Files != "" {
		if s.Files, err = store.OpenFiles(d.Files); err != nil {
			_ = s.Close() // the first error says what is wrong
		}
	}
	return s, err
}

func openWorkshop(d dataFlags) (*workshop.Workshop, error) {
	s, err := openStore(d)
	if err != nil {
		return nil, err
	}
	w := workshop.New(s, policy.Default())
	if w.Key, err = seal.Open(d.DataDir); err != nil {
		_ = s.Close() // the first error says what is wrong
		return nil, err
	}
	if w.Book.Secrets, err = account.OpenSecrets(d.DataDir); err != nil {
		_ = s.Close() // the first error says what is wrong
		return nil, err
	}
	if _, err := w.CheckLogs(context.Background()); err != nil {
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

type rebuildCmd struct{ dataFlags }

func (c rebuildCmd) Run() error {
	if !store.Exists(c.DataDir) && c.Database == "" {
		return quantity.Invalid("data-dir", c.DataDir+" holds no data", "give the directory of the workshop's data")
	}
	w, err := openWorkshop(c.dataFlags)
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
		to = filepath.Join("backups", backups.Name(time.Now()))
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o750); err != nil {
		return fmt.Errorf("directory of the backup: %w", err)
	}
	held, err := store.Backup(context.Background(), c.DataDir, to)
	if err != nil {
		return err
	}
	printf("%s: %s, read back and checked\n", to, held)
	return nameFaults(held)
}

type checkCmd struct {
	DataDir string `default:"data" help:"Directory of the workshop's data; a server may be running on it."`
	File    string `arg:"" optional:"" type:"existingfile" help:"A backup in its place."`
}

// Run names all that is not as it was written.
func (c checkCmd) Run() error {
	held, err := store.Holding{}, error(nil)
	if c.File != "" {
		held, err = store.CheckBackup(context.Background(), c.File)
	} else {
		held, err = store.CheckDir(context.Background(), c.DataDir)
	}
	for _, f := range held.Faults {
		printf("%s\n", f)
	}
	switch {
	case len(held.Faults) > 0:
		printf("%d faults in %s\n", len(held.Faults), held)
		return exit(exitJudged)
	case err != nil:
		return err
	}
	printf("all as it was written: %s\n", held)
	return nil
}

// nameFaults tells what is damaged in single inspections of what was copied.
func nameFaults(held store.Holding) error {
	for _, f := range held.Faults {
		printf("damaged, and copied as it is: %s\n", f)
	}
	if len(held.Faults) > 0 {
		return exit(exitJudged)
	}
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
	printf("%s: %s\n", c.DataDir, held)
	return nameFaults(held)
}

// portsTried is how many ports after the wanted one are tried when it is busy.
const portsTried = 50

// openPort listens on the address, or on the next free port.
func openPort(addr string) (net.Listener, error) {
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

// memoryAim is from where on the server's memory is cleared up without waiting, bytes, so that
// it gets by with 512 MB; GOMEMLIMIT sets another.
const memoryAim = 352 << 20

// drainWithin is how long requests may go on once the server is told to end.
const drainWithin = 4 * time.Second

// emptied makes a directory that nobody else may read, without what a server that fell over
// left in it.
func emptied(dir string) (string, error) {
	return dir, errors.Join(os.RemoveAll(dir), os.MkdirAll(dir, 0o700))
}

// listen serves until it is interrupted, then lets running requests end. beside,
// if not nil, runs along; devices are the addresses of instruments to link to.
func listen(w *workshop.Workshop, at site, beside func(context.Context), devices ...string) error {
	defer w.Store.Close()
	var wg sync.WaitGroup
	defer wg.Wait()
	ui, err := webui.Handler()
	if err != nil {
		return err
	}
	if at.Temporary, err = emptied(filepath.Join(at.dataDir, "tmp")); err != nil {
		return err
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryAim)
	}
	l, err := openPort(at.addr)
	if err != nil {
		return err
	}
	h, _ := api.New(w, ui, at.Options)
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if beside != nil {
		wg.Go(func() { beside(ctx) })
	}
	wg.Go(func() { w.Follow(ctx) })
	for _, d := range devices {
		wg.Go(func() { w.Hub.Link(ctx, d) })
	}
	// Requests end with the server, so that streams of events do not hold it up.
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10,
		BaseContext: func(net.Listener) context.Context { return ctx }}
	if at.metricsAddr != "" {
		end, err := serveMetrics(at)
		if err != nil {
			return errors.Join(err, l.Close())
		}
		defer end()
	}
	done := make(chan error, 1)
	if at.tls != nil {
		srv.TLSConfig = at.tls
		printf("Jade Gate is at https://%s\n", l.Addr())
		go func() { done <- srv.ServeTLS(l, "", "") }()
	} else {
		printf("Jade Gate is at http://%s\n", l.Addr())
		go func() { done <- srv.Serve(l) }()
	}
	select {
	case err := <-done:
		stop()
		return err
	case <-ctx.Done():
	}
	slog.Info("closing")
	drain, cancel := context.WithTimeout(context.Background(), drainWithin)
	defer cancel()
	if err := srv.Shutdown(drain); !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return srv.Close() // what still runs was not acknowledged, and is sent again
}

// serveMetrics lets the counters be read at an address of their own.
func serveMetrics(at site) (end func(), err error) {
	l, err := net.Listen("tcp", at.metricsAddr)
	if err != nil {
		return nil, fmt.Errorf("address of the counters: %w", err)
	}
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", at.Metrics.Handler())
	srv := &http.Server{Handler: mux, ReadHeaderTimeout: 10 * time.Second, WriteTimeout: 30 * time.Second}
	go func() { _ = srv.Serve(l) }() // ends with the server
	return func() { _ = srv.Close() }, nil
}
