package fault

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench/show"
	"slatebell/core/table/touch"
	"slatebell/core/table/wiring"
	"slatebell/core/text/screen"
)

// mostInputs is how many inputs of a show faults are made in.
const mostInputs = 12

// Input is something that the subject's show listens to, as its parts are joined.
type Input struct {
	ID, Name      string
	Pin           string // of the host
	Kind          show.Kind
	Module, Index int // of its circuit
	Circuit       *touch.Circuit
	// Shows is what the program has on the glass once it has begun, and what after the input was used once, where
	// its pins are read so; a contact closes so many times at each use. It is nil where fields say no more than
	// that the input is read.
	Shows func(line *touch.Line, closes int) (before, after screen.Text)
	// First says that the subject's screen is the one that the show begins with.
	First bool
}

// handled is an input with all that can be wrong with it.
type handled struct {
	*Input
	ways []way // the first as it ought to be
}

// way is how an input may be joined.
type way struct {
	what          string // of its joints
	line          touch.Line
	before, after int16 // what the program then says
}

// saysText returns what a program says that shows a text, which is kept.
func (x *Index) saysText(t screen.Text) int16 {
	key := fmt.Sprint(t.Rows, t.Fields)
	n, kept := x.textOf[key]
	if !kept {
		x.texts = append(x.texts, t)
		n = testText + int16(len(x.texts))
		x.textOf[key] = n
	}
	return n
}

// way adds a way in which an input may be joined, and returns its number.
func (x *Index) way(h *handled, what string, line touch.Line, closes int) uint8 {
	w := way{what: what, line: line}
	if h.Shows != nil {
		before, after := h.Shows(&line, closes)
		w.before, w.after = x.saysText(before), x.saysText(after)
	}
	h.ways = append(h.ways, w)
	return uint8(len(h.ways) - 1)
}

// bounces is how often a contact closes that bounces.
const bounces = 3

// inputs lists what can be wrong between the inputs and the host.
func (l *lister) inputs() {
	x := l.x
	x.inputs = make([]handled, 0, mostInputs) // which faults point into
	for k := range l.s.Inputs[:min(len(l.s.Inputs), mostInputs)] {
		in := &l.s.Inputs[k]
		sound, ok := in.Circuit.Line(in.Module, in.Index)
		if !ok || !sound.Works {
			continue
		}
		at := len(x.inputs)
		x.inputs = append(x.inputs, handled{Input: in})
		h := &x.inputs[at]
		x.way(h, "its joints are sound", sound, 1)
		add := func(code string, args []string, line touch.Line, closes int) *way {
			n := x.way(h, "", line, closes)
			f := l.grouped("input:"+in.ID, code, args, nil, func(st *state) {
				st.touched[at] = n
				if w := &h.ways[n]; in.First && w.before != h.ways[0].before && st.program.says == 0 {
					st.program.says = w.before
				}
			})
			h.ways[n].what = strings.TrimSuffix(f.What(), ".")
			return &h.ways[n]
		}
		for _, c := range changes(in) {
			if line, ok := in.Circuit.Changed(c.change).Line(in.Module, in.Index); ok && !line.Works && !l.has(c.code, c.args) {
				add(c.code, c.args, line, 1)
			}
		}
		if in.Kind == show.Button || in.Kind == show.Counter && sound.Turns == 0 {
			add("input.bounce", []string{in.Name}, sound, bounces).what = h.ways[0].what // nobody sees it
		}
	}
}

// has reports whether a fault of a code at some places is listed already.
func (l *lister) has(code string, args []string) bool {
	return slices.ContainsFunc(l.list, func(f Fault) bool { return f.Code == code && slices.Equal(f.args, args) })
}

// change is what may be otherwise at an input.
type change struct {
	code   string
	args   []string
	change touch.Change
}

// changes lists what may be otherwise at an input's parts.
func changes(in *Input) (out []change) {
	add := func(code string, c touch.Change, args ...string) {
		out = append(out, change{code, append(args, in.Name), c})
	}
	name := func(pin string) string { return pin[strings.LastIndex(pin, "/")+1:] }
	acts := in.Circuit.Acts(in.Module, in.Index)
	var pins []string
	for _, a := range acts {
		for _, p := range a.Pins {
			if !slices.Contains(pins, p) {
				pins = append(pins, p)
			}
		}
	}
	for _, p := range pins {
		add("input.open", touch.Change{Cut: []string{p}}, name(p))
	}
	swap := func(a, b string) {
		add("input.swapped", touch.Change{Moved: map[string]string{a: b, b: a}}, name(a), name(b))
	}
	switch a := &acts[0]; {
	case len(acts) > 1:
		swap(a.Pins[0], acts[1].Pins[0])
	case a.Does == wiring.Closes:
		add("input.stuck", touch.Change{Stuck: acts})
		other := in.Circuit.OtherRail(a.Pins[1])
		add("input.rail", touch.Change{Moved: map[string]string{a.Pins[1]: other}}, name(a.Pins[1]))
	case a.Does == wiring.Gives, a.Does == wiring.Sends:
		swap(a.Pins[0], a.Pins[1])
	}
	for _, p := range in.Circuit.Held(in.Module, in.Index) {
		add("input.pull", touch.Change{Cut: []string{p}})
	}
	return out
}

// inputTests lists what can be done with the inputs.
func (x *Index) inputTests() (out []Test) {
	for k := range x.inputs {
		h := &x.inputs[k]
		called := "“" + h.Name + "”"
		if h.Shows != nil {
			out = append(out, Test{ID: "use:" + h.ID, Title: uses(h) + called, Do: fmt.Sprintf("Let the program begin anew, wait a second, %s%s once, and look at the glass.", strings.ToLower(uses(h)[:1])+uses(h)[1:], called), Minutes: 0.4, outcome: useOutcome(k)})
		} else {
			out = append(out, Test{ID: "use:" + h.ID, Title: uses(h) + called, Do: uses(h) + called + ", and watch what the glass shows of it.", Minutes: 0.5, outcome: readOutcome(k)})
		}
		out = append(out,
			Test{ID: "pin:" + h.ID, Title: "Measure " + h.Pin, Do: fmt.Sprintf("Measure pin %s against ground: first as it is, then %s.", h.Pin, inUse(h)), Minutes: 1.5, Meter: true, outcome: pinOutcome(k)},
			Test{ID: "joint:" + h.ID, Title: "Follow the wires of " + called, Do: fmt.Sprintf("Follow each wire of %s to where it ends, press both ends in anew, and look at its resistors.", called), Minutes: 2, outcome: jointOutcome(k)},
		)
	}
	return out
}

// uses says what one does with an input, before its name.
func uses(h *handled) string {
	switch {
	case h.Kind == show.Serial:
		return "Send something over "
	case h.Kind == show.Signal:
		return "Move from end to end "
	case h.ways[0].line.Turns != 0:
		return "Turn by a notch "
	}
	return "Press "
}

// inUse says when a meter is read for the second time.
func inUse(h *handled) string {
	switch {
	case h.Kind == show.Serial:
		return "while something is sent (a meter shows less than at rest)"
	case h.Kind == show.Signal:
		return "with “" + h.Name + "” at its most"
	case h.ways[0].line.Turns != 0:
		return "turned until A closes"
	}
	return "while “" + h.Name + "” is pressed"
}

// useOutcome is the glass after an input was used.
func useOutcome(k int) func(*Index, *state, *joined) (Outcome, error) {
	return func(x *Index, st *state, j *joined) (Outcome, error) {
		st = st.copy()
		st.program.says, st.lost = x.inputs[k].ways[st.touched[k]].after, 0
		return view(x.lookAt(st, j, false))
	}
}

// readOutcome is what one sees of a reading while the input is moved.
func readOutcome(k int) func(*Index, *state, *joined) (Outcome, error) {
	return func(x *Index, st *state, j *joined) (Outcome, error) {
		h := &x.inputs[k]
		v, err := x.lookAt(st, j, false)
		readable := err == nil && x.seen[v].Class().Readable()
		l := &h.ways[st.touched[k]].line
		says := "the glass cannot be read"
		switch {
		case !readable:
		case l.Works:
			says = "it follows"
		case h.Kind == show.Serial:
			says = "nothing comes"
		case l.Floats:
			says = "it wanders"
		case l.Reads[0] > l.Reads[2]:
			says = "it goes the other way"
		case l.Reads[0] == l.Reads[2]:
			says = fmt.Sprintf("it stays as at %.0f %%", 100*l.Reads[0])
		default:
			says = fmt.Sprintf("it goes from %.0f to %.0f %%", 100*l.Reads[0], 100*l.Reads[2])
		}
		return x.say("use:"+h.ID, says, func() string { return says }), err
	}
}

// pinOutcome is what a meter reads at an input's pin.
func pinOutcome(k int) func(*Index, *state, *joined) (Outcome, error) {
	return func(x *Index, st *state, j *joined) (Outcome, error) {
		h := &x.inputs[k]
		l := &h.ways[st.touched[k]].line
		says := fmt.Sprintf("%s, then %s", l.AtRest, l.InUse)
		if j.shorted {
			says = "0.0 V, then 0.0 V"
		}
		return x.say("pin:"+h.ID, says, func() string { return says }), nil
	}
}

// jointOutcome is what one finds who follows an input's wires.
func jointOutcome(k int) func(*Index, *state, *joined) (Outcome, error) {
	return func(x *Index, st *state, _ *joined) (Outcome, error) {
		h := &x.inputs[k]
		what := h.ways[st.touched[k]].what
		return x.say("joint:"+h.ID, what, func() string { return what }), nil
	}
}
