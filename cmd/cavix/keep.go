package main

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"cavix/classroom"
	"cavix/ops"
	"cavix/store"
)

// wrongUse makes wrong use of what another flag or file would put right.
func wrongUse(err error) error {
	for _, use := range []error{ops.ErrNoFile, ops.ErrEmpty} {
		if errors.Is(err, use) {
			return usageError{err}
		}
	}
	return err
}

func backupCommand() *cobra.Command {
	var data, to string
	c := &cobra.Command{
		Use:   "backup",
		Short: "Copy a database, also while it is served, and look through the copy",
		Long: "Copy a database, also while it is served, into a file of its own, and look through the copy before it gets its name.\n" +
			"A plain copy of a file that is being served lacks what stands in its write-ahead log; this one does not.",
		Example: "  cavix backup --data school.db --to /mnt/stick/school-monday.db",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			made, err := ops.Backup(c.Context(), data, to)
			if err != nil {
				return wrongUse(err)
			}
			fmt.Fprintf(c.OutOrStdout(), "%s: %s, in %s, looked through and sound; its latest entry is of %s\n", made.Path,
				ops.SizeText(made.Size), made.Took.Round(time.Millisecond), ops.Moment(made.Latest))
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file")
	c.Flags().StringVar(&to, "to", "", "file for the copy; it must not be there yet")
	required(c, "data", "to")
	return c
}

func restoreCommand() *cobra.Command {
	var data, from string
	var older bool
	c := &cobra.Command{
		Use:   "restore",
		Short: "Put a copy in the place of a database that is not being served",
		Long: "Put a copy in the place of a database. It is looked through first. A database that is being served is left alone, and\n" +
			"so is one with later entries than the copy, unless --older is given. What stood there is put beside it, not lost.",
		Example: "  cavix restore --from copies/school-daily-20261123-030000.db --data school.db",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			done, err := ops.Restore(c.Context(), from, data, older)
			if errors.Is(err, ops.ErrNewerThere) {
				return fmt.Errorf("%w; to put the older copy back all the same, add --older", err)
			}
			if err != nil {
				return wrongUse(err)
			}
			fmt.Fprintf(c.OutOrStdout(), "%s: %s put back, its latest entry is of %s\n", done.Path, ops.SizeText(done.Size), ops.Moment(done.Latest))
			if done.Before != "" {
				fmt.Fprintf(c.OutOrStdout(), "What stood there is now %s\n", done.Before)
			}
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file in whose place the copy comes")
	c.Flags().StringVar(&from, "from", "", "the copy")
	c.Flags().BoolVar(&older, "older", false, "also in the place of a database with later entries, or one that cannot be read")
	required(c, "data", "from")
	return c
}

func checkCommand() *cobra.Command {
	var data string
	var replica bool
	c := &cobra.Command{
		Use:   "check",
		Short: "Look through a database: is it whole, readable, and marked as the core marks?",
		Long: "Look through a database, also while it is served, and change nothing: pages and indexes, the ties between rows, every\n" +
			"instrument, sheet, item and answer, and whether the marks that stand are those that the core gives. A file that was\n" +
			"copied from under a running server without its write-ahead log is found too. Exits with 1 where anything is wrong.",
		Example: "  cavix check --data school.db",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			r, note, err := ops.Check(c.Context(), data, replica)
			if err != nil {
				return wrongUse(err)
			}
			for _, fault := range r.Faults {
				fmt.Fprintln(c.OutOrStdout(), fault)
			}
			for _, e := range r.Earlier {
				fmt.Fprintln(c.OutOrStdout(), "notice:", e)
			}
			if note != "" {
				fmt.Fprintln(c.OutOrStdout(), note)
			}
			if !r.Sound() {
				return fmt.Errorf("%s: %d faults in %d cards and %d documents", data, len(r.Faults)+r.More, r.Cards, r.Documents)
			}
			older := ""
			if r.Schema < store.NewestSchema() {
				older = fmt.Sprintf("; its form %d will be brought to %d when it is served", r.Schema, store.NewestSchema())
			}
			fmt.Fprintf(c.OutOrStdout(), "%s is %s, in %s%s\n", data, r, r.Took.Round(time.Millisecond), older)
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file")
	c.Flags().BoolVar(&replica, "replica", false,
		"the file was put together from a replica: that it comes from a running server is said, and is no fault")
	required(c, "data")
	return c
}

func linkCommand() *cobra.Command {
	var data, login, site string
	var keeper bool
	c := &cobra.Command{
		Use:   "link",
		Short: "Print a link with which an instructor chooses a new passphrase",
		Long: "Print a link with which an instructor chooses a new passphrase, for whoever has the machine in hand: when the one who\n" +
			"keeps the server has forgotten theirs. The old passphrase is good no longer. It is logged.",
		Example: "  cavix link --data school.db --login maren --keeper",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			s, err := opened(c.Context(), data)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, s.Close()) }()
			key, err := classroom.New(s.Store).LinkFor(c.Context(), login, keeper, time.Now())
			if errors.Is(err, store.ErrNotFound) {
				return usageError{fmt.Errorf("--login: no instructor signs in as %q", login)}
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s/welcome?key=%s\nIt is good once, within a week.\n", strings.TrimRight(site, "/"), key)
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file, served or not")
	c.Flags().StringVar(&login, "login", "", "the name they sign in with")
	c.Flags().BoolVar(&keeper, "keeper", false, "they keep the server from now on, and may sign in again if they were kept out")
	c.Flags().StringVar(&site, "site", "http://127.0.0.1:8080", "where the site is reached")
	required(c, "data", "login")
	return c
}
