package classroom

import (
	"context"
	"errors"
	"slices"
	"time"

	"cavix/core/names"
	"cavix/core/text"
	"cavix/store"
)

// Errors of joining that callers tell apart.
var (
	ErrShut    = errors.New("this class is closed to new students")
	ErrCrowded = errors.New("too many have joined this class in a short time")
	ErrWaits   = errors.New("this student waits to be let in")
)

// Bounds of joining a class: how many join by themselves within a while, as members or as guests, and how many of either
// there are.
const (
	joinWhile   = 10 * time.Minute
	MostJoining = 100
	MostPeople  = 1000
)

// nameFree is store.ErrTaken where somebody in a class has a name that is, or looks, the same.
func nameFree(rd *store.Reader, class, but int64, name string) error {
	there, err := rd.Namesakes(class, but)
	if err == nil && slices.ContainsFunc(there, func(o string) bool { return names.Alike(o, name) }) {
		err = store.ErrTaken
	}
	return err
}

// Join adds a student to a class, or lets one choose a passphrase who is on its list and has none. A name that exists there
// is store.ErrTaken. Where the class wants it the student waits to be let in, which is ErrWaits: everything is kept for
// then. Who is on no list is refused with ErrShut while nobody joins, and with ErrCrowded where too many come at once.
func (r *Room) Join(ctx context.Context, class int64, name, hash string, at time.Time) (id int64, err error) {
	waits := false
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		known, err := tx.StudentByName(class, name)
		switch {
		case err == nil:
			if id = known.ID; !known.Here() {
				return store.ErrTaken
			}
			return tx.ChoosePassphrase(known.ID, hash)
		case !errors.Is(err, store.ErrNotFound):
			return err
		}
		how, err := mayJoin(tx, class, false, at)
		if err != nil {
			return err
		}
		if err := nameFree(&tx.Reader, class, 0, name); err != nil {
			return err
		}
		if id, err = tx.AddStudent(class, name, hash); err != nil {
			return err
		}
		if waits = how == store.JoinAsked; waits {
			return tx.SetWaiting(class, id, at)
		}
		return nil
	})
	if err == nil && waits {
		err = ErrWaits
	}
	return id, err
}

// mayJoin tells how somebody who is on no list joins a class now, or why not.
func mayJoin(tx *store.Tx, class int64, guest bool, at time.Time) (store.Joining, error) {
	how, err := tx.JoiningOf(class)
	if err != nil {
		return how, err
	}
	if how == store.JoinShut {
		return how, ErrShut
	}
	lately, all, err := tx.JoinedSince(class, guest, at.Add(-joinWhile))
	if err == nil && (lately >= MostJoining && !guest || all >= MostPeople) {
		err = ErrCrowded
	}
	return how, err
}

// RenewCode gives a class another joining code; the old one is good no longer. Who is in the class stays there.
func (r *Room) RenewCode(ctx context.Context, by Hand, class int64) error {
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) (err error) {
		for range 100 {
			if err = tx.SetCode(class, newCode()); !errors.Is(err, store.ErrTaken) {
				break
			}
		}
		if err != nil {
			return err
		}
		return by.log(tx, class, text.New("log.renew-code"))
	})
}

// LetIn lets students in who wait, or sends them away: all that is kept of those is removed.
func (r *Room) LetIn(ctx context.Context, by Hand, class int64, students []int64, in bool) error {
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		for _, id := range students {
			st, err := tx.Pupil(class, id)
			if err != nil {
				return err
			}
			if !st.Waits {
				continue // somebody else was faster
			}
			said := text.New("log.let-in", "name", st.Name)
			if in {
				err = tx.SetGone(class, id, time.Time{})
			} else {
				said, err = text.New("log.somebody-who-had-asked"), tx.DeletePupil(class, id)
			}
			if err == nil {
				err = by.log(tx, class, said)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}
