package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/server/doctor"
	"slatebell/server/journal"
	"slatebell/server/store"
)

func newBackup(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "backup FILE", Short: "Copy the whole database, also while the program runs",
		Long: "Copy the whole database into FILE, which must not be there yet. The copy is\nconsistent while a program that serves it goes on writing. To go back to a copy,\nstop the program and give the file to slatebell restore.",
		Args: oneFile("a file to write"),
	}
	data := dataFlag(c)
	c.RunE = func(_ *cobra.Command, args []string) error {
		dir, err := dataDir(*data)
		if err != nil {
			return err
		}
		if err := store.Backup(dir, args[0]); err != nil {
			return err
		}
		_, err = fmt.Fprintf(std.out, "copied to %s\n", args[0])
		return err
	}
	return c
}

func newRestore(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "restore FILE", Short: "Put a copy of the database in its place",
		Long: "Put a copy of the whole database, made by slatebell backup or by the program itself, in the place of\nthe database. What was there is kept among the copies beside it. The program must not run meanwhile. A copy\nthat is damaged, of a newer program, or no database of Slate Bell is refused, and nothing is changed.\n\n" +
			"While it runs the program makes a copy every day on which something was changed, and keeps the last seven,\nin the directory " + store.CopiesDir + " beside the database; without FILE the copies are listed.",
		Example: "  slatebell restore\n  slatebell restore slatebell-2026-05-01-1405.db",
		Args: func(c *cobra.Command, args []string) error {
			if len(args) > 1 {
				return wrong(exitUsage, "%d arguments; expected a copy of the database, or none for a list of the copies: %s", len(args), c.UseLine())
			}
			return nil
		},
	}
	data := dataFlag(c)
	c.RunE = func(_ *cobra.Command, args []string) error {
		dir, err := dataDir(*data)
		if err != nil {
			return err
		}
		if len(args) == 0 {
			return listCopies(dir, std)
		}
		was, kept, err := store.RestoreDatabase(dir, args[0], time.Now())
		if err != nil {
			return err
		}
		text := fmt.Sprintf("restored %s: %s\n", args[0], doctor.Held(was))
		log, file := journal.Open(dir)
		defer file.Close()
		log.Info("restored", "from", args[0], "kept", kept)
		if kept != "" {
			text += fmt.Sprintf("what was there is kept as %s\n", kept)
		}
		_, err = fmt.Fprint(std.out, text)
		return err
	}
	return c
}

// listCopies prints the copies that the program has made.
func listCopies(dir string, std stdio) error {
	list, err := store.Copies(dir)
	if err != nil {
		return err
	}
	if len(list) == 0 {
		return fmt.Errorf("there are no copies in %s; name one: slatebell restore FILE", filepath.Join(dir, store.CopiesDir))
	}
	for _, c := range list {
		if _, err := fmt.Fprintf(std.out, "%s\t%s\t%s\n", c.At.Format("2006-01-02 15:04"), c.Path, c.Why); err != nil {
			return err
		}
	}
	return nil
}

// thisProgram is what the doctor says of the program.
func thisProgram() doctor.Program {
	v, at, on := built()
	return doctor.Program{Version: v, Commit: at, Date: on}
}

func newDoctor(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "doctor", Short: "Look over what the program stands on: database, disk, ports, tools, browser", Args: noArgs,
		Long:    "Look over what the program stands on: its directory, the database page by page, the copies, the disk, the\naddress, serial ports, what compiles and uploads, the browser. Nothing is changed, and no port is opened. The exit\ncode is 1 where something is wrong; what is only missing is a note.",
		Example: "  slatebell doctor\n  slatebell doctor --format json",
	}
	data, addr := dataFlag(c), addrFlag(c)
	format := formatFlag(c, "text", "json")
	c.RunE = func(*cobra.Command, []string) error {
		as, err := format()
		if err != nil {
			return err
		}
		dir, err := dataDir(*data)
		if err != nil {
			return err
		}
		r := doctor.Examine(doctor.Options{Program: thisProgram(), Dir: dir, Addr: *addr})
		if as == "json" {
			e := json.NewEncoder(std.out)
			e.SetIndent("", "  ")
			err = e.Encode(r)
		} else {
			err = r.Print(std.out)
		}
		if err == nil && r.State() == doctor.Wrong {
			return coded{exitFailed, errors.New("")}
		}
		return err
	}
	return c
}

func newReport(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "report FILE", Short: "Write a report that can be sent to somebody who helps",
		Long:    "Write a ZIP archive that can be sent to somebody who helps: what slatebell doctor says, and the end of the\nprogram's log. No bench is in it but those that are added by their numbers, which slatebell benches lists. FILE must\nnot be there yet.",
		Example: "  slatebell report report.zip\n  slatebell report report.zip --bench 3",
		Args:    oneFile("a file to write"),
	}
	data, addr := dataFlag(c), addrFlag(c)
	added := c.Flags().UintSlice("bench", nil, "number of a bench that goes into it; may be given again")
	c.RunE = func(_ *cobra.Command, args []string) error {
		dir, err := dataDir(*data)
		if err != nil {
			return err
		}
		benches, err := archives(*data, *added)
		if err != nil {
			return err
		}
		out, err := os.OpenFile(args[0], os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
		if errors.Is(err, fs.ErrExist) {
			return fmt.Errorf("%s is there already; choose a name that is free", args[0])
		}
		if err != nil {
			return err
		}
		err = doctor.Write(out, doctor.Options{Program: thisProgram(), Dir: dir, Addr: *addr}, benches)
		if err = errors.Join(err, out.Close()); err != nil {
			os.Remove(args[0])
			return err
		}
		_, err = fmt.Fprintf(std.out, "written to %s; read it before you send it\n", args[0])
		return err
	}
	return c
}

// archives reads stored benches with their logs.
func archives(data string, ids []uint) (out []bench.Archive, err error) {
	if len(ids) == 0 {
		return nil, nil // a database that cannot be opened is what a report may be about
	}
	db, err := openStore(data)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	if out, err = db.Archives(ids); err != nil {
		return nil, fmt.Errorf("%w (slatebell benches lists them)", err)
	}
	return out, nil
}
