package roster

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"time"

	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/locale"
	"cavix/school/access"
	"cavix/store"
)

// LinkGood is the time for which a link to choose a passphrase is valid.
const LinkGood = 7 * 24 * time.Hour

// hashLink returns the hash of a link's key: the key itself is kept nowhere.
func hashLink(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:])
}

// keeps does what only who keeps the server may do, and logs it; else it is access.ErrForbidden.
func (svc *Service) keeps(ctx context.Context, by access.Actor, said text.Text, work func(*store.Tx) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := access.KeepsServer(ctx, tx, by.ID); err != nil {
			return err
		}
		if err := work(tx); err != nil {
			return err
		}
		return access.LogKeeping(ctx, tx, access.Change{Who: by.Name, What: said, At: by.At})
	})
}

// Invite adds an instructor, who chooses a passphrase with the key that is returned. A login that exists is
// ErrLoginTaken.
func (svc *Service) Invite(ctx context.Context, by access.Actor, login, name string) (key string, err error) {
	key = rand.Text()
	return key, svc.keeps(ctx, by, text.New("log.invite", "name", name), func(tx *store.Tx) error {
		id, err := insertInstructor(ctx, tx, Instructor{Login: login, Name: name})
		if err != nil {
			return err
		}
		return updateLink(ctx, tx, id, hashLink(key), by.At.Add(LinkGood))
	})
}

// onInstructor does something about an instructor that only who keeps the server may do; what is said follows the name.
func (svc *Service) onInstructor(ctx context.Context, by access.Actor, id int64, said text.Text,
	work func(*store.Tx, Instructor) error) error {
	i, err := FindInstructor(ctx, svc.store, id)
	if err != nil {
		return err
	}
	return svc.keeps(ctx, by, ofPerson(i.Name, said), func(tx *store.Tx) error { return work(tx, i) })
}

// ResetPassphrase has an instructor choose a new passphrase, with the key that is returned. The old one is good no
// longer, and all sessions are over.
func (svc *Service) ResetPassphrase(ctx context.Context, by access.Actor, id int64) (key string, err error) {
	key = rand.Text()
	return key, svc.onInstructor(ctx, by, id, text.New("log.reset-passphrase"), func(tx *store.Tx, _ Instructor) error {
		return updateLink(ctx, tx, id, hashLink(key), by.At.Add(LinkGood))
	})
}

// LinkFor has an instructor, found by the name they sign in with, choose a new passphrase, for whoever has the database
// file itself in hand; keeper has them keep the server too.
func (svc *Service) LinkFor(ctx context.Context, login string, keeper bool, at time.Time) (key string, err error) {
	key = rand.Text()
	return key, svc.store.Write(ctx, func(tx *store.Tx) error {
		i, err := FindInstructorByLogin(ctx, tx, login)
		if err != nil {
			return err
		}
		if err := updateLink(ctx, tx, i.ID, hashLink(key), at.Add(LinkGood)); err != nil {
			return err
		}
		if keeper {
			err = errors.Join(updateKeeper(ctx, tx, i.ID, true), updateBarred(ctx, tx, i.ID, time.Time{}))
		}
		return errors.Join(err, access.LogKeeping(ctx, tx, access.Change{Who: "at the server itself",
			What: ofPerson(i.Name, text.New("log.reset-passphrase")), At: at}))
	})
}

// EndSessionsOf ends all sessions of an instructor.
func (svc *Service) EndSessionsOf(ctx context.Context, by access.Actor, id int64) error {
	return svc.onInstructor(ctx, by, id, text.New("log.end-sessions-of"),
		func(tx *store.Tx, _ Instructor) error { return endSessions(ctx, tx, id) })
}

// SetKeeper settles whether an instructor keeps the server too. The last who does is ErrLastKeeper.
func (svc *Service) SetKeeper(ctx context.Context, by access.Actor, id int64, keeps bool) error {
	said := text.New("log.set-keeper")
	if keeps {
		said = text.New("log.keeps-server-too")
	}
	return svc.onInstructor(ctx, by, id, said, func(tx *store.Tx, i Instructor) error {
		if err := updateKeeper(ctx, tx, id, keeps); err != nil {
			return err
		}
		return someKeeper(ctx, tx)
	})
}

// SetBarred has an instructor sign in no longer; everything of theirs is kept. Back lets them in again.
func (svc *Service) SetBarred(ctx context.Context, by access.Actor, id int64, back bool) error {
	said, at := text.New("log.set-barred"), by.At
	if back {
		said, at = text.New("log.may-sign-again"), time.Time{}
	}
	return svc.onInstructor(ctx, by, id, said, func(tx *store.Tx, _ Instructor) error {
		if err := updateBarred(ctx, tx, id, at); err != nil {
			return err
		}
		return someKeeper(ctx, tx)
	})
}

// someKeeper is ErrLastKeeper where nobody who can sign in keeps the server.
func someKeeper(ctx context.Context, tx *store.Tx) error {
	list, err := listInstructors(ctx, tx, MostInstructors)
	if err != nil {
		return err
	}
	for _, i := range list {
		if i.Keeper && i.Barred.IsZero() {
			return nil
		}
	}
	return ErrLastKeeper
}

// MostInstructors bounds how many instructors are listed.
const MostInstructors = 500

// ByLink finds the instructor who may choose a passphrase with a key; store.ErrNotFound where the key is good no
// longer.
func (svc *Service) ByLink(ctx context.Context, key string, at time.Time) (Instructor, error) {
	return findInstructorByLink(ctx, svc.store, hashLink(key), at)
}

// Choose keeps the passphrase that an instructor chose with a key, which is good once.
func (svc *Service) Choose(ctx context.Context, key, hash string, at time.Time) (i Instructor, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		if i, err = findInstructorByLink(ctx, tx, hashLink(key), at); err != nil {
			return err
		}
		if err := updatePassphrase(ctx, tx, i.ID, hash); err != nil {
			return err
		}
		i, err = FindInstructor(ctx, tx, i.ID)
		return err
	})
	return i, err
}

// ChangeOwn keeps the new passphrase of an instructor, or of a student. Sessions elsewhere are over; entry is the
// number that the one that goes on needs.
func (svc *Service) ChangeOwn(ctx context.Context, instructor bool, id int64, hash string) (entry int64, err error) {
	return svc.own(ctx, instructor, id, func(tx *store.Tx) error {
		if instructor {
			return updatePassphrase(ctx, tx, id, hash)
		}
		return changePassphrase(ctx, tx, id, hash)
	})
}

// EndOwn ends all sessions of an instructor, or of a student; entry is the number that the one that goes on needs.
func (svc *Service) EndOwn(ctx context.Context, instructor bool, id int64) (entry int64, err error) {
	return svc.own(ctx, instructor, id, func(tx *store.Tx) error {
		if instructor {
			return endSessions(ctx, tx, id)
		}
		return endStudentSessions(ctx, tx, id)
	})
}

// SetLanguage keeps the language that an instructor, or a student, has chosen; "" follows the class or the browser. One
// that there is not is a refusal.Refusal.
func (svc *Service) SetLanguage(ctx context.Context, instructor bool, id int64, language string) error {
	if language != "" && !locale.Speaks(language) {
		return refusal.New("language", "words.check-language", "language", language)
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if instructor {
			return updateLanguage(ctx, tx, id, language)
		}
		return updateStudentLanguage(ctx, tx, id, language)
	})
}

func (svc *Service) own(ctx context.Context, instructor bool, id int64, work func(*store.Tx) error) (entry int64,
	err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := work(tx); err != nil {
			return err
		}
		if instructor {
			i, err := FindInstructor(ctx, tx, id)
			entry = i.Entry
			return err
		}
		st, err := FindStudent(ctx, tx, id)
		entry = st.Entry
		return err
	})
	return entry, err
}

// NoteSignIn keeps that somebody came in, or was refused.
func (svc *Service) NoteSignIn(ctx context.Context, s SignIn) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error { return noteSignIn(ctx, tx, s) })
}

// DeviceKey is the key that signs the cookies of browsers that have signed in before; it is made when it is first asked
// for.
func (svc *Service) DeviceKey(ctx context.Context, at time.Time) (key string, err error) {
	if key, _, err = store.Noted(ctx, svc.store, DeviceKey); err != nil || key != "" {
		return key, err
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		if key, _, err = store.Noted(ctx, tx, DeviceKey); err != nil || key != "" {
			return err
		}
		key = rand.Text()
		return store.Note(ctx, tx, DeviceKey, key, at)
	})
	return key, err
}
