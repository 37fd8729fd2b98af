// Package browse opens the page in the browser of whoever sits at the machine.
package browse

import (
	"errors"
	"io"
	"os"
	"os/exec"
	"runtime"

	"github.com/pkg/browser"
)

// Open opens an address. Where nobody sits at the machine, or there is no browser, nothing happens.
func Open(url string) {
	if Found() != nil {
		return
	}
	browser.Stdout, browser.Stderr = io.Discard, io.Discard
	go browser.OpenURL(url) // it waits for some browsers to end
}

// Found returns nil where a browser that is opened would be seen; its error says why not.
func Found() error {
	if err := atScreen(runtime.GOOS, os.Getenv); err != nil {
		return err
	}
	if runtime.GOOS == "windows" || runtime.GOOS == "darwin" {
		return nil
	}
	for _, opener := range []string{"xdg-open", "x-www-browser", "www-browser"} { // as the package browser looks for them
		if _, err := exec.LookPath(opener); err == nil {
			return nil
		}
	}
	return errors.New("there is neither xdg-open nor x-www-browser nor www-browser (on Debian: xdg-utils)")
}

// atScreen returns why a browser would not be seen: over a remote shell, or without a graphical session.
func atScreen(system string, env func(string) string) error {
	switch {
	case env("SSH_CONNECTION") != "":
		return errors.New("this is a remote shell")
	case env("CI") != "":
		return errors.New("nobody sits at a machine that tests")
	case system == "windows", system == "darwin", env("DISPLAY") != "", env("WAYLAND_DISPLAY") != "":
		return nil
	}
	return errors.New("there is no graphical session (neither DISPLAY nor WAYLAND_DISPLAY is set)")
}
