package main

import (
	"cmp"
	"context"
	"fmt"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/quoting"
	"slatebell/formats/eventcsv"
	"slatebell/formats/scantext"
	"slatebell/live/conduct"
	"slatebell/live/dial"
	"slatebell/live/drive"
	"slatebell/live/perform"
	"slatebell/live/ports"
	"slatebell/live/protocol"
	"slatebell/live/session"
	"slatebell/live/standin"
)

func newPorts(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "ports", Short: "List the serial ports of this computer, and the stand-in", Args: noArgs,
		Long:    "List the serial ports of this computer, those of USB first, with what is known of what is at\nthem, and the stand-in, which is always there. No port is opened by it.",
		Example: "  slatebell ports",
	}
	c.RunE = func(*cobra.Command, []string) error {
		list, err := ports.List()
		for _, p := range list {
			fmt.Fprintf(std.out, "%s\t%s\n", quoting.Line(p.Name), quoting.Line(p.What))
		}
		return err
	}
	return c
}

// liveFlags are what live is told.
type liveFlags struct {
	port, module, screen, events string
	show, scan, inputs           bool
}

func newLive(std stdio) *cobra.Command {
	var f liveFlags
	c := &cobra.Command{
		Use: "live BENCH.json --port NAME [--module ID] [--screen ID | --show]", Short: "Drive the real modules of a bench through a bridge on their host",
		Long: "Drive the real modules of a bench through the bridge on their host, which slatebell export --as bridge\nwrites: each module shows a screen, its first one where none is named, or with --show plays its show by the\nhost's own buttons and knobs. What is done is printed, a line each, until Ctrl-C; the pins are then at rest.\n" +
			"With --scan the bus is asked who answers, and the addresses are printed, as a scanner does; the exit code is 1\nwhere none does. Opening a port resets many boards. --port stand-in is a simulated host, wired as the bench says.",
		Example: "  slatebell live boathouse.json --port /dev/ttyUSB0 --module gate\n  slatebell live boathouse.json --port stand-in --module gate --show --events-out evening.csv\n  slatebell live --scan --port /dev/ttyACM0",
		Args: func(c *cobra.Command, args []string) error {
			if len(args) == 1 || f.scan && len(args) == 0 {
				return nil
			}
			return wrong(exitUsage, "%d arguments; expected a bench document: %s", len(args), c.UseLine())
		},
	}
	c.Flags().StringVar(&f.port, "port", "", "serial port, as slatebell ports lists them, or stand-in")
	c.Flags().StringVar(&f.module, "module", "", "id of the module; all of them where absent, with --show its only one")
	c.Flags().StringVar(&f.screen, "screen", "", "id of the screen that the module shows; its first one where absent")
	c.Flags().BoolVar(&f.show, "show", false, "play the module's show")
	c.Flags().StringVar(&f.events, "events-out", "", "file that what happened to the inputs is written to, as slatebell play reads it")
	c.Flags().BoolVar(&f.scan, "scan", false, "ask the bus who answers, and end")
	c.Flags().BoolVar(&f.inputs, "release", false, "at the end let go of all lines; where absent the glass keeps what it shows")
	c.RunE = func(_ *cobra.Command, args []string) error {
		b := bench.New("scan")
		if len(args) == 1 {
			var err error
			if b, err = readBench(args[0], std.in); err != nil {
				return err
			}
		}
		if err := f.check(); err != nil {
			return err
		}
		ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
		defer stop()
		return live(ctx, std, &b, &f)
	}
	return c
}

// check refuses flags that do not go together.
func (f *liveFlags) check() error {
	switch {
	case f.port == "":
		return wrong(exitUsage, "no port is named; expected --port with one of those that slatebell ports lists, or stand-in")
	case f.show && f.screen != "":
		return wrong(exitUsage, "--show and --screen; a show chooses its screens itself")
	case f.events != "" && !f.show:
		return wrong(exitUsage, "--events-out without --show; only a show hears events")
	}
	return nil
}

func live(ctx context.Context, std stdio, b *bench.Bench, f *liveFlags) error {
	open, _, err := dial.Port(b, f.port)
	if err != nil {
		return wrong(exitUsage, "%w", err)
	}
	o := session.Options{Greeting: protocol.Greeting{Silence: dial.Silence}}
	if f.inputs {
		o.Greeting.AtRest = protocol.Inputs
	}
	c, err := conduct.New(b, open, o)
	if err != nil {
		return wrong(exitUsage, "%w", err)
	}
	work, end := context.WithCancel(ctx)
	defer end()
	ended := make(chan error, 1)
	go func() { ended <- c.Run(work) }()
	told := make(chan struct{}, 1)
	c.Watch(work, told)
	p := printer{std: std, port: f.port, c: c, b: b, begun: time.Now()}
	if f.scan {
		err = p.scan(work, told)
	} else {
		err = p.drive(work, told, f, ended)
	}
	end()
	select {
	case also := <-ended:
		err = cmp.Or(err, also)
	case <-time.After(2 * time.Second):
	}
	if !f.scan {
		p.say("the pins are at rest")
	}
	return err
}

// printer prints what live does.
type printer struct {
	std   stdio
	port  string
	c     *conduct.Conductor
	b     *bench.Bench
	begun time.Time
	was   string
	shown []string // of each module what was said last
}

func (p *printer) say(format string, args ...any) {
	fmt.Fprintf(p.std.out, "%8.3f s  %s\n", time.Since(p.begun).Seconds(), quoting.Line(fmt.Sprintf(format, args...)))
}

// state says what has changed.
func (p *printer) state() {
	s := p.c.State()
	line := map[conduct.Phase]string{
		conduct.Opening: "opening " + p.port, conduct.Gone: p.port + ": " + s.Why, conduct.Foreign: p.port + ": " + s.Why, conduct.Other: p.port + ": " + s.Why,
		conduct.Here: fmt.Sprintf("%s: the bridge of an %s, %d modules", p.port, s.Bridge.Part, s.Bridge.Modules),
	}[s.Phase]
	if line != "" && line != p.was {
		p.say("%s", line)
		p.was = line
	}
	if p.shown == nil {
		p.shown = make([]string, len(s.Modules))
	}
	for i, m := range s.Modules {
		line := ""
		switch {
		case m.Trouble != "":
			line = m.Trouble
		case m.Holds && !m.Waits:
			line = "shown"
		}
		if line != "" && line != p.shown[i] {
			p.say("%s: %s", cmp.Or(p.b.Modules[i].Name, p.b.Modules[i].ID), line)
		}
		p.shown[i] = line
	}
}

// scan waits for the bridge, and asks the bus.
func (p *printer) scan(ctx context.Context, told <-chan struct{}) error {
	ask, cancel := context.WithTimeout(ctx, 8*time.Second)
	defer cancel()
	go func() { // a port that cannot be opened is not waited for
		for p.c.State().Phase != conduct.Gone {
			select {
			case <-told:
			case <-ask.Done():
				return
			}
		}
		cancel()
	}()
	found, err := p.c.Scan(ask)
	if err != nil {
		if s := p.c.State(); s.Why != "" && ctx.Err() == nil {
			return wrong(exitFailed, "%s: %s", p.port, s.Why)
		}
		return wrong(exitFailed, "%s: %w", p.port, err)
	}
	for _, a := range found {
		fmt.Fprint(p.std.out, scantext.Line(a))
	}
	if len(found) == 0 {
		return wrong(exitFailed, "no device answers: are SDA and SCL on their pins, pulled up, and is ground joined?")
	}
	return nil
}

// drive shows screens, or a show, until the context ends.
func (p *printer) drive(ctx context.Context, told <-chan struct{}, f *liveFlags, ended chan error) error {
	var show *perform.Show
	at := -1
	var err error
	if f.module != "" || f.show || f.screen != "" {
		if at, err = moduleOf(p.b, f.module); err != nil {
			return err
		}
	}
	if f.show {
		if show, err = perform.New(p.b, at); err != nil {
			return wrong(exitUsage, "%w", err)
		}
		for _, id := range show.Unheard() {
			p.say("%s is not heard: it is on no pin, or its serial line is the one to this computer", id)
		}
	} else if err := p.wish(at, f.screen); err != nil {
		return err
	}
	err = p.follow(ctx, told, show, at, ended)
	if show == nil || f.events == "" {
		return err
	}
	out, werr := os.Create(f.events)
	if werr != nil {
		return cmp.Or(err, werr)
	}
	defer out.Close()
	return cmp.Or(err, eventcsv.Write(out, show.Events(), p.b.Modules[at].Show.Inputs), out.Close())
}

// wish wishes for a screen of a module, or for the first ones of all.
func (p *printer) wish(at int, screen string) error {
	for i := range p.b.Modules {
		if at >= 0 && i != at {
			continue
		}
		s, err := screenOf(&p.b.Modules[i], screen)
		if err != nil {
			return err
		}
		picture, err := drive.Compose(p.b, testbed.At{Module: i, Screen: s})
		if err != nil {
			return wrong(exitUsage, "%w", err)
		}
		if err := p.c.Wish(i, picture); err != nil {
			return err
		}
	}
	return nil
}

// screenOf finds a screen by its id; the first one where none is named.
func screenOf(m *bench.Module, id string) (int, error) {
	var ids []string
	for i := range m.Screens {
		if m.Screens[i].ID == id || id == "" {
			return i, nil
		}
		ids = append(ids, m.Screens[i].ID)
	}
	return 0, wrong(exitUsage, "--screen %q is not of this module; expected one of %s", id, strings.Join(ids, ", "))
}

// follow prints what is done, and plays the show, until the context ends.
func (p *printer) follow(ctx context.Context, told <-chan struct{}, show *perform.Show, at int, ended chan error) error {
	failed := make(chan error, 1)
	if show != nil {
		go show.Run(ctx, p.c, at, func(err error) {
			select {
			case failed <- err:
			default:
			}
		})
	}
	for {
		select {
		case <-ctx.Done():
			return nil
		case err := <-ended:
			ended <- nil
			return wrong(exitFailed, "%s: %w", p.port, err)
		case <-told:
			p.state()
		case err := <-failed:
			p.say("%v", err)
		}
	}
}

func newBridge(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "bridge --stand-in BENCH.json", Short: "Offer a simulated host and its modules on a pseudo-terminal",
		Long:    "Offer a simulated host, wired to its modules as a bench says, on a pseudo-terminal, whose name is printed: other\nprograms open it as they open a board's serial port. It speaks as a bridge does (docs/live.md), until Ctrl-C. The\nbridge for a real host is written by slatebell export --as bridge.",
		Example: "  slatebell bridge --stand-in boathouse.json", Args: noArgs,
	}
	name := c.Flags().String("stand-in", "", "the bench document")
	c.RunE = func(*cobra.Command, []string) error {
		if *name == "" {
			return wrong(exitUsage, "no bench is named; expected --stand-in BENCH.json")
		}
		b, err := readBench(*name, std.in)
		if err != nil {
			return err
		}
		host, err := standin.New(&b)
		if err != nil {
			return wrong(exitUsage, "%s: %w", *name, err)
		}
		ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
		defer stop()
		return host.Terminal(ctx, func(port string) { fmt.Fprintln(std.out, port) })
	}
	return c
}
