package roster

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"time"

	"cavix/core/names"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/store"
)

// ChangeInClass changes something about a student of a class where the instructor has a right, and logs it: what work
// says follows the student's name.
func (svc *Service) ChangeInClass(ctx context.Context, right access.Right, by access.Actor, class, student int64,
	work func(*store.Tx, Student) (said text.Text, err error)) error {
	return svc.access.InClass(ctx, right, by.ID, class, func(tx *store.Tx) error {
		st, err := FindInClass(ctx, tx, class, student)
		if err != nil {
			return err
		}
		said, err := work(tx, st)
		if err != nil {
			return err
		}
		return by.Log(ctx, tx, class, ofPerson(st.Name, said))
	})
}

// ofPerson says what became of somebody: a name, and what follows it.
func ofPerson(name string, said text.Text) text.Text {
	return text.New("log.of-person", "name", name, "said", said)
}

// ClearPassphrase lets a student of a class choose a new passphrase, by joining once more under the same name.
func (svc *Service) ClearPassphrase(ctx context.Context, by access.Actor, class, student int64) error {
	return svc.ChangeInClass(ctx, access.ClearPassphrase, by, class, student, func(tx *store.Tx, _ Student) (text.Text,
		error) {
		return text.New("log.clear-passphrase"), clearPassphrase(ctx, tx, class, student)
	})
}

// ChangeStudent keeps a student's name, group and extra minutes; a name that exists in the class is ErrNameTaken.
func (svc *Service) ChangeStudent(ctx context.Context, by access.Actor, s Student) error {
	return svc.ChangeInClass(ctx, access.ChangeStudent, by, s.Class, s.ID, func(tx *store.Tx, was Student) (text.Text,
		error) {
		if !names.Alike(was.Name, s.Name) {
			if err := NameFree(ctx, tx, s.Class, s.ID, s.Name); err != nil {
				return text.Text{}, err
			}
		}
		if err := UpdateStudent(ctx, tx, s); err != nil {
			return text.Text{}, err
		}
		return becomes(was, s), svc.retimer.Retime(ctx, tx, s.ID, s.Extra)
	})
}

// becomes says what is changed about a student, after the name that was.
func becomes(was, now Student) text.Text {
	var said []text.Text
	if was.Name != now.Name {
		said = append(said, text.New("log.becomes", "name", now.Name))
	}
	switch {
	case was.Team == now.Team:
	case now.Team == "":
		said = append(said, text.New("log.no-group"))
	default:
		said = append(said, text.New("log.group-b", "team", now.Team))
	}
	if was.Extra != now.Extra {
		said = append(said, text.New("log.extra-minutes", "extra", now.Extra))
	}
	if len(said) == 0 {
		return text.New("log.stays-as-before")
	}
	return text.New("log.now", "list", text.List(said...))
}

// SetLeft has a student leave the class: they sign in no longer, and everything is kept. Back brings them back.
func (svc *Service) SetLeft(ctx context.Context, by access.Actor, class, student int64, back bool) error {
	said, at := text.New("log.leave"), by.At
	if back {
		said, at = text.New("log.class-again"), time.Time{}
	}
	return svc.ChangeInClass(ctx, access.ChangeStudent, by, class, student, func(tx *store.Tx, _ Student) (text.Text,
		error) {
		return said, updateGone(ctx, tx, class, student, at)
	})
}

// Move brings a student to another class that the same instructor leads, with all answers; a name that exists there is
// ErrNameTaken.
func (svc *Service) Move(ctx context.Context, by access.Actor, class, student, to int64) error {
	return svc.ChangeInClass(ctx, access.MoveStudent, by, class, student, func(tx *store.Tx, st Student) (text.Text,
		error) {
		there, err := FindClass(ctx, tx, by.ID, to)
		if err != nil {
			return text.Text{}, err
		}
		if err := access.MoveStudent.InClass(ctx, tx, by.ID, to); err != nil {
			return text.Text{}, err
		}
		if err := NameFree(ctx, tx, to, student, st.Name); err != nil {
			return text.Text{}, err
		}
		if err := move(ctx, tx, class, student, to); err != nil {
			return text.Text{}, err
		}
		return text.New("log.move", "name", there.Name),
			by.Log(ctx, tx, to, text.New("log.came-from", "name", st.Name, "class_name", st.ClassName))
	})
}

// NoteExport notes that all data of a student were handed out.
func (svc *Service) NoteExport(ctx context.Context, by access.Actor, class, student int64) error {
	return svc.ChangeInClass(ctx, access.ExportPerson, by, class, student,
		func(*store.Tx, Student) (text.Text, error) { return text.New("log.note-export"), nil })
}

// Archive puts a class away: nobody joins it or works in it, and everything is kept. Back brings it back.
func (svc *Service) Archive(ctx context.Context, by access.Actor, class int64, back bool) error {
	what, at := text.New("log.archive"), by.At
	if back {
		what, at = text.New("log.class-restored"), time.Time{}
	}
	return svc.access.InClass(ctx, access.ArchiveClass, by.ID, class, func(tx *store.Tx) error {
		if err := updateArchived(ctx, tx, class, at); err != nil {
			return err
		}
		return by.Log(ctx, tx, class, what)
	})
}

// SetRole has another instructor teach a class, found by the name they sign in with; role "" takes it from them again.
// One who is not known is store.ErrNotFound.
func (svc *Service) SetRole(ctx context.Context, by access.Actor, class int64, login string, role access.Role) error {
	return svc.access.InClass(ctx, access.SetColleague, by.ID, class, func(tx *store.Tx) error {
		i, err := FindInstructorByLogin(ctx, tx, login)
		if err != nil {
			return err
		}
		if role == "" {
			if err := deleteRole(ctx, tx, class, i.ID); err != nil {
				return err
			}
			return by.Log(ctx, tx, class, text.New("log.set-role", "name", i.Name))
		}
		if was, err := access.RoleIn(ctx, tx, i.ID, class); err == nil && was == access.Owner ||
			role.Logged().IsZero() {
			return ErrOwner
		}
		if err := UpdateRole(ctx, tx, class, i.ID, role); err != nil {
			return err
		}
		return by.Log(ctx, tx, class, ofPerson(i.Name, role.Logged()))
	})
}

// ImportedPerson is somebody on a list of people that is brought into a class.
type ImportedPerson struct {
	Name, Group string
	Extra       int    // minutes on top of whatever is timed
	Number      string // the school's own; "" leaves the one that is kept
}

// Difference is the effect of an import on one entry.
type Difference string

// What it would do.
const (
	Added   Difference = "new"
	Changed Difference = "changed"
	Same    Difference = "the same"
	Refused Difference = "refused"
)

// ImportEffect says what bringing somebody into a class would do.
type ImportEffect struct {
	Difference
	Like string // the name in the class that theirs looks like, where they are refused for it
}

// PreviewImport tells of each on a list what bringing them into a class would do.
func (svc *Service) PreviewImport(ctx context.Context, instructor, class int64, list []ImportedPerson) ([]ImportEffect,
	error) {
	if err := access.ImportPeople.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	rd := svc.store
	there, err := ListAll(ctx, rd, instructor, class)
	if err != nil {
		return nil, err
	}
	taken, err := ListNamesakes(ctx, rd, class, 0)
	return Arrivals(there, taken, list), err
}

// Arrivals holds a list against who is in a class, and against all names that are taken there: of guests too.
func Arrivals(there []Student, taken []string, list []ImportedPerson) []ImportEffect {
	known := make(map[string]Student, len(there))
	for _, s := range there {
		known[names.Fold(s.Name)] = s
	}
	looks := make(map[string]string, len(taken))
	for _, name := range taken {
		looks[names.Skeleton(name)] = name
	}
	out := make([]ImportEffect, len(list))
	for i, c := range list {
		s, is := known[names.Fold(c.Name)]
		like, alike := looks[names.Skeleton(c.Name)]
		switch {
		case !is && alike:
			out[i] = ImportEffect{Refused, like}
		case !is:
			out[i].Difference = Added
		case s.Team == c.Group && s.Extra == c.Extra && s.Left.IsZero() && (c.Number == "" || c.Number == s.Number):
			out[i].Difference = Same
		default:
			out[i].Difference = Changed
		}
	}
	return out
}

// Import brings a list of people into a class, whole or not at all: new ones choose a passphrase when they first join,
// those who are there get group, minutes and number of the list. A name that looks like another one there is a
// refusal.Refusal. From then on others who have the code wait to be let in.
func (svc *Service) Import(ctx context.Context, by access.Actor, class int64,
	list []ImportedPerson) (counts map[Difference]int, err error) {
	return svc.ImportPeople(ctx, by, class, list, nil)
}

// ImportPeople is Bring, and keeps what each column of the list was by its head.
func (svc *Service) ImportPeople(ctx context.Context, by access.Actor, class int64, list []ImportedPerson,
	columns map[string]string) (counts map[Difference]int, err error) {
	err = svc.access.InClass(ctx, access.ImportPeople, by.ID, class, func(tx *store.Tx) error {
		if counts, err = BringIn(ctx, tx, by, class, list); err != nil || len(columns) == 0 {
			return err
		}
		says, err := store.JSON(columns)
		if err != nil {
			return err
		}
		return updateListColumns(ctx, tx, class, says)
	})
	return counts, err
}

// BringIn brings a list of people into a class that the instructor leads.
func BringIn(ctx context.Context, tx *store.Tx, by access.Actor, class int64,
	list []ImportedPerson) (counts map[Difference]int, err error) {
	counts = map[Difference]int{}
	there, err := ListAll(ctx, tx, by.ID, class)
	if err != nil {
		return counts, err
	}
	byName := make(map[string]Student, len(there))
	for _, s := range there {
		byName[names.Fold(s.Name)] = s
	}
	taken, err := ListNamesakes(ctx, tx, class, 0)
	if err != nil {
		return counts, err
	}
	here := len(there)
	for i, a := range Arrivals(there, taken, list) {
		c, what := list[i], a.Difference
		counts[what]++
		if here == MostPeople && what == Added {
			return counts, access.Full{What: "people", Most: MostPeople}
		}
		s := byName[names.Fold(c.Name)]
		switch what {
		case Refused:
			return counts, refusal.New("people", "log.looks-like-who-class", "name", c.Name, "like", a.Like)
		case Added:
			here++
			if s.ID, err = insertStudent(ctx, tx, class, c.Name, ""); err != nil {
				return counts, fmt.Errorf("%s: %w", c.Name, err)
			}
			s.Class, s.Name = class, c.Name
		case Changed:
			if err := updateGone(ctx, tx, class, s.ID, time.Time{}); err != nil {
				return counts, err
			}
		case Same:
			continue
		}
		s.Team, s.Extra, s.Number = c.Group, c.Extra, cmp.Or(c.Number, s.Number)
		if err := UpdateStudent(ctx, tx, s); err != nil {
			return counts, err
		}
	}
	if err := by.Log(ctx, tx, class, text.New("log.class-list-imported-new", "counts", counts[Added], "counts2",
		counts[Changed])); err != nil {
		return counts, err
	}
	return counts, closeDoor(ctx, tx, by, class, counts[Added])
}

// closeDoor has others than those on a list wait to be let in, once a class has a list.
func closeDoor(ctx context.Context, tx *store.Tx, by access.Actor, class int64, added int) error {
	how, err := joiningOf(ctx, tx, class)
	if err != nil || how != JoinOpen || added == 0 {
		return err
	}
	if err := updateJoining(ctx, tx, class, JoinAsked); err != nil {
		return err
	}
	return by.Log(ctx, tx, class, text.New("log.close-joining"))
}

// ListColumns returns what each column of the list was that a class imported last, by its head.
func (svc *Service) ListColumns(ctx context.Context, instructor, class int64) (map[string]string, error) {
	if err := access.ImportPeople.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	rd := svc.store
	says, err := listColumns(ctx, rd, class)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	return out, json.Unmarshal([]byte(says), &out)
}

// NearName returns the student of a class whose name is near to one that nobody there has; not ok where there is none.
func (svc *Service) NearName(ctx context.Context, class int64, name string) (st Student, ok bool, err error) {
	rd := svc.store
	list, err := ListNamesakes(ctx, rd, class, 0)
	for _, other := range list {
		if !names.Near(name, other) {
			continue
		}
		if st, err = findStudentByName(ctx, rd, class, other); err == nil && !st.Guest && st.Here() {
			return st, true, nil
		}
	}
	return Student{}, false, err
}

// Staff lists who teaches a class, who leads it first.
func (svc *Service) Staff(ctx context.Context, instructor, class int64) ([]Colleague, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return ListStaff(ctx, svc.store, class)
}

// AllStudents lists all students of a class that an instructor teaches, by name, those too who have left.
func (svc *Service) AllStudents(ctx context.Context, instructor, class int64) ([]Student, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return ListAll(ctx, svc.store, instructor, class)
}

// ClassStudent finds a student of a class.
func (svc *Service) ClassStudent(ctx context.Context, instructor, class, student int64) (Student, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return Student{}, err
	}
	return FindInClass(ctx, svc.store, class, student)
}

// Seats counts what the students of a class have done.
func (svc *Service) Seats(ctx context.Context, instructor, class int64) ([]Seat, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listSeats(ctx, svc.store, class)
}
