package roster

import (
	"context"
	"errors"
	"slices"
	"time"

	"cavix/core/names"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/store"
)

// Bounds of joining a class: how many join by themselves within a while, as members or as guests, and how many of
// either there are.
const (
	joinWhile   = 10 * time.Minute
	MostJoining = 100
	MostPeople  = 1000
)

// NameFree returns ErrNameTaken where somebody in a class has a name that is, or looks, the same.
func NameFree(ctx context.Context, rd store.Queryer, class, but int64, name string) error {
	there, err := ListNamesakes(ctx, rd, class, but)
	if err == nil && slices.ContainsFunc(there, func(o string) bool { return names.Alike(o, name) }) {
		err = ErrNameTaken
	}
	return err
}

// Join adds a student to a class, or lets one choose a passphrase who is on its list and has none. A name that exists
// there is ErrNameTaken, ErrHasPassphrase or ErrNotHere. Where the class wants it the student waits to be let in, which
// is ErrWaits: everything is kept for then. Who is on no list is refused with ErrShut while nobody joins, and with
// ErrCrowded where too many come at once.
func (svc *Service) Join(ctx context.Context, class int64, name, hash string, at time.Time) (id int64, err error) {
	waits := false
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		known, err := findStudentByName(ctx, tx, class, name)
		switch {
		case err == nil:
			if id = known.ID; !known.Here() {
				return ErrNotHere
			}
			return choosePassphrase(ctx, tx, known.ID, hash)
		case !errors.Is(err, store.ErrNotFound):
			return err
		}
		how, err := mayJoin(ctx, tx, class, false, at)
		if err != nil {
			return err
		}
		if err := NameFree(ctx, tx, class, 0, name); err != nil {
			return err
		}
		if id, err = insertStudent(ctx, tx, class, name, hash); err != nil {
			return err
		}
		if waits = how == JoinAsked; waits {
			return updateWaiting(ctx, tx, class, id, at)
		}
		return nil
	})
	if err == nil && waits {
		err = ErrWaits
	}
	return id, err
}

// mayJoin tells how somebody who is on no list joins a class now, or why not.
func mayJoin(ctx context.Context, tx *store.Tx, class int64, guest bool, at time.Time) (Joining, error) {
	how, err := joiningOf(ctx, tx, class)
	if err != nil {
		return how, err
	}
	if how == JoinShut {
		return how, ErrShut
	}
	lately, all, err := countJoined(ctx, tx, class, guest, at.Add(-joinWhile))
	if err == nil && (lately >= MostJoining && !guest || all >= MostPeople) {
		err = ErrCrowded
	}
	return how, err
}

// RenewCode gives a class another joining code; the old one is good no longer. Who is in the class stays there.
func (svc *Service) RenewCode(ctx context.Context, by access.Actor, class int64) error {
	return svc.access.InClass(ctx, access.RenewCode, by.ID, class, func(tx *store.Tx) (err error) {
		for range 100 {
			if err = updateCode(ctx, tx, class, newCode()); !errors.Is(err, errCodeTaken) {
				break
			}
		}
		if err != nil {
			return err
		}
		return by.Log(ctx, tx, class, text.New("log.renew-code"))
	})
}

// Admit lets students in who wait, or sends them away: all that is kept of those is removed.
func (svc *Service) Admit(ctx context.Context, by access.Actor, class int64, students []int64, in bool) error {
	return svc.access.InClass(ctx, access.AdmitStudent, by.ID, class, func(tx *store.Tx) error {
		for _, id := range students {
			st, err := FindInClass(ctx, tx, class, id)
			if err != nil {
				return err
			}
			if !st.Waits {
				continue // somebody else was faster
			}
			said := text.New("log.let-in", "name", st.Name)
			if in {
				err = updateGone(ctx, tx, class, id, time.Time{})
			} else {
				said, err = text.New("log.somebody-who-had-asked"), deletePupil(ctx, tx, class, id)
			}
			if err == nil {
				err = by.Log(ctx, tx, class, said)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}
