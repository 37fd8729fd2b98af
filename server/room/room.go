// Package room lets other devices of the local network take part: on purpose only, each let in by
// the desk.
//
// The program listens on a second address while the room is open. A device shows that it may come in by a one-time code,
// waits until it is let in by name, and then by a token of its own. What a device may do is said in server/api;
// here is who it is.
package room

import (
	"context"
	"crypto/sha256"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"log"
	"net"
	"net/http"
	"strings"
	"sync"
	"time"

	"slatebell/server/store"
)

// Role is what a device may do.
type Role string

// Roles.
const (
	Watches   Role = "watches"
	TakesPart Role = "takes part"
)

// PlainWord says what plain HTTP means.
const PlainWord = "Over plain HTTP whoever is on the same network and listens can read along, and take a device's place; a certificate (--tls-cert, --tls-key) keeps them out."

// Who asks for something.
type Who struct {
	Desk   bool // it is this machine's own page
	Device uint // 0 for the desk, and for a stranger
	Name   string
	Role   Role
}

// May reports whether somebody may do what needs a role.
func (w Who) May(need Role) bool {
	return w.Desk || w.Device > 0 && (w.Role == TakesPart || need == Watches)
}

type whoKey struct{}

// With returns the context of a request that somebody makes.
func With(ctx context.Context, w Who) context.Context { return context.WithValue(ctx, whoKey{}, w) }

// From returns who makes a request; a stranger where nothing is known.
func From(ctx context.Context) Who {
	w, _ := ctx.Value(whoKey{}).(Who)
	return w
}

// Room is what other devices come in by. Make it with New.
type Room struct {
	store *store.Store
	now   func() time.Time
	tls   *tls.Config
	port  string // it listens on where none is said

	handler http.Handler // of requests that come through the room

	mu      sync.Mutex
	server  *http.Server
	end     context.CancelFunc // of all that is done through it
	address string             // on which it listens
	code    *code
	asking  []*asking
	asked   int // asking devices are numbered from 1
	devices map[[sha256.Size]byte]*device
	loaded  bool
	changed chan struct{} // closed once an answer was given
}

// Options say how a room is opened.
type Options struct {
	Store *store.Store
	Port  string           // on which it listens where none is said
	TLS   *tls.Config      // nil: plain HTTP
	Now   func() time.Time // nil: the wall clock
}

// New returns a room that is not open.
func New(o Options) *Room {
	r := &Room{store: o.Store, port: o.Port, tls: o.TLS, now: o.Now, devices: map[[sha256.Size]byte]*device{}}
	if r.now == nil {
		r.now = time.Now
	}
	return r
}

// Serves sets what answers requests that come through the room.
func (r *Room) Serves(handler http.Handler) { r.handler = handler }

// hereSetting keeps the address on which the room is opened at the next start.
const hereSetting = "room"

// Kept returns the address on which the room is to be opened at a start of the program, or "".
func (r *Room) Kept() string {
	address, err := r.store.Setting(hereSetting)
	if err != nil {
		return ""
	}
	return address
}

// Keep says whether the room is opened at the next start as it is open now.
func (r *Room) Keep(keep bool) error {
	r.mu.Lock()
	address := r.address
	r.mu.Unlock()
	if !keep {
		address = ""
	}
	return r.store.Keep(hereSetting, address)
}

type roomKey struct{}

// Through reports whether a request came through the room, and by which host name the room is to be named.
func Through(ctx context.Context) (host string, secure, ok bool) {
	e, ok := ctx.Value(roomKey{}).(entrance)
	return e.host, e.secure, ok
}

type entrance struct {
	host   string
	secure bool
}

// Open listens on an address as well: HOST, HOST:PORT, or "" for the local network. Where it is
// open already, it moves there.
func (r *Room) Open(address string) error {
	host, listen, err := r.place(address)
	if err != nil {
		return err
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.server != nil && r.address == listen {
		return nil
	}
	listener, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("listening on %s for the room (another program may use it; another address or port may be named): %w", listen, err)
	}
	r.close()
	secure := r.tls != nil
	if secure {
		listener = tls.NewListener(listener, r.tls)
	}
	r.address = listen
	if _, port, err := net.SplitHostPort(listener.Addr().String()); err == nil {
		name, _, _ := net.SplitHostPort(listen)
		r.address = net.JoinHostPort(name, port)
	}
	ctx, end := context.WithCancel(context.WithValue(context.Background(), roomKey{}, entrance{host, secure}))
	r.end = end
	r.server = &http.Server{
		Handler: r.handler, ReadHeaderTimeout: 5 * time.Second, IdleTimeout: time.Minute, MaxHeaderBytes: 64 << 10,
		ErrorLog:    log.New(io.Discard, "", 0), // of strangers who speak something else
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	go r.server.Serve(listener) // it ends with the server
	return nil
}

// Close ends what devices do at once, and listens to this machine only.
func (r *Room) Close() {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.close()
}

func (r *Room) close() {
	if r.server == nil {
		return
	}
	r.server.Close()
	r.end() // open lines are not the server's any more
	r.server, r.code, r.address = nil, nil, ""
	r.asking = nil
	r.tell()
}

func (r *Room) tell() {
	if r.changed != nil {
		close(r.changed)
		r.changed = nil
	}
}

// place reads an address on which to listen.
func (r *Room) place(address string) (host, listen string, err error) {
	host, port := address, r.port
	if h, p, err := net.SplitHostPort(address); err == nil {
		host, port = h, p
	}
	if host == "" {
		all := Addresses()
		if len(all) == 0 {
			return "", "", errors.New("this machine is on no local network; join one, or name an address")
		}
		host = all[0]
	}
	if strings.ContainsAny(host, "/ ") {
		return "", "", fmt.Errorf("address %q; expected HOST or HOST:PORT such as 192.168.1.20:8414", address)
	}
	if ip := net.ParseIP(host); ip != nil && ip.IsUnspecified() {
		return "", "", fmt.Errorf("address %q is every network of this machine; name one of %s", address, strings.Join(Addresses(), ", "))
	}
	return host, net.JoinHostPort(host, port), nil
}

// Addresses lists this machine's addresses on local networks, those of IPv4 first.
func Addresses() (out []string) {
	all, err := net.InterfaceAddrs()
	if err != nil {
		return nil
	}
	var six []string
	for _, a := range all {
		ip, ok := a.(*net.IPNet)
		switch {
		case !ok || ip.IP.IsLoopback() || ip.IP.IsLinkLocalUnicast():
		case ip.IP.To4() != nil:
			out = append(out, ip.IP.String())
		case ip.IP.IsPrivate():
			six = append(six, ip.IP.String())
		}
	}
	return append(out, six...)
}

// State is how the room stands.
type State struct {
	Open      bool          `json:"open"`
	URL       string        `json:"url,omitempty" doc:"what a device opens"`
	Secure    bool          `json:"secure" doc:"by TLS"`
	Warning   string        `json:"warning,omitempty" doc:"what plain HTTP means"`
	Addresses []string      `json:"addresses" nullable:"false" doc:"of this machine on local networks"`
	Kept      bool          `json:"kept" doc:"it is opened at the next start too"`
	Code      *CodeState    `json:"code,omitempty"`
	Asking    []AskingState `json:"asking" nullable:"false"`
	Devices   []DeviceState `json:"devices" nullable:"false"`
}

// State returns how the room stands.
func (r *Room) State() (State, error) {
	kept := r.Kept() != ""
	r.mu.Lock()
	defer r.mu.Unlock()
	if err := r.load(); err != nil {
		return State{}, err
	}
	out := State{Open: r.server != nil, URL: r.url(), Secure: r.tls != nil, Addresses: append([]string{}, Addresses()...), Kept: kept, Asking: []AskingState{}, Devices: r.sorted()}
	if r.tls == nil {
		out.Warning = PlainWord
	}
	if c := r.valid(); c != nil {
		out.Code = r.codeState(c)
	}
	for _, a := range r.asking {
		if !a.answered {
			out.Asking = append(out.Asking, AskingState{a.number, a.name, a.from})
		}
	}
	return out, nil
}

func (r *Room) url() string {
	if r.server == nil {
		return ""
	}
	scheme := "http"
	if r.tls != nil {
		scheme = "https"
	}
	return scheme + "://" + r.address + "/"
}
