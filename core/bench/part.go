package bench

import (
	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/host"
)

// OwnPart is a part that the bench knows nothing of, such as a radio or a motor driver: its maker says which
// pins it has and what they are joined to.
type OwnPart struct {
	ID        string   `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name      string   `json:"name,omitempty" maxLength:"80"`
	Pins      []OwnPin `json:"pins,omitempty" nullable:"false" maxItems:"24"`
	SupplyMV  int      `json:"supplyMV,omitempty" minimum:"0" maximum:"6000" doc:"what feeds it, in millivolts; absent: the host's logic voltage"`
	CurrentMA float64  `json:"currentMA,omitempty" minimum:"0" maximum:"5000" doc:"that it draws from there, in milliamperes"`
}

// Fed returns what feeds the part.
func (p *OwnPart) Fed(board *host.Board) physic.ElectricPotential { return fed(p.SupplyMV, board) }

// OwnPin is one of its pins.
type OwnPin struct {
	Name      string  `json:"name" minLength:"1" maxLength:"12" pattern:"^[^/]+$" doc:"as it is printed beside it"`
	To        string  `json:"to,omitempty" maxLength:"12" doc:"GND, 5V, 3V3, or the label of a pin of the host; absent: it stays open"`
	Drives    bool    `json:"drives,omitempty" doc:"the part drives the pin of the host; absent: the host drives the part"`
	HighMV    int     `json:"highMV,omitempty" minimum:"0" maximum:"30000" doc:"the level that it drives with, or the least that it takes for high, in millivolts; absent: not known"`
	CurrentMA float64 `json:"currentMA,omitempty" minimum:"0" maximum:"5000" doc:"that it takes from the host's pin, in milliamperes"`
}

// Rails are what a pin may be joined to that is no pin of the host.
var Rails = []string{"GND", "5V", "3V3"}

// Rail returns the rail that a pin is joined to; "" for none.
func (p *OwnPin) Rail() string {
	for _, r := range Rails {
		if p.To == r {
			return r
		}
	}
	return ""
}

// Line returns the host's pin that a pin is joined to; "" for none.
func (p *OwnPin) Line(board *host.Board) string {
	if p.To == "" || p.Rail() != "" {
		return ""
	}
	return board.Canonical(p.To)
}
