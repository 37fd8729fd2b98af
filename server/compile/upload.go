package compile

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// LongestUpload is the limit of one upload: at 57,600 baud a full ATmega328P takes some 20 s, and is read back.
const LongestUpload = 2 * time.Minute

// Board is where a program goes.
type Board struct {
	Part, Programmer string // as avrdude calls them
	Port             string
	Baud             int
}

// Uploader is what builds a program and sends it to a board's loader.
type Uploader struct {
	compiler      *Compiler
	objcopy, dude string
}

// FindUploader looks for this machine's avr-gcc, avr-objcopy and avrdude. Its error names what is missing.
func FindUploader() (*Uploader, error) {
	u := &Uploader{}
	var missing []string
	for _, tool := range []struct {
		name, from string
		path       *string
	}{{"avr-gcc", "gcc-avr and avr-libc", new(string)}, {"avr-objcopy", "binutils-avr", &u.objcopy}, {"avrdude", "avrdude", &u.dude}} {
		path, err := exec.LookPath(tool.name)
		if err != nil {
			missing = append(missing, fmt.Sprintf("%s (on Debian: %s)", tool.name, tool.from))
		}
		*tool.path = path
	}
	if len(missing) > 0 {
		return nil, fmt.Errorf("this machine has no %s", strings.Join(missing, ", no "))
	}
	compiler, err := Find()
	u.compiler = compiler
	return u, err
}

// Upload builds files to a program and sends it to a board. Its error says why that could not be tried; what the tools say is in the result,
// whose Built is whether all went well.
func (u *Uploader) Upload(ctx context.Context, files []File, args []string, program string, to Board) (*Result, error) {
	if err := to.check(); err != nil {
		return nil, err
	}
	s, err := openShop(files)
	if err != nil {
		return nil, err
	}
	defer s.close()
	ctx, cancel := context.WithTimeout(ctx, LongestUpload)
	defer cancel()
	out, err := s.build(ctx, u.compiler, args, program)
	if err != nil || !out.Built {
		return out, err
	}
	hex := strings.TrimSuffix(program, filepath.Ext(program)) + ".hex"
	for _, step := range [][]string{
		{u.objcopy, "-O", "ihex", "-R", ".eeprom", program, hex},
		{u.dude, "-p", to.Part, "-c", to.Programmer, "-P", to.Port, "-b", fmt.Sprint(to.Baud), "-D", "-U", "flash:w:" + hex + ":i"},
	} {
		if out.Built, err = s.run(ctx, step[0], step[1:]...); err != nil || !out.Built {
			break
		}
	}
	out.Said = s.says()
	return out, err
}

// check says what is wrong with a board's port: avrdude takes other things than ports for one, and would take a name that begins with a
// dash for an option.
func (b *Board) check() error {
	if strings.HasPrefix(b.Port, "COM") && strings.Trim(b.Port[3:], "0123456789") == "" {
		return nil
	}
	if !filepath.IsAbs(b.Port) {
		return fmt.Errorf("port %q; expected one of this computer's serial ports, such as /dev/ttyUSB0", b.Port)
	}
	is, err := os.Stat(b.Port)
	if err != nil {
		return errors.New("there is no port " + b.Port + ": is the board plugged in?")
	}
	if is.Mode()&os.ModeCharDevice == 0 {
		return fmt.Errorf("%s is no serial port", b.Port)
	}
	return nil
}
