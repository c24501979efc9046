package classroom

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"time"

	"cavix/core/names"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/store"
)

// ErrMayNot is for what an instructor's role in a class does not allow.
var ErrMayNot = errors.New("this role may not do that")

// inClass writes in a class that an instructor teaches, where their role there is enough; else it is ErrMayNot.
func (r *Room) inClass(ctx context.Context, instructor, class int64, needs store.Role, work func(*store.Tx) error) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		role, err := tx.RoleIn(instructor, class)
		if err != nil {
			return err
		}
		if !role.May(needs) {
			return ErrMayNot
		}
		return work(tx)
	})
}

// onSheet writes on a sheet that was given to such a class.
func (r *Room) onSheet(ctx context.Context, instructor, assignment int64, needs store.Role,
	work func(*store.Tx, store.Assignment) error) error {
	a, err := r.read(ctx).Assignment(instructor, assignment)
	if err != nil {
		return err
	}
	return r.inClass(ctx, instructor, a.Class, needs, func(tx *store.Tx) error {
		now, err := tx.Assignment(instructor, assignment)
		if err != nil {
			return err
		}
		return work(tx, now)
	})
}

// Hand is an instructor who does something with the people of a class, and when: what is done is logged under the name.
type Hand struct {
	ID   int64
	Name string
	At   time.Time
}

// withPupil changes something about a student of a class that the instructor leads, and logs it: what work says follows the
// student's name.
func (r *Room) withPupil(ctx context.Context, by Hand, class, student int64,
	work func(*store.Tx, store.Student) (said text.Text, err error)) error {
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		st, err := tx.Pupil(class, student)
		if err != nil {
			return err
		}
		said, err := work(tx, st)
		if err != nil {
			return err
		}
		return by.log(tx, class, ofPerson(st.Name, said))
	})
}

// ofPerson says what became of somebody: a name, and what follows it.
func ofPerson(name string, said text.Text) text.Text {
	return text.New("log.of-person", "name", name, "said", said)
}

func (h Hand) log(tx *store.Tx, class int64, what text.Text) error {
	return tx.LogPeople(class, store.Change{Who: h.Name, What: what, At: h.At})
}

// ClearPassphrase lets a student of a class choose a new passphrase, by joining once more under the same name.
func (r *Room) ClearPassphrase(ctx context.Context, by Hand, class, student int64) error {
	return r.withPupil(ctx, by, class, student, func(tx *store.Tx, _ store.Student) (text.Text, error) {
		return text.New("log.clear-passphrase"), tx.ClearPassphrase(class, student)
	})
}

// SetPupil keeps a student's name, group and extra minutes; a name that exists in the class is store.ErrTaken.
func (r *Room) SetPupil(ctx context.Context, by Hand, s store.Student) error {
	return r.withPupil(ctx, by, s.Class, s.ID, func(tx *store.Tx, was store.Student) (text.Text, error) {
		if !names.Alike(was.Name, s.Name) {
			if err := nameFree(&tx.Reader, s.Class, s.ID, s.Name); err != nil {
				return text.Text{}, err
			}
		}
		if err := tx.SetPupil(s); err != nil {
			return text.Text{}, err
		}
		return becomes(was, s), setExtra(tx, s.Class, s.ID, s.Extra)
	})
}

// becomes says what is changed about a student, after the name that was.
func becomes(was, now store.Student) text.Text {
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

// Leave has a student leave the class: they sign in no longer, and everything is kept. Back brings them back.
func (r *Room) Leave(ctx context.Context, by Hand, class, student int64, back bool) error {
	said, at := text.New("log.leave"), by.At
	if back {
		said, at = text.New("log.class-again"), time.Time{}
	}
	return r.withPupil(ctx, by, class, student, func(tx *store.Tx, _ store.Student) (text.Text, error) {
		return said, tx.SetGone(class, student, at)
	})
}

// Move brings a student to another class that the same instructor leads, with all answers; a name that exists there is
// store.ErrTaken.
func (r *Room) Move(ctx context.Context, by Hand, class, student, to int64) error {
	return r.withPupil(ctx, by, class, student, func(tx *store.Tx, st store.Student) (text.Text, error) {
		there, err := tx.Class(by.ID, to)
		if err != nil {
			return text.Text{}, err
		}
		if !there.Role.May(store.Leads) {
			return text.Text{}, ErrMayNot
		}
		if err := nameFree(&tx.Reader, to, student, st.Name); err != nil {
			return text.Text{}, err
		}
		if err := tx.Move(class, student, to); err != nil {
			return text.Text{}, err
		}
		return text.New("log.move", "name", there.Name), by.log(tx, to, text.New("log.came-from", "name", st.Name, "class_name", st.ClassName))
	})
}

// NoteExport notes that all data of a student were handed out.
func (r *Room) NoteExport(ctx context.Context, by Hand, class, student int64) error {
	return r.withPupil(ctx, by, class, student, func(*store.Tx, store.Student) (text.Text, error) { return text.New("log.note-export"), nil })
}

// Archive puts a class away: nobody joins it or works in it, and everything is kept. Back brings it back.
func (r *Room) Archive(ctx context.Context, by Hand, class int64, back bool) error {
	what, at := text.New("log.archive"), by.At
	if back {
		what, at = text.New("log.class-restored"), time.Time{}
	}
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		if err := tx.SetArchived(class, at); err != nil {
			return err
		}
		return by.log(tx, class, what)
	})
}

// roleSaid is what a role may do, as the log has it.
var roleSaid = map[store.Role]text.Text{store.Marks: text.New("log.role-said"), store.Looks: text.New("log.may-look")}

// SetRole has another instructor teach a class, found by the name they sign in with; role "" takes it from them again. One
// who is not known is store.ErrNotFound.
func (r *Room) SetRole(ctx context.Context, by Hand, class int64, login string, role store.Role) error {
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		i, err := tx.InstructorByLogin(login)
		if err != nil {
			return err
		}
		if role == "" {
			if err := tx.DropRole(class, i.ID); err != nil {
				return err
			}
			return by.log(tx, class, text.New("log.set-role", "name", i.Name))
		}
		if was, err := tx.RoleIn(i.ID, class); err == nil && was == store.Leads || roleSaid[role].IsZero() {
			return store.ErrTaken
		}
		if err := tx.SetRole(class, i.ID, role); err != nil {
			return err
		}
		return by.log(tx, class, ofPerson(i.Name, roleSaid[role]))
	})
}

// Coming is somebody on a list of people that is brought into a class.
type Coming struct {
	Name, Group string
	Extra       int    // minutes on top of whatever is timed
	Number      string // the school's own; "" leaves the one that is kept
}

// Difference is what bringing something in would do.
type Difference string

// What it would do.
const (
	Added   Difference = "new"
	Changed Difference = "changed"
	Same    Difference = "the same"
	Refused Difference = "refused"
)

// Arrival says what bringing somebody into a class would do.
type Arrival struct {
	Difference
	Like string // the name in the class that theirs looks like, where they are refused for it
}

// Arrivals tells of each on a list what bringing them into a class would do.
func (r *Room) Arrivals(ctx context.Context, instructor, class int64, list []Coming) ([]Arrival, error) {
	rd := r.read(ctx)
	there, err := rd.Everybody(instructor, class)
	if err != nil {
		return nil, err
	}
	taken, err := rd.Namesakes(class, 0)
	return arrivals(there, taken, list), err
}

// arrivals holds a list against who is in a class, and against all names that are taken there: of guests too.
func arrivals(there []store.Student, taken []string, list []Coming) []Arrival {
	known := make(map[string]store.Student, len(there))
	for _, s := range there {
		known[names.Fold(s.Name)] = s
	}
	looks := make(map[string]string, len(taken))
	for _, name := range taken {
		looks[names.Look(name)] = name
	}
	out := make([]Arrival, len(list))
	for i, c := range list {
		s, is := known[names.Fold(c.Name)]
		like, alike := looks[names.Look(c.Name)]
		switch {
		case !is && alike:
			out[i] = Arrival{Refused, like}
		case !is:
			out[i].Difference = Added
		case s.Team == c.Group && s.Extra == c.Extra && s.Gone.IsZero() && (c.Number == "" || c.Number == s.Number):
			out[i].Difference = Same
		default:
			out[i].Difference = Changed
		}
	}
	return out
}

// Bring brings a list of people into a class, whole or not at all: new ones choose a passphrase when they first join,
// those who are there get group, minutes and number of the list. A name that looks like another one there is a refusal.Refusal.
// From then on others who have the code wait to be let in.
func (r *Room) Bring(ctx context.Context, by Hand, class int64, list []Coming) (counts map[Difference]int, err error) {
	return r.ImportPeople(ctx, by, class, list, nil)
}

// ImportPeople is Bring, and keeps what each column of the list was by its head.
func (r *Room) ImportPeople(ctx context.Context, by Hand, class int64, list []Coming, columns map[string]string) (counts map[Difference]int, err error) {
	err = r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		if counts, err = bringIn(tx, by, class, list); err != nil || len(columns) == 0 {
			return err
		}
		says, err := toJSON(columns)
		if err != nil {
			return err
		}
		return tx.SetListColumns(class, says)
	})
	return counts, err
}

// bringIn brings a list of people into a class that the instructor leads.
func bringIn(tx *store.Tx, by Hand, class int64, list []Coming) (counts map[Difference]int, err error) {
	counts = map[Difference]int{}
	there, err := tx.Everybody(by.ID, class)
	if err != nil {
		return counts, err
	}
	byName := make(map[string]store.Student, len(there))
	for _, s := range there {
		byName[names.Fold(s.Name)] = s
	}
	taken, err := tx.Namesakes(class, 0)
	if err != nil {
		return counts, err
	}
	here := len(there)
	for i, a := range arrivals(there, taken, list) {
		c, what := list[i], a.Difference
		counts[what]++
		if here == MostPeople && what == Added {
			return counts, Full{"people", MostPeople}
		}
		s := byName[names.Fold(c.Name)]
		switch what {
		case Refused:
			return counts, refusal.New("people", "log.looks-like-who-class", "name", c.Name, "like", a.Like)
		case Added:
			here++
			if s.ID, err = tx.AddStudent(class, c.Name, ""); err != nil {
				return counts, fmt.Errorf("%s: %w", c.Name, err)
			}
			s.Class, s.Name = class, c.Name
		case Changed:
			if err := tx.SetGone(class, s.ID, time.Time{}); err != nil {
				return counts, err
			}
		case Same:
			continue
		}
		s.Team, s.Extra, s.Number = c.Group, c.Extra, cmp.Or(c.Number, s.Number)
		if err := tx.SetPupil(s); err != nil {
			return counts, err
		}
	}
	if err := by.log(tx, class, text.New("log.class-list-imported-new", "counts", counts[Added], "counts2", counts[Changed])); err != nil {
		return counts, err
	}
	return counts, closeDoor(tx, by, class, counts[Added])
}

// closeDoor has others than those on a list wait to be let in, once a class has a list.
func closeDoor(tx *store.Tx, by Hand, class int64, added int) error {
	how, err := tx.JoiningOf(class)
	if err != nil || how != store.JoinOpen || added == 0 {
		return err
	}
	if err := tx.SetJoining(class, store.JoinAsked); err != nil {
		return err
	}
	return by.log(tx, class, text.New("log.close-door"))
}
