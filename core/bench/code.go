package bench

// Code is what its user adds to the program that is exported: it stands in the own
// sections of its files.
type Code struct {
	Own []OwnSection `json:"own,omitempty" nullable:"false" maxItems:"40"`
}

// LongestOwn is the most bytes of a section.
const LongestOwn = 20000

// OwnSection is the text of one section.
type OwnSection struct {
	File    string `json:"file" maxLength:"40" doc:"bench.h, bench.c, main.c, bench.ino, bench.py or main.py; bench stands for the bench's name"`
	Section string `json:"section" maxLength:"40" doc:"name of the section in the file"`
	Text    string `json:"text" maxLength:"20000"`
}

// In returns the text of a section; "" where there is none.
func (c *Code) In(file, section string) string {
	for _, s := range c.Own {
		if s.File == file && s.Section == section {
			return s.Text
		}
	}
	return ""
}
