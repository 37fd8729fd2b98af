// Package journal is the program's own log file, beside the database: when it started and stopped, what it copied, and what
// failed, with times of the wall clock. It holds nothing of any bench.
package journal

import (
	"io"
	"log/slog"
	"os"
	"path/filepath"

	"gopkg.in/natefinch/lumberjack.v2"
)

// The file, and its bounds: once it is full it is put aside under its name and the time, and the oldest of those goes.
const (
	FileName = "slatebell.log"
	mostMB   = 1
	kept     = 2
)

// Open returns a logger that writes a line of text an event into the log file of a directory, and what closes it. A file that cannot
// be written keeps nothing from its work.
func Open(dir string) (*slog.Logger, io.Closer) {
	file := &lumberjack.Logger{Filename: filepath.Join(dir, FileName), MaxSize: mostMB, MaxBackups: kept}
	return slog.New(slog.NewTextHandler(file, nil)), file
}

// Last returns the end of a directory's log file, from the beginning of a line: of so many bytes at most.
func Last(dir string, most int64) ([]byte, error) {
	f, err := os.Open(filepath.Join(dir, FileName))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	from := max(info.Size()-most, 0)
	data, err := io.ReadAll(io.NewSectionReader(f, from, most))
	if from > 0 {
		for i, b := range data {
			if b == '\n' {
				return data[i+1:], err
			}
		}
	}
	return data, err
}
