//go:build unix

package doctor

import "golang.org/x/sys/unix"

// free returns the bytes that this user may still write where a directory lies.
func free(dir string) (uint64, error) {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return 0, err
	}
	return uint64(s.Bavail) * uint64(s.Bsize), nil
}

// usable returns nil where this user may open a port, which is not done.
func usable(port string) error { return unix.Access(port, unix.R_OK|unix.W_OK) }
