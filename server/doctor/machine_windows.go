package doctor

import "golang.org/x/sys/windows"

// free returns the bytes that this user may still write where a directory lies.
func free(dir string) (n uint64, err error) {
	name, err := windows.UTF16PtrFromString(dir)
	if err != nil {
		return 0, err
	}
	err = windows.GetDiskFreeSpaceEx(name, &n, nil, nil)
	return n, err
}

// usable returns nil: every user may open a port here, until another program holds it.
func usable(string) error { return nil }
