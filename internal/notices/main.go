// Command notices writes the licence texts of all parts that the program carries: Go modules that are
// linked into it, and packages of the front end. It is run by make generate, in the repository's root.
package main

import (
	"encoding/json"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"slatebell/internal/npm"
)

func main() {
	parts, err := goModules()
	if err != nil {
		log.Fatal(err)
	}
	packages, err := npm.Packages("web")
	if err != nil {
		log.Fatal(err)
	}
	parts = append(parts, packages...)
	slices.SortFunc(parts, func(a, b npm.Package) int { return strings.Compare(a.Name, b.Name) })
	type group struct {
		names []string
		text  string
	}
	var groups []*group
	for _, p := range parts {
		text, err := licence(p.Dir)
		if err != nil {
			log.Fatalf("%s: %v", p.Name, err)
		}
		name := p.Name + " " + p.Version
		if at := slices.IndexFunc(groups, func(g *group) bool { return g.text == text }); at >= 0 {
			groups[at].names = append(groups[at].names, name)
			continue
		}
		groups = append(groups, &group{[]string{name}, text})
	}
	fmt.Printf("Slate Bell carries %d parts that others made. Their notices follow.\n", len(parts))
	for _, g := range groups {
		fmt.Printf("\n%s\n%s\n%s\n\n%s\n", strings.Repeat("=", 80), strings.Join(g.names, "\n"), strings.Repeat("-", 80), g.text)
	}
}

// goModules lists the modules whose packages are linked into the program, as the front end's packages are listed.
func goModules() ([]npm.Package, error) {
	out, err := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not (or .Main .Replace)}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/slatebell").Output()
	if err != nil {
		return nil, fmt.Errorf("listing modules: %w", err)
	}
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	slices.Sort(lines)
	var parts []npm.Package
	for _, l := range slices.Compact(lines) {
		if f := strings.Split(l, "\t"); len(f) == 3 {
			parts = append(parts, npm.Package{Name: f[0], Version: f[1], Dir: f[2]})
		}
	}
	return parts, nil
}

var licenceFile = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice|unlicense)`)

// licence returns the licence texts of a directory, or what its package.json says where it has none.
func licence(dir string) (string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	var texts []string
	for _, e := range entries {
		if e.IsDir() || !licenceFile.MatchString(e.Name()) {
			continue
		}
		data, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return "", err
		}
		texts = append(texts, strings.TrimSpace(strings.ReplaceAll(string(data), "\r\n", "\n")))
	}
	if len(texts) > 0 {
		return strings.Join(texts, "\n\n"), nil
	}
	data, err := os.ReadFile(filepath.Join(dir, "package.json"))
	if err != nil {
		return "", fmt.Errorf("no licence is there")
	}
	var said struct {
		License string
		Author  any
	}
	if err := json.Unmarshal(data, &said); err != nil || said.License == "" {
		return "", fmt.Errorf("no licence is said in package.json (%w)", err)
	}
	return "Licence: " + said.License, nil
}
