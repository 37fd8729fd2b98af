package e2e

import (
	"encoding/json"
	"os/exec"
	"strings"
	"testing"
)

// TestLayers lints files that import against the layers of web/src, as if they
// stood there: each is refused, and one that keeps to them is not.
func TestLayers(t *testing.T) {
	type stray struct{ File, Imports, want string }
	cases := []stray{
		{"ui/Stray.ts", "../work/history", "ui stands beside or below it"},
		{"ui/Stray.ts", "../api/bytes", "ui stands beside or below it"},
		{"api/Stray.ts", "../ui/numbers", "api stands beside or below it"},
		{"work/Stray.ts", "../parts/glass/paint", "work stands beside or below it"},
		{"work/typing/Stray.ts", "../../views/run/usePlayer", "work stands beside or below it"},
		{"parts/glass/Stray.ts", "../../views/run/usePlayer", "parts stands beside or below it"},
		{"views/run/Stray.ts", "../module/ModuleView", "a view imports no other view"},
		{"views/run/Stray.ts", "../../app/theme", "views stands beside or below it"},
		{"views/run/Stray.ts", "../../parts/glass/paint", ""},
		{"app/Stray.ts", "../views/run/usePlayer", ""},
	}
	given, err := json.Marshal(cases)
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "--input-type=module", "-e", `
		import { ESLint } from "eslint";
		const eslint = new ESLint();
		const out = [];
		for (const { File, Imports } of JSON.parse(process.argv[1])) {
			const [found] = await eslint.lintText("import * as stray from \"" + Imports + "\";\n\nconsole.log(stray);\n", { filePath: "src/" + File });
			out.push(found.messages.map((m) => m.ruleId + ": " + m.message).join("; "));
		}
		console.log(JSON.stringify(out));`, string(given))
	cmd.Dir = "../web"
	printed, err := cmd.Output()
	var found []string
	if err == nil {
		err = json.Unmarshal(printed, &found)
	}
	if err != nil || len(found) != len(cases) {
		t.Fatalf("%v: %s", err, printed)
	}
	for i, c := range cases {
		if !strings.Contains(found[i], c.want) || (found[i] == "") != (c.want == "") {
			t.Errorf("%s imports %s: %q, want %q", c.File, c.Imports, found[i], c.want)
		}
	}
}
