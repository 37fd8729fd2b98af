// Package about answers for the program itself: what it stands on, the copies that it keeps, and a report for somebody who helps.
package about

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/server/api/answer"
	"slatebell/server/doctor"
	"slatebell/server/store"
)

// Condition is how the program is found.
type Condition struct {
	doctor.Report
	State  doctor.State `json:"state" enum:"ok,note,wrong" doc:"the worst of all checks"`
	Data   string       `json:"data" doc:"directory of the database"`
	Copies []store.Copy `json:"copies" nullable:"false" doc:"of the database, beside it; the latest first"`
}

// reportQuery says what goes into a report.
type reportQuery struct {
	Bench []uint `query:"bench" maxItems:"50" doc:"numbers of benches that go into it; absent: none"`
}

// Register adds the operations. The options' address is not looked at: the program listens on it.
func Register(api huma.API, s *store.Store, o doctor.Options) {
	o.Addr = ""
	huma.Register(api, huma.Operation{OperationID: "get-condition", Method: http.MethodGet, Path: "/api/condition", Summary: "What the program stands on, looked over"},
		func(context.Context, *struct{}) (*answer.One[Condition], error) {
			r := doctor.Examine(o)
			copies, err := store.Copies(o.Dir)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			return &answer.One[Condition]{Body: Condition{Report: r, State: r.State(), Data: o.Dir, Copies: copies}}, nil
		})

	huma.Register(api, huma.Operation{OperationID: "get-report", Method: http.MethodGet, Path: "/api/report", Summary: "A report that can be sent to somebody who helps, a ZIP archive; no bench is in it that is not asked for", Errors: []int{404, 410}},
		func(_ context.Context, in *reportQuery) (*huma.StreamResponse, error) {
			added, err := s.Archives(in.Bench)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			var file bytes.Buffer
			if err := doctor.Write(&file, o, added); err != nil {
				return nil, err
			}
			return answer.Attachment("application/zip", time.Now().Format("slatebell-report-2006-01-02-1504.zip"), file.Bytes()), nil
		})
}
