// Package protocol is what a computer and the bridge on a host say to each other over a serial line: frames, what
// stands in them, and the records that a bridge carries out. docs/live.md writes it down for others.
//
// It computes only: both ends, the program for the host and the stand-in are made of it or held against it.
package protocol

import (
	"bytes"
	"encoding/binary"
	"fmt"
)

// Version is of the protocol, told in the first answer.
const Version = 1

// Kind says what a frame is for.
type Kind byte

// The kinds. Those from 0x80 on come from the bridge.
const (
	Hello Kind = 0x01 // a session begins: Greeting
	Run   Kind = 0x02 // records to be carried out
	Ping  Kind = 0x03 // nothing but a sign of life
	Rest  Kind = 0x04 // pins to rest; the session ends
	Here  Kind = 0x81 // what the bridge is: answer to Hello, and said by itself after a reset
	Done  Kind = 0x82 // what became of a Run: Outcome
	Pong  Kind = 0x83 // answer to Ping
	Ended Kind = 0x84 // answer to Rest
	Wrong Kind = 0x8F // a frame was not taken: Refusal
)

// Frame is one message. A frame is sent as its payload with COBS (S. Cheshire, M. Baker, "Consistent Overhead Byte
// Stuffing", IEEE/ACM Transactions on Networking 7(2), 1999) and a zero byte behind it. The payload is kind, session,
// number, body, and the CRC of all of these, high byte first.
type Frame struct {
	Kind    Kind
	Session byte // chosen by the computer in Hello, 1–255; 0 belongs to none
	Number  byte // of a Run within its session, counted from 1 and round; answers repeat it
	Body    []byte
}

const (
	headSize = 3
	crcSize  = 2

	// MaxBody is how long a body may be, in bytes, so that a payload is one block of COBS.
	MaxBody = 240
)

// CRC returns the CRC-16/CCITT-FALSE of data: polynomial 0x1021, begun with 0xFFFF. Of the ASCII digits 1 to 9 it is
// 0x29B1 (catalogue of CRC algorithms).
func CRC(data []byte) uint16 {
	crc := uint16(0xFFFF)
	for _, b := range data {
		crc ^= uint16(b) << 8
		for range 8 {
			if crc&0x8000 != 0 {
				crc = crc<<1 ^ 0x1021
			} else {
				crc <<= 1
			}
		}
	}
	return crc
}

// Append appends a frame as it goes over the line. Its body is at most MaxBody long.
func (f *Frame) Append(dst []byte) []byte {
	payload := append([]byte{byte(f.Kind), f.Session, f.Number}, f.Body...)
	payload = binary.BigEndian.AppendUint16(payload, CRC(payload))
	return append(stuff(dst, payload), 0)
}

// ParseFrame reads what stood before a zero byte. Its error says why it is no frame.
func ParseFrame(stuffed []byte) (Frame, error) {
	payload, err := unstuff(stuffed)
	if err != nil {
		return Frame{}, err
	}
	n := len(payload) - crcSize
	if n < headSize || n > headSize+MaxBody {
		return Frame{}, fmt.Errorf("%d bytes; expected %d to %d", len(payload), headSize+crcSize, headSize+MaxBody+crcSize)
	}
	if said, is := binary.BigEndian.Uint16(payload[n:]), CRC(payload[:n]); said != is {
		return Frame{}, fmt.Errorf("its CRC says 0x%04X, its bytes give 0x%04X", said, is)
	}
	return Frame{Kind(payload[0]), payload[1], payload[2], payload[headSize:n]}, nil
}

// stuff appends data without zero bytes: before each run of at most 254 bytes that are none, its length and one.
func stuff(dst, data []byte) []byte {
	for {
		n := bytes.IndexByte(data, 0)
		if n < 0 {
			n = len(data)
		}
		if n >= 254 {
			dst = append(append(dst, 255), data[:254]...)
			if data = data[254:]; len(data) == 0 {
				return dst
			}
			continue
		}
		dst = append(append(dst, byte(n+1)), data[:n]...)
		if n == len(data) {
			return dst
		}
		data = data[n+1:]
	}
}

// unstuff undoes stuff.
func unstuff(data []byte) ([]byte, error) {
	var out []byte
	for i := 0; i < len(data); {
		n := int(data[i])
		if n == 0 {
			return nil, fmt.Errorf("a zero byte at %d", i)
		}
		if i+n > len(data) {
			return nil, fmt.Errorf("it is cut: %d bytes are to follow byte %d, and %d do", n-1, i, len(data)-i-1)
		}
		out = append(out, data[i+1:i+n]...)
		if bytes.IndexByte(data[i+1:i+n], 0) >= 0 {
			return nil, fmt.Errorf("a zero byte behind byte %d", i)
		}
		if i += n; n < 255 && i < len(data) {
			out = append(out, 0)
		}
	}
	return out, nil
}

// mostStuffed is how long a frame can be on the line, without its zero byte.
const mostStuffed = headSize + MaxBody + crcSize + 2

// Splitter takes what comes over a line to pieces: frames, and what is none. Its zero value is ready.
type Splitter struct {
	held []byte
	over bool // what is being read is longer than any frame
}

// Piece is one frame, or what stood in its place.
type Piece struct {
	Frame Frame
	Err   error  // why it is no frame
	Raw   []byte // what came instead, at most as much as a frame could be long
}

// Feed takes bytes in any portions, and returns what is complete with them. Empty frames are passed over: a zero byte more
// than needed parts a frame from rubbish before it.
func (s *Splitter) Feed(data []byte) (out []Piece) {
	for _, b := range data {
		if b != 0 {
			if len(s.held) == mostStuffed {
				s.over = true
				continue
			}
			s.held = append(s.held, b)
			continue
		}
		if len(s.held) > 0 {
			f, err := ParseFrame(s.held)
			if s.over {
				err = fmt.Errorf("more than %d bytes without a zero byte", mostStuffed)
			}
			p := Piece{Frame: f, Err: err}
			if err != nil {
				p = Piece{Err: err, Raw: bytes.Clone(s.held)}
			}
			out = append(out, p)
		}
		s.held, s.over = nil, false
	}
	return out
}

// Pending returns what has come since the last zero byte.
func (s *Splitter) Pending() []byte { return s.held }
