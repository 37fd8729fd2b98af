package main

import (
	"embed"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"text/template"
)

//go:embed debian
var debian embed.FS

// tools is the module file of what builds packages and bills of materials; the program itself needs none of it.
const tools = "internal/release/tools.mod"

// numbered is how a version with a number of its own begins; a commit's may begin with a digit too.
var numbered = regexp.MustCompile(`^v?\d[0-9A-Za-z+~]*\.`)

// debianVersion is the version as Debian orders them: before a first number was given, by date.
func (r *release) debianVersion() string {
	if numbered.MatchString(r.version) {
		return strings.ReplaceAll(strings.TrimPrefix(r.version, "v"), "-", "+")
	}
	return "0~" + r.at.Format("20060102") + "+" + r.version
}

// config is what nfpm reads.
var config = template.Must(template.New("nfpm").Parse(`name: slatebell
arch: {{.Arch}}
platform: linux
version: "{{.Version}}"
version_schema: none
section: electronics
priority: optional
maintainer: Slate Bell <slatebell@localhost>
description: |
  Bench companion for character display modules
  It plans the wiring, finds the address, composes screens, draws glyphs, plays
  shows, writes the bytes and the program that sends them, plays them into a
  simulated module, and finds faults.
license: see /usr/share/doc/slatebell/NOTICES.txt
mtime: {{.Time}}
suggests: [avrdude, gcc-avr, avr-libc]
scripts:
  postinstall: {{.Dir}}/postinst
  preremove: {{.Dir}}/prerm
  postremove: {{.Dir}}/postrm
contents:
{{range .Files}}  - src: {{.Path}}
    dst: {{.To}}
    file_info: {mode: {{.Mode}}, mtime: {{$.Time}}}
{{end}}`))

// installed says where a file of the archive lies once it is installed; "" for one that is not.
func installed(name string) string {
	switch dir, base := filepath.Split(name); {
	case dir == "man/man1/":
		return "/usr/share/man/man1/" + base
	case base == completions["bash"]:
		return "/usr/share/bash-completion/completions/slatebell"
	case base == completions["zsh"]:
		return "/usr/share/zsh/vendor-completions/_slatebell"
	case base == completions["fish"]:
		return "/usr/share/fish/vendor_completions.d/slatebell.fish"
	case dir == "":
		return "/usr/share/doc/slatebell/" + base
	}
	return ""
}

type placed struct{ Path, To, Mode string }

// debian builds the Debian package of a target.
func (r *release) debian(t target, program string, extras []file) error {
	dir := filepath.Join(r.work, "debian")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	entries, err := fs.ReadDir(debian, "debian")
	if err != nil {
		return err
	}
	for _, e := range entries {
		data, err := fs.ReadFile(debian, "debian/"+e.Name())
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(dir, e.Name()), data, 0o644); err != nil {
			return err
		}
	}
	files := []placed{
		{program, "/usr/bin/slatebell", "0755"},
		{filepath.Join(dir, "slatebell.service"), "/usr/lib/systemd/system/slatebell.service", "0644"},
		{filepath.Join(dir, "slatebell.desktop"), "/usr/share/applications/slatebell.desktop", "0644"},
		{"web/public/bell.svg", "/usr/share/icons/hicolor/scalable/apps/slatebell.svg", "0644"},
	}
	for _, f := range extras {
		if to := installed(f.name); to != "" {
			files = append(files, placed{f.path, to, "0644"})
		}
	}
	name := filepath.Join(r.work, "nfpm-"+t.deb+".yaml")
	values := map[string]any{"Arch": t.deb, "Version": r.debianVersion(), "Time": r.at.Format("2006-01-02T15:04:05Z"), "Dir": dir, "Files": files}
	err = written(name, func(out io.Writer) error { return config.Execute(out, values) })
	if err != nil {
		return err
	}
	out := filepath.Join(r.out, fmt.Sprintf("slatebell_%s_%s.deb", r.debianVersion(), t.deb))
	cmd := exec.Command("go", "tool", "-modfile="+tools, "nfpm", "package", "--config", name, "--packager", "deb", "--target", out)
	cmd.Env = append(os.Environ(), fmt.Sprintf("SOURCE_DATE_EPOCH=%d", r.at.Unix()))
	return run(cmd)
}
