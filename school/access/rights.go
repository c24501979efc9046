package access

import (
	"context"

	"cavix/core/text"
	"cavix/store"
)

// Role is the role of an instructor in a class.
type Role string

// The roles, from all to least.
const (
	Owner  Role = "leads" // everything
	Marker Role = "marks" // mark, release, ask on the Board, keep people's passphrases and minutes
	Viewer Role = "looks" // look only
)

// ranks orders the roles: who has one may do what asks for a lower one too.
var ranks = map[Role]int{Viewer: 1, Marker: 2, Owner: 3}

// Colleague lists the roles that an owner can give to a colleague.
var Colleague = []Role{Marker, Viewer}

// Logged returns the text of a colleague's role in the audit log, or the zero Text for a role that none can have.
func (r Role) Logged() text.Text {
	return map[Role]text.Text{Marker: text.New("log.role-said"), Viewer: text.New("log.may-look")}[r]
}

// May reports whether the role is enough for what asks another.
func (r Role) May(what Role) bool { return ranks[r] > 0 && ranks[r] >= ranks[what] }

// Right names the role in a class that a use case needs. Nobody has the zero Right.
type Right struct{ needs Role }

// The rights of use cases: this file is the only place that says which role each needs.
var (
	ViewClass = Right{Viewer} // every page of a class, its sheets and studies

	DownloadAnswers = Right{Marker}
	GiveSheet       = Right{Marker}
	ChangeDates     = Right{Marker}
	GiveMinutes     = Right{Marker}
	SetMark         = Right{Marker}
	ExcuseStudent   = Right{Marker}
	SetWeights      = Right{Marker}
	RemarkSheet     = Right{Marker}
	ReleaseResults  = Right{Marker}
	MakePaper       = Right{Marker}
	EnterAnswers    = Right{Marker}
	AskClass        = Right{Marker} // rounds, and what stands on the Board
	RunStudy        = Right{Marker}
	RemoveOwnStudy  = Right{Marker}

	RemoveStudy        = Right{Owner} // of a colleague
	DownloadNames      = Right{Owner}
	SaveSettings       = Right{Owner}
	CopyClass          = Right{Owner}
	ArchiveClass       = Right{Owner}
	RemoveClass        = Right{Owner}
	SetColleague       = Right{Owner}
	RenewCode          = Right{Owner}
	AdmitStudent       = Right{Owner}
	ImportPeople       = Right{Owner}
	ChangeStudent      = Right{Owner}
	MoveStudent        = Right{Owner}
	MergeStudents      = Right{Owner}
	ClearPassphrase    = Right{Owner}
	ExportPerson       = Right{Owner}
	RemoveStudent      = Right{Owner}
	DismissMarkChanges = Right{Owner}
)

// Allows reports whether a role is enough.
func (r Right) Allows(role Role) bool { return r.needs != "" && role.May(r.needs) }

// InClass checks the right of an instructor in a class. It returns ErrForbidden where their role is not enough, and
// store.ErrNotFound where they do not teach it.
func (r Right) InClass(ctx context.Context, q store.Queryer, instructor, class int64) error {
	return r.check(ctx, q, store.Named("access.InClass",
		"SELECT role FROM teaching WHERE instructor = ? AND class = ?"), instructor, class)
}

// OnSheet checks the right in the class that was given a sheet.
func (r Right) OnSheet(ctx context.Context, q store.Queryer, instructor, assignment int64) error {
	return r.check(ctx, q, store.Named("access.OnSheet",
		`SELECT t.role FROM assignments a JOIN teaching t ON t.class = a.class
		WHERE t.instructor = ? AND a.id = ?`), instructor, assignment)
}

// OnStudy checks the right in the class that was given a study.
func (r Right) OnStudy(ctx context.Context, q store.Queryer, instructor, study int64) error {
	return r.check(ctx, q, store.Named("access.OnStudy",
		`SELECT t.role FROM surveys v JOIN teaching t ON t.class = v.class
		WHERE t.instructor = ? AND v.id = ? AND v.binned IS NULL`), instructor, study)
}

// OnRound checks the right in the class that was asked a round.
func (r Right) OnRound(ctx context.Context, q store.Queryer, instructor, round int64) error {
	return r.check(ctx, q, store.Named("access.OnRound",
		`SELECT t.role FROM rounds o JOIN teaching t ON t.class = o.class
		WHERE t.instructor = ? AND o.id = ?`), instructor, round)
}

// OnStudent checks the right in the class of a student.
func (r Right) OnStudent(ctx context.Context, q store.Queryer, instructor, student int64) error {
	return r.check(ctx, q, store.Named("access.OnStudent",
		`SELECT t.role FROM students s JOIN teaching t ON t.class = s.class
		WHERE t.instructor = ? AND s.id = ?`), instructor, student)
}

func (r Right) check(ctx context.Context, q store.Queryer, query store.Query, instructor, id int64) error {
	var role Role
	err := store.One(ctx, q, query, []any{instructor, id}, &role)
	if err == nil && !r.Allows(role) {
		err = ErrForbidden
	}
	return err
}

// KeepsServer returns ErrForbidden for an instructor who does not keep the server, or cannot sign in.
func KeepsServer(ctx context.Context, q store.Queryer, instructor int64) error {
	var keeps bool
	err := store.One(ctx, q, store.Named("access.KeepsServer",
		"SELECT keeper AND barred IS NULL FROM instructors WHERE id = ?"), []any{instructor}, &keeps)
	if err == nil && !keeps {
		err = ErrForbidden
	}
	return err
}
