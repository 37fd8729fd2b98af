package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"runtime"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"slatebell/server/api"
	"slatebell/server/browse"
	"slatebell/server/demo"
	"slatebell/server/doctor"
	"slatebell/server/idle"
	"slatebell/server/journal"
	"slatebell/server/room"
	"slatebell/server/store"
	"slatebell/web"
)

// graceful is how long open requests may take once the program is told to stop.
const graceful = 5 * time.Second

// quiet is how long nobody asks for anything before memory is given back.
const quiet = 10 * time.Second

// hourly is how often is looked whether the copy of the day is due.
const hourly = time.Hour

func newServe(std stdio) *cobra.Command {
	c := &cobra.Command{Use: "serve", Short: "Serve the application (the default)", Args: noArgs}
	addr := addrFlag(c)
	data := dataFlag(c)
	withDemo := c.Flags().Bool("demo", false, "begin with the demo bench, where it is not there yet")
	r := roomFlags{}
	c.Flags().StringVar(&r.address, "room", "", "let devices of the local network in, by a code; =HOST or =HOST:PORT names the address for them (default: this machine's own)")
	c.Flags().Lookup("room").NoOptDefVal = roomAnywhere
	c.Flags().StringVar(&r.cert, "tls-cert", "", "certificate of the room's address, a PEM file: devices then speak HTTPS")
	c.Flags().StringVar(&r.key, "tls-key", "", "private key of --tls-cert, a PEM file")
	noBrowser := c.Flags().Bool("no-browser", false, "do not open the page in the browser")
	named := c.Flags().StringArray("port", nil, "a serial port that the page offers beside those that this computer lists, such as a pseudo-terminal")
	c.RunE = func(*cobra.Command, []string) error {
		return serve(*addr, *data, *withDemo, *named, !*noBrowser, r, std)
	}
	return c
}

// addrFlag adds --addr.
func addrFlag(c *cobra.Command) *string {
	return c.Flags().String("addr", "127.0.0.1:8414", "address to listen on; :0 takes a free port")
}

// dataFlag adds --data.
func dataFlag(c *cobra.Command) *string {
	data := c.Flags().String("data", "", "directory of the database (default: slatebell in the user's configuration directory)")
	c.MarkFlagDirname("data") // fails for a flag that is not there
	return data
}

// dataDir returns the directory of the database.
func dataDir(data string) (string, error) {
	if data != "" {
		return data, nil
	}
	config, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("no place for the database; name one with --data: %w", err)
	}
	return filepath.Join(config, "slatebell"), nil
}

func openStore(data string) (*store.Store, error) {
	dir, err := dataDir(data)
	if err != nil {
		return nil, err
	}
	return store.Open(dir)
}

func serve(addr, data string, withDemo bool, named []string, show bool, r roomFlags, std stdio) error {
	ctx, cancel := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer cancel()
	host, port, err := net.SplitHostPort(addr)
	if err != nil {
		return wrong(exitUsage, "address %q; expected HOST:PORT such as 127.0.0.1:8414", addr)
	}
	secure, err := r.tls()
	if err != nil {
		return err
	}
	dir, err := dataDir(data)
	if err != nil {
		return err
	}
	log, file := journal.Open(dir)
	defer file.Close()
	db, err := store.Open(dir)
	if err != nil {
		log.Error("not started", "why", err)
		return err
	}
	defer db.Close()
	for _, what := range db.Mended() {
		log.Warn("damaged on the disk, and put right from its kept state", "what", what)
		fmt.Fprintf(std.err, "slatebell: %s was damaged on the disk, and is put right; look whether that disk is in order.\n", what)
	}
	if err := db.Writable(); err != nil {
		log.Warn("read only", "why", err)
		fmt.Fprintf(std.err, "slatebell: %v. Until then changes stay in the page.\n", err)
	} else if err := seed(db, withDemo); err != nil {
		return err
	}
	var files fs.FS
	if built, ok := web.Files(); ok {
		files = built
	}
	var hosts []string
	if ip := net.ParseIP(host); host != "" && (ip == nil || !ip.IsUnspecified()) {
		hosts = append(hosts, host)
	}
	listener, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("listening on %s (another program may use it; choose one with --addr): %w", addr, err)
	}
	if _, p, err := net.SplitHostPort(listener.Addr().String()); err == nil {
		port = p
	}
	people := room.New(room.Options{Store: db, Port: port, TLS: secure})
	app := api.New(api.Options{Store: db, Files: files, Hosts: hosts, Ports: named, Room: people, Log: log, About: doctor.Options{Program: thisProgram(), Dir: dir, Ports: named}})
	defer app.Close()
	defer people.Close()
	watched := idle.Watch(app, quiet, app.Rest)
	people.Serves(watched) // who comes through the room is somebody too
	app.Serves(watched)
	opened, err := r.open(people, std)
	if err != nil {
		return err
	}
	fmt.Fprintf(std.out, "Slate Bell is at http://%s/ — stop it with Ctrl+C\n", listener.Addr())
	fmt.Fprint(std.out, opened)
	if show {
		browse.Open("http://" + listener.Addr().String() + "/")
	}
	log.Info("started", "version", versionText(), "system", runtime.GOOS+"/"+runtime.GOARCH, "at", listener.Addr().String())
	go db.CopyNightly(ctx, hourly, func(name string, err error) {
		if err != nil {
			log.Error("no copy of the night", "why", err)
			return
		}
		log.Info("copied", "to", name)
	})
	idle.LimitMemory()
	err = serveUntilDone(ctx, listener, watched, app.EndWatches, std)
	if err != nil {
		log.Error("stopped", "why", err)
		return err
	}
	log.Info("stopped")
	return nil
}

// seed makes sure that the demo's bench is there, where it is asked for. One that was put into
// the bin is not made again.
func seed(db *store.Store, withDemo bool) error {
	if !withDemo {
		return nil // the page begins with its three questions
	}
	records, err := db.List()
	if err != nil {
		return err
	}
	binned, err := db.Bin()
	if err != nil {
		return err
	}
	first := demo.Archive()
	for _, r := range append(records, binned...) {
		if r.Bench.Name == first.Name {
			return nil
		}
	}
	_, err = db.Create(first.Bench, first.Log...)
	return err
}

// serveUntilDone serves until the context is done, then lets open requests end; ends ends those that would not by themselves.
func serveUntilDone(ctx context.Context, listener net.Listener, handler http.Handler, ends func(), std stdio) error {
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 5 * time.Second, IdleTimeout: time.Minute, ErrorLog: log.New(std.err, "http: ", 0)}
	server.RegisterOnShutdown(ends)
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(listener) }()
	select {
	case err := <-failed:
		return fmt.Errorf("serving: %w", err)
	case <-ctx.Done():
	}
	stop, done := context.WithTimeout(context.Background(), graceful)
	defer done()
	if err := server.Shutdown(stop); err != nil && !errors.Is(err, http.ErrServerClosed) {
		return fmt.Errorf("stopping: %w", err)
	}
	return nil
}
