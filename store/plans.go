package store

import (
	"fmt"
	"sync"
	"unsafe"

	"modernc.org/libc"
	sqlite3 "modernc.org/sqlite/lib"
)

// keepPlans has every connection of the program keep the plan of a statement whatever is bound to it ("query planner
// stability guarantee"). Without that SQLite plans a statement of several tables anew each time that a value is bound,
// which takes several times as long as running it. The driver has no call for it, so SQLite is told what to do with
// each connection that is opened.
var keepPlans = sync.OnceValue(func() error {
	tls := libc.NewTLS()
	defer tls.Close()
	// a function for C is the address of its code, which the first word of a function value points to
	begin := *(*uintptr)(unsafe.Pointer(&struct {
		f func(tls *libc.TLS, db, message, routines uintptr) int32
	}{keepPlansOf}))
	if code := sqlite3.Xsqlite3_auto_extension(tls, begin); code != sqlite3.SQLITE_OK {
		return fmt.Errorf("SQLite cannot be set up: code %d", code)
	}
	return nil
})

// keepPlansOf sets up a connection that SQLite has just opened, and returns a code of SQLite.
func keepPlansOf(tls *libc.TLS, db, _, _ uintptr) int32 {
	arguments := libc.NewVaList(int32(1), uintptr(0)) // on; the answer is not asked for
	if arguments == 0 {
		return sqlite3.SQLITE_NOMEM
	}
	defer libc.Xfree(tls, arguments)
	return sqlite3.Xsqlite3_db_config(tls, db, sqlite3.SQLITE_DBCONFIG_ENABLE_QPSG, arguments)
}
