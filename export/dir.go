package export

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"slatebell/codegen/source"
)

// ManifestName is the file in a directory that says which of its files were exported into
// it, each with the hash of what was written, own sections aside.
const ManifestName = "slatebell-export.json"

// manifest is what ManifestName holds.
type manifest struct {
	Format string            `json:"format"`
	Files  map[string]string `json:"files"` // SHA-256 by name
}

const manifestFormat = "slatebell-export"

// ForeignError names files that stand where an export was to go, and are not its own.
type ForeignError struct {
	Dir   string
	Files []string // each with what is the matter with it
}

func (e *ForeignError) Error() string {
	return fmt.Sprintf("%s: nothing was written, as files of other origin stand there: %s", e.Dir, strings.Join(e.Files, "; "))
}

// hash is what a file holds, its own sections and the ends of its lines aside.
func hash(text string) string {
	text = strings.ReplaceAll(text, "\r\n", "\n")
	if _, bare, err := source.Sections(text); err == nil {
		text = bare
	}
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:])
}

// Write writes files into a directory, which is made. A file that an export wrote there
// before is replaced, and its own sections are kept; any other that stands in the way is
// named by a *ForeignError, and then nothing is written.
func Write(dir string, files []source.File) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	foreign := &ForeignError{Dir: dir}
	known, err := readManifest(dir)
	if err != nil {
		foreign.Files = append(foreign.Files, fmt.Sprintf("%s (%v)", ManifestName, err))
	}
	texts := make([]string, len(files))
	for i, f := range files {
		kept, why := merge(dir, f, known)
		if why != nil {
			foreign.Files = append(foreign.Files, fmt.Sprintf("%s (%v)", f.Name, why))
		}
		texts[i] = kept
		known.Files[f.Name] = hash(f.Text)
	}
	if len(foreign.Files) > 0 {
		return foreign
	}
	for i, f := range files {
		if err := os.MkdirAll(filepath.Dir(filepath.Join(dir, f.Name)), 0o755); err != nil {
			return err
		}
		if err := replace(filepath.Join(dir, f.Name), texts[i]); err != nil {
			return err
		}
	}
	text, err := json.MarshalIndent(known, "", "  ")
	if err != nil {
		return err
	}
	return replace(filepath.Join(dir, ManifestName), string(text)+"\n")
}

// readManifest reads what was exported into a directory before.
func readManifest(dir string) (manifest, error) {
	m := manifest{Format: manifestFormat, Files: map[string]string{}}
	data, err := os.ReadFile(filepath.Join(dir, ManifestName))
	if errors.Is(err, fs.ErrNotExist) {
		return m, nil
	}
	if err != nil {
		return m, err
	}
	var read manifest
	if err := json.Unmarshal(data, &read); err != nil || read.Format != manifestFormat || read.Files == nil {
		return m, fmt.Errorf("it is not the list of an earlier export; move it away")
	}
	return read, nil
}

// merge returns what is to be written for a file, or why it cannot be.
func merge(dir string, f source.File, known manifest) (string, error) {
	path := filepath.Join(dir, f.Name)
	info, err := os.Lstat(path)
	if errors.Is(err, fs.ErrNotExist) {
		return f.Text, nil
	}
	if err != nil {
		return "", err
	}
	if !info.Mode().IsRegular() {
		return "", errors.New("it is no plain file")
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return "", err
	}
	was, ours := known.Files[f.Name]
	old := source.File{Name: f.Name, Text: strings.ReplaceAll(string(data), "\r\n", "\n")}
	switch {
	case !ours && string(data) == f.Text:
		return f.Text, nil
	case !ours:
		return "", errors.New("no export wrote it; move it away, or choose another directory")
	case hash(old.Text) != was:
		return "", errors.New("it was changed outside of its own sections; move your changes into one, or the file away")
	}
	kept, err := source.Keep(old, f)
	return kept.Text, err
}

// replace writes a file whole or not at all.
func replace(path, text string) error {
	temporary, err := os.CreateTemp(filepath.Dir(path), ".export-*")
	if err != nil {
		return err
	}
	defer os.Remove(temporary.Name())
	if _, err := temporary.WriteString(text); err != nil {
		temporary.Close()
		return err
	}
	if err := temporary.Close(); err != nil {
		return err
	}
	if err := os.Chmod(temporary.Name(), 0o644); err != nil {
		return err
	}
	return os.Rename(temporary.Name(), path)
}
