// Package npm lists what a front end is made of. Notices and the bill of materials ask for it.
package npm

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// Package is a package that a front end carries.
type Package struct{ Name, Version, Dir string }

// Packages lists those of a front end's directory, by its lock file, that are not for its developers only, ordered by their names.
func Packages(dir string) (out []Package, err error) {
	data, err := os.ReadFile(filepath.Join(dir, "package-lock.json"))
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version                    string
			Dev, Optional, DevOptional bool
		}
	}
	if err := json.Unmarshal(data, &lock); err != nil {
		return nil, fmt.Errorf("package-lock.json: %w", err)
	}
	for path, p := range lock.Packages {
		if path == "" || p.Dev || p.DevOptional || p.Optional {
			continue
		}
		out = append(out, Package{path[strings.LastIndex(path, "node_modules/")+len("node_modules/"):], p.Version, filepath.Join(dir, path)})
	}
	slices.SortFunc(out, func(a, b Package) int { return strings.Compare(a.Name+" "+a.Version, b.Name+" "+b.Version) })
	return out, nil
}
