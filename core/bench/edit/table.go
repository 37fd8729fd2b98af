package edit

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/finding"
)

// SetHost puts another host on the bench, and leaves its pins to other edits.
type SetHost struct{ Host bench.Host }

// Apply carries the edit out.
func (e SetHost) Apply(b *bench.Bench) { b.Host = e.Host }

// Patch returns the edit as a patch.
func (e SetHost) Patch(b *bench.Bench) finding.Patch {
	return finding.Patch{finding.Test("/host", b.Host), finding.Replace("/host", e.Host)}
}

// SetBus changes the bus.
type SetBus struct{ Bus bench.Bus }

// Apply carries the edit out.
func (e SetBus) Apply(b *bench.Bench) { b.Bus = e.Bus }

// Patch returns the edit as a patch.
func (e SetBus) Patch(b *bench.Bench) finding.Patch {
	return finding.Patch{finding.Test("/bus", b.Bus), finding.Replace("/bus", e.Bus)}
}

// SetWiring lays the breadboards anew.
type SetWiring struct{ Wiring bench.Wiring }

// Apply carries the edit out.
func (e SetWiring) Apply(b *bench.Bench) { b.Wiring = e.Wiring }

// Patch returns the edit as a patch, which replaces whatever lies there.
func (e SetWiring) Patch(*bench.Bench) finding.Patch {
	return finding.Patch{finding.Add("/wiring", e.Wiring)}
}

// AddModule puts a module behind the last one.
type AddModule struct{ Module bench.Module }

// Apply carries the edit out.
func (e AddModule) Apply(b *bench.Bench) { b.Modules = append(slices.Clip(b.Modules), e.Module) }

// Patch returns the edit as a patch.
func (e AddModule) Patch(*bench.Bench) finding.Patch {
	return finding.Patch{finding.Add("/modules/-", e.Module)}
}

// ofModule is the path of something of a module, and the test that the module is the one that an
// edit was made for.
func ofModule(b *bench.Bench, at int, what string) (path string, owner finding.Op) {
	path = fmt.Sprintf("/modules/%d", at)
	return path + what, finding.Test(path+"/id", b.Modules[at].ID)
}

// SetDisplay changes what a module is.
type SetDisplay struct {
	Module  int // index of the module
	Display bench.Display
}

// Apply carries the edit out.
func (e SetDisplay) Apply(b *bench.Bench) { module(b, e.Module).Display = e.Display }

// Patch returns the edit as a patch.
func (e SetDisplay) Patch(b *bench.Bench) finding.Patch {
	path, owner := ofModule(b, e.Module, "/display")
	return change(path, b.Modules[e.Module].Display, e.Display, owner)
}

// SetFitting changes the parts around a module's header.
type SetFitting struct {
	Module  int
	Fitting bench.Fitting
}

// Apply carries the edit out.
func (e SetFitting) Apply(b *bench.Bench) { module(b, e.Module).Fitting = e.Fitting }

// Patch returns the edit as a patch.
func (e SetFitting) Patch(b *bench.Bench) finding.Patch {
	path, owner := ofModule(b, e.Module, "/fitting")
	return change(path, b.Modules[e.Module].Fitting, e.Fitting, owner)
}

// SetLink joins a module in another way.
type SetLink struct {
	Module int
	Link   bench.Link
}

// Apply carries the edit out.
func (e SetLink) Apply(b *bench.Bench) { module(b, e.Module).Link = e.Link }

// Patch returns the edit as a patch.
func (e SetLink) Patch(b *bench.Bench) finding.Patch {
	path, owner := ofModule(b, e.Module, "/link")
	return change(path, b.Modules[e.Module].Link, e.Link, owner)
}

// SetPins puts the lines of a module's link on pins of the host.
type SetPins struct {
	Module int
	Pins   map[string]string // label by line; none: not chosen
}

// Apply carries the edit out.
func (e SetPins) Apply(b *bench.Bench) { module(b, e.Module).Link.Pins = e.Pins }

// Patch returns the edit as a patch.
func (e SetPins) Patch(b *bench.Bench) finding.Patch {
	path, owner := ofModule(b, e.Module, "/link/pins")
	return change(path, b.Modules[e.Module].Link.Pins, e.Pins, owner)
}

// SetHostVoltage says what the host's pins of a link bear.
type SetHostVoltage struct {
	Module int
	MV     int // millivolts; 0: what the host's pins bear
}

// Apply carries the edit out.
func (e SetHostVoltage) Apply(b *bench.Bench) { module(b, e.Module).Link.HostMV = e.MV }

// Patch returns the edit as a patch.
func (e SetHostVoltage) Patch(b *bench.Bench) finding.Patch {
	path, owner := ofModule(b, e.Module, "/link/hostMV")
	return change(path, b.Modules[e.Module].Link.HostMV, e.MV, owner)
}

// Answerer is what has an address on the bus: a backpack, a device, or the multiplexer.
type Answerer struct {
	Kind  AnswererKind
	Index int // of the module or the device
}

// AnswererKind says which list an Answerer is in.
type AnswererKind int

// The kinds of answerers.
const (
	Backpack AnswererKind = iota // of a module
	Device
	Multiplexer
)

// Path returns the RFC 6901 pointer to what answers: its module, its device, or the multiplexer.
func (a Answerer) Path() string {
	switch a.Kind {
	case Backpack:
		return fmt.Sprintf("/modules/%d", a.Index)
	case Device:
		return fmt.Sprintf("/devices/%d", a.Index)
	}
	return "/bus/multiplexer"
}

// AddressPath returns the pointer to its address.
func (a Answerer) AddressPath() string { return a.member("address") }

// member returns the pointer to a member that says how it is on the bus.
func (a Answerer) member(name string) string {
	if a.Kind == Backpack {
		return a.Path() + "/link/outputs/" + name
	}
	return a.Path() + "/" + name
}

func (a Answerer) owner(b *bench.Bench) finding.Op {
	switch a.Kind {
	case Backpack:
		return finding.Test(a.Path()+"/id", b.Modules[a.Index].ID)
	case Device:
		return finding.Test(a.Path()+"/id", b.Devices[a.Index].ID)
	}
	return finding.Test(a.Path()+"/part", b.Bus.Multiplexer.Part)
}

// values are where an answerer's address, channel and pull-ups stand in a bench; nil where it has none.
func (a Answerer) values(b *bench.Bench) (address, channel *int, pullUp func(ohm int)) {
	switch a.Kind {
	case Backpack:
		o := &b.Modules[a.Index].Link.Outputs
		return &o.Address, &o.Channel, func(ohm int) { o.PullUpOhm = &ohm }
	case Device:
		d := &b.Devices[a.Index]
		return &d.Address, &d.Channel, func(ohm int) { d.PullUpOhm = ohm }
	}
	return &b.Bus.Multiplexer.Address, nil, nil
}

// own copies the list or the multiplexer that an answerer stands in.
func (a Answerer) own(b *bench.Bench) {
	switch a.Kind {
	case Backpack:
		b.Modules = slices.Clone(b.Modules)
	case Device:
		b.Devices = slices.Clone(b.Devices)
	default:
		m := *b.Bus.Multiplexer
		b.Bus.Multiplexer = &m
	}
}

// SetAddress plans something at another address.
type SetAddress struct {
	Of Answerer
	At int // 7-bit address
}

// Apply carries the edit out.
func (e SetAddress) Apply(b *bench.Bench) {
	e.Of.own(b)
	address, _, _ := e.Of.values(b)
	*address = e.At
}

// Patch returns the edit as a patch.
func (e SetAddress) Patch(b *bench.Bench) finding.Patch {
	address, _, _ := e.Of.values(b)
	path := e.Of.AddressPath()
	return finding.Patch{finding.Test(path, *address), finding.Replace(path, e.At)}
}

// SetChannel puts a backpack or a device on a channel of the multiplexer.
type SetChannel struct {
	Of      Answerer
	Channel int // counted from 1; 0: on the bus itself
}

// Apply carries the edit out.
func (e SetChannel) Apply(b *bench.Bench) {
	e.Of.own(b)
	if _, channel, _ := e.Of.values(b); channel != nil {
		*channel = e.Channel
	}
}

// Patch returns the edit as a patch; none of a multiplexer.
func (e SetChannel) Patch(b *bench.Bench) finding.Patch {
	_, channel, _ := e.Of.values(b)
	if channel == nil {
		return nil
	}
	return change(e.Of.member("channel"), *channel, e.Channel, e.Of.owner(b))
}

// RemovePullUps takes the pull-ups off the board of a backpack or a device.
type RemovePullUps struct{ Of Answerer }

// Apply carries the edit out.
func (e RemovePullUps) Apply(b *bench.Bench) {
	e.Of.own(b)
	if _, _, set := e.Of.values(b); set != nil {
		set(0)
	}
}

// Patch returns the edit as a patch; none of a multiplexer, which has none.
func (e RemovePullUps) Patch(b *bench.Bench) finding.Patch {
	path := e.Of.member("pullUpOhm")
	switch e.Of.Kind {
	case Backpack:
		if was := b.Modules[e.Of.Index].Link.Outputs.PullUpOhm; was != nil {
			return finding.Patch{finding.Test(path, *was), finding.Replace(path, 0)}
		}
		return finding.Patch{e.Of.owner(b), finding.Add(path, 0)}
	case Device:
		return change(path, b.Devices[e.Of.Index].PullUpOhm, 0, e.Of.owner(b))
	}
	return nil
}

// SetPartPin joins a pin of a part of the maker's own to something else.
type SetPartPin struct {
	Part, Pin int    // indices
	To        string // GND, 5V, 3V3, or the label of a pin of the host; "": it stays open
}

// Path returns the RFC 6901 pointer to the pin.
func (e SetPartPin) Path() string { return fmt.Sprintf("/parts/%d/pins/%d", e.Part, e.Pin) }

// Apply carries the edit out.
func (e SetPartPin) Apply(b *bench.Bench) {
	b.Parts = slices.Clone(b.Parts)
	p := &b.Parts[e.Part]
	p.Pins = slices.Clone(p.Pins)
	p.Pins[e.Pin].To = e.To
}

// Patch returns the edit as a patch.
func (e SetPartPin) Patch(b *bench.Bench) finding.Patch {
	pin := &b.Parts[e.Part].Pins[e.Pin]
	return change(e.Path()+"/to", pin.To, e.To, finding.Test(e.Path()+"/name", pin.Name))
}
