package live

import (
	"bytes"
	"context"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/wire/sequence"
	"slatebell/formats/eventcsv"
	"slatebell/live/perform"
	"slatebell/server/api/answer"
	"slatebell/server/api/runs"
)

// playing is a show that is played on the real table.
type playing struct {
	module int
	show   *perform.Show
	inputs []bench.Input
	begun  time.Time
	end    context.CancelFunc
}

// RealShow is how far a show on the real table has come.
type RealShow struct {
	Module  int      `json:"module" doc:"index"`
	Scene   int      `json:"scene" doc:"index of the scene that is shown"`
	Ms      int64    `json:"ms" doc:"since it began, in milliseconds"`
	Events  int      `json:"events" doc:"that have happened"`
	Unheard []string `json:"unheard" nullable:"false" doc:"ids of inputs whose pins are not listened to"`
}

func (p *playing) state() *RealShow {
	return &RealShow{p.module, p.show.Scene(), time.Since(p.begun).Milliseconds(), len(p.show.Events()), append([]string{}, p.show.Unheard()...)}
}

// plays reports whether a module's show is played.
func (n *connection) plays(d *Desk, module int) bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	return n.playing != nil && n.playing.module == module
}

// RealPlayRequest asks for a module's show on the real table.
type RealPlayRequest struct {
	By     string      `json:"by" minLength:"1" maxLength:"40"`
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0" doc:"index"`
	Stop   bool        `json:"stop,omitempty" doc:"the show that is played ends"`
}

// play begins a show, or ends it.
func (d *Desk) play(r *RealPlayRequest) (*RealTable, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	var next *playing
	if !r.Stop {
		if _, err := answer.Module(&r.Bench, r.Module); err != nil {
			return nil, err
		}
		played, err := perform.New(&r.Bench, r.Module)
		if err != nil {
			return nil, answer.Invalid(err)
		}
		ctx, cancel := context.WithCancel(context.Background())
		next = &playing{r.Module, played, r.Bench.Modules[r.Module].Show.Inputs, time.Now(), cancel}
		go played.Run(ctx, n.c, r.Module, nil) // what fails is in the table's state
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if n.playing != nil {
		n.playing.end()
	}
	n.playing = next
	d.tell()
	return d.state(), nil
}

// PressRequest tells of an input of the show that is played, otherwise than by the host's pins.
type PressRequest struct {
	By    string  `json:"by" minLength:"1" maxLength:"40"`
	Input string  `json:"input" maxLength:"40" doc:"id"`
	Value float64 `json:"value,omitempty" doc:"as an events file has it: 1 and 0 of a button, a signal's value, a counter's steps"`
	Text  string  `json:"text,omitempty" maxLength:"2000" doc:"of a serial line, with the escapes of an events file"`
}

func (d *Desk) press(r *PressRequest) (*RealTable, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if n.playing == nil {
		return nil, answer.Refused(fmt.Errorf("no show is played on the real table"))
	}
	for i := range n.playing.inputs {
		if n.playing.inputs[i].ID == r.Input {
			var err error
			if n.playing.inputs[i].Kind == string(show.Serial) {
				err = n.playing.show.Say(i, r.Text)
			} else {
				err = n.playing.show.Press(i, r.Value)
			}
			if err != nil {
				return nil, answer.Refused(err)
			}
			d.tell()
			return d.state(), nil
		}
	}
	return nil, answer.Refused(fmt.Errorf("there is no input %q", r.Input))
}

// events writes what has happened, as play reads it.
func (d *Desk) events() (*huma.StreamResponse, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	d.mu.Lock()
	p := n.playing
	d.mu.Unlock()
	if p == nil {
		return nil, answer.Refused(fmt.Errorf("no show is played on the real table"))
	}
	var out bytes.Buffer
	if err := eventcsv.Write(&out, p.show.Events(), p.inputs); err != nil {
		return nil, answer.Refused(err)
	}
	return answer.Attachment("text/csv; charset=utf-8", "events.csv", out.Bytes()), nil
}

// HandRequest asks for operations given by hand on a real module.
type HandRequest struct {
	By     string               `json:"by" minLength:"1" maxLength:"40"`
	Module int                  `json:"module" minimum:"0" doc:"index"`
	Ops    []runs.LiveOperation `json:"ops" nullable:"false" maxItems:"200"`
}

// Handed is what operations given by hand have read.
type Handed struct {
	Read []int `json:"read" nullable:"false" doc:"a byte for each operation that reads"`
}

func (d *Desk) hand(ctx context.Context, r *HandRequest) (*Handed, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	var ops []sequence.Aimed
	for i := range r.Ops {
		ops = append(ops, r.Ops[i].Aimed())
	}
	ctx, cancel := context.WithTimeout(ctx, asked)
	defer cancel()
	read, err := n.c.ByHand(ctx, r.Module, ops)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &Handed{Read: []int{}}
	for _, b := range read {
		out.Read = append(out.Read, int(b))
	}
	return out, nil
}

// registerShows registers shows and operations by hand on the real table.
func registerShows(api huma.API, d *Desk, post func(id, path, summary string) huma.Operation) {
	huma.Register(api, post("play-on-table", "/api/table/play", "Play a module's show on the real glass by the host's own inputs, or end it"), answer.Answered(d.play))
	huma.Register(api, post("press-on-table", "/api/table/press", "Tell of an input of the show that is played"), answer.Answered(d.press))
	huma.Register(api, huma.Operation{OperationID: "get-table-events", Method: "GET", Path: "/api/table/events.csv", Summary: "What has happened to the inputs of the show that is played", Errors: []int{422}},
		func(context.Context, *struct{}) (*huma.StreamResponse, error) { return d.events() })
	huma.Register(api, post("hand-on-table", "/api/table/hand", "Carry operations out on a real module as they are given"), func(ctx context.Context, in *struct{ Body HandRequest }) (*answer.Body[Handed], error) {
		out, err := d.hand(ctx, &in.Body)
		if err != nil {
			return nil, err
		}
		return &answer.Body[Handed]{Body: *out}, nil
	})
}
