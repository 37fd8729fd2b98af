package recordings

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/i2cbus"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/replay"
	"slatebell/core/wire/link"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// ReadingRequest asks for what a recording shows, as one of a module.
type ReadingRequest struct {
	Bench  bench.Bench    `json:"bench"`
	Module int            `json:"module" minimum:"0"`
	Lines  map[string]int `json:"lines,omitempty" doc:"channels, from 0, by the lines that somebody says they are; the others are found"`
	Size   string         `json:"size,omitempty" maxLength:"8" doc:"of the module, such as 20x4; absent: that of the bench's"`
}

// Reading is what a recording shows.
type Reading struct {
	ID           string             `json:"id" doc:"of this reading: what it shows is asked for by it"`
	Name         string             `json:"name"`
	Found        bool               `json:"found" doc:"it is known which channel is which line"`
	Why          string             `json:"why,omitempty" doc:"why it is not"`
	Channels     []Channel          `json:"channels" nullable:"false"`
	Roles        []string           `json:"roles" nullable:"false" doc:"lines that a channel may be"`
	Because      string             `json:"because,omitempty" doc:"what speaks for the lines"`
	Others       []OtherReading     `json:"others" nullable:"false" doc:"other ways to read it that are not quite unlikely"`
	Link         string             `json:"link,omitempty" enum:"backpack,shift,parallel4,parallel8"`
	Address      *facts.Forms       `json:"address,omitempty" doc:"of the expander"`
	Mapping      string             `json:"mapping,omitempty" doc:"of its outputs, or those of the shift register"`
	Geometry     string             `json:"geometry" doc:"of the module into which it was played"`
	Likeliest    string             `json:"likeliest" doc:"size of module by the addresses that are written"`
	BeginsNs     int64              `json:"beginsNs" doc:"when something changes first"`
	EndsNs       int64              `json:"endsNs" doc:"time of the last change"`
	Changes      int                `json:"changes"`
	StepNs       int64              `json:"stepNs" doc:"how far apart two times are at least; 0: not known"`
	Operations   int                `json:"operations"`
	ClockHz      int                `json:"clockHz,omitempty" doc:"of the bus, within bytes"`
	Findings     []finding.Finding  `json:"findings" nullable:"false"`
	Broken       []BrokenLimit      `json:"broken" nullable:"false" doc:"limits that are broken, in the order of time; the first of them"`
	Screens      int                `json:"screens" doc:"that stood on the glass for a while"`
	Stood        []StoodScreen      `json:"stood" nullable:"false" doc:"the first of them"`
	Recorded     Effort             `json:"recorded" doc:"what they took"`
	Cheapest     Effort             `json:"cheapest" doc:"what they take by the cheapest program on the same link"`
	Needless     Needless           `json:"needless"`
	Oscillators  []OscillatorLosses `json:"oscillators" nullable:"false" doc:"bytes that come too early, by the module's oscillator"`
	Disturbances int                `json:"disturbances" doc:"pulses that were left out"`
}

// OtherReading is another way to read a recording.
type OtherReading struct {
	Share float64        `json:"share" doc:"how likely it is, 0–1"`
	Link  string         `json:"link" enum:"backpack,shift,parallel4,parallel8"`
	Says  string         `json:"says" doc:"the lines with their channels"`
	Lines map[string]int `json:"lines" doc:"channels by lines, to read it so"`
}

// Channel is one of a recording.
type Channel struct {
	Name     string  `json:"name"`
	Line     string  `json:"line,omitempty" doc:"which it carries; absent for none"`
	Sure     float64 `json:"sure" doc:"how sure that is, 0–1"`
	Inverted bool    `json:"inverted,omitempty" doc:"it is upside down"`
	Given    bool    `json:"given,omitempty" doc:"somebody said so"`
	Moves    bool    `json:"moves" doc:"it changes"`
}

// BrokenLimit is a limit that is broken at a time.
type BrokenLimit struct {
	AtNs int64  `json:"atNs"`
	Code string `json:"code"`
	What string `json:"what"`
}

// Effort is what showing screens takes.
type Effort struct {
	Operations int     `json:"operations"`
	Bytes      int     `json:"bytes" doc:"on the bus or into the register; transfers on bare lines"`
	Us         float64 `json:"us" doc:"µs in use"`
	PerSecond  float64 `json:"perSecond" doc:"such screens a second; 0 where they take no time"`
}

// StoodScreen is a screen that stood on the glass for a while.
type StoodScreen struct {
	FromNs   int64    `json:"fromNs" doc:"the first strobe of what brought it"`
	AtNs     int64    `json:"atNs" doc:"the last"`
	Rows     []string `json:"rows" nullable:"false" doc:"as characters; of a display that is off none are seen"`
	Recorded Effort   `json:"recorded"`
	Cheapest Effort   `json:"cheapest"`
}

// mostStood is how many screens are listed.
const mostStood = 200

// Needless is what is sent that changes nothing.
type Needless struct {
	Rewritten int     `json:"rewritten" doc:"characters onto those that stood there"`
	Addressed int     `json:"addressed" doc:"addresses where the counter stood"`
	Set       int     `json:"set" doc:"settings that were so already"`
	Cleared   int     `json:"cleared" doc:"characters that a clear took away, and that came back"`
	WaitsUs   float64 `json:"waitsUs" doc:"µs of waits beyond what link and controller need"`
}

// OscillatorLosses is how many bytes come too early for a module with an oscillator.
type OscillatorLosses struct {
	KHz  int    `json:"kHz"`
	Name string `json:"name" enum:"slowest,typical,own"`
	Lost int    `json:"lost"`
}

// reading is a recording that was played.
type reading struct {
	id      string // the recording's, and what it is read by
	played  *replay.Replay
	trace   *capture.Trace
	store   *os.File
	given   capture.Lines
	display bench.Display
	answer  *Reading
}

func (r *reading) close() {
	r.store.Close()
	os.Remove(r.store.Name())
}

// read finds what a recording shows, and keeps that.
func (s *Shelf) read(k *kept, req *ReadingRequest, tell fault.Watch) (*Reading, error) {
	m, err := answer.Module(&req.Bench, req.Module)
	if err != nil {
		return nil, err
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	k.tell = nil
	if k.opened == nil {
		if k.opened, err = replay.Open(k.open); err != nil {
			return nil, answer.Refused(fmt.Errorf("%s: %w", k.name, err))
		}
	}
	given := capture.Lines{}
	for role, channel := range req.Lines {
		if channel < 0 || channel >= len(k.opened.Names) || !slices.Contains(capture.Roles(), capture.Role(role)) {
			return nil, answer.Refused(fmt.Errorf("%s on channel %d; expected a line such as RS or SDA, and a channel from 0 to %d", role, channel, len(k.opened.Names)-1))
		}
		given[capture.Role(role)] = channel
	}
	id, err := k.readingID(given, req.Size, &m.Display)
	if err != nil {
		return nil, err
	}
	if was := k.reading(id); was != nil {
		return was.answer, nil
	}
	store, err := s.place()
	if err != nil {
		return nil, err
	}
	next := &reading{id: id, store: store, trace: capture.NewTrace(store), given: given, display: m.Display}
	out, err := next.play(k, req.Size, tell)
	if err != nil {
		next.close()
		return nil, err
	}
	if len(k.readings) == mostReadings {
		k.readings[0].close()
		k.readings = k.readings[1:]
	}
	k.readings = append(k.readings, next)
	return out, nil
}

// readingID names a way to read it.
func (k *kept) readingID(given capture.Lines, size string, d *bench.Display) (string, error) {
	by, err := json.Marshal(struct {
		Lines   capture.Lines
		Size    string
		Display *bench.Display
	}{given, size, d})
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(by)
	return k.id + "." + hex.EncodeToString(sum[:6]), nil
}

// play plays it into the module, and lays down its changes.
func (r *reading) play(k *kept, size string, tell fault.Watch) (*Reading, error) {
	tell.Tell("Finding the lines", 0, 0)
	out := &Reading{ID: r.id, Name: k.name, StepNs: k.opened.Step().Nanoseconds(), Findings: []finding.Finding{}, Broken: []BrokenLimit{}, Oscillators: []OscillatorLosses{}, Stood: []StoodScreen{}, Others: []OtherReading{}}
	for _, role := range capture.Roles() {
		out.Roles = append(out.Roles, string(role))
	}
	r.answer = out
	if err := k.opened.Find(r.given); errors.Is(err, replay.ErrNoLines) {
		return out, r.unread(k, err)
	} else if err != nil {
		return nil, answer.Refused(err)
	}
	var err error
	if out.Likeliest, err = k.opened.Size(); err != nil {
		return nil, answer.Refused(err)
	}
	if size != "" {
		r.display.Geometry = size
	}
	m, err := r.display.Module()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	const parts = 1000
	done := -1
	k.tell = func(at int64) {
		if now := int(at * parts / max(1, k.size)); now > done {
			done = now
			tell.Tell("Playing the recording, in parts of a thousand", now, parts)
		}
	}
	if r.played, err = k.opened.Play(m, -1, replay.Watch{Change: r.trace.Add}); err != nil {
		return nil, answer.Refused(err)
	}
	k.tell = nil
	if err := r.trace.Close(); err != nil {
		return nil, err
	}
	return out, r.judge(k)
}

// unread lays the changes down of a recording whose lines are not found, so that they can be looked at.
func (r *reading) unread(k *kept, why error) error {
	out := r.answer
	out.Why = fmt.Sprintf("%s: %s. Say which channel is which, or record from the moment at which the host begins.", k.name, why)
	source, err := k.open()
	if err != nil {
		return err
	}
	for {
		c, err := source.Next()
		if err != nil {
			break // the end, or where it is broken
		}
		r.trace.Add(c)
	}
	if err := r.trace.Close(); err != nil {
		return err
	}
	r.channels(k, nil)
	r.begins()
	out.EndsNs, out.Changes = r.trace.Ends().Nanoseconds(), r.trace.Len()
	return nil
}

// begins says when something changes first.
func (r *reading) begins() {
	if at, ok, err := r.trace.Edge(r.trace.Begins(), ^uint64(0), false); ok && err == nil {
		r.answer.BeginsNs = at.Nanoseconds()
	}
}

// channels are those of the recording, with what was found.
func (r *reading) channels(k *kept, f *capture.Found) {
	for i, name := range k.opened.Names {
		c := Channel{Name: name, Moves: r.trace.Moves(i)}
		if name == "" {
			c.Name = fmt.Sprintf("channel %d", i)
		}
		if f != nil {
			for role, at := range f.Lines {
				if at == i {
					c.Line, c.Sure, c.Inverted = string(role), f.Sure[role], f.Invert>>i&1 == 1
				}
			}
		}
		for _, at := range r.given {
			c.Given = c.Given || at == i
		}
		r.answer.Channels = append(r.answer.Channels, c)
	}
}

// judge says what was found in what was played.
func (r *reading) judge(k *kept) error {
	f, out, p := &k.opened.Found[0], r.answer, r.played
	r.channels(k, f)
	r.begins()
	cheaper, err := p.Cheaper()
	if err != nil {
		return answer.Refused(err)
	}
	out.Found, out.Link, out.Geometry = true, string(f.Kind), p.Module().Geometry.Name
	out.Because = p.Why()
	for _, o := range k.opened.Others() {
		other := OtherReading{Share: o.Share, Link: string(k.opened.Found[o.Index].Kind), Says: k.opened.LinesOf(o.Index), Lines: map[string]int{}}
		for role, channel := range k.opened.Found[o.Index].Lines {
			other.Lines[string(role)] = channel
		}
		out.Others = append(out.Others, other)
	}
	if f.Kind == link.Backpack && f.Address != 0 {
		forms := facts.Address(i2cbus.Address(f.Address))
		out.Address = &forms
	}
	if f.Kind == link.Backpack || f.Kind == link.ShiftReg {
		out.Mapping = f.Mapping.String()
	}
	out.EndsNs, out.Changes, out.Operations, out.ClockHz = r.trace.Ends().Nanoseconds(), r.trace.Len(), len(p.Operations), int(p.Clock()/physic.Hertz)
	out.Findings = append(append(out.Findings, p.Findings()...), cheaper.Finding()...)
	slices.SortStableFunc(out.Findings, func(a, b finding.Finding) int { return cmp.Compare(a.Severity.Rank(), b.Severity.Rank()) })
	for _, v := range p.Violations() {
		out.Broken = append(out.Broken, BrokenLimit{v.At.Nanoseconds(), v.Finding.Code, v.Finding.What})
	}
	out.Screens, out.Disturbances = len(cheaper.Screens), p.Disturbances
	out.Recorded, out.Cheapest = effort(cheaper.Recorded, out.Screens), effort(cheaper.Cheapest, out.Screens)
	for _, one := range cheaper.Screens[:min(out.Screens, mostStood)] {
		g := p.GlassAt(one.At)
		out.Stood = append(out.Stood, StoodScreen{p.Operations[one.First].At.Nanoseconds(), one.At.Nanoseconds(), g.Text(p.Module().ROM), effort(one.Recorded, 1), effort(one.Cheapest, 1)})
	}
	n := cheaper.Needless
	out.Needless = Needless{n.Rewritten, n.Addressed, n.Set, n.Cleared, us(n.Waits)}
	for _, o := range p.Oscillators() {
		out.Oscillators = append(out.Oscillators, OscillatorLosses{int(o.Frequency / physic.KiloHertz), o.Name, o.Lost})
	}
	return nil
}

func us(d time.Duration) float64 { return float64(d) / 1e3 }

func effort(e replay.Effort, screens int) Effort {
	return Effort{e.Operations, e.Bytes, us(e.Time), e.PerSecond(screens)}
}

// Instant is the module at a time of a recording.
type Instant struct {
	AtNs        int64                   `json:"atNs"`
	Glass       facts.Glass             `json:"glass"`
	Controllers []facts.ControllerState `json:"controllers" nullable:"false"`
	Operation   int                     `json:"operation" doc:"how many came up to then"`
	Last        *RecordedOperation      `json:"last,omitempty" doc:"that which came last"`
}

// RecordedOperation is one.
type RecordedOperation struct {
	Index   int    `json:"index"`
	AtNs    int64  `json:"atNs" doc:"when its last strobe falls"`
	RS      bool   `json:"rs"`
	RW      bool   `json:"rw"`
	Value   int    `json:"value"`
	Second  bool   `json:"second,omitempty" doc:"for the second controller, by E2"`
	Lost    bool   `json:"lost,omitempty" doc:"it came while the controller was busy"`
	Meaning string `json:"meaning"`
	Short   string `json:"short" doc:"the character that it writes, or its byte"`
}

// operation is one of what was played.
func (r *reading) operation(i int) RecordedOperation {
	op := &r.played.Operations[i]
	m := r.played.Module()
	out := RecordedOperation{
		Index: i, AtNs: op.At.Nanoseconds(), RS: op.RS, RW: op.RW, Value: int(op.Byte), Second: op.Enable == link.Second, Lost: op.Lost,
		Meaning: r.played.Says(op), Short: fmt.Sprintf("%02X", op.Byte),
	}
	if ch, ok := m.ROM.Rune(op.Byte); ok && op.Kind() == hd44780.WriteData {
		out.Short = string(ch)
	}
	return out
}

// instant is the module at a time.
func (r *reading) instant(at time.Duration) *Instant {
	mo := r.played.At(at)
	m := r.played.Module()
	out := &Instant{AtNs: at.Nanoseconds(), Glass: facts.GlassOf(mo.Glass(m, m.UsualContrast()), m.ROM), Operation: r.played.Until(at)}
	for i := range m.Geometry.Controllers {
		out.Controllers = append(out.Controllers, facts.Controller(m, &mo, i))
	}
	if out.Operation > 0 {
		last := r.operation(out.Operation - 1)
		out.Last = &last
	}
	return out
}
