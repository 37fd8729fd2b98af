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
	"syscall"
	"time"

	"slatebell/core/bench"
	"slatebell/server/api"
	"slatebell/server/demo"
	"slatebell/server/store"
	"slatebell/web"
)

// graceful is how long open requests may take once the program is told to stop.
const graceful = 5 * time.Second

func serve(args []string, std stdio) error {
	f := newFlags("serve")
	addr := f.String("addr", "127.0.0.1:8414", "address to listen on; :0 takes a free port")
	data := f.String("data", "", "directory of the database (default: slatebell in the user's configuration directory)")
	withDemo := f.Bool("demo", false, "begin with the demo bench, where it is not there yet")
	if err := parse(f, args, std); err != nil {
		return err
	}
	host, _, err := net.SplitHostPort(*addr)
	if err != nil {
		return wrong(exitUsage, "address %q; expected HOST:PORT such as 127.0.0.1:8414", *addr)
	}
	if *data == "" {
		config, err := os.UserConfigDir()
		if err != nil {
			return fmt.Errorf("no place for the database; name one with --data: %w", err)
		}
		*data = filepath.Join(config, "slatebell")
	}
	db, err := store.Open(*data)
	if err != nil {
		return err
	}
	defer db.Close()
	if err := seed(db, *withDemo); err != nil {
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
	handler := api.New(api.Options{Store: db, Files: files, Hosts: hosts})

	listener, err := net.Listen("tcp", *addr)
	if err != nil {
		return fmt.Errorf("listening on %s (another program may use it; choose one with --addr): %w", *addr, err)
	}
	fmt.Fprintf(std.out, "Slate Bell is at http://%s/ — stop it with Ctrl+C\n", listener.Addr())
	return serveUntilStopped(listener, handler, std)
}

// seed makes sure that there is a bench to open.
func seed(db *store.Store, withDemo bool) error {
	records, err := db.List()
	if err != nil {
		return err
	}
	first := bench.New("My bench")
	if withDemo {
		first = demo.Bench()
		for _, r := range records {
			if r.Bench.Name == first.Name {
				return nil
			}
		}
	} else if len(records) > 0 {
		return nil
	}
	_, err = db.Create(first)
	return err
}

// serveUntilStopped serves until SIGTERM or an interrupt, then lets open
// requests end.
func serveUntilStopped(listener net.Listener, handler http.Handler, std stdio) error {
	ctx, cancel := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer cancel()
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 5 * time.Second, IdleTimeout: time.Minute, ErrorLog: log.New(std.err, "http: ", 0)}
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

func printSchema(args []string, std stdio) error {
	f := newFlags("schema")
	of := f.String("of", "program", "document: bench or program")
	if err := parse(f, args, std); err != nil {
		return err
	}
	doc, err := api.Schema(*of)
	if err != nil {
		return wrong(exitUsage, "%w", err)
	}
	return writeIndented(std.out, doc)
}

func printOpenAPI(args []string, std stdio) error {
	if err := parse(newFlags("openapi"), args, std); err != nil {
		return err
	}
	doc, err := api.OpenAPI()
	if err != nil {
		return err
	}
	return writeIndented(std.out, doc)
}
