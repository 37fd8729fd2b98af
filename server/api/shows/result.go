package shows

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/ship/play"
	"slatebell/server/api/facts"
)

// Played is what became of shows since the last request.
type Played struct {
	ID    string       `json:"id" doc:"of these shows; they are kept while they are among the last few that were begun"`
	NowMs int64        `json:"nowMs"`
	Parts []PlayedPart `json:"parts" nullable:"false"`
}

// PlayedPart is one module of them.
type PlayedPart struct {
	Module   string            `json:"module" doc:"id"`
	Frames   []PlayFrame       `json:"frames" nullable:"false"`
	Scenes   []PlayScene       `json:"scenes" nullable:"false" doc:"that began"`
	Forecast []PlayScene       `json:"forecast,omitempty" nullable:"false"`
	State    PlayState         `json:"state"`
	Keys     []PlayKey         `json:"keys,omitempty" nullable:"false" doc:"of all scenes that edit a field: what a hand does to their inputs"`
	Dropped  int               `json:"dropped" doc:"changes that a newer one overtook"`
	Lost     int               `json:"lost" doc:"characters of serial lines"`
	Findings []finding.Finding `json:"findings,omitempty" nullable:"false" doc:"when it begins: what its show is found to be"`
}

// PlayKey is what becomes of an input when a hand works a key of a scene's edit.
type PlayKey struct {
	Scene   int     `json:"scene" doc:"index"`
	Does    string  `json:"does"`
	Input   string  `json:"input" doc:"id"`
	Pressed float64 `json:"pressed" doc:"its value while the key is pressed"`
	Let     float64 `json:"let" doc:"and once it is let go"`
}

// keysOf lists the keys of a module's edits whose inputs are there.
func keysOf(m *bench.Module) (out []PlayKey) {
	for i := range m.Show.Scenes {
		for k := range m.Show.Scenes[i].Edit.Keys {
			key := &m.Show.Scenes[i].Edit.Keys[k]
			at := slices.IndexFunc(m.Show.Inputs, func(in bench.Input) bool { return in.ID == key.Input })
			if at < 0 {
				continue
			}
			pressed, let := show.Worked(key, &m.Show.Inputs[at])
			out = append(out, PlayKey{i, key.Does, key.Input, pressed, let})
		}
	}
	return out
}

// PlayFrame is a change of a glass. Times are in milliseconds since the shows began.
type PlayFrame struct {
	WantedMs float64     `json:"wantedMs"`
	WaitedMs float64     `json:"waitedMs,omitempty" doc:"until the host was free for it"`
	DoneMs   float64     `json:"doneMs" doc:"the wire is still, and the controller free"`
	WireMs   float64     `json:"wireMs" doc:"of it, the wire in use"`
	Bytes    int         `json:"bytes" doc:"instructions and characters sent"`
	Scene    int         `json:"scene" doc:"index"`
	Glass    facts.Glass `json:"glass"`
}

// PlayScene is a scene that began.
type PlayScene struct {
	AtMs  float64 `json:"atMs"`
	Scene int     `json:"scene" doc:"index"`
}

// PlayState is where a show stands.
type PlayState struct {
	Scene  int         `json:"scene" doc:"index"`
	Inputs []PlayInput `json:"inputs" nullable:"false"`
	Typing *PlayTyping `json:"typing,omitempty" doc:"while a field is edited"`
}

// PlayInput is where an input stands.
type PlayInput struct {
	Value float64 `json:"value" doc:"what fields are told: a counter's place, a timer's seconds, a signal's or a meter's reading, 1 of a button that is pressed"`
	Peak  float64 `json:"peak,omitempty" doc:"of a meter"`
	Raw   float64 `json:"raw,omitempty" doc:"signal: itself"`
	Text  string  `json:"text,omitempty" doc:"serial: what is shown; counter: the word of its place"`
	Left  string  `json:"coming,omitempty" doc:"serial: what has come of the next message"`
	Wired string  `json:"wired,omitempty" doc:"what the program cannot read of it, as it is wired on the table"`
	Over  int64   `json:"over,omitempty" doc:"serial: characters that were too many"`
}

// PlayTyping is where an edit stands.
type PlayTyping struct {
	Field string `json:"field" doc:"name"`
	Value string `json:"value"`
	Place int    `json:"place" doc:"number: the digit from the right; free text: the cell"`
}

func scenes(list []play.Entered) []PlayScene {
	out := make([]PlayScene, len(list))
	for i, e := range list {
		out[i] = PlayScene{millis(e.At), e.Scene}
	}
	return out
}

// part is what became of one module.
func (p *playing) part(i int, played *play.Playing) PlayedPart {
	m := &p.bench.Modules[p.modules[i]]
	out := PlayedPart{Module: m.ID, Frames: make([]PlayFrame, len(played.Frames)), Scenes: scenes(played.Scenes), Dropped: played.Dropped, Lost: played.Lost, Keys: keysOf(m)}
	for k := range played.Frames {
		f := &played.Frames[k]
		out.Frames[k] = PlayFrame{millis(f.Wanted), millis(f.Waited), millis(f.Done), millis(f.Wire), f.Bytes, f.Scene, facts.GlassOf(f.Glass, p.roms[i])}
	}
	s, st := p.shows[i], p.live.State(i)
	out.State = PlayState{Scene: st.Scene, Inputs: make([]PlayInput, len(s.Inputs))}
	for k := range s.Inputs {
		out.State.Inputs[k] = inputOf(s, st, k, &m.Show.Inputs[k], p.roms[i])
		if l, there := p.wired[i][k]; there {
			in := &m.Show.Inputs[k]
			out.State.Inputs[k].Wired = l.Says(cmp.Or(in.Name, in.ID), in.Pin)
		}
	}
	if e := s.Scenes[st.Scene].Edit; e != nil {
		d := &s.Edited[e.Field]
		value := shown(st.Typing.Codes, p.roms[i])
		if value == "" {
			value = strconv.FormatFloat(float64(st.Typing.Units)/math.Pow10(d.Decimals), 'f', d.Decimals, 64)
		}
		if len(d.Words) > 0 {
			value = d.Words[st.Typing.Units]
		}
		out.State.Typing = &PlayTyping{d.Name, value, st.Typing.Place}
	}
	return out
}

func inputOf(s *show.Show, st *show.State, k int, d *bench.Input, rom *charrom.ROM) PlayInput {
	given := s.Gives(st, k)
	scale := math.Pow10(given.Decimals)
	out := PlayInput{Value: float64(given.Units) / scale}
	switch s.Inputs[k].Kind {
	case show.Signal:
		out.Raw = float64(st.Inputs[k].Value) / math.Pow10(s.Inputs[k].Decimals)
		if s.Inputs[k].Meter != nil {
			out.Peak = float64(given.Peak) / scale
		}
	case show.Counter:
		if n := int(given.Units); n >= 0 && n < len(d.Counter.Words) {
			out.Text = d.Counter.Words[n]
		}
	case show.Serial:
		line := &st.Inputs[k].Line
		out.Text, out.Left, out.Over = shown(line.Text, rom), shown(line.Coming, rom), line.Over
	}
	return out
}

// shown is codes as the ROM's characters.
func shown(codes string, rom *charrom.ROM) string {
	var out []rune
	for _, code := range []byte(codes) {
		if ch, ok := rom.Rune(code); ok {
			out = append(out, ch)
		} else {
			out = append(out, '·')
		}
	}
	return string(out)
}

func millis(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }
