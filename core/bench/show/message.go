package show

import (
	"time"

	"slatebell/core/bench"
)

// Message is how a serial line is read.
type Message struct {
	Baud      int
	Buffer    int // characters that the host keeps while it is busy
	Longest   int // characters that a message keeps
	AsItComes bool
	Pause     int64 // of silence that ends a message, in ms; 0 where a line end does alone
	Timeout   int64 // after which half a message is given up, in ms; 0 for none
	Reset     int   // button that empties it; -1 for none
	Chars     Chars // what its UTF-8 shows; nil where its bytes are codes of the ROM
	Missing   byte  // the code of what stands for a character that the module cannot show
}

// What is usual of a serial line where a document says nothing (common practice).
const (
	UsualBaud    = 9600
	UsualBuffer  = 64
	UsualLongest = 80
	UsualPause   = 50 // ms
)

func messageOf(d *bench.Serial, reset int) Message {
	m := Message{Baud: int(or(d.Baud, UsualBaud)), Buffer: int(or(d.Buffer, UsualBuffer)), Longest: int(or(d.Longest, UsualLongest)), AsItComes: d.AsItComes, Timeout: int64(d.TimeoutMs), Reset: reset}
	if d.Ends == "pause" {
		three := (3*m.Character() + time.Millisecond - 1) / time.Millisecond
		if m.Pause = int64(d.PauseMs); m.Pause == 0 {
			m.Pause = max(UsualPause, int64(three))
		}
		m.Timeout = 0 // it ends before it could be given up
	}
	return m
}

// Character is how long a character takes on the line: a start bit, eight bits, a stop bit.
func (m *Message) Character() time.Duration { return 10 * time.Second / time.Duration(m.Baud) }

// Line is a message: codes as they came, the shown ones and those to come.
type Line struct {
	Text   string
	Coming string
	Rune   rune  // of a character whose bytes still come, as far as they are there
	More   int   // how many bytes it still wants
	Over   int64 // characters that were too many
	Return bool  // the last was a carriage return
}

// Control characters of ISO/IEC 646 that a message knows.
const (
	lineFeed = '\n'
	formFeed = '\f'
	carriage = '\r'
)

// receive takes a byte: a line ends by a line feed, a carriage return or both, and a
// message with it; a form feed empties the message; other control characters are left out.
func (s *Show) receive(st *State, input int, c byte) {
	m, is := &s.Inputs[input].Message, &st.Inputs[input]
	line := &is.Line
	returned := line.Return
	line.Return = c == carriage
	is.Due = never
	switch {
	case m.Chars != nil && line.utf8(m, c): // a part of a character
	case c == lineFeed && returned:
		return
	case c == lineFeed, c == carriage:
		line.Text, line.Coming = line.Coming, ""
		s.happens(st, input, LineEnd)
		return
	case c == formFeed:
		line.Text, line.Coming = "", ""
		return
	case c < ' ': // left out
	case m.Chars != nil:
		line.put(m, m.code(rune(c)))
	default:
		line.put(m, c)
	}
	if silence := m.Pause + m.Timeout; silence > 0 && (line.Coming != "" || line.More > 0) {
		is.Due = st.Now + silence
	}
}

// put adds a code to what has come.
func (l *Line) put(m *Message, code byte) {
	if len(l.Coming) >= m.Longest {
		l.Over++
		return
	}
	l.Coming += string([]byte{code})
	if m.AsItComes {
		l.Text = l.Coming
	}
}

// silent is what silence does to a message: it ends it, or gives up half of one.
func (s *Show) silent(st *State, input int) {
	is := &st.Inputs[input]
	is.Due = never
	line, m := &is.Line, &s.Inputs[input].Message
	line.cutOff(m)
	if m.Pause == 0 {
		line.Coming = ""
		return
	}
	line.Text, line.Coming = line.Coming, ""
	s.happens(st, input, LineEnd)
}

// Typed are the events of a text that begins to come over a serial line at a time, each
// when its last bit is there.
func Typed(in *bench.Input, input int, begins time.Duration, text []byte) (out []Event) {
	m := messageOf(&in.Serial, -1)
	for i, c := range text {
		at := begins + time.Duration(i+1)*m.Character()
		out = append(out, Event{At: int64(at / time.Millisecond), Later: at % time.Millisecond, Input: input, Value: int64(c)})
	}
	return out
}
