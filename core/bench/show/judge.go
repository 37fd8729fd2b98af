package show

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/text/field"
)

// Check judges the show of a module of a bench: what cannot be, scenes that are never
// reached or never left, ends that are never taken, and ends that may come at one moment.
func Check(b *bench.Bench, at int) []finding.Finding {
	m := &b.Modules[at]
	s, err := Of(m)
	if problem := (bench.Problem{}); errors.As(err, &problem) {
		f := finding.Finding{Code: "show.wrong", Severity: finding.Error, Path: fmt.Sprintf("/modules/%d%s", at, problem.Path)}
		f.Say(place.Sprintf("The show cannot be played: %P.", place.Text{S: problem.What, Places: problem.Places}))
		return []finding.Finding{f}
	}
	j := judge{s, m, fmt.Sprintf("/modules/%d/show", at), nil}
	if len(m.Show.Scenes) > 0 {
		j.unreached()
		for i := range s.Scenes {
			j.ends(i)
			j.edit(i)
			j.effect(i)
		}
	}
	for i, f := range m.Show.Feeds {
		j.feed(i, &f)
	}
	for i := range m.Show.Inputs {
		j.undecided(i)
	}
	return j.findings
}

type judge struct {
	*Show
	module   *bench.Module
	path     string
	findings []finding.Finding
}

func (j *judge) say(code string, severity finding.Severity, path, what, why, fix string, remedies ...finding.Remedy) {
	j.findings = append(j.findings, finding.Finding{Code: code, Severity: severity, Path: j.path + path, What: what, Why: why, Fix: fix, Remedies: remedies})
}

// title names a scene for people.
func (j *judge) title(i int) string {
	d := &j.module.Show.Scenes[i]
	return "“" + cmp.Or(d.Name, d.ID) + "”"
}

func (j *judge) input(i int) string {
	d := &j.module.Show.Inputs[i]
	return "“" + cmp.Or(d.Name, d.ID) + "”"
}

// unreached names scenes that nothing leads to, and scenes that nothing leads out of.
func (j *judge) unreached() {
	reached := make([]bool, len(j.Scenes))
	var visit func(i int)
	visit = func(i int) {
		if reached[i] {
			return
		}
		reached[i] = true
		for k, e := range j.Scenes[i].Ends {
			if j.never(i, k) < 0 {
				visit(e.Next)
			}
		}
	}
	visit(j.Start)
	named := make([]bool, len(j.Scenes))
	for i := range j.Scenes {
		for _, e := range j.Scenes[i].Ends {
			named[e.Next] = named[e.Next] || e.Next != i
		}
	}
	for i := range j.Scenes {
		path := fmt.Sprintf("/scenes/%d", i)
		if !reached[i] {
			var remedies []finding.Remedy
			if !named[i] {
				remedies = append(remedies, finding.Remedy{Label: "Take the scene away", Patch: finding.Patch{finding.Test(j.path+path, j.module.Show.Scenes[i]), finding.Remove(j.path + path)}})
			}
			j.say("show.unreached", finding.Warning, path, fmt.Sprintf("Scene %s is never reached: no scene that comes ends in it.", j.title(i)), "", "Let another scene end in it, or take it away.", remedies...)
			continue
		}
		if len(j.Scenes[i].Ends) == 0 && len(j.Scenes) > 1 {
			j.say("show.dead-end", finding.Note, path, fmt.Sprintf("Scene %s never ends.", j.title(i)), "Once it is reached the show stays in it.", "Give it an end, if that is not what is meant.")
		}
	}
}

// ends names ends of a scene that are never taken, and those that may come together.
func (j *judge) ends(scene int) {
	ends := j.Scenes[scene].Ends
	for k, e := range ends {
		path := fmt.Sprintf("/scenes/%d/ends/%d", scene, k)
		if by := j.never(scene, k); by >= 0 {
			j.say("show.never", finding.Warning, path, fmt.Sprintf("Scene %s never ends by its end %d: end %d always comes first.", j.title(scene), k+1, by+1), "", "Take one of the two away, or change it.",
				finding.Remedy{Label: fmt.Sprintf("Take end %d away", k+1), Patch: finding.Patch{finding.Test(j.path+path, j.module.Show.Scenes[scene].Ends[k]), finding.Remove(j.path + path)}})
			continue
		}
		for other := range k {
			if o := ends[other]; j.never(scene, other) < 0 && o.Next != e.Next && j.timed(o) && j.timed(e) && (o.After == 0 || e.After == 0) {
				first, second := other, k
				if o.After > 0 || e.After == 0 && e.Input < o.Input {
					first, second = k, other
				}
				j.say("show.race", finding.Note, path, fmt.Sprintf("Ends %d and %d of scene %s may come at one moment: end %d is taken then.", other+1, k+1, j.title(scene), first+1),
					"A timer runs on while scenes change, so that its ticks fall anywhere into a scene.", fmt.Sprintf("Let both end in one scene, or leave end %d out, if that matters.", second+1))
			}
		}
	}
}

// timed reports whether an end comes by time alone.
func (j *judge) timed(e End) bool {
	return e.After > 0 || e.Input >= 0 && j.Inputs[e.Input].Kind == Timer
}

// never returns the end of a scene that always comes before another of it; -1 for none.
func (j *judge) never(scene, k int) int {
	e := j.Scenes[scene].Ends[k]
	for i, o := range j.Scenes[scene].Ends {
		switch {
		case i == k:
		case e.After > 0 && o.After > 0 && (o.After < e.After || o.After == e.After && i < k):
			return i
		case e.After > 0 || o.After > 0:
		case e.Input < 0 || o.Input < 0:
			if i < k && o.On == e.On && o.Input == e.Input {
				return i
			}
		case i < k && o.Input == e.Input && o.On == e.On && (j.Inputs[e.Input].Kind != Signal || o.Level == e.Level):
			return i
		case (e.On == Press || e.On == Tick) && o.On == Step && j.follows(o.Input, e.Input):
			return i
		}
	}
	return -1
}

// follows reports whether a counter always steps when an input does something.
func (j *judge) follows(counter, input int) bool {
	c := &j.Inputs[counter]
	return (c.Up == input || c.Down == input) && c.Steps != 1 && (!c.Stops || c.Steps == 0)
}

// edit names what is edited and never kept, or fed beside.
func (j *judge) edit(i int) {
	e := j.Scenes[i].Edit
	if e == nil {
		return
	}
	path := fmt.Sprintf("/scenes/%d/edit", i)
	name := j.Edited[e.Field].Name
	if !slices.ContainsFunc(e.Keys, func(k Key) bool { return k.Does == Accepts || k.Does == Next }) {
		j.say("show.no-accept", finding.Warning, path, fmt.Sprintf("Scene %s edits “%s”, and no key accepts it: it never changes.", j.title(i), name), "", "Let a key accept, or go on to the next place.")
	}
	for k, f := range j.Feeds {
		if f.Field == name {
			feed := fmt.Sprintf("%s/feeds/%d", j.path, k)
			j.say("show.fed-and-edited", finding.Warning, path, fmt.Sprintf("“%s” is edited in scene %s, and %s feeds it: what is typed counts, the input is not seen.", name, j.title(i), j.input(f.Input)), "", "Take the feed away, or edit another field.",
				finding.Remedy{Label: "Take the feed away", Patch: finding.Patch{finding.Test(feed, j.module.Show.Feeds[k]), finding.Remove(feed)}})
		}
	}
}

// effect tells what a shift of the whole display does to a glass whose rows share lines.
func (j *judge) effect(i int) {
	g, err := module.ParseGeometry(j.module.Display.Geometry)
	if e := j.Scenes[i].Effect; e != nil && e.Kind == "shift" && err == nil && g.Rows/g.Controllers > 2 {
		j.say("show.shift-joins", finding.Note, fmt.Sprintf("/scenes/%d/effect", i), fmt.Sprintf("In scene %s rows run into each other: rows 1 and 3, and rows 2 and 4, share a line of the memory.", j.title(i)),
			"A shift turns each line of 40 characters as a whole.", "Let the text of a row run instead, if that is not what is meant.",
			finding.Remedy{Label: "Let the text of row 1 run", Patch: finding.Patch{finding.Replace(fmt.Sprintf("%s/scenes/%d/effect", j.path, i), bench.Effect{Kind: "scroll", EveryMs: j.module.Show.Scenes[i].Effect.EveryMs, Gap: 3})}})
	}
}

// feed names a feed whose field is on no screen, or shows something else than its input
// gives.
func (j *judge) feed(i int, feed *bench.Feed) {
	path := fmt.Sprintf("/feeds/%d", i)
	away := finding.Remedy{Label: "Take the feed away", Patch: finding.Patch{finding.Test(j.path+path, j.module.Show.Feeds[i]), finding.Remove(j.path + path)}}
	input := j.Feeds[i].Input
	there := false
	for _, s := range j.module.Screens {
		for _, f := range s.Fields {
			if f.Name != feed.Field {
				continue
			}
			there = true
			if (f.Kind == field.Free) != (j.Inputs[input].Kind == Serial) || f.Kind == field.Clock || f.Kind == field.Cursor {
				j.say("show.feed-kind", finding.Error, path, fmt.Sprintf("“%s” shows %s, and %s is a %s.", feed.Field, shows[f.Kind], j.input(input), j.Inputs[input].Kind), "",
					"A serial line feeds free text; a signal, a counter, a timer or a button feeds numbers, bars and lists.", away)
				return
			}
		}
	}
	if there && j.Inputs[input].Kind == Serial {
		j.longMessage(i, feed)
	}
	if !there {
		j.say("show.no-field", finding.Error, path, fmt.Sprintf("%s feeds a field “%s”, and no screen has one.", j.input(input), feed.Field), "", "Name a field that is there, or take the feed away.", away)
	}
}

// undecided tells that nobody said what ends a message, as many a sender ends no line.
func (j *judge) undecided(i int) {
	d := &j.module.Show.Inputs[i]
	if d.Kind != string(Serial) || d.Serial.Ends != "" || d.Serial.AsItComes {
		return
	}
	path := fmt.Sprintf("/inputs/%d", i)
	decide := func(ends string) finding.Patch {
		next := d.Serial
		next.Ends = ends
		return finding.Patch{finding.Test(j.path+path, *d), finding.Replace(j.path+path, withSerial(*d, next))}
	}
	pause := d.Serial
	pause.Ends = "pause"
	j.say("show.message-end", finding.Note, path, fmt.Sprintf("A message of %s is shown once its line ends; a sender that ends no line, as many do on telephones, is never seen.", j.input(i)), "",
		"Say what ends a message: a line end, or a pause.",
		finding.Remedy{Label: fmt.Sprintf("A pause of %d ms ends it", messageOf(&pause, -1).Pause), Patch: decide("pause")}, finding.Remedy{Label: "A line end does", Patch: decide("line")})
}

func withSerial(in bench.Input, s bench.Serial) bench.Input {
	in.Serial = s
	return in
}

// longMessage tells that a message may be longer than the cells that show it, where the rest is
// cut off.
func (j *judge) longMessage(i int, feed *bench.Feed) {
	in := &j.Inputs[j.Feeds[i].Input]
	for s := range j.module.Screens {
		cells, first := 0, -1
		for k := range j.module.Screens[s].Fields {
			f := &j.module.Screens[s].Fields[k]
			if f.Name != feed.Field {
				continue
			}
			if f.TooLong() != "cut" {
				first = -1
				cells = in.Message.Longest
				break
			}
			if cells += f.Width; first < 0 {
				first = k
			}
		}
		if first < 0 || cells >= in.Message.Longest {
			continue
		}
		at := fmt.Sprintf("%s/screens/%d/fields", strings.TrimSuffix(j.path, "/show"), s)
		look := func(how string) finding.Patch {
			was := j.module.Screens[s].Fields
			fields := slices.Clone(was)
			for k := range fields {
				if fields[k].Name == feed.Field {
					fields[k].Look.TooLong = how
				}
			}
			return finding.Patch{finding.Test(at, was), finding.Replace(at, fields)}
		}
		d := j.module.Show.Inputs[j.Feeds[i].Input]
		short := d.Serial
		short.Longest = cells
		j.findings = append(j.findings, finding.Finding{
			Code: "show.message-cut", Severity: finding.Note, Path: fmt.Sprintf("%s/%d", at, first),
			What: fmt.Sprintf("%s keeps messages of up to %d characters; “%s” has %d cells, and cuts the rest.", j.input(j.Feeds[i].Input), in.Message.Longest, feed.Field, cells),
			Fix:  "Let it go on page by page, or move up; or keep no more than fits.",
			Remedies: []finding.Remedy{
				{Label: "Go on page by page", Patch: look("page")}, {Label: "Move up, so that its end is seen", Patch: look("scroll")},
				{Label: fmt.Sprintf("Keep no more than %d characters", cells), Patch: finding.Patch{finding.Replace(fmt.Sprintf("%s/inputs/%d", j.path, j.Feeds[i].Input), withSerial(d, short))}},
			},
		})
	}
}

// shows is what fields of a kind show, for people.
var shows = map[field.Kind]string{field.Number: "a number", field.Elapsed: "a time that has passed", field.Text: "a text of a list", field.Choice: "a state", field.Bar: "a bar", field.Free: "free text", field.Clock: "a clock", field.Cursor: "the cursor"}
