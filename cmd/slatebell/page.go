package main

import (
	"io"
	"os"
	"runtime"

	"github.com/pkg/browser"
)

// openPage opens the page in the browser of whoever sits at the machine. Where nobody does, or there is no browser, the address
// stands in the terminal all the same.
func openPage(url string) {
	if !atScreen(runtime.GOOS, os.Getenv) {
		return
	}
	browser.Stdout, browser.Stderr = io.Discard, io.Discard
	go browser.OpenURL(url) // it waits for some browsers to end
}

// atScreen reports whether a browser that is opened would be seen: not over a remote shell, nor without a graphical session.
func atScreen(system string, env func(string) string) bool {
	if env("SSH_CONNECTION") != "" || env("CI") != "" {
		return false
	}
	switch system {
	case "windows", "darwin":
		return true
	}
	return env("DISPLAY") != "" || env("WAYLAND_DISPLAY") != ""
}
