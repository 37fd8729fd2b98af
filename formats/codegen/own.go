package codegen

import (
	"fmt"
	"strings"
)

// commenter writes comments of a language.
type commenter struct{ open, close string }

var (
	cComments      = commenter{"/* ", " */"}
	pythonComments = commenter{"# ", ""}
)

const (
	ownBegins = "---- own section: "
	ownEnds   = "---- end of own section: "
)

// own is an empty section for its user.
func (c commenter) own(name string) string {
	return fmt.Sprintf("%[1]s%[3]s%[5]s ----%[2]s\n%[1]s%[4]s%[5]s ----%[2]s", c.open, c.close, ownBegins, ownEnds, name)
}

// section is a line that begins or ends an own section.
func section(line, mark string) (name string, ok bool) {
	_, rest, ok := strings.Cut(line, mark)
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
	var out strings.Builder
	line, shifts := 1, [][2]int{} // after line so many lines more
	for _, text := range strings.SplitAfter(fresh.Text, "\n") {
		out.WriteString(text)
		if name, ok := section(text, ownBegins); ok && !strings.Contains(text, ownEnds) {
			kept := own[name]
			delete(own, name)
			out.WriteString(kept)
			if n := strings.Count(kept, "\n"); n > 0 {
				shifts = append(shifts, [2]int{line, n})
			}
		}
		line++
	}
	for name, text := range own {
		if strings.TrimSpace(text) != "" {
			return fresh, fmt.Errorf("%s: own section %q has no place in the new file; move what stands in it", old.Name, name)
		}
	}
	kept := File{Name: fresh.Name, Text: out.String()}
	for _, r := range fresh.Regions {
		first, last := r.First, r.Last
		for _, s := range shifts {
			if s[0] < first {
				r.First += s[1]
			}
			if s[0] < last {
				r.Last += s[1]
			}
		}
		kept.Regions = append(kept.Regions, r)
	}
	return kept, nil
}
