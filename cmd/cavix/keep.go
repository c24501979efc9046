package main

import (
	"errors"
	"fmt"
	"os"
	"os/signal"
	"runtime/debug"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"cavix/ops"
	"cavix/school"
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
		Short: "Copy a database, even while it is being served, and check the copy",
		Long: "Copy a database, even while it is being served, into a new file, and check the copy before it gets " +
			"its name.\n" +
			"Do not copy the file of a running server by hand: that copy lacks what is in the write-ahead log.",
		Example: "  cavix backup --data school.db --to /mnt/stick/school-monday.db",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			made, err := ops.Backup(c.Context(), data, to)
			if err != nil {
				return wrongUse(err)
			}
			fmt.Fprintf(c.OutOrStdout(), "%s: %s, in %s, checked and intact; its latest entry is from %s\n", made.Path,
				ops.SizeText(made.Size), made.Took.Round(time.Millisecond), ops.Moment(made.Latest))
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file")
	c.Flags().StringVar(&to, "to", "", "file for the copy; it must not exist yet")
	required(c, "data", "to")
	return c
}

func restoreCommand() *cobra.Command {
	var data, from string
	var older bool
	c := &cobra.Command{
		Use:   "restore",
		Short: "Replace a database that is not being served by a copy",
		Long: "Replace a database by a copy. The copy is checked first. A database that is being served is not " +
			"replaced, and one with\n" +
			"later entries than the copy only with --older. The replaced database is kept beside the new one.",
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
			fmt.Fprintf(c.OutOrStdout(), "%s: %s put back, its latest entry is of %s\n", done.Path,
				ops.SizeText(done.Size), ops.Moment(done.Latest))
			if done.Before != "" {
				fmt.Fprintf(c.OutOrStdout(), "What stood there is now %s\n", done.Before)
			}
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file to replace")
	c.Flags().StringVar(&from, "from", "", "the copy")
	c.Flags().BoolVar(&older, "older", false, "replace even a database that has later entries or cannot be read")
	required(c, "data", "from")
	return c
}

func checkCommand() *cobra.Command {
	var data string
	var by ops.Checking
	c := &cobra.Command{
		Use:   "check",
		Short: "Check a database: whether it is intact and readable, and its marks are right",
		Long: "Check a database, even while it is being served, and change nothing: its pages and indexes, the " +
			"references between rows,\n" +
			"every instrument, sheet, item and answer, and whether the saved marks are those that the program " +
			"gives. It also finds a\n" +
			"file that was copied from a running server without its write-ahead log. The exit status is 1 if " +
			"anything is wrong.\n" +
			"A check that is stopped with Ctrl C says how to go on with it.",
		Example: "  cavix check --data school.db",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			debug.SetGCPercent(400) // it is over soon, and serves nobody
			if by.After < 0 {
				return usageError{fmt.Errorf("--after must be the number of a card; it is %d", by.After)}
			}
			come, say := by.After, tenths(c.ErrOrStderr(), "cards")
			by.Say = func(card, last int64) {
				come = card
				say(int(card), int(last))
			}
			r, note, err := ops.Check(ctx, data, by)
			if ctx.Err() != nil {
				return fmt.Errorf("stopped; go on with: cavix check --data %s --after %d", data, come)
			}
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
				return fmt.Errorf("%s: %d faults in %d cards and %d documents", data, len(r.Faults)+r.More, r.Cards,
					r.Documents)
			}
			older := ""
			if r.Schema < store.NewestSchema() {
				older = fmt.Sprintf("; its form %d will be brought to %d when it is served", r.Schema,
					store.NewestSchema())
			}
			if by.After > 0 {
				older += fmt.Sprintf("; cards up to %d were left out", by.After)
			}
			fmt.Fprintf(c.OutOrStdout(), "%s is %s, in %s%s\n", data, r, r.Took.Round(time.Millisecond), older)
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file")
	c.Flags().Int64Var(&by.After, "after", 0, "go on after this card, as a check says that was stopped")
	c.Flags().BoolVar(&by.Replica, "replica", false,
		"the file was restored from a replica, so it is no fault that it comes from a running server")
	required(c, "data")
	return c
}

func linkCommand() *cobra.Command {
	var data, login, site string
	var keeper bool
	c := &cobra.Command{
		Use:   "link",
		Short: "Print a link with which an instructor chooses a new passphrase",
		Long: "Print a link with which an instructor chooses a new passphrase, for example when the person who runs " +
			"the server has\n" +
			"forgotten theirs. The old passphrase stops working. The audit log records it.",
		Example: "  cavix link --data school.db --login maren --keeper",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			s, err := opened(c.Context(), data)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, s.Close()) }()
			key, err := school.New(s.DB).Roster.LinkFor(c.Context(), login, keeper, time.Now())
			if errors.Is(err, store.ErrNotFound) {
				return usageError{fmt.Errorf("--login: no instructor signs in as %q", login)}
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s/welcome?key=%s\nIt is good once, within a week.\n",
				strings.TrimRight(site, "/"), key)
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "database file, served or not")
	c.Flags().StringVar(&login, "login", "", "the name that they sign in with")
	c.Flags().BoolVar(&keeper, "keeper", false, "let them run the server, and sign in again if they were barred")
	c.Flags().StringVar(&site, "site", "http://127.0.0.1:8080", "address of the site")
	required(c, "data", "login")
	return c
}
