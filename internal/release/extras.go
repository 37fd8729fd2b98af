package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

// completions are the shells that are completed, each with the name of its file.
var completions = map[string]string{"bash": "slatebell.bash", "zsh": "_slatebell", "fish": "slatebell.fish", "powershell": "slatebell.ps1"}

// extras builds what goes with every binary: the pages of the manual, completions, notices and the README. The program itself
// writes them, built for this machine.
func (r *release) extras() ([]file, error) {
	program := filepath.Join(r.work, "slatebell-here")
	if err := r.compile(program, here(), "man"); err != nil {
		return nil, err
	}
	files := []file{{"README.md", "README.md", 0o644}, {"CHANGELOG.md", "CHANGELOG.md", 0o644}, {"NOTICES.txt", "web/public/notices.txt", 0o644}}
	pages := filepath.Join(r.work, "man")
	if err := os.MkdirAll(pages, 0o755); err != nil {
		return nil, err
	}
	man := exec.Command(program, "man", pages)
	man.Env = append(os.Environ(), fmt.Sprintf("SOURCE_DATE_EPOCH=%d", r.at.Unix()))
	if err := run(man); err != nil {
		return nil, err
	}
	entries, err := os.ReadDir(pages)
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		files = append(files, file{"man/man1/" + e.Name(), filepath.Join(pages, e.Name()), 0o644})
	}
	for shell, name := range completions {
		text, err := exec.Command(program, "completion", shell).Output()
		if err != nil {
			return nil, fmt.Errorf("completion for %s: %w", shell, err)
		}
		path := filepath.Join(r.work, name)
		if err := os.WriteFile(path, text, 0o644); err != nil {
			return nil, err
		}
		files = append(files, file{"completion/" + name, path, 0o644})
	}
	slices.SortFunc(files, func(a, b file) int { return strings.Compare(a.name, b.name) })
	return files, nil
}
