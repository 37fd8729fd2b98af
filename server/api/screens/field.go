package screens

import (
	"fmt"

	"slatebell/core/text/field"
	"slatebell/server/api/answer"
)

// FieldRequest asks for a field of cells of a screen's row.
type FieldRequest struct {
	Text   string        `json:"text" maxLength:"400" doc:"the row"`
	Row    int           `json:"row" minimum:"0" maximum:"63"`
	From   int           `json:"from" minimum:"0" maximum:"399" doc:"the first cell"`
	To     int           `json:"to" minimum:"1" maximum:"400" doc:"the cell behind the last one; 80 more at most"`
	Others []field.Field `json:"others,omitempty" nullable:"false" maxItems:"200" doc:"fields of the screen"`
}

// guess makes the field.
func (r *FieldRequest) guess() (*field.Field, error) {
	if width := r.To - r.From; width < 1 || width > 80 {
		return nil, answer.Refused(fmt.Errorf("a field from cell %d to %d; expected 1 to 80 cells", r.From, r.To))
	}
	f := field.Guess(r.Text, r.From, r.To, r.Others)
	f.Row = r.Row
	return &f, nil
}
