package main

import (
	"archive/tar"
	"archive/zip"
	"compress/gzip"
	"crypto/sha256"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"
)

// file is a file of an archive: its name there, and where it is.
type file struct {
	name, path string
	mode       os.FileMode
}

// tarred writes files into a compressed tar archive, each with one time and no owner.
func tarred(name string, files []file, at time.Time) error {
	return written(name, func(out io.Writer) error {
		z, err := gzip.NewWriterLevel(out, gzip.BestCompression)
		if err != nil {
			return err
		}
		t := tar.NewWriter(z)
		for _, f := range files {
			data, err := os.ReadFile(f.path)
			if err != nil {
				return err
			}
			if err := t.WriteHeader(&tar.Header{Name: "slatebell/" + f.name, Mode: int64(f.mode), Size: int64(len(data)), ModTime: at, Format: tar.FormatUSTAR}); err != nil {
				return err
			}
			if _, err := t.Write(data); err != nil {
				return err
			}
		}
		if err := t.Close(); err != nil {
			return err
		}
		return z.Close()
	})
}

// zipped writes files into a ZIP archive, each with one time.
func zipped(name string, files []file, at time.Time) error {
	return written(name, func(out io.Writer) error {
		z := zip.NewWriter(out)
		for _, f := range files {
			data, err := os.ReadFile(f.path)
			if err != nil {
				return err
			}
			h := &zip.FileHeader{Name: "slatebell/" + f.name, Method: zip.Deflate, Modified: at}
			h.SetMode(f.mode)
			w, err := z.CreateHeader(h)
			if err != nil {
				return err
			}
			if _, err := w.Write(data); err != nil {
				return err
			}
		}
		return z.Close()
	})
}

func written(name string, write func(io.Writer) error) error {
	out, err := os.Create(name)
	if err != nil {
		return err
	}
	if err := write(out); err != nil {
		out.Close()
		return err
	}
	return out.Close()
}

// sums is the name of the file with the checksums.
const sums = "SHA256SUMS"

// checksums writes the checksums of all files of a directory, as sha256sum reads them.
func checksums(dir string) error {
	entries, err := os.ReadDir(dir) // sorted by name
	if err != nil {
		return err
	}
	return written(filepath.Join(dir, sums), func(out io.Writer) error {
		for _, e := range entries {
			data, err := os.ReadFile(filepath.Join(dir, e.Name()))
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(out, "%x  %s\n", sha256.Sum256(data), e.Name()); err != nil {
				return err
			}
		}
		return nil
	})
}
