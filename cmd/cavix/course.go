package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"time"

	"github.com/spf13/cobra"

	"cavix/locale"
	"cavix/ops"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/store"
	"cavix/transfer"
	"cavix/web/ui"
)

// required names the flags that a command cannot do without.
func required(c *cobra.Command, names ...string) {
	before := c.RunE
	c.RunE = func(c *cobra.Command, args []string) error {
		for _, name := range names {
			if c.Flags().Lookup(name).Value.String() == "" {
				return usageError{fmt.Errorf("--%s is missing; see --help", name)}
			}
		}
		return before(c, args)
	}
}

// opened opens a database that must be there, whether it is being served or not.
func opened(ctx context.Context, data string) (*ops.OpenedFile, error) {
	if _, err := os.Stat(data); errors.Is(err, fs.ErrNotExist) {
		return nil, usageError{fmt.Errorf("--data: there is no file %s", data)}
	}
	return ops.OpenFile(ctx, data)
}

func exportCommand() *cobra.Command {
	var data, code, to string
	var withPeople bool
	c := &cobra.Command{
		Use:   "export",
		Short: "Export the course of a class as one file: instruments, sheets, care questions, conventions and words",
		Example: "  cavix export --data cavix.db --class MILL47 --to mill.cavix\n  cavix export --data cavix.db " +
			"--class MILL47 --to mill.cavix --with-people",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			s, err := opened(c.Context(), data)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, s.Close()) }()
			read := school.New(s.DB)
			class, err := read.Roster.ClassByCode(c.Context(), code)
			if errors.Is(err, store.ErrNotFound) {
				return usageError{fmt.Errorf("--class: no class has the joining code %q", code)}
			}
			if err != nil {
				return err
			}
			taken, left, err := school.New(s.DB).Rack.Course(c.Context(), class.Owner, rack.Taking{Class: class.ID})
			if err != nil {
				return err
			}
			for _, name := range left {
				fmt.Fprintf(c.ErrOrStderr(), "left out, since this version cannot read it: %s\n", name)
			}
			var people []transfer.Person
			var answers func(io.Writer) error
			if withPeople {
				list, err := read.Roster.Students(c.Context(), class.Owner, class.ID)
				if err != nil {
					return err
				}
				people = ui.PeopleOf(list)
				answers = func(w io.Writer) error {
					return ui.WriteAnswers(w, transfer.CSV, func(each func(ledgers.Answered) error) error {
						return read.Ledgers.ClassAnswers(c.Context(), class.Owner, class.ID, each)
					})
				}
			}
			err = writeWhole(to, private,
				func(w io.Writer) error { return transfer.WriteCourse(w, taken, people, answers) })
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s: %d instruments, %d sheets, %d items of care, %d people\n", to,
				len(taken.Instruments), len(taken.Sheets), len(taken.Bank), len(people))
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "cavix.db", "database file")
	c.Flags().StringVar(&code, "class", "", "joining code of the class")
	c.Flags().StringVar(&to, "to", "", "file to write, .cavix")
	c.Flags().BoolVar(&withPeople, "with-people", false,
		"include the people of the class, and their answers as a table")
	required(c, "class", "to")
	return c
}

func importCommand() *cobra.Command {
	var data, login, from string
	var look bool
	c := &cobra.Command{
		Use:   "import",
		Short: "Import a course file for an instructor, as a whole or not at all",
		Example: "  cavix import --data cavix.db --as maren --from mill.cavix --look\n  cavix import --data " +
			"cavix.db --as maren --from mill.cavix",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			file, err := os.ReadFile(from)
			if err != nil {
				return usageError{fmt.Errorf("--from: %w", err)}
			}
			f, err := transfer.ReadCourse(file)
			if err != nil {
				return usageError{fmt.Errorf("%s %w", from, err)}
			}
			if n := len(f.Refused); n > 0 {
				return usageError{fmt.Errorf("%s: %s: %s (%d refused; nothing was changed)", from,
					locale.Documents().Print(f.Refused[0].Name), locale.Documents().Print(f.Refused[0].Reason), n)}
			}
			s, err := opened(c.Context(), data)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, s.Close()) }()
			who, err := school.New(s.DB).Roster.InstructorByLogin(c.Context(), login)
			if errors.Is(err, store.ErrNotFound) {
				return usageError{fmt.Errorf("--as: no instructor signs in as %q", login)}
			}
			if err != nil {
				return err
			}
			room := school.New(s.DB)
			var things []rack.ImportEffect
			if look {
				things, err = room.Rack.PreviewCourse(c.Context(), who.ID, f.Course, ui.ImportOf(f.People))
			} else {
				hand := access.Actor{ID: who.ID, Name: who.Name, At: time.Now()}
				things, err = room.Rack.ImportCourse(c.Context(), hand, f.Course, ui.ImportOf(f.People))
			}
			if err != nil {
				return err
			}
			for _, t := range things {
				fmt.Fprintf(c.OutOrStdout(), "%-10s %-9s %s\n", t.What, t.Difference, t.Name)
			}
			for _, left := range f.Left {
				fmt.Fprintf(c.OutOrStdout(), "%s\n", locale.Documents().Print(left))
			}
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "cavix.db", "database file")
	c.Flags().StringVar(&login, "as", "", "login of the instructor")
	c.Flags().StringVar(&from, "from", "", "course file, .cavix")
	c.Flags().BoolVar(&look, "look", false, "only report what is new, changed and the same")
	required(c, "as", "from")
	return c
}
