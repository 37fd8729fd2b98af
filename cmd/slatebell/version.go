package main

import (
	"cmp"
	"runtime/debug"
)

// What make build says of the program; empty where it was built otherwise.
var version, commit, date string

// built is the program's version, with the commit that it was built from and that commit's date, as far as the build says so.
func built() (v, at, on string) {
	v, at, on = cmp.Or(version, "dev"), commit, date
	if info, ok := debug.ReadBuildInfo(); ok && at == "" {
		for _, s := range info.Settings {
			switch s.Key {
			case "vcs.revision":
				at = s.Value
			case "vcs.time":
				on = s.Value[:min(len(s.Value), len("2006-01-02"))]
			}
		}
	}
	return v, at, on
}

// versionText is what --version prints.
func versionText() string {
	text, at, on := built()
	if at != "" {
		text += ", commit " + at
	}
	if on != "" {
		text += ", of " + on
	}
	return text
}
