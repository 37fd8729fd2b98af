package web

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"os/exec"
	"reflect"
	"slices"
	"testing"

	"slatebell/core/bench/edit"
	"slatebell/core/bench/merge"
	"slatebell/core/finding"
	"slatebell/internal/soak"
)

// pages runs files of the page in Node, as the browser's pages do.
type pages struct {
	t   *testing.T
	in  io.Writer
	out *bufio.Reader
}

func startPages(t *testing.T) *pages {
	cmd := exec.Command("node", "testdata/page.mjs")
	in, err := cmd.StdinPipe()
	if err != nil {
		t.Fatal(err)
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		in.Close()
		cmd.Wait()
	})
	return &pages{t, in, bufio.NewReaderSize(out, 1<<20)}
}

type msg = map[string]any

// ask has one thing done, and reads what came of it into out where that is not nil.
func (p *pages) ask(what msg, out any) {
	line, err := json.Marshal(what)
	if err == nil {
		_, err = p.in.Write(append(line, '\n'))
	}
	if err == nil {
		line, err = p.out.ReadBytes('\n')
	}
	if err == nil && out != nil {
		err = json.Unmarshal(line, out)
	}
	if err != nil {
		p.t.Fatalf("%v: %v in %.200s", what["do"], err, line)
	}
}

// spot is a place of the document that is changed as a whole.
type spot struct {
	kind string // name, row, done, wire
	i, k int
}

// How large the document is.
const tables, rowsOf = 2, 3

// spots are all places of it.
var spots = func() (out []spot) {
	for k := range rowsOf {
		out = append(out, spot{"done", 0, k}, spot{"wire", 0, k})
		for i := range tables {
			out = append(out, spot{"row", i, k})
		}
	}
	for i := range tables {
		out = append(out, spot{"name", i, 0})
	}
	return out
}()

// table is a document in the shape of a bench: the names of its lists are a bench's.
func table() any {
	modules := []any{}
	for i := range tables {
		modules = append(modules, msg{"id": fmt.Sprint("module-", i), "name": "Gate", "screens": []any{msg{"id": "screen-1", "rows": []any{"Tide"}}}})
	}
	return plain(msg{"name": "Landing", "modules": modules, "wiring": msg{"wires": []any{}, "done": []any{}}})
}

func plain(v any) (out any) {
	data, _ := json.Marshal(v)
	json.Unmarshal(data, &out)
	return out
}

// at reads what stands at a spot; "" for what is not there.
func (s spot) at(doc any) string {
	d := doc.(msg)
	switch s.kind {
	case "name":
		return d["modules"].([]any)[s.i].(msg)["name"].(string)
	case "row":
		rows := s.screen(d)["rows"].([]any)
		if s.k < len(rows) {
			return rows[s.k].(string)
		}
	case "done":
		if slices.Contains(d["wiring"].(msg)["done"].([]any), any(fmt.Sprint("wire ", s.k))) {
			return "done"
		}
	case "wire":
		for _, w := range d["wiring"].(msg)["wires"].([]any) {
			if w.(msg)["from"] == fmt.Sprint("host/D", s.k) {
				return w.(msg)["colour"].(string)
			}
		}
	}
	return ""
}

func (s spot) screen(d msg) msg {
	return d["modules"].([]any)[s.i].(msg)["screens"].([]any)[0].(msg)
}

// put returns the document with a text at a spot.
func (s spot) put(doc any, text string) any {
	d := plain(doc).(msg)
	switch s.kind {
	case "name":
		d["modules"].([]any)[s.i].(msg)["name"] = text
	case "row":
		rows := s.screen(d)["rows"].([]any)
		for len(rows) <= s.k {
			rows = append(rows, "")
		}
		rows[s.k] = text
		s.screen(d)["rows"] = rows
	case "done":
		w := d["wiring"].(msg)
		w["done"] = without(w["done"].([]any), func(v any) bool { return v == fmt.Sprint("wire ", s.k) })
		if text != "" {
			w["done"] = append(w["done"].([]any), any(fmt.Sprint("wire ", s.k)))
		}
	case "wire":
		w := d["wiring"].(msg)
		w["wires"] = without(w["wires"].([]any), func(v any) bool { return v.(msg)["from"] == fmt.Sprint("host/D", s.k) })
		if text != "" {
			w["wires"] = append(w["wires"].([]any), msg{"from": fmt.Sprint("host/D", s.k), "to": "hall/E", "colour": text})
		}
	}
	return d
}

func without(list []any, gone func(any) bool) []any {
	return slices.DeleteFunc(slices.Clone(list), gone)
}

// randomSpot is a spot, and what is to stand there next.
func randomSpot(r *rand.Rand, doc any, mark string) (spot, string) {
	s := spot{[]string{"name", "row", "row", "done", "wire"}[r.IntN(5)], r.IntN(tables), r.IntN(rowsOf)}
	switch s.kind {
	case "name":
		s.k = 0
	case "done", "wire":
		s.i = 0
	}
	if s.kind == "done" && s.at(doc) == "" {
		mark = "done"
	} else if s.kind == "done" || s.kind == "wire" && r.IntN(3) == 0 {
		mark = ""
	}
	return s, mark
}

// TestMerge holds the page's merge against the program's: documents changed at random on both
// sides, at the same places and others, elements moved, added and taken away.
func TestMerge(t *testing.T) {
	p := startPages(t)
	r := rand.New(rand.NewPCG(28, 1))
	clashing := 0
	for n := range 3000 {
		base := table()
		for range r.IntN(6) {
			s, text := randomSpot(r, base, "base")
			base = s.put(base, text)
		}
		sides := [2]any{base, base}
		for i := range sides {
			for range r.IntN(5) {
				s, text := randomSpot(r, sides[i], fmt.Sprint("side ", r.IntN(3)))
				sides[i] = s.put(sides[i], text)
			}
			modules := sides[i].(msg)["modules"].([]any)
			if r.IntN(4) == 0 {
				r.Shuffle(len(modules), func(a, b int) { modules[a], modules[b] = modules[b], modules[a] })
			}
			if r.IntN(4) == 0 {
				at := r.IntN(len(modules) + 1)
				modules = slices.Insert(slices.Clone(modules), at, any(msg{"id": fmt.Sprint("module-", tables+r.IntN(2)), "name": "New", "screens": []any{}}))
			}
			if r.IntN(4) == 0 {
				at := r.IntN(len(modules))
				modules = slices.Delete(slices.Clone(modules), at, at+1)
			}
			sides[i] = plain(sides[i])
			sides[i].(msg)["modules"] = plain(modules)
		}
		prefer, side := merge.Theirs, "theirs"
		if n%2 == 0 {
			prefer, side = merge.Mine, "mine"
		}
		want, clashes := merge.Three(base, sides[0], sides[1], prefer)
		var got struct {
			Value   any
			Clashes []string
		}
		p.ask(msg{"do": "merge", "base": base, "mine": sides[0], "theirs": sides[1], "prefer": side}, &got)
		var paths []string
		for _, c := range clashes {
			paths = append(paths, c.Path)
		}
		if len(paths) > 0 {
			clashing++
		}
		if !reflect.DeepEqual(got.Value, want) || !slices.Equal(got.Clashes, paths) {
			t.Fatalf("round %d: the page merges\n%v and\n%v of\n%v to\n%v, clashing at %v; the program to\n%v, at %v", n, sides[0], sides[1], base, got.Value, got.Clashes, want, paths)
		}
		if back, err := patched(sides[0], merge.Diff(sides[0], want)); err != nil || !reflect.DeepEqual(back, want) {
			t.Fatalf("the patch to the merged document leads to %v, %v; want %v", back, err, want)
		}
		other, _ := merge.Three(base, sides[1], sides[0], 1-prefer)
		if len(clashes) == 0 && !sameButOrder(other, want) {
			t.Fatalf("merged the other way round it is\n%v, not\n%v", other, want)
		}
	}
	if clashing < 300 || clashing > 2700 {
		t.Errorf("%d of 3000 clashed; the trial shows little", clashing)
	}
}

// sameButOrder compares documents whose added elements may stand in either order.
func sameButOrder(a, b any) bool {
	return fmt.Sprint(sorted(a)) == fmt.Sprint(sorted(b))
}

func sorted(v any) any {
	switch v := v.(type) {
	case msg:
		out := msg{}
		for k, e := range v {
			out[k] = sorted(e)
		}
		return out
	case []any:
		texts := []string{}
		for _, e := range v {
			texts = append(texts, fmt.Sprint(sorted(e)))
		}
		slices.Sort(texts)
		return texts
	}
	return v
}

func patched(doc, patch any) (out any, err error) {
	text, err := json.Marshal(doc)
	if err != nil {
		return nil, err
	}
	ops, err := json.Marshal(patch)
	if err != nil {
		return nil, err
	}
	if text, err = edit.PatchDocument(text, ops, 1<<20); err != nil {
		return nil, err
	}
	return out, json.Unmarshal(text, &out)
}

// program is what stores: every state by its revision, from 1 on.
type program struct{ states []any }

func (s *program) now() (int, any) { return len(s.states), s.states[len(s.states)-1] }

// take stores a patch as server/store does; clash is true where it is refused.
func (s *program) take(t *testing.T, revision int, patch any) (rest finding.Patch, clash bool) {
	base := s.states[revision-1]
	mine, err := patched(base, patch)
	if err != nil {
		t.Fatal(err)
	}
	_, stored := s.now()
	merged, clashes := merge.Three(base, mine, stored, merge.Theirs)
	if len(clashes) > 0 {
		return nil, true
	}
	if !reflect.DeepEqual(merged, stored) {
		s.states = append(s.states, merged)
	}
	return merge.Diff(mine, merged), false
}

type pageState struct {
	Value    any
	Revision int
	Behind   bool
}

// page is what the model knows of a page of work/sync.ts.
type page struct {
	id      int
	known   int             // the revision up to which it has heard
	pending map[spot]string // what was made there and has not been stored
	answer  func()          // under way to it; nil: nothing is
}

// TestInterleavings lets three pages change a document at once, 1,500 times, and 10,000 in make soak: what they send, what is answered and what
// they hear arrives late and at random, or is lost. In the end all have the same document, and at each place
// stands what was stored there last: nothing that was made is lost but where its maker took the other's.
func TestInterleavings(t *testing.T) {
	rounds := 1_500
	switch {
	case soak.For() > 0:
		rounds = 10_000
	case testing.Short():
		rounds = 500
	}
	const halves = 2
	for half := range halves {
		t.Run(fmt.Sprint("half ", half+1), func(t *testing.T) {
			t.Parallel()
			interleave(t, half*rounds/halves, (half+1)*rounds/halves)
		})
	}
}

// interleave plays rounds from one up to before another.
func interleave(t *testing.T, from, to int) {
	rounds := to - from
	p := startPages(t)
	merges, clashes, losses := 0, 0, 0
	for n := from; n < to; n++ {
		r := rand.New(rand.NewPCG(28, uint64(n)))
		s := &program{[]any{table()}}
		model := map[spot]string{}
		var all []*page
		for id := range 3 {
			all = append(all, &page{id: id, known: 1, pending: map[spot]string{}})
			p.ask(msg{"do": "open", "page": id, "revision": 1, "value": table()}, nil)
		}
		state := func(g *page) (out pageState) {
			p.ask(msg{"do": "state", "page": g.id}, &out)
			return out
		}
		edits := 0
		type made struct {
			by   int
			at   spot
			text string
		}
		arrived := map[made]bool{} // what was stored, whether its maker knows it or not
		// prune drops what was stored from what a page waits for; what was neither stored nor given up must still be there.
		prune := func(g *page, given bool) {
			if len(g.pending) == 0 {
				return
			}
			now := state(g).Value
			for at, text := range g.pending {
				if at.at(now) == text {
					continue
				}
				stood := func(state any) bool { return at.at(state) == text } // another did the same
				if !given && !arrived[made{g.id, at, text}] && !slices.ContainsFunc(s.states, stood) {
					t.Fatalf("round %d: %v holds %q, not %q, which was made there and never stored", n, at, at.at(now), text)
				}
				delete(g.pending, at)
			}
		}
		change := func(g *page) {
			now := state(g).Value
			edits++
			at, text := randomSpot(r, now, fmt.Sprint(n, ".", edits))
			if at.at(now) == text {
				return
			}
			g.pending[at] = text
			p.ask(msg{"do": "edit", "page": g.id, "value": at.put(now, text)}, nil)
		}
		send := func(g *page) {
			if g.answer != nil {
				return
			}
			var sent struct {
				Revision int
				Patch    any
			}
			p.ask(msg{"do": "send", "page": g.id}, &sent)
			if sent.Revision == 0 {
				return
			}
			if r.IntN(12) == 0 { // it never arrives
				losses++
				g.answer = func() { p.ask(msg{"do": "failed", "page": g.id}, nil) }
				return
			}
			sending := map[spot]string{}
			for at, text := range g.pending {
				sending[at] = text
			}
			rest, clash := s.take(t, sent.Revision, sent.Patch)
			revision, stored := s.now()
			if clash {
				clashes++
				g.answer = func() {
					side := []string{"mine", "theirs"}[r.IntN(2)]
					p.ask(msg{"do": "settle", "page": g.id, "theirs": msg{"revision": revision, "value": stored}, "prefer": side}, nil)
					prune(g, side == "theirs")
					if now := state(g).Value; side == "mine" { // what it did not know to have arrived is kept too
						for _, at := range spots {
							if text := at.at(now); text != at.at(stored) {
								g.pending[at] = text
							}
						}
					}
					g.known = revision
				}
				return
			}
			if len(rest) > 0 {
				merges++
			}
			for at, text := range sending {
				before, err := patched(s.states[sent.Revision-1], sent.Patch)
				if err != nil || at.at(before) != text {
					t.Fatalf("round %d: what is sent has %q at %v, not %q (%v)", n, at.at(before), at, text, err)
				}
				if at.at(s.states[sent.Revision-1]) != text { // else it had arrived before, without its maker's knowing
					model[at] = text
				}
				arrived[made{g.id, at, text}] = true
			}
			if r.IntN(12) == 0 { // the answer is lost
				losses++
				g.answer = func() { p.ask(msg{"do": "failed", "page": g.id}, nil) }
				return
			}
			g.answer = func() {
				for at, text := range sending {
					if g.pending[at] == text {
						delete(g.pending, at)
					}
				}
				p.ask(msg{"do": "answered", "page": g.id, "revision": revision, "rest": rest}, nil)
			}
		}
		hear := func(g *page) {
			revision, stored := s.now()
			if g.known >= revision {
				return
			}
			what := msg{"revision": g.known + 1, "from": g.known, "patch": merge.Diff(s.states[g.known-1], s.states[g.known])}
			if r.IntN(10) == 0 { // it was away for a while
				what = msg{"revision": revision, "value": stored}
			}
			p.ask(msg{"do": "happened", "page": g.id, "what": what}, nil)
			g.known = what["revision"].(int)
			if state(g).Behind {
				p.ask(msg{"do": "happened", "page": g.id, "what": msg{"revision": revision, "value": stored}}, nil)
				g.known = revision
			}
			prune(g, false)
		}
		answer := func(g *page) {
			if g.answer != nil {
				g.answer()
				g.answer = nil
				prune(g, false)
			}
		}
		acts := []func(*page){change, change, send, send, answer, answer, hear, hear}
		for range 12 {
			acts[r.IntN(len(acts))](all[r.IntN(len(all))])
		}
		settled := func() bool {
			revision, stored := s.now()
			var states []pageState
			p.ask(msg{"do": "all", "pages": []int{0, 1, 2}}, &states)
			for i, g := range all {
				if g.answer != nil || states[i].Revision != revision || !reflect.DeepEqual(states[i].Value, stored) {
					return false
				}
			}
			return true
		}
		for turns := 0; !settled(); turns++ {
			if turns > 60 {
				t.Fatalf("round %d: the pages do not come to the same", n)
			}
			for _, g := range all {
				answer(g)
				send(g)
				hear(g)
			}
		}
		_, stored := s.now()
		for at, text := range model {
			if got := at.at(stored); got != text {
				t.Fatalf("round %d: %v holds %q; what was stored there last is %q", n, at, got, text)
			}
		}
	}
	if merges < rounds/2 || clashes < rounds/10 || losses < rounds/10 {
		t.Errorf("%d merges, %d clashes, %d losses in %d rounds: they show little", merges, clashes, losses, rounds)
	}
	t.Logf("%d merges, %d clashes, %d losses in %d rounds", merges, clashes, losses, rounds)
}
