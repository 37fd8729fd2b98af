package live

import (
	"errors"
	"fmt"

	"slatebell/live/standin"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// standInAt returns the stand-in that is connected; refuses says what is refused where another board is.
func (d *Desk) standInAt(refuses string) (*connection, *standin.Host, error) {
	n, err := d.at("")
	if err != nil {
		return nil, nil, err
	}
	if n.standIn == nil {
		return nil, nil, answer.Refused(errors.New(refuses))
	}
	return n, n.standIn, nil
}

// glass is what the stand-in's module shows.
func (d *Desk) glass(module int) (*facts.Glass, error) {
	n, host, err := d.standInAt("the glass of a real module is seen by eyes alone; that of the stand-in can be asked for")
	if err != nil {
		return nil, err
	}
	plan := n.c.Plan()
	if module >= len(plan.Modules) {
		return nil, answer.Refused(fmt.Errorf("there is no module %d", module))
	}
	g := facts.GlassOf(host.Glass(module), plan.Modules[module].Display.ROM)
	return &g, nil
}

// FaultRequest asks for a fault in a module of the stand-in.
type FaultRequest struct {
	Module int    `json:"module" minimum:"0" doc:"index"`
	ID     string `json:"id" maxLength:"200" doc:"of the catalogue; empty: the fault that was put in is taken out"`
}

// putIn makes a fault in the stand-in, whose module is switched off and on by that.
func (d *Desk) putIn(r *FaultRequest) (*RealTable, error) {
	var ids []string
	if r.ID != "" {
		ids = []string{r.ID}
	}
	return d.makeFaulty(r.Module, ids)
}

// HideRequest asks for what a round of practice hides to be made in the stand-in.
type HideRequest struct {
	By    string `json:"by" minLength:"1" maxLength:"40"`
	Round string `json:"round" maxLength:"40" doc:"its id"`
}

// hide makes in the stand-in what a round of practice hides, without a word of what it is.
func (d *Desk) hide(r *HideRequest) (*RealTable, error) {
	if _, err := d.at(r.By); err != nil {
		return nil, err
	}
	module, ids, err := d.Hidden(r.Round)
	if err != nil {
		return nil, err
	}
	return d.makeFaulty(module, ids)
}

// makeFaulty makes faults in a module of the stand-in, or takes out what was made, and shows again what it showed.
func (d *Desk) makeFaulty(module int, ids []string) (*RealTable, error) {
	n, host, err := d.standInAt("faults are put into the stand-in alone")
	if err != nil {
		return nil, err
	}
	if err := host.PutIn(module, ids...); err != nil {
		return nil, answer.Refused(err)
	}
	n.c.Renew(module)
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.state(), nil
}
