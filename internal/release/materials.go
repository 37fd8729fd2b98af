package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"slatebell/internal/npm"
)

// materials writes the bill of materials (CycloneDX): every Go module that is linked into the program, and every package of the page. What would differ from
// one build to the next of the same commit is taken from the commit.
func (r *release) materials() error {
	raw := filepath.Join(r.work, "materials.json")
	cmd := exec.Command("go", "tool", "-modfile="+tools, "cyclonedx-gomod", "app", "-json", "-licenses", "-noserial", "-main", "cmd/slatebell", "-output", raw, ".")
	cmd.Env = append(os.Environ(), "CGO_ENABLED=0", "GOOS=linux", "GOARCH=amd64")
	if err := run(cmd); err != nil {
		return err
	}
	data, err := os.ReadFile(raw)
	if err != nil {
		return err
	}
	var bill map[string]any
	if err := json.Unmarshal(data, &bill); err != nil {
		return err
	}
	if about, ok := bill["metadata"].(map[string]any); ok {
		about["timestamp"] = r.at.Format(time.RFC3339)
	}
	components, _ := bill["components"].([]any)
	packages, err := npm.Packages("web")
	if err != nil {
		return err
	}
	for _, p := range packages {
		purl := "pkg:npm/" + strings.Replace(p.Name, "@", "%40", 1) + "@" + p.Version
		components = append(components, map[string]any{"type": "library", "bom-ref": purl, "purl": purl, "name": p.Name, "version": p.Version})
	}
	bill["components"] = components
	if data, err = json.MarshalIndent(bill, "", "  "); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(r.out, fmt.Sprintf("slatebell-%s.cdx.json", r.version)), append(data, '\n'), 0o644)
}
