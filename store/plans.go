package store

import (
	"fmt"
	"sync"
	"unsafe"

	"modernc.org/libc"
	sqlite3 "modernc.org/sqlite/lib"
)

// keepPlans turns on SQLite's query planner stability guarantee for every connection of the program: the plan of a
// prepared statement does not depend on the values bound to it. Without it SQLite prepares a statement with a join
// again whenever a value is bound, which takes several times as long as running it. The driver has no call for this
// setting, so it is made in an automatic extension, which SQLite calls for each new connection.
var keepPlans = sync.OnceValue(func() error {
	tls := libc.NewTLS()
	defer tls.Close()
	// a C function pointer is the first word that a Go function value points to
	begin := *(*uintptr)(unsafe.Pointer(&struct {
		f func(tls *libc.TLS, db, message, routines uintptr) int32
	}{keepPlansOf}))
	if code := sqlite3.Xsqlite3_auto_extension(tls, begin); code != sqlite3.SQLITE_OK {
		return fmt.Errorf("SQLite cannot be set up: code %d", code)
	}
	return nil
})

// keepPlansOf makes the setting for a new connection and returns an SQLite result code.
func keepPlansOf(tls *libc.TLS, db, _, _ uintptr) int32 {
	arguments := libc.NewVaList(int32(1), uintptr(0)) // on, and no pointer for the result
	if arguments == 0 {
		return sqlite3.SQLITE_NOMEM
	}
	defer libc.Xfree(tls, arguments)
	return sqlite3.Xsqlite3_db_config(tls, db, sqlite3.SQLITE_DBCONFIG_ENABLE_QPSG, arguments)
}
