package golden

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
)

// Compact writes JSON for people to judge: each object or list that fits into a line stands in one, lists
// of short values run on, and what is longer is indented by one space a level.
func Compact(data []byte) ([]byte, error) {
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var out bytes.Buffer
	if err := compact(&out, dec, 0); err != nil {
		return nil, fmt.Errorf("writing JSON: %w", err)
	}
	out.WriteByte('\n')
	return out.Bytes(), nil
}

// width is how long a line may be, in bytes.
const width = 150

// compact writes the next value at a level.
func compact(out *bytes.Buffer, dec *json.Decoder, level int) error {
	token, err := dec.Token()
	if err != nil {
		return err
	}
	delim, is := token.(json.Delim)
	if !is {
		text, err := json.Marshal(token)
		out.Write(text)
		return err
	}
	closing := map[json.Delim]string{'{': "}", '[': "]"}[delim]
	var parts []string
	short, sum := true, level+2
	for dec.More() {
		var part bytes.Buffer
		if delim == '{' {
			key, err := dec.Token()
			if err != nil {
				return err
			}
			text, _ := json.Marshal(key)
			part.Write(text)
			part.WriteString(": ")
		}
		if err := compact(&part, dec, level+1); err != nil {
			return err
		}
		parts = append(parts, part.String())
		short = short && len(part.String()) < 40 && !strings.Contains(part.String(), "\n")
		sum += part.Len() + 2
		if bytes.IndexByte(part.Bytes(), '\n') >= 0 {
			sum += width
		}
	}
	if _, err := dec.Token(); err != nil {
		return err
	}
	out.WriteString(delim.String())
	indent := "\n" + strings.Repeat(" ", level+1)
	column := level + 1
	for i, part := range parts {
		switch {
		case sum <= width && i > 0:
			out.WriteString(", ")
		case sum <= width:
		case short && i > 0 && column+len(part)+2 <= width: // a long list of short values
			out.WriteString(", ")
			column += len(part) + 2
		default:
			if i > 0 {
				out.WriteByte(',')
			}
			out.WriteString(indent)
			column = level + 1 + len(part)
		}
		out.WriteString(part)
	}
	if sum > width {
		out.WriteString("\n" + strings.Repeat(" ", level))
	}
	out.WriteString(closing)
	return nil
}
