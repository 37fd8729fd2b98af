package benchjson

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"strings"

	"slatebell/core/bench"
)

// Changed says for people what differs between two states of a bench, the most telling
// first: such as "screen Tides of Gate board" or "a wire"; nothing where they are the same.
func Changed(before, after *bench.Bench) []string {
	out := changes(listed(before.Modules, after.Modules, func(m *bench.Module) string { return m.ID }, func(m *bench.Module) string { return cmp.Or(m.Name, m.ID) }, changedModule))
	out = append(out, listed(before.Devices, after.Devices, func(d *bench.Device) string { return d.ID }, func(d *bench.Device) string { return cmp.Or(d.Name, d.Part, d.ID) }, nil)...)
	out.add("the host", before.Host, after.Host)
	out.add("the bus", before.Bus, after.Bus)
	out = append(out, changedWiring(&before.Wiring, &after.Wiring)...)
	out.add("the library of glyphs", before.Glyphs, after.Glyphs)
	out.add("own sections of the program", before.Code, after.Code)
	out.add("the bench’s name", before.Name, after.Name)
	return out
}

// changes are what has changed, for people.
type changes []string

// add says what has changed where two values differ.
func (c *changes) add(what string, before, after any) {
	if !same(before, after) {
		*c = append(*c, what)
	}
}

// Same reports whether two benches say the same.
func Same(a, b *bench.Bench) bool { return same(a, b) }

// same reports whether two values are written alike.
func same(a, b any) bool {
	one, err1 := json.Marshal(a)
	other, err2 := json.Marshal(b)
	return err1 == nil && err2 == nil && bytes.Equal(one, other)
}

// listed compares lists whose members have ids: what came, what went, and what within says
// of those that changed; the member itself where within is nil.
func listed[T any](before, after []T, id, name func(*T) string, within func(a, b *T) []string) (out []string) {
	was := map[string]*T{}
	for i := range before {
		was[id(&before[i])] = &before[i]
	}
	for i := range after {
		b := &after[i]
		a, there := was[id(b)]
		delete(was, id(b))
		switch {
		case !there:
			out = append(out, name(b)+" came")
		case same(a, b):
		case within == nil:
			out = append(out, name(b))
		default:
			out = append(out, within(a, b)...)
		}
	}
	for i := range before {
		if _, gone := was[id(&before[i])]; gone {
			out = append(out, name(&before[i])+" went")
		}
	}
	return out
}

func changedModule(a, b *bench.Module) []string {
	of := " of " + cmp.Or(b.Name, b.ID)
	out := changes(listed(a.Screens, b.Screens, func(s *bench.Screen) string { return s.ID }, func(s *bench.Screen) string { return "screen " + cmp.Or(s.Name, s.ID) + of }, nil))
	out.add("the link"+of, a.Link, b.Link)
	out.add("glyphs"+of, []any{a.Glyphs, a.Loading}, []any{b.Glyphs, b.Loading})
	out.add("scenes"+of, a.Show.Scenes, b.Show.Scenes)
	out.add("inputs"+of, []any{a.Show.Inputs, a.Show.Feeds, a.Show.Start}, []any{b.Show.Inputs, b.Show.Feeds, b.Show.Start})
	out.add("the display"+of, a.Display, b.Display)
	out.add("what it is wired up with"+of, a.Fitting, b.Fitting)
	out.add("the way screens change"+of, a.Changes, b.Changes)
	out.add("the name"+of, a.Name, b.Name)
	if len(out) == 0 {
		out = changes{cmp.Or(b.Name, b.ID)} // such as the order of its screens
	}
	return out
}

func changedWiring(a, b *bench.Wiring) []string {
	var out changes
	switch n := differing(a.Wires, b.Wires); {
	case n == 1:
		out = append(out, "a wire")
	case n > 1:
		out = append(out, fmt.Sprintf("%d wires", n))
	}
	switch n := differing(a.Placements, b.Placements); {
	case n == 1:
		out = append(out, "where a part lies")
	case n > 1:
		out = append(out, fmt.Sprintf("where %d parts lie", n))
	}
	out.add("the boards", a.Boards, b.Boards)
	out.add("what of the work is done", a.Done, b.Done)
	out.add("first light", a.Lit, b.Lit)
	out.add("colours of wires", a.Colours, b.Colours)
	return out
}

// differing counts the members in which two lists differ, as if those of the shorter were
// among those of the longer.
func differing[T comparable](a, b []T) int {
	count := map[T]int{}
	for _, v := range a {
		count[v]++
	}
	kept := 0
	for _, v := range b {
		if count[v] > 0 {
			count[v]--
			kept++
		}
	}
	return max(len(a), len(b)) - kept
}

// Summary joins what changed into one line of at most so many things.
func Summary(changed []string, most int) string {
	if more := len(changed) - most; more > 0 {
		changed = append(changed[:most:most], fmt.Sprintf("%d more", more))
	}
	return strings.Join(changed, ", ")
}
