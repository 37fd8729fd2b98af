package wiring

import (
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/prove/bringup"
	"slatebell/core/say"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/wiring"
	"slatebell/core/wire/link"
	"slatebell/server/api/facts"
	"slatebell/server/api/runs"
)

// WiringResult is what lies on the table of a bench, or would. Lengths are in
// pitches of 2.54 mm unless they say mm.
type WiringResult struct {
	Laid     bool              `json:"laid" doc:"something lies there; false: it is the plan that is proposed"`
	Why      string            `json:"why,omitempty" doc:"why there is no plan"`
	Plan     finding.Patch     `json:"plan,omitempty" nullable:"false" doc:"while nothing lies there: the change that lays all as planned"`
	Boards   []BoardFacts      `json:"boards" nullable:"false"`
	Rows     []RowFacts        `json:"rows" nullable:"false" doc:"of every board, from the top"`
	Things   []ThingFacts      `json:"things" nullable:"false"`
	Wires    []WireFacts       `json:"wires" nullable:"false"`
	Nets     []NetFacts        `json:"nets" nullable:"false"`
	Work     []WorkFacts       `json:"work" nullable:"false" doc:"what there is to do, in order"`
	Parts    []PurchaseFacts   `json:"parts" nullable:"false" doc:"what it takes"`
	Joined   []*link.Joined    `json:"joined" nullable:"false" doc:"by module: what drives its header; null while nothing lies there"`
	Findings []finding.Finding `json:"findings" nullable:"false" doc:"of the wiring, worst first"`
	Bounds   Area              `json:"bounds" doc:"of the drawing"`
	Palette  []string          `json:"palette" nullable:"false" doc:"colours that wires can have"`
	Run      *runs.RunResult   `json:"run,omitempty" doc:"of the screen that was asked for, as its module is joined up here; absent where it cannot be run, or nothing lies there"`
}

// Area is a rectangle on the table.
type Area struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
	W float64 `json:"w"`
	H float64 `json:"h"`
}

// Bend is a place on a wire's way.
type Bend struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// BoardFacts is a breadboard.
type BoardFacts struct {
	ID         string    `json:"id"`
	Columns    int       `json:"columns"`
	X          float64   `json:"x" doc:"of its column 1"`
	Y          float64   `json:"y" doc:"of its topmost row"`
	RailXs     []float64 `json:"railXs" nullable:"false" doc:"of a rail's holes, from its first, counted from x"`
	Rails      []RailBar `json:"rails" nullable:"false" doc:"what each rail joins"`
	SplitRails bool      `json:"splitRails,omitempty"`
	Joined     bool      `json:"joined,omitempty"`
	Beyond     string    `json:"beyond,omitempty" doc:"id of the board beyond whose upper edge it lies, without its own lower rails"`
	Left       float64   `json:"left" doc:"its edges"`
	Top        float64   `json:"top"`
	Width      float64   `json:"width"`
	Height     float64   `json:"height"`
}

// RailBar is a rail, or a half of one that is split, from its first hole to its last.
type RailBar struct {
	Row    string  `json:"row"`
	Y      float64 `json:"y"`
	First  float64 `json:"first" doc:"where its first hole lies, counted from the board's column 1"`
	Last   float64 `json:"last"`
	Net    string  `json:"net,omitempty"`
	Colour string  `json:"colour,omitempty" doc:"of that net"`
}

// RowFacts is a row of holes.
type RowFacts struct {
	Name string  `json:"name" doc:"a–j, or top+, top-, bottom- or bottom+ of a rail"`
	Y    float64 `json:"y"`
	Rail bool    `json:"rail,omitempty"`
}

// ThingFacts is a part as it lies on the table.
type ThingFacts struct {
	ID        string    `json:"id"`
	Kind      string    `json:"kind" enum:"host,supply,module,backpack,pot,resistor,register,transistor,converter,device,button,stick,encoder,talker,knob,sensor,source,diode,capacitor"`
	Name      string    `json:"name"`
	Title     string    `json:"title" doc:"as it is bought"`
	For       string    `json:"for"`
	Look      string    `json:"look" doc:"how to know it, and which way round it goes"`
	Ohms      string    `json:"ohms,omitempty"`
	Bands     []string  `json:"bands,omitempty" nullable:"false" doc:"of a resistor, IEC 60062"`
	Turn      float64   `json:"turn,omitempty" doc:"of a potentiometer's knob, 0–1"`
	Module    *int      `json:"module,omitempty" doc:"index of the module that it is or serves"`
	X         float64   `json:"x"`
	Y         float64   `json:"y"`
	W         float64   `json:"w"`
	H         float64   `json:"h"`
	Placement *int      `json:"placement,omitempty" doc:"index into the wiring's placements; absent: it lies in no holes"`
	Turned    bool      `json:"turned,omitempty" doc:"host: upside down"`
	Pins      []PinSpot `json:"pins" nullable:"false"`
}

// PinSpot is where a pin of a thing lies.
type PinSpot struct {
	Name      string  `json:"name"`
	Says      string  `json:"says" doc:"by name, number and count from the other end"`
	X         float64 `json:"x"`
	Y         float64 `json:"y"`
	Net       string  `json:"net,omitempty"`
	Board     int     `json:"board,omitempty" doc:"its number on a host that counts its pins"`
	NetCalled string  `json:"netCalled,omitempty" doc:"the net by the names of the bench"`
	Hole      string  `json:"hole,omitempty"`
	For       string  `json:"for,omitempty"`
	Level     string  `json:"level,omitempty"`
	Open      string  `json:"open,omitempty" doc:"what happens when nothing is joined to it"`
}

// WireFacts is a wire with how it runs.
type WireFacts struct {
	Number   int    `json:"number"`
	From     string `json:"from" doc:"the pin that it meets, or a rail"`
	FromHole string `json:"fromHole,omitempty"`
	To       string `json:"to"`
	ToHole   string `json:"toHole,omitempty"`
	Net      string `json:"net"`
	Colour   string `json:"colour"`
	LengthMM int    `json:"lengthMM"`
	Done     bool   `json:"done,omitempty"`
	Path     []Bend `json:"path" nullable:"false" doc:"from its first end to its second; empty for one whose ends are not there"`
	Under    []Bend `json:"under,omitempty" nullable:"false" doc:"where another wire crosses over it"`
	Called   Called `json:"called" doc:"what it joins, by the names of the bench"`
}

// Called is what a wire joins, as the bench calls it.
type Called struct {
	From string `json:"from" doc:"such as Gate/RS"`
	To   string `json:"to"`
	Net  string `json:"net"`
}

// NetFacts is what must be one conductor.
type NetFacts struct {
	Name   string   `json:"name"`
	What   string   `json:"what" doc:"by which its colour is chosen"`
	Line   string   `json:"line,omitempty" doc:"of data: D0 to D7"`
	Called string   `json:"called" doc:"by the names of the bench"`
	Colour string   `json:"colour"`
	Pins   []string `json:"pins" nullable:"false"`
}

// WorkFacts is one thing to do.
type WorkFacts struct {
	ID      string `json:"id"`
	Section string `json:"section" enum:"solder,place,wire,check,power"`
	Says    string `json:"says"`
	Caution string `json:"caution,omitempty"`
	Wire    int    `json:"wire,omitempty" doc:"number of the wire, from 1"`
	Done    bool   `json:"done,omitempty"`
}

// PurchaseFacts is a line of the list of parts.
type PurchaseFacts struct {
	Count int      `json:"count"`
	What  string   `json:"what"`
	Look  string   `json:"look,omitempty"`
	For   []string `json:"for,omitempty" nullable:"false"`
}

func newWiring(b *bench.Bench) WiringResult {
	out := WiringResult{
		Laid: breadboard.Laid(b), Boards: []BoardFacts{}, Things: []ThingFacts{}, Wires: []WireFacts{}, Nets: []NetFacts{}, Work: []WorkFacts{}, Parts: []PurchaseFacts{},
		Findings: []finding.Finding{}, Joined: make([]*link.Joined, len(b.Modules)), Palette: wiring.Palette,
	}
	shown := *b
	if !out.Laid {
		if planned, err := breadboard.Plan(b); err != nil {
			out.Why = err.Error()
		} else {
			shown.Wiring, out.Plan = planned, edit.SetWiring{Wiring: planned}.Patch(b)
		}
	}
	t := breadboard.Lay(&shown)
	a := t.Arrange()
	if out.Laid {
		out.Findings = append(out.Findings, t.Check()...)
		for i := range b.Modules {
			out.Joined[i] = t.Joined(i)
		}
	}
	for _, r := range breadboard.Rows() {
		out.Rows = append(out.Rows, RowFacts{r.String(), r.Y(), r.Rail()})
	}
	for i := range t.Boards {
		out.Boards = append(out.Boards, boardFacts(t, i))
	}
	for i := range a.Things {
		out.Things = append(out.Things, thingFacts(t, &a.Things[i]))
	}
	under := a.Under()
	for i, w := range t.List() {
		f := WireFacts{w.Number, w.From, w.FromHole, w.To, w.ToHole, w.Net, w.Colour, w.LengthMM, w.Done, []Bend{}, nil, Called(w.Called)}
		for _, p := range under[i] {
			f.Under = append(f.Under, Bend(p))
		}
		for _, p := range a.Routes[i] {
			f.Path = append(f.Path, Bend(p))
		}
		out.Wires = append(out.Wires, f)
	}
	for _, n := range t.Net.Nets {
		out.Nets = append(out.Nets, NetFacts{n.Name, n.What, n.Line, t.Net.Called(n.Name), n.Colour, n.Pins})
	}
	for _, w := range t.Work() {
		out.Work = append(out.Work, WorkFacts(w))
	}
	for _, p := range t.Parts() {
		out.Parts = append(out.Parts, PurchaseFacts(p))
	}
	out.Bounds = Area{a.Min.X, a.Min.Y, a.Max.X - a.Min.X, a.Max.Y - a.Min.Y}
	return out
}

func boardFacts(t *breadboard.Table, at int) BoardFacts {
	b := &t.Boards[at]
	left, top, width, height := b.Outline()
	xs := b.RailXs()
	rails := []RailBar{}
	for _, bar := range t.RailBars(at) {
		rails = append(rails, RailBar{bar.Row.String(), bar.Row.Y(), xs[bar.First-1], xs[bar.Last-1], t.Net.Called(bar.Net), bar.Colour})
	}
	return BoardFacts{Rails: rails, ID: b.ID, Columns: b.Columns, X: b.X, Y: b.Y, RailXs: xs, SplitRails: b.SplitRails, Joined: b.Joined, Beyond: b.Beyond, Left: left, Top: top, Width: width, Height: height}
}

func thingFacts(t *breadboard.Table, th *breadboard.Thing) ThingFacts {
	p := th.Part
	f := ThingFacts{ID: p.ID, Kind: string(p.Kind), Name: p.Name, Title: t.PartTitle(p), For: p.For, Look: p.Look, Ohms: breadboard.OhmText(p), X: th.X, Y: th.Y, W: th.W, H: th.H, Turned: th.Turned, Pins: []PinSpot{}}
	if p.Module >= 0 {
		f.Module = &p.Module
	}
	if th.Placed {
		for i, place := range t.Bench.Wiring.Placements {
			if place.Part == p.ID {
				f.Placement = &i
			}
		}
	}
	switch p.Kind {
	case wiring.Pot:
		f.Turn = breadboard.Turn(&t.Bench.Modules[p.Module])
	case wiring.Resistor:
		if bands, err := circuit.Bands(p.Ohm); err == nil {
			f.Bands = bands[:]
		}
	}
	for _, s := range th.Pins {
		full := p.Pin(s.Name)
		_, pin, _ := t.Net.PinOf(full)
		spot := PinSpot{Name: s.Name, Says: pin.Says(), Board: pin.Board, X: s.At.X, Y: s.At.Y, For: pin.For, Level: pin.Level, Open: pin.Open}
		if n, ok := t.Net.NetOf(full); ok {
			spot.Net, spot.NetCalled = n.Name, t.Net.Called(n.Name)
		}
		if where := t.Where(full); where != full {
			spot.Hole = where
		}
		f.Pins = append(f.Pins, spot)
	}
	return f
}

// FirstLightStep is a step of a guided power-up.
type FirstLightStep struct {
	ID      string        `json:"id"`
	Title   string        `json:"title"`
	Do      string        `json:"do"`
	See     string        `json:"see"`
	Caution string        `json:"caution,omitempty"`
	Glass   []facts.Glass `json:"glass" nullable:"false" doc:"as it should look"`
	Else    []SightFacts  `json:"else" nullable:"false" doc:"what one may see instead"`
	Measure string        `json:"measure,omitempty" doc:"RFC 6901 pointer to where a measured value goes"`
	Unit    string        `json:"unit,omitempty"`
	Planned float64       `json:"planned,omitempty" doc:"what is expected, in its unit"`
	Act     string        `json:"act,omitempty" enum:"send,slow,begin,light,blink,chart,scan,measure" doc:"what of it a host with a bridge does by itself"`
}

// SightFacts is something that one may see in place of what one should.
type SightFacts struct {
	Says  string       `json:"says"`
	Glass *facts.Glass `json:"glass,omitempty"`
	Means []CauseFacts `json:"means" nullable:"false"`
}

// CauseFacts is one thing that it can come from.
type CauseFacts struct {
	Says  string `json:"says"`
	Wires []int  `json:"wires,omitempty" nullable:"false" doc:"numbers of the wires to look at"`
}

func shownGlass(s *bringup.Shown) facts.Glass {
	return facts.GlassOf(s.Moment.Glass(s.Module, s.Contrast), s.Module.ROM)
}

func lightSteps(steps []bringup.Step) []FirstLightStep {
	out := make([]FirstLightStep, len(steps))
	for i, s := range steps {
		f := FirstLightStep{ID: s.ID, Title: s.Title, Do: s.Do, See: s.See, Caution: s.Caution, Glass: []facts.Glass{}, Else: []SightFacts{}, Measure: s.Measure, Unit: s.Unit, Planned: s.Planned, Act: string(s.Act)}
		for j := range s.Glass {
			f.Glass = append(f.Glass, shownGlass(&s.Glass[j]))
		}
		for _, e := range s.Else {
			sight := SightFacts{Says: e.Says, Means: []CauseFacts{}}
			if e.Glass != nil {
				g := shownGlass(e.Glass)
				sight.Glass = &g
			}
			for _, c := range e.Means {
				sight.Means = append(sight.Means, CauseFacts(c))
			}
			f.Else = append(f.Else, sight)
		}
		out[i] = f
	}
	return out
}

// FiguresResult is what the parts of a module's header are worked out to.
type FiguresResult struct {
	Light    *LightResult    `json:"light,omitempty" doc:"absent: it has no backlight"`
	Contrast *ContrastResult `json:"contrast,omitempty" doc:"absent: it has no contrast input"`
}

// LightResult is the backlight's resistor.
type LightResult struct {
	Kind      string         `json:"kind"`
	ForwardMV int            `json:"forwardMV"`
	SupplyMV  int            `json:"supplyMV"`
	WishedMA  float64        `json:"wishedMA"`
	Exact     string         `json:"exact" doc:"resistance that gives just that"`
	Low       bool           `json:"low,omitempty" doc:"the supply is below what it needs"`
	Choices   []LightOptions `json:"choices" nullable:"false"`
}

// LightOptions is one resistor to choose.
type LightOptions struct {
	Name      string   `json:"name"`
	Ohm       float64  `json:"ohm"`
	Says      string   `json:"says"`
	CurrentMA float64  `json:"currentMA"`
	HeatMW    float64  `json:"heatMW"`
	Bands     []string `json:"bands" nullable:"false"`
	Over      string   `json:"over,omitempty" doc:"what is wrong with it"`
}

// ContrastResult is VO over the knob of several potentiometers.
type ContrastResult struct {
	Room   VORange      `json:"room" doc:"VO in which the glass reads well, at 25 °C"`
	Cold   VORange      `json:"cold" doc:"the same at 0 °C"`
	Warm   VORange      `json:"warm" doc:"the same at 40 °C"`
	Below  bool         `json:"below,omitempty" doc:"it reads well with VO below ground only"`
	Curves []CurveFacts `json:"curves" nullable:"false"`
}

// VORange is a range of VO.
type VORange struct {
	LowMV  int `json:"lowMV"`
	HighMV int `json:"highMV"`
}

// CurveFacts is one potentiometer.
type CurveFacts struct {
	Ohm       int     `json:"ohm"`
	Says      string  `json:"says"`
	VOMV      []int   `json:"voMV" nullable:"false" doc:"at turns from 0 to 1, evenly"`
	From      float64 `json:"from" doc:"turn at which the glass begins to read well"`
	To        float64 `json:"to"`
	Useful    float64 `json:"useful" doc:"part of the turn in which it reads well"`
	CurrentMA float64 `json:"currentMA" doc:"from end to end, for nothing"`
}

func newFigures(m *bench.Module) FiguresResult {
	var out FiguresResult
	if f, ok := breadboard.Light(m); ok {
		r := &LightResult{Kind: f.Backlight.Name, ForwardMV: facts.MilliVolts(f.Backlight.Forward), SupplyMV: facts.MilliVolts(f.Supply), WishedMA: facts.MilliAmperes(f.Wished), Exact: say.Ohms(f.Exact), Low: f.Low}
		for _, c := range f.Choices {
			o := LightOptions{Name: c.Name, Ohm: float64(c.R/physic.MilliOhm) / 1000, Says: say.Ohms(c.R), CurrentMA: facts.MilliAmperes(c.Current), HeatMW: float64(c.Heat/physic.MicroWatt) / 1000, Bands: []string{}, Over: c.Over}
			if c.Bands[0] != "" {
				o.Bands = c.Bands[:]
			}
			r.Choices = append(r.Choices, o)
		}
		out.Light = r
	}
	if f, ok := breadboard.Contrast(m); ok {
		r := &ContrastResult{
			Room: VORange{facts.MilliVolts(f.Low), facts.MilliVolts(f.High)}, Cold: VORange{facts.MilliVolts(f.Cold[0]), facts.MilliVolts(f.Cold[1])}, Warm: VORange{facts.MilliVolts(f.Warm[0]), facts.MilliVolts(f.Warm[1])}, Below: f.Below,
		}
		for _, c := range f.Curves {
			curve := CurveFacts{Ohm: facts.Ohms(c.Pot), Says: strings.TrimSpace(say.Ohms(c.Pot)), From: c.From, To: c.To, Useful: c.Useful(), CurrentMA: facts.MilliAmperes(c.Current)}
			for _, v := range c.VO {
				curve.VOMV = append(curve.VOMV, facts.MilliVolts(v))
			}
			r.Curves = append(r.Curves, curve)
		}
		out.Contrast = r
	}
	return out
}
