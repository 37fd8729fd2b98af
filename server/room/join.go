package room

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"slatebell/server/store"
)

// A code ends after codeLasts, or codeTries wrong ones; it lets one device ask.
const (
	codeLasts = 2 * time.Minute
	codeTries = 5
	codeSigns = 8
)

// signs are what a code is written in: none is taken for another.
const signs = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"

// Bounds of those who wait to be let in.
const (
	mostAsking  = 16
	askingLasts = 5 * time.Minute
	// LongestName is how many characters the name of a device has at most.
	LongestName = 40
)

// code is a one-time code.
type code struct {
	text  string
	until time.Time
	tries int // wrong ones that are left
}

// CodeState is a code as the desk shows it.
type CodeState struct {
	Text  string    `json:"text" doc:"as it is typed"`
	URL   string    `json:"url" doc:"with the code, as it is scanned"`
	Until time.Time `json:"until"`
	Tries int       `json:"tries" doc:"wrong ones that are left"`
}

// asking is a device that waits to be let in.
type asking struct {
	number   int
	name     string
	from     string // its address
	ticket   [sha256.Size]byte
	since    time.Time
	answered bool
	role     Role // where it was let in
}

// AskingState is a device that asks to be let in.
type AskingState struct {
	Number int    `json:"number"`
	Name   string `json:"name" doc:"that it gave itself"`
	From   string `json:"from" doc:"its address"`
}

// Errors of those who want to come in.
var (
	ErrClosed   = errors.New("the room is not open")
	ErrNoCode   = errors.New("there is no code to come in by now: a code lasts two minutes, five tries and one device; ask for a new one at the desk")
	ErrCrowd    = errors.New("too many devices wait to be let in; the desk is to answer them first")
	ErrNotAsked = errors.New("this device does not wait to be let in any more; ask for a new code at the desk")
	ErrNobody   = errors.New("no device of that number waits")
)

// WrongCodeError says that a code is not the one that is shown.
type WrongCodeError struct{ Left int }

func (e *WrongCodeError) Error() string {
	if e.Left == 0 {
		return "this is not the code, and it has ended now; ask for a new one at the desk"
	}
	return fmt.Sprintf("this is not the code that the desk shows; %d tries are left", e.Left)
}

// NewCode makes a code, which takes the place of the one before.
func (r *Room) NewCode() (*CodeState, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.server == nil {
		return nil, ErrClosed
	}
	var text strings.Builder
	for range codeSigns {
		n, err := rand.Int(rand.Reader, big.NewInt(int64(len(signs))))
		if err != nil {
			return nil, fmt.Errorf("making a code: %w", err)
		}
		text.WriteByte(signs[n.Int64()])
	}
	r.code = &code{text.String(), r.now().Add(codeLasts), codeTries}
	return r.codeState(r.code), nil
}

func (r *Room) codeState(c *code) *CodeState {
	return &CodeState{c.text, r.url() + "join#" + c.text, c.until, c.tries}
}

// valid returns the code that can still be used, or nil.
func (r *Room) valid() *code {
	if r.code != nil && (r.code.tries == 0 || !r.now().Before(r.code.until)) {
		r.code = nil
	}
	return r.code
}

// Join lets a device ask to come in by a code. The ticket, 128 bits, is what it waits with.
func (r *Room) Join(text, name, from string) (ticket string, err error) {
	name = strings.Join(strings.Fields(strings.Map(printable, name)), " ")
	if n := utf8.RuneCountInString(name); n == 0 || n > LongestName {
		return "", fmt.Errorf("a device is let in by its name; expected 1 to %d characters", LongestName)
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	c := r.valid()
	if c == nil {
		return "", ErrNoCode
	}
	text = strings.ToUpper(strings.Map(sign, text))
	if subtle.ConstantTimeCompare([]byte(text), []byte(c.text)) != 1 {
		c.tries--
		return "", &WrongCodeError{c.tries}
	}
	r.settle()
	if len(r.asking) >= mostAsking {
		return "", ErrCrowd
	}
	r.code = nil // it was used
	r.asked++
	ticket, kept := token()
	r.asking = append(r.asking, &asking{number: r.asked, name: name, from: from, ticket: kept, since: r.now()})
	return ticket, nil
}

// printable puts a space for what a name cannot show.
func printable(c rune) rune {
	if unicode.IsPrint(c) {
		return c
	}
	return ' '
}

// sign drops what people put between the signs of a code.
func sign(c rune) rune {
	if unicode.IsSpace(c) || c == '-' {
		return -1
	}
	return c
}

// settle drops those who have waited too long.
func (r *Room) settle() {
	r.asking = slices.DeleteFunc(r.asking, func(a *asking) bool { return r.now().Sub(a.since) > askingLasts })
}

// Answer lets a device in that asks, or refuses it with no role; ErrNobody where none of that number asks.
func (r *Room) Answer(number int, role Role) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	i := slices.IndexFunc(r.asking, func(a *asking) bool { return a.number == number && !a.answered })
	if i < 0 {
		return ErrNobody
	}
	r.asking[i].answered, r.asking[i].role = true, role
	if role == "" {
		r.asking = slices.Delete(r.asking, i, i+1)
	}
	r.tell()
	return nil
}

// Wait waits for the answer to a device that asks. The token, 128 bits, is what it comes in with from now
// on; it is "" where the context ended first. Its error is ErrNotAsked where it was refused, or waited too long.
func (r *Room) Wait(ctx context.Context, ticket string) (string, error) {
	for {
		shown, wait, err := r.answered(ticket)
		if err != nil || shown != "" {
			return shown, err
		}
		select {
		case <-wait:
		case <-ctx.Done():
			return "", nil
		}
	}
}

// answered returns the token of a device that was let in, or what to wait for.
func (r *Room) answered(ticket string) (shown string, wait <-chan struct{}, err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.settle()
	kept := sha256.Sum256([]byte(ticket))
	i := slices.IndexFunc(r.asking, func(a *asking) bool { return a.ticket == kept })
	if i < 0 {
		return "", nil, ErrNotAsked
	}
	a := r.asking[i]
	if !a.answered {
		if r.changed == nil {
			r.changed = make(chan struct{})
		}
		return "", r.changed, nil
	}
	shown, hashed := token()
	now := r.now()
	d := &device{Device: store.Device{Name: a.name, Role: string(a.role), Token: hashed[:], LetIn: now, Seen: now}, ends: map[*context.CancelFunc]bool{}}
	if err := r.load(); err != nil {
		return "", nil, err
	}
	if err := r.store.KeepDevice(&d.Device); err != nil {
		return "", nil, err
	}
	r.asking = slices.Delete(r.asking, i, i+1)
	r.devices[hashed] = d
	return shown, nil, nil
}
