package faults

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"regexp"
	"slatebell/core/bench"
	"slatebell/server/api/progress"
	"slatebell/server/demo"
	"strconv"
	"strings"
	"testing"

	"github.com/danielgtaylor/huma/v2/humatest"
)

var roundID = regexp.MustCompile(`"id":"[0-9a-f]{16}"`)

// TestPracticeTellsNothing begins rounds by the API and carries every test out: two
// rounds whose faults show the same so far have the same answers, byte by byte but for
// the round's own number, and none names the fault; once it is answered it is told.
func TestPracticeTellsNothing(t *testing.T) {
	_, api := humatest.New(t)
	finders := New(&progress.Watches{})
	Register(api, finders)
	s := httptest.NewServer(api.Adapter())
	t.Cleanup(s.Close)
	demo := demo.Bench()
	demo.Wiring = bench.Wiring{}
	hall := FaultyModule{Bench: demo, Module: 1}
	raw := func(method, path string, body any) (int, string) {
		t.Helper()
		data, _ := json.Marshal(body)
		req, _ := http.NewRequest(method, s.URL+path, strings.NewReader(string(data)))
		req.Header.Set("Content-Type", "application/json")
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		text, _ := io.ReadAll(res.Body)
		return res.StatusCode, roundID.ReplaceAllString(string(text), `"id":""`)
	}
	begin := func(level int) *keptRound {
		t.Helper()
		status, text := raw("POST", "/api/practice", RoundRequest{FaultyModule: hall, Level: level})
		if status != 201 {
			t.Fatalf("%d, %s", status, text)
		}
		kept := finders.rounds.Values()
		return kept[len(kept)-1]
	}
	answers := map[string]string{} // by what was shown so far: what is answered next
	for i := range 12 {
		k := begin(1 + i%4)
		hidden := k.round.Secret()
		path := "/api/practice/" + k.id
		key := k.round.Look().Key()
		shown := strconv.FormatUint(key, 16) + strings.Join(k.of.x.Text(k.round.Look()), "|") + string(rune('0'+k.round.Level))
		steps := []string{"/tests/power", "/tests/light", "/tests/pot", "/tests/text", "/tests/wire:D4", "/hints"}
		for _, step := range steps {
			status, text := raw("POST", path+step, nil)
			if status != 200 {
				t.Fatalf("%s: %d, %s", step, status, text)
			}
			for _, f := range hidden {
				if strings.Contains(text, f.ID) || strings.Contains(text, f.What()) {
					t.Errorf("%s of a round that hides %s names it: %s", step, f.ID, text)
				}
			}
			if strings.Contains(text, "verdict") || strings.Contains(text, "hidden") {
				t.Errorf("%s tells the verdict: %s", step, text)
			}
			if step == "/hints" {
				continue // it tells the topic, and says so
			}
			for _, d := range k.round.Done {
				o, err := k.round.Shows(d)
				if err != nil {
					t.Fatal(err)
				}
				shown += " " + k.of.x.Key(o)
			}
			if i%5 == 0 && step == "/tests/pot" {
				finders.Rest() // the catalogue is simulated again
			}
			if before, ok := answers[shown]; ok && before != text {
				t.Errorf("what shows the same is answered otherwise:\n%s\n%s", before, text)
			}
			answers[shown] = text
		}
		var ids []string
		for _, f := range hidden {
			ids = append(ids, f.ID)
		}
		status, text := raw("POST", path+"/answer", map[string]any{"faults": ids})
		if status != 200 || !strings.Contains(text, `"right":true`) || !strings.Contains(text, ids[0]) {
			t.Errorf("the answer: %d, %s", status, text)
		}
		if status, text := raw("POST", path+"/tests/power", nil); status != 422 || !strings.Contains(text, "over") {
			t.Errorf("after the answer: %d, %s", status, text)
		}
	}
	if status, _ := raw("GET", "/api/practice/0123", nil); status != 404 {
		t.Errorf("a round that is not there: %d", status)
	}
	if n := len(finders.rounds.Values()); n > maxRounds {
		t.Errorf("%d rounds are kept", n)
	}
}
