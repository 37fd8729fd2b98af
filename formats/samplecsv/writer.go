package samplecsv

import (
	"bufio"
	"io"
	"strconv"
	"strings"

	"slatebell/core/prove/capture"
)

// Write writes a recording as comma-separated values (RFC 4180): a line a change, the time in seconds to the nanosecond, then a column a channel.
func Write(w io.Writer, s capture.Source) error {
	out := bufio.NewWriter(w)
	names := s.Channels()
	out.WriteString("time [s]")
	for i, name := range names {
		if name = strings.NewReplacer(",", " ", `"`, "'", "\n", " ", "\r", " ").Replace(name); name == "" {
			name = "D" + strconv.Itoa(i)
		}
		out.WriteString("," + name)
	}
	out.WriteString("\r\n")
	for {
		c, err := s.Next()
		if err == io.EOF {
			return out.Flush()
		}
		if err != nil {
			out.Flush()
			return err
		}
		out.WriteString(strconv.FormatFloat(c.At.Seconds(), 'f', 9, 64))
		for i := range names {
			out.WriteString(",")
			out.WriteByte('0' + byte(c.Levels>>i&1))
		}
		out.WriteString("\r\n")
	}
}
