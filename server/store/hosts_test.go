package store

import (
	"testing"

	"slatebell/core/bench"
)

// TestHosts keeps the boards that makers described: the last of a name, none of the table or the bin,
// and nothing of the bench that it stood on.
func TestHosts(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	put := func(part string, bits int, pins ...bench.HostPin) uint {
		t.Helper()
		b := bench.New("Pier")
		b.Host = bench.Host{Part: part, BearsMV: 3300, Supply: bench.HostFeed{From: "usb3"}, Plugged: true, Pins: pins, Facts: bench.HostFigures{Bits: bits}}
		rec, err := s.Create(b)
		if err != nil {
			t.Fatal(err)
		}
		return rec.ID
	}
	pin := bench.HostPin{Label: "P1", Can: []string{"SDA"}}
	put("Quay board", 8, pin)
	put("Quay board", 12, pin)
	put("Empty board", 12)
	put("RP2040", 12, pin)
	if err := s.Discard(put("Old board", 12, pin)); err != nil {
		t.Fatal(err)
	}
	hosts, err := s.Hosts()
	if err != nil || len(hosts) != 1 {
		t.Fatalf("%+v, %v", hosts, err)
	}
	if h := hosts[0]; h.Part != "Quay board" || h.Facts.Bits != 12 || h.BearsMV != 3300 || len(h.Pins) != 1 || h.Supply.From != "" || h.Plugged {
		t.Errorf("%+v", h)
	}
}
