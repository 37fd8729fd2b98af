// Package livetest joins a driver to the stand-in, for tests of what drives and asks modules.
package livetest

import (
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/bridge"
	"slatebell/live/drive"
	"slatebell/live/session"
	"slatebell/live/standin"
)

// Joined is a session with the stand-in of a bench, the driver of its first module, and the first screen of that.
type Joined struct {
	*session.Session
	Plan    *bridge.Plan
	Host    *standin.Host
	Module  *drive.Module
	Picture drive.Picture
}

// Join begins a session, which ends with the test.
func Join(t testing.TB, b *bench.Bench) *Joined {
	t.Helper()
	j, err := join(t, b)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { j.Close() })
	return j
}

func join(t testing.TB, b *bench.Bench) (j *Joined, err error) {
	j = &Joined{}
	if j.Host, err = standin.New(b); err != nil {
		return nil, err
	}
	if j.Plan, err = bridge.New(b); err != nil {
		return nil, err
	}
	if j.Module, err = drive.New(j.Plan, b, 0); err != nil {
		return nil, err
	}
	if j.Picture, err = drive.Compose(b, testbed.At{}); err != nil {
		return nil, err
	}
	line, err := j.Host.Open(t.Context())
	if err != nil {
		return nil, err
	}
	j.Session, err = session.Begin(t.Context(), line, session.Options{})
	return j, err
}

// Show shows a picture on a module.
func (j *Joined) Show(t testing.TB, m *drive.Module, p *drive.Picture) {
	t.Helper()
	records, err := m.Show(p)
	if err == nil {
		_, err = j.Do(t.Context(), records, m.IsRead)
	}
	if err != nil {
		t.Fatal(err)
	}
}
