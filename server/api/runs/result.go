package runs

import (
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/run"
	"slatebell/formats/program"
	"slatebell/server/api/facts"
)

// RunResult is what came of it.
type RunResult struct {
	ID       string             `json:"id" doc:"names this very run in later requests"`
	Cells    []ComposedCell     `json:"cells" nullable:"false" doc:"row by row"`
	Follows  []int              `json:"follows" nullable:"false" doc:"for each row, the row in which the controller goes on behind its last cell, by the order of addresses"`
	Fields   []facts.FieldFacts `json:"fields" nullable:"false" doc:"what each field shows"`
	Over     []string           `json:"over" nullable:"false" doc:"for each typed row, what does not fit"`
	Findings []finding.Finding  `json:"findings" nullable:"false"`
	Program  program.Document   `json:"program"`
	Glass    facts.Glass        `json:"glass" doc:"after the last step"`
	Reads    []Read             `json:"reads" nullable:"false" doc:"what steps read, in their order"`
	Link     LinkFacts          `json:"link"`
	Supply   SupplyFacts        `json:"supply"`
}

// Read is a byte that a step read.
type Read struct {
	Step    int    `json:"step"`
	Value   int    `json:"value"`
	Meaning string `json:"meaning" doc:"what it says, such as busy and the address counter"`
}

// SupplyFacts are what the module is fed with, and what it needs.
type SupplyFacts struct {
	Contrast  float64 `json:"contrast" doc:"LCD: VDD − VO as a part of VDD"`
	VOmV      float64 `json:"voMV" doc:"LCD: voltage of the contrast input, in millivolts; may be below 0"`
	MinMV     float64 `json:"minMV" doc:"lowest supply, in millivolts"`
	MaxMV     float64 `json:"maxMV"`
	CurrentMA float64 `json:"currentMA" doc:"of the whole module at full light, in milliamperes"`
	BareMA    float64 `json:"bareMA" doc:"without a backlight"`
	PortMA    float64 `json:"portMA" doc:"what a USB port gives a device that has not asked for more"`
	Note      string  `json:"note"`
	Source    string  `json:"source"`
}

// ComposedCell is one cell of the screen as it was composed.
type ComposedCell struct {
	Char       string `json:"char"`
	Code       int    `json:"code" doc:"byte that goes to DDRAM"`
	Shows      string `json:"shows" doc:"the ROM's character for the code; empty where Unicode has none"`
	Glyph      string `json:"glyph,omitempty" doc:"name and slot of the glyph that the code shows"`
	Slot       *int   `json:"slot,omitempty" doc:"that the code shows"`
	Key        int    `json:"key,omitempty" doc:"of the library's drawing that stands there"`
	Field      int    `json:"field,omitempty" doc:"counted from 1, of the field that writes it"`
	Missing    bool   `json:"missing,omitempty" doc:"nothing shows the character"`
	Controller int    `json:"controller"`
	Address    int    `json:"address" doc:"DDRAM address"`
}

// LinkFacts are facts about the link for people.
type LinkFacts struct {
	HostPins []string `json:"hostPins" nullable:"false"`
	Part     string   `json:"part,omitempty" doc:"the expander that has the address"`
	Mapping  string   `json:"mapping,omitempty" doc:"outputs of the expander or shift register"`
}

// Moment is the module at one moment of a run.
type Moment struct {
	Step        int                     `json:"step" doc:"steps done; 0 is power-up"`
	AtUs        float64                 `json:"atUs"`
	Glass       facts.Glass             `json:"glass"`
	Controllers []facts.ControllerState `json:"controllers" nullable:"false"`
}

func newMoment(r *run.Run, i int) Moment {
	mo := &r.Moments[i]
	out := Moment{Step: i, AtUs: program.Microseconds(mo.At), Glass: facts.GlassAt(r, mo)}
	for j := range r.Module.Geometry.Controllers {
		out.Controllers = append(out.Controllers, facts.Controller(&r.Module, mo, j))
	}
	return out
}

func newRunResult(id string, r *run.Run) RunResult {
	out := RunResult{ID: id, Fields: facts.FieldsOf(r.Fields, &r.Layout), Over: r.Layout.Over, Findings: r.Findings, Program: program.New(r.Program), Glass: facts.GlassAt(r, r.Last()),
		Cells: make([]ComposedCell, len(r.Layout.Cells)), Reads: make([]Read, len(r.Reads)), Link: LinkFacts{HostPins: r.Wired.HostPins()}, Supply: supplyFacts(r), Follows: r.Module.Geometry.Follows()}
	for i, read := range r.Reads {
		out.Reads[i] = Read{read.Step, int(read.Op.Byte), read.Op.Explain()}
	}
	if r.Program.Transactions > 0 {
		out.Link.Part = r.Part()
	}
	if r.Wired.Expander() {
		out.Link.Mapping = r.Wired.Mapping.String()
	}
	for i, c := range r.Layout.Cells {
		controller, addr, _ := r.Module.Geometry.Locate(i/r.Layout.Cols, i%r.Layout.Cols)
		cell := ComposedCell{Char: c.Char, Code: int(c.Code), Key: c.Key, Field: c.Field, Missing: c.Missing, Controller: controller, Address: int(addr)}
		if ch, ok := r.Module.ROM.Rune(c.Code); ok {
			cell.Shows = string(ch)
		}
		if slot, ok := r.Module.Slot(c.Code); ok {
			cell.Glyph, cell.Slot = fmt.Sprintf("slot %d", slot), &slot
			if g, drawn := r.Glyphs.In(slot); drawn {
				cell.Glyph = fmt.Sprintf("%s, slot %d", g.Title(), slot)
			}
		}
		out.Cells[i] = cell
	}
	return out
}

func supplyFacts(r *run.Run) SupplyFacts {
	needs := r.Module.Needs()
	return SupplyFacts{
		Contrast: r.Contrast, VOmV: float64(r.Module.VO(r.Contrast)) / float64(physic.MilliVolt),
		MinMV: float64(needs.Min) / float64(physic.MilliVolt), MaxMV: float64(needs.Max) / float64(physic.MilliVolt),
		CurrentMA: float64(needs.Current) / float64(physic.MilliAmpere), BareMA: float64(needs.Bare) / float64(physic.MilliAmpere),
		PortMA: float64(module.PortCurrent) / float64(physic.MilliAmpere), Note: needs.Note, Source: needs.Source,
	}
}
