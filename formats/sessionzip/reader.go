// Package sessionzip reads the zipped sessions of open-source tools for signals: a ZIP with version, metadata (INI) and chunks logic-1-1,
// logic-1-2 … of samples.
package sessionzip

import (
	"archive/zip"
	"bufio"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"slatebell/formats/rawsamples"
)

// maxMetadata bounds the metadata, in bytes.
const maxMetadata = 1 << 20

// Reader reads a session as a recording.
type Reader struct{ *rawsamples.Reader }

// NewReader opens a session of so many bytes. Its error says what is missing in it.
func NewReader(r io.ReaderAt, size int64) (*Reader, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("the session is damaged: %w", err)
	}
	about, err := z.Open("metadata")
	if err != nil {
		return nil, errors.New("the ZIP has no file metadata; expected a session with version, metadata and logic-1-1")
	}
	defer about.Close()
	rate, unit, base := 0.0, 1, "logic-1"
	probes := map[int]string{}
	lines := bufio.NewScanner(io.LimitReader(about, maxMetadata))
	for lines.Scan() {
		key, value, _ := strings.Cut(lines.Text(), "=")
		value = strings.TrimSpace(value)
		switch key = strings.TrimSpace(key); {
		case key == "samplerate":
			if rate, err = rawsamples.Rate(value); err != nil {
				return nil, err
			}
		case key == "unitsize":
			if unit, err = strconv.Atoi(value); err != nil || unit < 1 || unit > 8 {
				return nil, fmt.Errorf("unitsize=%q; expected 1 to 8 bytes", value)
			}
		case key == "capturefile":
			base = value
		case strings.HasPrefix(key, "probe"):
			if n, err := strconv.Atoi(key[len("probe"):]); err == nil && n >= 1 && n <= 64 {
				probes[n] = value
			}
		}
	}
	var names []string
	for n := range unit * 8 {
		name := probes[n+1]
		if name == "" {
			name = "D" + strconv.Itoa(n)
		}
		names = append(names, name)
	}
	type chunk struct {
		n    int
		file *zip.File
	}
	var chunks []chunk
	for _, f := range z.File {
		if f.Name == base {
			chunks = append(chunks, chunk{0, f})
		} else if n, err := strconv.Atoi(strings.TrimPrefix(f.Name, base+"-")); err == nil && strings.HasPrefix(f.Name, base+"-") {
			chunks = append(chunks, chunk{n, f})
		}
	}
	if len(chunks) == 0 {
		return nil, fmt.Errorf("the session has no samples; expected a file %s-1", base)
	}
	slices.SortFunc(chunks, func(a, b chunk) int { return a.n - b.n })
	var files []*zip.File
	for _, c := range chunks {
		files = append(files, c.file)
	}
	samples, err := rawsamples.NewReader(&joined{files: files}, unit, rate, names)
	if err != nil {
		return nil, fmt.Errorf("the session's samples: %w", err)
	}
	return &Reader{samples}, nil
}

// joined are files one after the other.
type joined struct {
	files []*zip.File
	now   io.ReadCloser
}

func (j *joined) Read(p []byte) (n int, err error) {
	for {
		if j.now == nil {
			if len(j.files) == 0 {
				return 0, io.EOF
			}
			if j.now, err = j.files[0].Open(); err != nil {
				return 0, fmt.Errorf("%s: %w", j.files[0].Name, err)
			}
		}
		n, err = j.now.Read(p)
		if err == io.EOF {
			j.now.Close()
			j.now, j.files, err = nil, j.files[1:], nil
		} else if err != nil {
			return n, fmt.Errorf("%s: %w", j.files[0].Name, err)
		}
		if n > 0 || err != nil {
			return n, err
		}
	}
}
