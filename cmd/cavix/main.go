// Command cavix serves Cavix and offers its open side: reading, marking and drawing from documents.
package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"cavix/core/text"
	"cavix/locale"
	"cavix/ops"
)

// version is the version of the program; a release sets it with -ldflags "-X main.version=…".
var version = "0.1.0-dev"

// usageError is wrong use or bad input: exit code 2. Other errors exit with 1.
type usageError struct{ error }

func (e usageError) Unwrap() error { return e.error }

func main() {
	if args := os.Args[1:]; len(args) > 0 && (args[0] == "backup" || args[0] == "check") {
		ops.StepAside()
	}
	os.Exit(run(os.Args[1:], os.Stdout, os.Stderr))
}

// newRoot is the program with all its commands.
func newRoot(out, errs io.Writer) *cobra.Command {
	root := &cobra.Command{
		Use:           "cavix",
		Short:         "Simulated measuring scales, reading exercises, and marking that says why",
		Version:       version,
		SilenceErrors: true,
		SilenceUsage:  true,
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) > 0 {
				return usageError{fmt.Errorf("unknown command %q; cavix --help lists them", args[0])}
			}
			return nil
		},
		RunE: func(c *cobra.Command, _ []string) error { return c.Help() },
	}
	root.SetOut(out)
	root.SetErr(errs)
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usageError{err} })
	root.AddCommand(serveCommand(), demoCommand(), readCommand(), markCommand(), simulateCommand(), figureCommand(),
		exportCommand(), importCommand(), surveyCommand(), gaugeCommand(),
		backupCommand(), restoreCommand(), checkCommand(), linkCommand())
	return root
}

// run executes one command line and returns its exit code.
func run(args []string, out, errs io.Writer) int {
	root := newRoot(out, errs)
	root.SetArgs(args)
	err := root.Execute()
	if err == nil {
		return 0
	}
	fmt.Fprintln(errs, "cavix: "+strings.ReplaceAll(says(err), "\n", "; "))
	if wrong := (usageError{}); errors.As(err, &wrong) {
		return 2
	}
	return 1
}

// says returns the message of an error in English; a text.Problem in it is printed.
func says(err error) string {
	var p *text.Problem
	if errors.As(err, &p) {
		return strings.ReplaceAll(err.Error(), p.Error(), locale.Documents().Print(p.Text))
	}
	return err.Error()
}

// noArguments refuses stray words with exit code 2.
func noArguments(c *cobra.Command, args []string) error {
	if len(args) > 0 {
		return usageError{fmt.Errorf("%s takes no arguments, only flags; %q is one too many", c.CommandPath(),
			args[0])}
	}
	return nil
}
