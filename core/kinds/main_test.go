package kinds_test

import (
	"os"
	"runtime/debug"
	"testing"
)

func TestMain(m *testing.M) {
	debug.SetGCPercent(400) // dealing leaves much behind: memory for time
	os.Exit(m.Run())
}
