package room

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"time"

	"slatebell/server/store"
)

// device is one that was let in.
type device struct {
	store.Device
	ends map[*context.CancelFunc]bool // of what it has asked for and not got yet
}

// DeviceState is a device as the desk sees it.
type DeviceState struct {
	ID    uint      `json:"id"`
	Name  string    `json:"name"`
	Role  Role      `json:"role" enum:"watches,takes part"`
	LetIn time.Time `json:"letIn"`
	Seen  time.Time `json:"seen" doc:"when it last asked for anything"`
	Here  bool      `json:"here" doc:"it has the page open"`
}

// token returns 128 bits that nobody guesses, and what is kept of them.
func token() (shown string, kept [sha256.Size]byte) {
	var bits [16]byte
	rand.Read(bits[:]) // it never fails
	shown = hex.EncodeToString(bits[:])
	return shown, sha256.Sum256([]byte(shown))
}

// load reads the devices that were let in.
func (r *Room) load() error {
	if r.loaded {
		return nil
	}
	list, err := r.store.Devices()
	if err != nil {
		return err
	}
	for _, d := range list {
		if len(d.Token) == sha256.Size {
			r.devices[[sha256.Size]byte(d.Token)] = &device{Device: d, ends: map[*context.CancelFunc]bool{}}
		}
	}
	r.loaded = true
	return nil
}

// seenEach is how often it is stored that a device was seen.
const seenEach = 10 * time.Minute

// Recognize returns who shows a token, and a context of the request that ends when the device is
// taken off the list; done is called once it is answered. ok is false for a token of nobody.
func (r *Room) Recognize(ctx context.Context, shown string) (_ context.Context, done func(), ok bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if shown == "" || r.load() != nil {
		return ctx, nil, false
	}
	d := r.devices[sha256.Sum256([]byte(shown))]
	if d == nil {
		return ctx, nil, false
	}
	now := r.now()
	if now.Sub(d.Seen) > seenEach {
		go r.store.SeenDevice(d.ID, now) // it is told again where it fails
	}
	d.Seen = now
	ctx, end := context.WithCancel(With(ctx, Who{Device: d.ID, Name: d.Name, Role: Role(d.Role)}))
	d.ends[&end] = true
	return ctx, func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		delete(d.ends, &end)
		end()
	}, true
}

// Remove takes a device off the list and ends all that it does at once; store.ErrNoDevice where there is none.
func (r *Room) Remove(id uint) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if err := r.load(); err != nil {
		return err
	}
	if err := r.store.ForgetDevice(id); err != nil {
		return err
	}
	for token, d := range r.devices {
		if d.ID == id {
			delete(r.devices, token)
			d.end()
		}
	}
	return nil
}

// end ends what a device has asked for and not got yet.
func (d *device) end() {
	for end := range d.ends {
		(*end)()
	}
}

// SetRole says what a device may do from now on; store.ErrNoDevice where there is none.
func (r *Room) SetRole(id uint, role Role) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if err := r.load(); err != nil {
		return err
	}
	for _, d := range r.devices {
		if d.ID != id {
			continue
		}
		next := d.Device
		next.Role = string(role)
		if err := r.store.KeepDevice(&next); err != nil {
			return err
		}
		d.Device = next
		d.end() // its page begins again with what it may do now
		return nil
	}
	return store.ErrNoDevice
}

// sorted lists the devices as the desk sees them, the first that was let in first.
func (r *Room) sorted() []DeviceState {
	out := []DeviceState{}
	for _, d := range r.devices {
		out = append(out, DeviceState{d.ID, d.Name, Role(d.Role), d.LetIn, d.Seen, len(d.ends) > 0})
	}
	slices.SortFunc(out, func(a, b DeviceState) int { return cmp.Compare(a.ID, b.ID) })
	return out
}
