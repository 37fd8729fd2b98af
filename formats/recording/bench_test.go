package recording

import (
	"bytes"
	"fmt"
	"io"
	"testing"
)

// drain reads a file to its end.
func drain(b *testing.B, data []byte, o Options) {
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		s, err := Open(bytes.NewReader(data), int64(len(data)), o)
		if err != nil {
			b.Fatal(err)
		}
		for {
			if _, err := s.Next(); err == io.EOF {
				break
			} else if err != nil {
				b.Fatal(err)
			}
		}
	}
}

// BenchmarkDump reads a value change dump of 20 MB: 200 MB in 4 s are asked for.
func BenchmarkDump(b *testing.B) {
	var dump bytes.Buffer
	dump.WriteString("$timescale 1 ns $end $var wire 1 ! SDA $end $var wire 1 \" SCL $end $enddefinitions $end\n")
	for i := 0; dump.Len() < 20<<20; i++ {
		fmt.Fprintf(&dump, "#%d\n%d!\n%d\"\n", i*2500, i/2%2, i%2)
	}
	drain(b, dump.Bytes(), Options{})
}

// BenchmarkSamples reads 20 MB of samples: 100 MB a second are asked for, decoded.
func BenchmarkSamples(b *testing.B) {
	data := make([]byte, 20<<20)
	for i := range data {
		data[i] = byte(i / 100 % 4)
	}
	drain(b, data, Options{Rate: 1e6})
}

// BenchmarkTable reads 20 MB of comma-separated values.
func BenchmarkTable(b *testing.B) {
	var table bytes.Buffer
	table.WriteString("time_us,SDA,SCL\n")
	for i := 0; table.Len() < 20<<20; i++ {
		fmt.Fprintf(&table, "%d.5,%d,%d\n", i*2, i/2%2, i%2)
	}
	drain(b, table.Bytes(), Options{})
}
