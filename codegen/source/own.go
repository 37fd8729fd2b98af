package source

import (
	"embed"
	"fmt"
	"regexp"
	"strings"
)

// Comments writes comments of a language.
type Comments struct{ open, close string }

var (
	InC      = Comments{"/* ", " */"}
	InPython = Comments{"# ", ""}
)

const (
	ownBegins = "---- own section: "
	ownEnds   = "---- end of own section: "
)

// own is an empty section for its user.
func (c Comments) own(name string) string {
	return fmt.Sprintf("%[1]s%[3]s%[5]s ----%[2]s\n%[1]s%[4]s%[5]s ----%[2]s", c.open, c.close, ownBegins, ownEnds, name)
}

// section is a line that begins or ends an own section.
func section(line, mark string) (name string, ok bool) {
	line = strings.TrimLeft(line, " \t")
	rest, ok := strings.CutPrefix(line, InC.open+mark)
	if !ok {
		rest, ok = strings.CutPrefix(line, InPython.open+mark)
	}
	name, _, closed := strings.Cut(rest, " ----")
	return name, ok && closed
}

// Sections takes the own sections out of a file: what stands in each, by name, and the
// file without it. A section that does not end is an error.
func Sections(text string) (own map[string]string, bare string, err error) {
	own = map[string]string{}
	var out, in strings.Builder
	open := ""
	for n, line := range strings.SplitAfter(text, "\n") {
		if name, ok := section(line, ownEnds); ok {
			if name != open {
				return nil, "", fmt.Errorf("line %d: end of own section %q, where %q is open", n+1, name, open)
			}
			own[open] = in.String()
			open = ""
			in.Reset()
		} else if open != "" {
			in.WriteString(line)
			continue
		}
		out.WriteString(line)
		if name, ok := section(line, ownBegins); ok && !strings.Contains(line, ownEnds) {
			if _, twice := own[name]; twice {
				return nil, "", fmt.Errorf("line %d: own section %q is there twice", n+1, name)
			}
			open = name
		}
	}
	if open != "" {
		return nil, "", fmt.Errorf("own section %q does not end", open)
	}
	return own, out.String(), nil
}

// Keep puts what stands in the own sections of an old file into a new one. A section that
// the new file has no more, and that is not empty, is an error.
func Keep(old, fresh File) (File, error) {
	own, _, err := Sections(old.Text)
	if err != nil {
		return fresh, fmt.Errorf("%s: %w", old.Name, err)
	}
	kept, left := fill(fresh, func(name, text string) string {
		if was := own[name]; strings.TrimSpace(was) != "" {
			text = was
		}
		delete(own, name)
		return text
	}), ""
	for name, text := range own {
		if strings.TrimSpace(text) != "" {
			left = name
		}
	}
	if left != "" {
		return fresh, fmt.Errorf("%s: own section %q has no place in the new file; move what stands in it", old.Name, left)
	}
	return kept, nil
}

// Fill puts texts into the own sections of a file, by their names.
func Fill(f File, own func(section string) string) File {
	return fill(f, func(name, text string) string {
		if added := own(name); added != "" {
			return strings.TrimSuffix(added, "\n") + "\n"
		}
		return text
	})
}

// fill replaces the text of every own section; regions move with it.
func fill(f File, by func(name, text string) string) File {
	var out, in strings.Builder
	shifts := [][2]int{} // behind a line so many lines more
	open := ""
	for n, line := range strings.SplitAfter(f.Text, "\n") {
		if name, ok := section(line, ownEnds); ok && name == open {
			text := by(open, in.String())
			shifts = append(shifts, [2]int{n, strings.Count(text, "\n") - strings.Count(in.String(), "\n")})
			out.WriteString(text)
			open = ""
			in.Reset()
		}
		if open != "" {
			in.WriteString(line)
			continue
		}
		out.WriteString(line)
		if name, ok := section(line, ownBegins); ok && !strings.Contains(line, ownEnds) {
			open = name
		}
	}
	f.Text = out.String()
	regions := f.Regions
	f.Regions = nil
	for _, r := range regions {
		first, last := r.First, r.Last
		for _, s := range shifts {
			if s[0] < first {
				r.First += s[1]
			}
			if s[0] < last {
				r.Last += s[1]
			}
		}
		f.Regions = append(f.Regions, r)
	}
	return f
}

// OwnSection is the lines between the marks of an own section, counted from 1; Last is
// before First where there are none.
type OwnSection struct {
	Name        string
	First, Last int
}

// OwnSections lists the own sections of a file.
func OwnSections(text string) (out []OwnSection) {
	open := false
	for n, line := range strings.Split(text, "\n") {
		if _, ok := section(line, ownEnds); ok && open {
			out[len(out)-1].Last = n
			open = false
		} else if name, ok := section(line, ownBegins); ok && !open {
			out = append(out, OwnSection{name, n + 2, 0})
			open = true
		}
	}
	return out
}

// ownNames finds the own sections of a template.
var ownNames = regexp.MustCompile(`{{own "([^"]+)"}}`)

// OwnNames lists the own sections of the template of a role, such as bench.c; none where the templates
// have no such role.
func OwnNames(templates embed.FS, role string) (names []string) {
	text, err := templates.ReadFile(role + ".tmpl")
	if err != nil {
		return nil
	}
	for _, m := range ownNames.FindAllSubmatch(text, -1) {
		names = append(names, string(m[1]))
	}
	return names
}
