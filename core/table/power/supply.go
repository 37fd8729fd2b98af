// Package power looks at a bench's voltages and currents: the levels between host, bus and modules, what
// each rail gives, and what backlights take.
//
// It stands above pinout and bus, and below setup.
package power

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/host"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/wire/link"
)

// Load is what one thing draws from a rail.
type Load struct {
	Path     string
	Name     string
	Planned  physic.ElectricCurrent // 0 where nothing says it
	Measured physic.ElectricCurrent // 0 where it was not measured; it counts in place of what was planned
	Source   string
}

// Counts returns what is reckoned with.
func (l *Load) Counts() physic.ElectricCurrent { return cmp.Or(l.Measured, l.Planned) }

// Rail is a supply with all that draws from it.
type Rail struct {
	Name    string
	Label   string // of the host's pin
	Loads   []Load
	Total   physic.ElectricCurrent
	Limit   physic.ElectricCurrent // 0 where it is not known
	Asked   physic.ElectricCurrent // what is given before more was asked for; 0 where that is no matter
	LimitOf string
	Unknown []string // names of what states no current
}

// feeds are the sources of a host's current: what they give, and what before it
// was asked for (USB 2.0 specification, §7.2.1; USB 3.0 specification, §11.4.1;
// from memory).
var feeds = map[string]struct {
	limit, asked physic.ElectricCurrent
	what         string
}{
	"usb2":    {500 * physic.MilliAmpere, module.PortCurrent, "a USB 2.0 port"},
	"usb3":    {900 * physic.MilliAmpere, 150 * physic.MilliAmpere, "a USB 3 port"},
	"battery": {0, 0, "the battery"},
	"supply":  {0, 0, "the supply"},
}

// Rails works out the supplies of a bench: the 5 V that feeds all, and the 3.3 V
// that the host's regulator makes of it.
func Rails(b *bench.Bench) []Rail {
	board := b.Host.Board()
	feed := feeds[cmp.Or(b.Host.Supply.From, "usb2")]
	five := Rail{Name: "5 V", Label: board.Rail5, Limit: feed.limit, Asked: feed.asked, LimitOf: feed.what}
	if mA := b.Host.Supply.LimitMA; mA > 0 {
		five.Limit, five.Asked = physic.ElectricCurrent(mA)*physic.MilliAmpere, 0
	}
	three := Rail{Name: "3.3 V", Label: board.Rail3, Limit: board.Regulator, LimitOf: "the regulator of the " + strings.TrimSuffix(cmp.Or(b.Host.Part, board.Part), " board") + " board"}
	five.add(Load{Path: "/host", Name: "host", Planned: board.Own, Source: board.Source})
	rail := func(fed physic.ElectricPotential) *Rail {
		if fed <= 3600*physic.MilliVolt {
			return &three
		}
		return &five
	}
	for i := range b.Modules {
		m := &b.Modules[i]
		l := Load{Path: fmt.Sprintf("/modules/%d", i), Name: cmp.Or(m.Name, m.ID), Measured: milli(m.Display.Measured.CurrentMA)}
		if mod, err := m.Display.Module(); err == nil {
			needs := mod.Needs()
			l.Planned, l.Source = needs.Current, needs.Source
			switch {
			case mod.Technology == module.VFD:
				l.Planned = needs.Current * physic.ElectricCurrent(4-m.Display.Supply.Brightness) / 4
			case !m.Link.Outputs.Backlight && (m.Link.Kind == string(link.Backpack) || m.Link.Kind == string(link.ShiftReg)):
				l.Planned = needs.Bare
			case m.Link.Kind != string(link.Backpack): // by its own header, through the resistor that it is wired up with
				l.Planned = needs.Bare + m.LightCurrent()
			}
		}
		rail(m.Fed()).add(l)
	}
	for i := range b.Devices {
		d := &b.Devices[i]
		rail(d.Fed(&board)).add(Load{Path: fmt.Sprintf("/devices/%d", i), Name: cmp.Or(d.Name, d.Part, d.ID), Planned: milli(d.CurrentMA)})
	}
	ownLoads(b, &board, rail)
	if len(three.Loads) == 0 {
		return []Rail{five}
	}
	five.add(Load{Path: "/host", Name: "the 3.3 V rail, through the regulator", Planned: three.Total, Source: "a linear regulator takes what it gives"})
	five.Unknown = append(five.Unknown, three.Unknown...)
	return []Rail{five, three}
}

func (r *Rail) add(l Load) {
	r.Loads = append(r.Loads, l)
	r.Total += l.Counts()
	if l.Counts() == 0 && l.Path != "/host" {
		r.Unknown = append(r.Unknown, l.Name)
	}
}

func milli(mA float64) physic.ElectricCurrent {
	return physic.ElectricCurrent(mA*1000+0.5) * physic.MicroAmpere
}

// judgeSupply finds currents beyond what there is.
func judgeSupply(rails []Rail) []finding.Finding {
	const care = "Do not feed it from the port: use a supply of its own with a common ground, and a fuse. Unplug before rewiring; anything beyond extra-low voltage is work for local codes and licensed people."
	var out []finding.Finding
	for i := range rails {
		r := &rails[i]
		switch {
		case r.Label == "" && len(r.Loads) > 0:
			out = append(out, finding.Finding{
				Code: "supply.no-rail", Severity: finding.Error, Path: "/host",
				What: fmt.Sprintf("%s are drawn from %s, which the host does not give.", say.Amperes(r.Total), r.Name),
				Fix:  "Take parts that are fed with 5 V, or feed them from a supply of their own with a common ground.", Source: "common practice",
			})
		case r.Limit > 0 && r.Total > r.Limit:
			f := finding.Finding{
				Code: "supply.port", Severity: finding.Error, Path: "/host/supply",
				What: fmt.Sprintf("From %s %s are drawn; %s gives %s.", r.Name, say.Amperes(r.Total), r.LimitOf, say.Amperes(r.Limit)),
				Why:  "The port switches off or its voltage falls: the host restarts and the glass fades or stays dark.",
				Fix:  care, Source: "USB 2.0 specification, §7.2.1; currents of modules: common practice",
			}
			if r.Name == "3.3 V" {
				f.Code, f.Why, f.Source = "supply.regulator", "The regulator grows hot and switches off, or its voltage falls.", "common practice"
				f.Fix = "Feed modules from 5 V, or from a supply of their own with a common ground."
			}
			out = append(out, f)
		case r.Asked > 0 && r.Total > r.Asked:
			out = append(out, finding.Finding{
				Code: "supply.asked", Severity: finding.Note, Path: "/host/supply",
				What: fmt.Sprintf("%s are drawn; %s gives %s to a board that has not asked for more.", say.Amperes(r.Total), r.LimitOf, say.Amperes(r.Asked)),
				Fix:  "Boards with a USB chip ask for more; a charger or a bare cable does as it likes.", Source: "USB 2.0 specification, §7.2.1",
			})
		}
		if len(r.Unknown) > 0 && i == 0 {
			out = append(out, finding.Finding{
				Code: "supply.unknown", Severity: finding.Note, Path: "/host/supply",
				What: fmt.Sprintf("Nothing says what %s draw.", say.List(r.Unknown)), Fix: "Measure the current, or take it from the part’s data sheet; it counts as nothing until then.",
			})
		}
	}
	return out
}

// ownLoads adds what parts of the maker's own draw.
func ownLoads(b *bench.Bench, board *host.Board, rail func(physic.ElectricPotential) *Rail) {
	for i := range b.Parts {
		p := &b.Parts[i]
		rail(p.Fed(board)).add(Load{Path: fmt.Sprintf("/parts/%d", i), Name: cmp.Or(strings.TrimSpace(p.Name), p.ID), Planned: milli(p.CurrentMA)})
	}
}

// Judge finds levels, supplies and backlights outside of their limits. The levels and rails are
// those of the bench.
func Judge(b *bench.Bench, levels []Level, rails []Rail) []finding.Finding {
	return slices.Concat(judgeLevels(b, levels), judgeSupply(rails), judgeLights(b))
}
