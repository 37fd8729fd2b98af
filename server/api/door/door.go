// Package door answers for who comes in: the desk opens the room and lets devices in, a device
// asks to be let in and waits.
package door

import (
	"context"
	"errors"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/boombuler/barcode/qr"
	"github.com/danielgtaylor/huma/v2"

	"slatebell/server/api/answer"
	"slatebell/server/room"
	"slatebell/server/store"
)

// JoinPath is where a stranger asks to come in: all that a stranger may ask for.
const JoinPath = "/api/join"

// Cookies of a device. The second one is shown until it is let in.
const (
	DeviceCookie = "slatebell-device"
	waitCookie   = "slatebell-wait"
)

// waits is how long a request waits for the desk to answer; the device asks again.
const waits = 20 * time.Second

// tokenLasts is how long a browser keeps a token, in seconds.
const tokenLasts = 365 * 24 * 60 * 60

// Me is who asks.
type Me struct {
	Desk bool      `json:"desk" doc:"this machine's own page"`
	Name string    `json:"name,omitempty" doc:"under which the device was let in"`
	Role room.Role `json:"role,omitempty" enum:"watches,takes part"`
	Room bool      `json:"room" doc:"the room is open"`
}

// RoomState is the room as the desk sees it.
type RoomState struct {
	room.State
	QR []string `json:"qr,omitempty" nullable:"false" doc:"the code's URL as a QR code, a text of 0 and 1 a row, 1 is dark"`
}

// OpenRequest opens the room, or closes it.
type OpenRequest struct {
	Open    bool   `json:"open"`
	Address string `json:"address,omitempty" maxLength:"100" doc:"HOST or HOST:PORT to listen on; absent: this machine's own on the local network"`
	Keep    bool   `json:"keep,omitempty" doc:"it is opened at the next start too"`
}

// LetIn answers a device that asks.
type LetIn struct {
	Role room.Role `json:"role,omitempty" enum:"watches,takes part" doc:"absent: it is refused"`
}

// JoinRequest asks to come in.
type JoinRequest struct {
	Code string `json:"code" minLength:"1" maxLength:"40" doc:"that the desk shows"`
	Name string `json:"name" minLength:"1" maxLength:"200" doc:"by which the desk knows the device, 1 to 40 characters"`
}

// Standing is how it stands with a device that wants to come in.
type Standing struct {
	State string `json:"state" enum:"waits,in" doc:"waits: for the desk; in: it was let in"`
}

type cookies struct {
	SetCookie []string `header:"Set-Cookie"`
	Body      Standing
}

// cookie writes a cookie that no script reads and no other site sends.
func cookie(ctx context.Context, name, value string, seconds int) string {
	_, secure, _ := room.Through(ctx)
	c := http.Cookie{Name: name, Value: value, Path: "/", MaxAge: seconds, HttpOnly: true, Secure: secure, SameSite: http.SameSiteStrictMode}
	return c.String()
}

// drawn is a text as a QR code of medium error correction.
func drawn(text string) ([]string, error) {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err != nil {
		return nil, err
	}
	size := code.Bounds().Dx()
	rows := make([]string, size)
	for y := range rows {
		var row strings.Builder
		for x := range size {
			if dark, _, _, _ := code.At(x, y).RGBA(); dark == 0 {
				row.WriteByte('1')
			} else {
				row.WriteByte('0')
			}
		}
		rows[y] = row.String()
	}
	return rows, nil
}

func state(r *room.Room) (*answer.Body[RoomState], error) {
	s, err := r.State()
	if err != nil {
		return nil, answer.StoreError(err)
	}
	out := &answer.Body[RoomState]{Body: RoomState{State: s}}
	if s.Code != nil {
		if out.Body.QR, err = drawn(s.Code.URL); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// told turns the room's errors into problem details.
func told(err error) error {
	var wrong *room.WrongCodeError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &wrong), errors.Is(err, room.ErrNoCode), errors.Is(err, room.ErrNotAsked), errors.Is(err, room.ErrClosed):
		return huma.Error403Forbidden(err.Error())
	case errors.Is(err, room.ErrCrowd):
		return huma.NewError(http.StatusTooManyRequests, err.Error())
	case errors.Is(err, room.ErrNobody), errors.Is(err, store.ErrNoDevice):
		return huma.Error404NotFound(err.Error())
	}
	return answer.Refused(err)
}

// DevicePath is the path parameter that names a device.
type DevicePath struct {
	Device uint `path:"device"`
}

// Register registers what is asked of the room.
func Register(api huma.API, r *room.Room) {
	op := func(id, method, path, summary string, errors ...int) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, Errors: errors}
	}
	then := func(err error) (*answer.Body[RoomState], error) {
		if err != nil {
			return nil, told(err)
		}
		return state(r)
	}
	huma.Register(api, op("who-am-i", http.MethodGet, "/api/me", "Who asks"), func(ctx context.Context, _ *struct{}) (*answer.Body[Me], error) {
		w := room.From(ctx)
		s, err := r.State()
		return &answer.Body[Me]{Body: Me{w.Desk, w.Name, w.Role, s.Open}}, answer.StoreError(err)
	})
	huma.Register(api, op("get-room", http.MethodGet, "/api/room", "How the room stands"), func(context.Context, *struct{}) (*answer.Body[RoomState], error) { return state(r) })
	huma.Register(api, op("open-room", http.MethodPost, "/api/room", "Open the room to the local network, or close it", 422), func(_ context.Context, in *struct{ Body OpenRequest }) (*answer.Body[RoomState], error) {
		if !in.Body.Open {
			r.Close()
			return then(r.Keep(false))
		}
		if err := r.Open(in.Body.Address); err != nil {
			return nil, told(err)
		}
		return then(r.Keep(in.Body.Keep))
	})
	huma.Register(api, op("make-code", http.MethodPost, "/api/room/code", "Make a one-time code, in place of the one before", 403), func(context.Context, *struct{}) (*answer.Body[RoomState], error) {
		_, err := r.NewCode()
		return then(err)
	})
	huma.Register(api, op("answer-device", http.MethodPost, "/api/room/asking/{number}", "Let a device in that asks, or refuse it", 404, 422), func(_ context.Context, in *struct {
		Number int `path:"number" minimum:"1"`
		Body   LetIn
	}) (*answer.Body[RoomState], error) {
		return then(r.Answer(in.Number, in.Body.Role))
	})
	huma.Register(api, op("change-device", http.MethodPatch, "/api/room/devices/{device}", "Say what a device may do", 404, 422), func(_ context.Context, in *struct {
		DevicePath
		Body struct {
			Role room.Role `json:"role" enum:"watches,takes part"`
		}
	}) (*answer.Body[RoomState], error) {
		return then(r.SetRole(in.Device, in.Body.Role))
	})
	huma.Register(api, op("remove-device", http.MethodDelete, "/api/room/devices/{device}", "Take a device off the list, and end all that it does", 404), func(_ context.Context, in *DevicePath) (*answer.Body[RoomState], error) {
		return then(r.Remove(in.Device))
	})
	registerJoin(api, r, op)
}

// registerJoin adds all that a stranger may ask.
func registerJoin(api huma.API, r *room.Room, op func(id, method, path, summary string, errors ...int) huma.Operation) {
	huma.Register(api, op("ask-to-join", http.MethodPost, JoinPath, "Ask to be let in, by the code that the desk shows", 403, 422, 429), func(ctx context.Context, in *struct {
		Body JoinRequest
	}) (*cookies, error) {
		ticket, err := r.Join(in.Body.Code, in.Body.Name, remote(ctx))
		if err != nil {
			return nil, told(err)
		}
		return &cookies{[]string{cookie(ctx, waitCookie, ticket, 600)}, Standing{"waits"}}, nil
	})
	huma.Register(api, op("wait-to-join", http.MethodGet, JoinPath, "Wait until the desk has answered", 403), func(ctx context.Context, in *struct {
		Ticket string `cookie:"slatebell-wait"`
	}) (*cookies, error) {
		ctx, done := context.WithTimeout(ctx, waits)
		defer done()
		token, err := r.Wait(ctx, in.Ticket)
		switch {
		case err != nil:
			return nil, told(err)
		case token == "":
			return &cookies{Body: Standing{"waits"}}, nil
		}
		return &cookies{[]string{cookie(ctx, DeviceCookie, token, tokenLasts), cookie(ctx, waitCookie, "", -1)}, Standing{"in"}}, nil
	})
}

type remoteKey struct{}

// WithRemote returns the context of a request that comes from an address.
func WithRemote(ctx context.Context, address string) context.Context {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		host = address
	}
	return context.WithValue(ctx, remoteKey{}, host)
}

func remote(ctx context.Context) string {
	from, _ := ctx.Value(remoteKey{}).(string)
	return from
}
