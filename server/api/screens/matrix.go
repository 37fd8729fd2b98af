package screens

import (
	"context"
	"encoding/json"
	"net/http"
	"reflect"
	"runtime"
	"sync"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/transition"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// MatrixRequest asks for every change on a module.
type MatrixRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
}

// MatrixLine is a line of the answer: a row of the table, in the order in which they are worked out; the last line is what is judged of all.
type MatrixLine struct {
	Of     int           `json:"of" doc:"how many rows the table has"`
	Row    *MatrixRow    `json:"row,omitempty"`
	Judged *MatrixJudged `json:"judged,omitempty"`
}

// MatrixRow is the changes from a screen to every other.
type MatrixRow struct {
	From    int            `json:"from" doc:"index of the screen"`
	Changes []MatrixChange `json:"changes" nullable:"false"`
}

// MatrixChange is a change to a screen by the cheapest update.
type MatrixChange struct {
	To     int            `json:"to" doc:"index of the screen"`
	Cost   facts.WireCost `json:"cost"`
	Left   int            `json:"left" doc:"cells that keep old characters where nothing clears them"`
	PerSec float64        `json:"perSecond" doc:"how often a second it could be made; 0 where nothing changes"`
}

// MatrixJudged is what the fields take, and what is found of all changes.
type MatrixJudged struct {
	Fields   []MatrixField     `json:"fields" nullable:"false"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// MatrixField is the update of a field, every cell of it.
type MatrixField struct {
	Screen int            `json:"screen"`
	Field  int            `json:"field"`
	Name   string         `json:"name"`
	Cost   facts.WireCost `json:"cost"`
	PerSec float64        `json:"perSecond" doc:"how often a second it can be written; 0 for one that is not written"`
	Wanted float64        `json:"wanted" doc:"how often it is to be written; 0: not said"`
}

// JSONLines is a JSON document on each line, as they come.
const JSONLines = "application/jsonl"

// matrices works tables out on all processors, for all who ask together.
type matrices struct{ processors chan struct{} }

func registerMatrix(api huma.API, post func(id, path, summary string) huma.Operation) {
	m := &matrices{make(chan struct{}, runtime.GOMAXPROCS(0))}
	op := post("screen-matrix", "/api/screens/matrix", "What every change between a module's screens takes, and every field, line by line")
	op.Responses = map[string]*huma.Response{"200": {Description: "A line for each screen, and one of what is judged of all. Whoever hangs up ends the work.",
		Content: map[string]*huma.MediaType{JSONLines: {Schema: api.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[MatrixLine](), true, "MatrixLine")}}}}
	huma.Register(api, op, m.stream)
}

func (m *matrices) stream(_ context.Context, in *struct{ Body MatrixRequest }) (*huma.StreamResponse, error) {
	r := &in.Body
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	table, err := transition.NewTable(&r.Bench, r.Module)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	return &huma.StreamResponse{Body: func(ctx huma.Context) {
		ctx.SetHeader("Content-Type", JSONLines)
		w := ctx.BodyWriter()
		out := json.NewEncoder(w)
		tell := func(line MatrixLine) error {
			line.Of = table.Rows()
			err := out.Encode(line)
			if f, ok := w.(http.Flusher); ok {
				f.Flush()
			}
			return err
		}
		rows, end := m.rows(ctx.Context(), table)
		defer end()
		told := 0
		for row := range rows {
			if tell(MatrixLine{Row: row}) != nil {
				return // whoever asked has gone
			}
			told++
		}
		if told < table.Rows() {
			return // who asked sees that the last line is missing
		}
		if j, err := table.Judge(); err == nil {
			tell(MatrixLine{Judged: judged(j, &r.Bench.Modules[r.Module])})
		}
	}}, nil
}

// rows works the rows of a table out, until the context is done or end is called. A row that cannot be
// ends it.
func (m *matrices) rows(ctx context.Context, table *transition.Table) (_ <-chan *MatrixRow, end func()) {
	ctx, cancel := context.WithCancel(ctx)
	next := make(chan int)
	out := make(chan *MatrixRow)
	var workers sync.WaitGroup
	workers.Go(func() {
		defer close(next)
		for from := range table.Rows() {
			select {
			case next <- from:
			case <-ctx.Done():
				return
			}
		}
	})
	for range cap(m.processors) {
		workers.Go(func() {
			for from := range next {
				m.processors <- struct{}{}
				changes, err := table.Row(from)
				<-m.processors
				if err != nil {
					cancel()
					return
				}
				row := &MatrixRow{From: from, Changes: make([]MatrixChange, 0, len(changes))}
				for _, c := range changes {
					row.Changes = append(row.Changes, MatrixChange{c.To, facts.CostOf(c.Cost), c.Left, c.Cost.PerSecond()})
				}
				select {
				case out <- row:
				case <-ctx.Done():
					return
				}
			}
		})
	}
	go func() {
		workers.Wait()
		close(out)
	}()
	return out, cancel
}

// judged is what is judged of a table, as it is told.
func judged(j *transition.Judged, of *bench.Module) *MatrixJudged {
	out := &MatrixJudged{Fields: []MatrixField{}, Findings: append([]finding.Finding{}, j.Findings...)}
	for _, f := range j.Fields {
		name := of.Screens[f.Screen].Fields[f.Field].Name
		out.Fields = append(out.Fields, MatrixField{f.Screen, f.Field, name, facts.CostOf(f.Cost), f.Rate, f.Wanted})
	}
	return out
}
