package recordings

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/replay"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/formats/rawsamples"
	"slatebell/formats/recording"
	"slatebell/formats/samplecsv"
	"slatebell/formats/sessionzip"
	"slatebell/formats/stepcsv"
	"slatebell/formats/vcd"
	"slatebell/server/api/answer"
	"slatebell/server/api/progress"
)

// MaxBytes bounds a recording.
const MaxBytes = 4 << 30

// Path is where recordings are dropped: the one body that is not bounded as the others are.
const Path = "/api/recordings"

// Held is a recording that is held.
type Held struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Bytes int64  `json:"bytes"`
}

// dropped is a file as it comes.
type dropped struct {
	Name     string `query:"name" maxLength:"200" doc:"of the file"`
	Rate     string `query:"rate" maxLength:"20" doc:"of samples, such as 24 MHz, where the file does not say it"`
	Channels int    `query:"channels" minimum:"8" maximum:"16" multipleOf:"8" default:"8" doc:"of samples and nothing else"`

	body io.Reader
}

// Resolve takes the body as it comes, so that it is not held in memory.
func (d *dropped) Resolve(ctx huma.Context) []error {
	d.body = ctx.BodyReader()
	return nil
}

// RecordRequest asks for a recording of a module's own program.
type RecordRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
	Screen int         `json:"screen" minimum:"0"`
	Fault  string      `json:"fault,omitempty" maxLength:"120" doc:"made on purpose, by its id in the catalogue; absent: none"`
}

// record makes a recording of a program.
func (s *Shelf) record(r *RecordRequest) (*Held, error) {
	setup, err := testbed.Of(&r.Bench, testbed.At{Module: r.Module, Screen: r.Screen})
	if err != nil {
		return nil, answer.Invalid(err)
	}
	done, err := run.Do(&setup, run.Options{Fault: r.Fault})
	if err != nil {
		return nil, answer.Invalid(err)
	}
	drawn := capture.OfProgram(done.Program, done.Hardware)
	name := r.Bench.Modules[r.Module].Name + ", its own program"
	k := &kept{name: name, memory: &drawn, size: int64(len(drawn.List))}
	s.put(k)
	return &Held{k.id, k.name, k.size}, nil
}

// HeldPath names a recording, or one of its readings.
type HeldPath struct {
	Recording string `path:"recording" maxLength:"60" doc:"id of the recording, or of the reading that is asked about"`
}

// readable is a recording that was read, and not let go of while it is looked at.
func (s *Shelf) readable(id string, played bool, do func(r *reading) error) error {
	k, err := s.find(id)
	if err != nil {
		return err
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	r := k.reading(id)
	switch {
	case r == nil:
		return huma.Error409Conflict("this reading of the recording is held no longer; ask for it again")
	case played && r.played == nil:
		return huma.Error409Conflict("it is not known which channel of this recording is which line")
	}
	return do(r)
}

// asked wraps a question about a recording that was read.
func asked[In any, Out any](s *Shelf, id func(*In) string, played bool, do func(*reading, *In) (*Out, error)) func(context.Context, *In) (*answer.Body[Out], error) {
	return func(_ context.Context, in *In) (*answer.Body[Out], error) {
		var out *Out
		if err := s.readable(id(in), played, func(r *reading) (err error) {
			out, err = do(r, in)
			return err
		}); err != nil {
			return nil, err
		}
		return &answer.Body[Out]{Body: *out}, nil
	}
}

// partQuery asks for a part of a recording.
type partQuery struct {
	HeldPath
	From    int64 `query:"from" minimum:"0" doc:"ns since the recording began"`
	To      int64 `query:"to" minimum:"1" doc:"ns"`
	Columns int   `query:"columns" minimum:"1" maximum:"4000" default:"1000" doc:"in which it is drawn"`
}

// instantQuery asks for the module at a time.
type instantQuery struct {
	HeldPath
	At int64 `query:"at" minimum:"0" doc:"ns since the recording began"`
}

// operationsQuery asks for operations.
type operationsQuery struct {
	HeldPath
	From  int `query:"from" minimum:"0"`
	Count int `query:"count" minimum:"1" maximum:"500" default:"200"`
}

// RecordedOperations are some of those that were recorded.
type RecordedOperations struct {
	Operations []RecordedOperation `json:"operations" nullable:"false"`
	Of         int                 `json:"of" doc:"how many there are"`
}

// searchQuery looks for something.
type searchQuery struct {
	HeldPath
	For  string `query:"for" enum:"text,byte,address,limit,operation,edge"`
	Text string `query:"text" maxLength:"80" doc:"what is looked for; of an edge, the channel's index"`
	From int64  `query:"from" minimum:"0" doc:"ns since the recording began"`
	Back bool   `query:"back" doc:"before it, not after it"`
}

// FoundAt is where something is.
type FoundAt struct {
	AtNs *int64 `json:"atNs,omitempty" doc:"absent where there is none"`
}

func search(r *reading, q *searchQuery) (*FoundAt, error) {
	var at time.Duration
	var ok bool
	var err error
	if q.For == "edge" {
		channels := ^uint64(0)
		var n int
		if q.Text != "" {
			if _, err := fmt.Sscan(q.Text, &n); err != nil || n < 0 || n >= len(r.answer.Channels) {
				return nil, answer.Refused(fmt.Errorf("%q is no channel; expected 0 to %d", q.Text, len(r.answer.Channels)-1))
			}
			channels = 1 << n
		}
		at, ok, err = r.trace.Edge(time.Duration(q.From), channels, q.Back)
	} else if r.played == nil {
		return nil, huma.Error409Conflict("it is not known which channel of this recording is which line")
	} else {
		at, ok, err = r.played.Search(replay.Sought(q.For), q.Text, time.Duration(q.From), q.Back)
	}
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &FoundAt{}
	if ok {
		ns := at.Nanoseconds()
		out.AtNs = &ns
	}
	return out, nil
}

// Register registers them.
func Register(api huma.API, s *Shelf, watches *progress.Watches) {
	op := func(id, method, path, summary string, errors ...int) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: Path + path, Summary: summary, Errors: append([]int{404, 409, 422}, errors...)}
	}
	drop := op("drop-recording", http.MethodPost, "", "Hold a recording: the file is the body", http.StatusRequestEntityTooLarge)
	drop.RequestBody = &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{"application/octet-stream": {Schema: &huma.Schema{Type: "string", Format: "binary"}}}}
	drop.SkipValidateBody, drop.DefaultStatus = true, http.StatusCreated
	huma.Register(api, drop, func(_ context.Context, in *dropped) (*answer.Body[Held], error) {
		o := recording.Options{Channels: in.Channels}
		if in.Rate != "" {
			var err error
			if o.Rate, err = rawsamples.Rate(in.Rate); err != nil {
				return nil, answer.Refused(err)
			}
		}
		k, err := s.take(in.Name, o, in.body)
		if err != nil {
			return nil, answer.Refused(err)
		}
		if _, err := k.open(); err != nil { // what is no recording is not held
			s.drop(k)
			return nil, answer.Refused(fmt.Errorf("%s: %w", in.Name, err))
		}
		return &answer.Body[Held]{Body: Held{k.id, k.name, k.size}}, nil
	})
	huma.Register(api, op("record-own", http.MethodPost, "/own", "Make a recording of a module's own program"), answer.Answered(s.record))
	huma.Register(api, op("read-recording", http.MethodPost, "/{recording}/reading", "Find which channel is which line, play the recording into the module, and judge it"),
		func(_ context.Context, in *struct {
			HeldPath
			progress.Watched
			Body ReadingRequest
		}) (*answer.Body[Reading], error) {
			k, err := s.find(in.Recording)
			if err != nil {
				return nil, err
			}
			tell, end := watches.Follow(&in.Watched)
			defer end()
			out, err := s.read(k, &in.Body, tell)
			if err != nil {
				return nil, err
			}
			return &answer.Body[Reading]{Body: *out}, nil
		})
	huma.Register(api, op("get-part", http.MethodGet, "/{recording}/part", "What is recorded from a time to another, as it is drawn"),
		asked(s, func(q *partQuery) string { return q.Recording }, false, func(r *reading, q *partQuery) (*Part, error) {
			if q.To <= q.From {
				return nil, answer.Refused(errors.New("a part that ends before it begins; expected to after from"))
			}
			return r.part(time.Duration(q.From), time.Duration(q.To), q.Columns)
		}))
	huma.Register(api, op("get-instant", http.MethodGet, "/{recording}/instant", "The module at a time of a recording"),
		asked(s, func(q *instantQuery) string { return q.Recording }, true, func(r *reading, q *instantQuery) (*Instant, error) { return r.instant(time.Duration(q.At)), nil }))
	huma.Register(api, op("get-recorded-operations", http.MethodGet, "/{recording}/operations", "Operations that were recorded"),
		asked(s, func(q *operationsQuery) string { return q.Recording }, true, func(r *reading, q *operationsQuery) (*RecordedOperations, error) {
			out := &RecordedOperations{Operations: []RecordedOperation{}, Of: len(r.played.Operations)}
			for i := q.From; i < min(q.From+q.Count, out.Of); i++ {
				out.Operations = append(out.Operations, r.operation(i))
			}
			return out, nil
		}))
	huma.Register(api, op("search-recording", http.MethodGet, "/{recording}/search", "The next place of a text, a byte, an address, a broken limit or an edge"),
		asked(s, func(q *searchQuery) string { return q.Recording }, false, search))
	huma.Register(api, op("compare-recording", http.MethodPost, "/{recording}/comparison", "The recording beside what the bench's own program sends"),
		func(_ context.Context, in *struct {
			HeldPath
			Body ComparisonRequest
		}) (*answer.Body[RecordingComparison], error) {
			var out *RecordingComparison
			err := s.readable(in.Recording, true, func(r *reading) (err error) {
				out, err = r.compare(&in.Body)
				return err
			})
			if err != nil {
				return nil, err
			}
			return &answer.Body[RecordingComparison]{Body: *out}, nil
		})
	huma.Register(api, op("learn-bench", http.MethodPost, "/{recording}/bench", "What the recording shows, as a bench: link, mapping, address, glyphs and the last screen"),
		asked(s, func(q *HeldPath) string { return q.Recording }, true, func(r *reading, _ *HeldPath) (*bench.Bench, error) {
			b := r.played.Bench(r.display)
			return &b, nil
		}))
	for _, f := range []struct {
		id, name, kind, summary string
		write                   func(io.Writer, *kept, *reading) error
	}{
		{"get-annotations", "operations.csv", "text/csv; charset=utf-8", "The operations as CSV, RFC 4180", func(w io.Writer, _ *kept, r *reading) error {
			return stepcsv.WriteRecorded(w, r.played.Operations, r.played.Module().Controller().Family)
		}},
		{"get-recording-dump", "recording.vcd", "text/plain; charset=utf-8", "The recording as a value change dump, IEEE 1364", func(w io.Writer, k *kept, _ *reading) error {
			return written(k, func(s capture.Source) error { return vcd.WriteSource(w, s) })
		}},
		{"get-recording-table", "recording.csv", "text/csv; charset=utf-8", "The recording's changes as CSV, RFC 4180", func(w io.Writer, k *kept, _ *reading) error {
			return written(k, func(s capture.Source) error { return samplecsv.Write(w, s) })
		}},
		{"get-recording-session", "recording.zip", "application/zip", "The recording as a zipped session, sampled at 24 MHz or at its own rate", func(w io.Writer, k *kept, _ *reading) error {
			return written(k, func(s capture.Source) error { return sessionzip.Write(w, s, sessionzip.UsualRate) })
		}},
	} {
		huma.Register(api, op(f.id, http.MethodGet, "/{recording}/"+f.name, f.summary), func(_ context.Context, in *HeldPath) (*answer.Download, error) {
			k, err := s.find(in.Recording)
			if err != nil {
				return nil, err
			}
			var r *reading
			if err := s.readable(in.Recording, f.id == "get-annotations", func(of *reading) error { r = of; return nil }); err != nil {
				return nil, err
			}
			return answer.File(f.kind, f.name, func(w io.Writer) error {
				k.mu.Lock()
				defer k.mu.Unlock()
				return f.write(w, k, r)
			}), nil
		})
	}
}

// written writes a recording from its beginning.
func written(k *kept, write func(capture.Source) error) error {
	source, err := k.open()
	if err != nil {
		return err
	}
	return write(source)
}
