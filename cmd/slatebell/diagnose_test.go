package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"slatebell/formats/benchjson"
	"slatebell/server/demo"
)

// TestDiagnose finds causes from what is seen, by flags and of a bench, and says what
// cannot be.
func TestDiagnose(t *testing.T) {
	doc := filepath.Join(t.TempDir(), "boathouse.json")
	f, err := os.Create(doc)
	if err != nil {
		t.Fatal(err)
	}
	b := demo.Bench()
	if err := benchjson.Write(f, &b); err != nil {
		t.Fatal(err)
	}
	f.Close()
	for _, c := range []struct {
		args  string
		first string // id of the first cause
	}{
		{"--link parallel4 --sent Tide --seen blank", "contrast.low"},
		{"--link parallel4 --sent Tide --seen row-of-blocks", "start.none"},
		{"--link backpack --sent Tide --seen row-of-blocks", "bus.address:0x3F"},
		{"--link parallel8 --sent Tide --seen all-blocks", "contrast.high"},
		{"--link shift --sent Tide --seen faint", "contrast.weak"},
		{`--sent Tide --seen \x20Tide`, "place.column"},
		{`--sent Tide --seen \x54\x69\x64\x65`, "sound"},
		{"--geometry 16x4 --link parallel4 --sent one\ntwo\nthree\nfour --seen one\ntwo\n\\x20\\x20\\x20\\x20three\n\\x20\\x20\\x20\\x20four", "place.geometry:20x4"},
		{doc + " --module hall --seen blank", "contrast.low"},
		{doc + " --module gate --sent Boats --seen BoatsLFISH", "text.left:other"},
		{"--geometry 20x2 --family vfd-function-set --link parallel4 --sent Slip --seen blank", "vfd.link"},
	} {
		args := append([]string{"diagnose", "--format", "json"}, strings.Split(c.args, " ")...)
		out, errs, code := try("", args...)
		var got found
		if err := json.Unmarshal([]byte(out), &got); err != nil || code != 0 || len(got.Causes) == 0 {
			t.Errorf("%q: exit %d, %v, %s", c.args, code, err, errs)
			continue
		}
		top := got.Causes[0]
		if top.ID != c.first || top.Code == "" || top.What == "" || top.Where == "" || top.Share <= 0 || top.Share > 1 {
			t.Errorf("%q: first %+v, want %s", c.args, top, c.first)
		}
		for i, cause := range got.Causes[1:] {
			if cause.Share > got.Causes[i].Share {
				t.Errorf("%q: cause %d is likelier than the one before", c.args, i+1)
			}
		}
		if top.Share < 0.9 && (got.Test == nil || got.Test.Minutes <= 0 || len(got.Test.Outcomes) < 2) {
			t.Errorf("%q: next test %+v", c.args, got.Test)
		}
	}
	out, _, code := try("", "diagnose", "--link", "parallel4", "--sent", "Tide", "--seen", "blank")
	if code != 0 || !strings.Contains(out, "%  contrast.low  potentiometer, VO: ") || !strings.Contains(out, "\nnext, ") || !strings.Contains(out, " min: ") {
		t.Errorf("exit %d:\n%s", code, out)
	}
	for args, want := range map[string]string{
		"--sent Tide":                           "--seen is missing",
		"--seen blank":                          "--sent is missing",
		"--sent Tide --seen ~~":                 "'~' is not in this module’s ROM",
		"--sent Tide --seen Tide --module gate": "expected BENCH.json before it",
		"nowhere.json --seen blank":             "nowhere.json",
		"--sent Tide --seen 12345678901234567":  "17 characters seen; the glass has 16 columns",
		"--sent Tide --seen blank --format xml": `format "xml"`,
	} {
		if out, errs, code := try("", append([]string{"diagnose"}, strings.Fields(args)...)...); code != exitUsage || out != "" || !strings.Contains(errs, want) {
			t.Errorf("%s: exit %d, %q, %s; want %q", args, code, out, errs, want)
		}
	}
}
