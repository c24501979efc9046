package roster

import (
	"context"
	"encoding/json"
	"time"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/school/access"
	"cavix/store"
)

// MethodOf reads the school of a class.
func MethodOf(c Class) (m exercise.Method, err error) {
	return m, json.Unmarshal([]byte(c.Method), &m)
}

// School holds the reading conventions of a class.
func (svc *Service) School(c Class) (exercise.Method, error) { return MethodOf(c) }

// Settings are the settings of a class, which its owner changes.
type Settings struct {
	Name       string
	Convention exercise.Method // that its sheets follow, unless a sheet says otherwise
	Words      words.Set       // that its students see
	Practice   PracticeView    // what its instructors see of practice
	Joining    Joining         // of those who are on no list
	Guests     bool            // somebody may answer questions on the Board with a handle only
	Zone       string          // IANA name of the time zone of its clock; "" is the server's
}

// SettingsOf reads the settings of a class.
func SettingsOf(c Class) (s Settings, err error) {
	s = Settings{Name: c.Name, Practice: c.Practice, Joining: c.Joining, Guests: c.Guests, Zone: c.Zone}
	if s.Convention, err = MethodOf(c); err != nil {
		return s, err
	}
	s.Words, err = Words(c.Words)
	return s, err
}

// joinings are the ways of joining, as the audit log of a class says them.
var joinings = map[Joining]text.Text{
	JoinOpen:  text.New("log.joinings"),
	JoinAsked: text.New("log.new-students-wait-let"),
	JoinShut:  text.New("log.nobody-new-joins-class"),
}

// check returns a refusal.Refusal that names each setting that is not possible.
func (s Settings) check() error {
	var bad refusal.Refusal
	if s.Convention.Tie == "unfavourable" {
		bad.Add("method.tie", "log.check")
	}
	if err := s.Words.Check(); err != nil {
		if err := bad.Take("", err); err != nil {
			return err
		}
	}
	if s.Practice < SeesNothing || s.Practice > SeesEach {
		bad.Add("practice", "log.one-three-choices")
	}
	if _, known := joinings[s.Joining]; !known {
		bad.Add("joining", "log.one-three-choices")
	}
	if _, err := time.LoadLocation(s.Zone); err != nil || s.Zone == "Local" || len(s.Zone) > 60 {
		bad.Add("zone", "log.no-place-time-zone")
	}
	return bad.Err()
}

// SaveSettings changes the settings of a class that the actor owns, all at once. Sheets given before keep their
// conventions; words are shown on cards dealt before too. It returns a refusal.Refusal for settings that are not
// possible.
func (svc *Service) SaveSettings(ctx context.Context, by access.Actor, class int64, s Settings) error {
	if err := s.check(); err != nil {
		return err
	}
	row := ClassSettings{Name: s.Name, Practice: s.Practice, Joining: s.Joining, Guests: s.Guests, Zone: s.Zone}
	var err error
	if row.Method, err = store.JSON(s.Convention); err != nil {
		return err
	}
	if row.Words, err = store.JSON(s.Words); err != nil {
		return err
	}
	return svc.access.InClass(ctx, access.SaveSettings, by.ID, class, func(tx *store.Tx) error {
		was, err := FindClass(ctx, tx, by.ID, class)
		if err != nil {
			return err
		}
		if err := UpdateClass(ctx, tx, class, row); err != nil {
			return err
		}
		if was.Joining == row.Joining {
			return nil
		}
		return by.Log(ctx, tx, class, joinings[row.Joining])
	})
}
