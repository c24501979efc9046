package classroom

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
	"cavix/store"
)

// LinkGood is how long somebody can choose a passphrase with a link.
const LinkGood = 7 * 24 * time.Hour

// ErrLastKeeper is for taking the server from the only one who keeps it.
var ErrLastKeeper = errors.New("somebody must keep the server")

// hashLink is what is kept of the key of a link: the key itself stands nowhere.
func hashLink(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:])
}

// keeps does what only who keeps the server may do, and logs it; else it is ErrMayNot.
func (r *Room) keeps(ctx context.Context, by Hand, said text.Text, work func(*store.Tx) error) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		me, err := tx.Instructor(by.ID)
		if err != nil {
			return err
		}
		if !me.Keeper || !me.Barred.IsZero() {
			return ErrMayNot
		}
		if err := work(tx); err != nil {
			return err
		}
		return tx.LogKeeping(store.Change{Who: by.Name, What: said, At: by.At})
	})
}

// Invite adds an instructor, who chooses a passphrase with the key that is returned. A login that exists is store.ErrTaken.
func (r *Room) Invite(ctx context.Context, by Hand, login, name string) (key string, err error) {
	key = rand.Text()
	return key, r.keeps(ctx, by, text.New("log.invite", "name", name), func(tx *store.Tx) error {
		id, err := tx.AddInstructor(store.Instructor{Login: login, Name: name})
		if err != nil {
			return err
		}
		return tx.SetLink(id, hashLink(key), by.At.Add(LinkGood))
	})
}

// onInstructor does something about an instructor that only who keeps the server may do; what is said follows the name.
func (r *Room) onInstructor(ctx context.Context, by Hand, id int64, said text.Text, work func(*store.Tx, store.Instructor) error) error {
	i, err := r.read(ctx).Instructor(id)
	if err != nil {
		return err
	}
	return r.keeps(ctx, by, ofPerson(i.Name, said), func(tx *store.Tx) error { return work(tx, i) })
}

// ResetPassphrase has an instructor choose a new passphrase, with the key that is returned. The old one is good no longer, and
// all sessions are over.
func (r *Room) ResetPassphrase(ctx context.Context, by Hand, id int64) (key string, err error) {
	key = rand.Text()
	return key, r.onInstructor(ctx, by, id, text.New("log.reset-passphrase"), func(tx *store.Tx, _ store.Instructor) error {
		return tx.SetLink(id, hashLink(key), by.At.Add(LinkGood))
	})
}

// LinkFor has an instructor, found by the name they sign in with, choose a new passphrase, for whoever has the database file
// itself in hand; keeper has them keep the server too.
func (r *Room) LinkFor(ctx context.Context, login string, keeper bool, at time.Time) (key string, err error) {
	key = rand.Text()
	return key, r.store.Write(ctx, func(tx *store.Tx) error {
		i, err := tx.InstructorByLogin(login)
		if err != nil {
			return err
		}
		if err := tx.SetLink(i.ID, hashLink(key), at.Add(LinkGood)); err != nil {
			return err
		}
		if keeper {
			err = errors.Join(tx.SetKeeper(i.ID, true), tx.SetBarred(i.ID, time.Time{}))
		}
		return errors.Join(err, tx.LogKeeping(store.Change{Who: "at the server itself", What: ofPerson(i.Name, text.New("log.reset-passphrase")), At: at}))
	})
}

// EndSessionsOf ends all sessions of an instructor.
func (r *Room) EndSessionsOf(ctx context.Context, by Hand, id int64) error {
	return r.onInstructor(ctx, by, id, text.New("log.end-sessions-of"), func(tx *store.Tx, _ store.Instructor) error { return tx.EndSessions(id) })
}

// SetKeeper settles whether an instructor keeps the server too. The last who does is ErrLastKeeper.
func (r *Room) SetKeeper(ctx context.Context, by Hand, id int64, keeps bool) error {
	said := text.New("log.set-keeper")
	if keeps {
		said = text.New("log.keeps-server-too")
	}
	return r.onInstructor(ctx, by, id, said, func(tx *store.Tx, i store.Instructor) error {
		if err := tx.SetKeeper(id, keeps); err != nil {
			return err
		}
		return someKeeper(tx)
	})
}

// SetBarred has an instructor sign in no longer; everything of theirs is kept. Back lets them in again.
func (r *Room) SetBarred(ctx context.Context, by Hand, id int64, back bool) error {
	said, at := text.New("log.set-barred"), by.At
	if back {
		said, at = text.New("log.may-sign-again"), time.Time{}
	}
	return r.onInstructor(ctx, by, id, said, func(tx *store.Tx, _ store.Instructor) error {
		if err := tx.SetBarred(id, at); err != nil {
			return err
		}
		return someKeeper(tx)
	})
}

// someKeeper is ErrLastKeeper where nobody who can sign in keeps the server.
func someKeeper(tx *store.Tx) error {
	list, err := tx.Instructors(MostInstructors)
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

// ByLink finds the instructor who may choose a passphrase with a key; store.ErrNotFound where the key is good no longer.
func (r *Room) ByLink(ctx context.Context, key string, at time.Time) (store.Instructor, error) {
	return r.read(ctx).InstructorByLink(hashLink(key), at)
}

// Choose keeps the passphrase that an instructor chose with a key, which is good once.
func (r *Room) Choose(ctx context.Context, key, hash string, at time.Time) (i store.Instructor, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		if i, err = tx.InstructorByLink(hashLink(key), at); err != nil {
			return err
		}
		if err := tx.SetPassphrase(i.ID, hash); err != nil {
			return err
		}
		i, err = tx.Instructor(i.ID)
		return err
	})
	return i, err
}

// ChangeOwn keeps the new passphrase of an instructor, or of a student. Sessions elsewhere are over; entry is the number that
// the one that goes on needs.
func (r *Room) ChangeOwn(ctx context.Context, instructor bool, id int64, hash string) (entry int64, err error) {
	return r.own(ctx, instructor, id, func(tx *store.Tx) error {
		if instructor {
			return tx.SetPassphrase(id, hash)
		}
		return tx.ChangePassphrase(id, hash)
	})
}

// EndOwn ends all sessions of an instructor, or of a student; entry is the number that the one that goes on needs.
func (r *Room) EndOwn(ctx context.Context, instructor bool, id int64) (entry int64, err error) {
	return r.own(ctx, instructor, id, func(tx *store.Tx) error {
		if instructor {
			return tx.EndSessions(id)
		}
		return tx.EndStudentSessions(id)
	})
}

// SetLanguage keeps the language that an instructor, or a student, has chosen; "" follows the class or the browser. One that there
// is not is a refusal.Refusal.
func (r *Room) SetLanguage(ctx context.Context, instructor bool, id int64, language string) error {
	if language != "" && !locale.Speaks(language) {
		return refusal.New("language", "words.check-language", "language", language)
	}
	return r.store.Write(ctx, func(tx *store.Tx) error {
		if instructor {
			return tx.SetLanguage(id, language)
		}
		return tx.SetStudentLanguage(id, language)
	})
}

func (r *Room) own(ctx context.Context, instructor bool, id int64, work func(*store.Tx) error) (entry int64, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		if err := work(tx); err != nil {
			return err
		}
		if instructor {
			i, err := tx.Instructor(id)
			entry = i.Entry
			return err
		}
		st, err := tx.Student(id)
		entry = st.Entry
		return err
	})
	return entry, err
}

// NoteSignIn keeps that somebody came in, or was refused.
func (r *Room) NoteSignIn(ctx context.Context, s store.SignIn) error {
	return r.store.Write(ctx, func(tx *store.Tx) error { return tx.NoteSignIn(s) })
}

// DeviceKey is the key that signs the cookies of browsers that have signed in before; it is made when it is first asked for.
func (r *Room) DeviceKey(ctx context.Context, at time.Time) (key string, err error) {
	if key, _, err = r.read(ctx).Noted(store.DeviceKey); err != nil || key != "" {
		return key, err
	}
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		if key, _, err = tx.Noted(store.DeviceKey); err != nil || key != "" {
			return err
		}
		key = rand.Text()
		return tx.Note(store.DeviceKey, key, at)
	})
	return key, err
}

// Ready reports whether the database can be read and written just now. It writes nothing.
func (r *Room) Ready(ctx context.Context) error {
	err := r.store.Writable(ctx)
	if err == nil {
		_, err = r.read(ctx).HasInstructors()
	}
	return err
}
