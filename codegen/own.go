package codegen

import (
	"embed"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"slatebell/codegen/c99"
	"slatebell/codegen/micropython"
	"slatebell/codegen/sketch"
	"slatebell/codegen/source"
	"slatebell/core/bench"
)

// sectionsOf lists the own sections of the files of a role, such as bench.c.
func sectionsOf(role string) (names []string) {
	for _, dir := range []embed.FS{c99.Templates, sketch.Templates, micropython.Templates} {
		names = append(names, source.OwnNames(dir, role)...)
	}
	return names
}

// Own reads what its user wrote into the own sections of a file that was written before, whatever
// the bench was called then; empty sections are left out. An error says why nothing of it can be
// taken.
func Own(name, text string) (out []bench.OwnSection, err error) {
	base := path.Base(strings.ReplaceAll(name, `\`, "/"))
	role := base
	if len(sectionsOf(role)) == 0 {
		role = "bench" + path.Ext(base)
	}
	places := sectionsOf(role)
	if len(places) == 0 {
		return nil, fmt.Errorf("%q has no own sections; expected a .h, .c, .ino or .py file that was written from a bench", base)
	}
	own, _, err := source.Sections(text)
	if err != nil {
		return nil, err
	}
	for _, section := range places { // in their order
		if strings.TrimSpace(own[section]) != "" {
			if len(own[section]) > bench.LongestOwn {
				return nil, fmt.Errorf("own section %q is longer than %d bytes", section, bench.LongestOwn)
			}
			out = append(out, bench.OwnSection{File: role, Section: section, Text: own[section]})
		}
		delete(own, section)
	}
	for _, section := range slices.Sorted(maps.Keys(own)) {
		return nil, fmt.Errorf("%s has no own section %q; expected one of %s", role, section, strings.Join(places, ", "))
	}
	if len(out) == 0 {
		return nil, errors.New("nothing stands in its own sections")
	}
	return out, nil
}
