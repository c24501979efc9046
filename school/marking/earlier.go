package marking

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/locale"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// Earlier is a sheet with cards that an earlier version of Cavix marked by other rules. Their marks stand, and are no
// fault: marking the sheet anew brings them to today's rules.
type Earlier struct {
	Assignment int64  `json:"sheet"`
	Title      string `json:"title"`
	Class      string `json:"class"`
	Cards      int    `json:"cards"`
	N          int    `json:"card"`    // the number of the first of them
	Student    string `json:"student"` // whose that is
	Code       string `json:"code"`    // of the rule
}

// Rule says what the rule was.
func (e Earlier) Rule() text.Text { return text.New("log.earlier-rule." + e.Code) }

// String is a line of a report, in English.
func (e Earlier) String() string {
	return locale.Documents().Say("log.earlier", "sheet", int(e.Assignment), "title", e.Title, "class", e.Class,
		"cards", e.Cards, "n", e.N, "student", e.Student, "rule", e.Rule())
}

// EarlierRule is a rule of marking that an earlier version had.
type EarlierRule struct {
	Code string
	had  func(was, now exercise.Mark) bool // a field was marked by it
}

// earlierRules are the rules that have changed since versions that marked real cards. Marks that differ in any other
// way from what the core gives are damage.
var earlierRules = []EarlierRule{
	{"follows-in-form", func(was, now exercise.Mark) bool {
		return was.Outcome == exercise.InForm && now.Outcome == exercise.Carried
	}},
	{"base-included", func(was, now exercise.Mark) bool {
		return now.Field == "main" && was.Outcome == exercise.Wrong && now.Outcome == exercise.Right &&
			!sameNumber(now.Given, now.Expected)
	}},
	{"zero-one-way", func(was, now exercise.Mark) bool {
		closed := now.Field == "main" || now.Field == "fine_line" || now.Field == "fine"
		return closed && was.Outcome == exercise.Wrong && now.Outcome == exercise.Right &&
			!sameNumber(now.Given, now.Expected)
	}},
}

// sameNumber reports whether two texts are the same number, however they are written.
func sameNumber(a, b string) bool {
	x, err := length.ReadAny(a)
	y, bad := length.ReadAny(b)
	return err == nil && bad == nil && x.Value.Equal(y.Value)
}

// EarlierRuleOf finds the earlier rule by which a card was marked: the fields as they stand and as the core marks them
// now are the same but for those that the rule explains, and for what followed from them. It is nil where none explains
// them.
func EarlierRuleOf(was, now []exercise.Mark) *EarlierRule {
	if len(was) != len(now) {
		return nil
	}
	for i := range earlierRules {
		rule, met, others := &earlierRules[i], false, false
		for j := range now {
			switch {
			case was[j].Field != now[j].Field || was[j].Expected != now[j].Expected || !was[j].Of.Equal(now[j].Of):
				others = true
			case was[j].Outcome == now[j].Outcome:
				others = others || !was[j].Marks.Equal(now[j].Marks)
			case rule.had(was[j], now[j]):
				met = true
			case followed(was[j].Outcome) && followed(now[j].Outcome) && was[j].Marks.Equal(now[j].Marks):
			default:
				others = true
			}
		}
		if met && !others {
			return rule
		}
	}
	return nil
}

// followed reports whether an entry had full marks: by its own value, or by what follows.
func followed(outcome exercise.Outcome) bool {
	return outcome == exercise.Right || outcome == exercise.Carried
}

// forgetEarlier notes that a sheet is marked by today's rules.
func forgetEarlier(ctx context.Context, tx *store.Tx, assignment int64, at time.Time) error {
	list, err := notedEarlier(ctx, tx)
	left := slices.DeleteFunc(slices.Clone(list), func(e Earlier) bool { return e.Assignment == assignment })
	if err != nil || len(left) == len(list) {
		return err
	}
	return noteEarlier(ctx, tx, left, at)
}

// NoteEarlier keeps the sheets that a check found marked by an earlier version's rules.
func (svc *Service) NoteEarlier(ctx context.Context, list []Earlier, at time.Time) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error { return noteEarlier(ctx, tx, list, at) })
}

func noteEarlier(ctx context.Context, tx *store.Tx, list []Earlier, at time.Time) error {
	says, err := store.JSON(list)
	if err != nil {
		return err
	}
	return store.Note(ctx, tx, EarlierMarked, says, at)
}

// notedEarlier reads the sheets that the last check found marked by an earlier version's rules. What a check before
// this version noted names no rule; the next check notes it anew.
func notedEarlier(ctx context.Context, rd store.Queryer) (list []Earlier, err error) {
	says, _, err := store.Noted(ctx, rd, EarlierMarked)
	if err == nil && says != "" {
		err = json.Unmarshal([]byte(says), &list)
	}
	return slices.DeleteFunc(list, func(e Earlier) bool { return e.Code == "" }), err
}

// ToRemark is a sheet that is marked by an earlier version's rules, as an instructor sees it.
type ToRemark struct {
	Earlier
	May bool // the instructor may re-mark it
}

// ToRemark lists the sheets that the last check found marked by an earlier version's rules: those that the instructor
// may re-mark, and for a keeper of the server all of them.
func (svc *Service) ToRemark(ctx context.Context, instructor int64, keeper bool) (out []ToRemark, err error) {
	rd := svc.store
	list, err := notedEarlier(ctx, rd)
	for _, e := range list {
		may, bad := mayRemarkEarlier(ctx, rd, instructor, keeper, e.Assignment)
		if errors.Is(bad, store.ErrNotFound) {
			continue // deleted since
		}
		err = errors.Join(err, bad)
		if may || keeper {
			out = append(out, ToRemark{e, may})
		}
	}
	return out, err
}

// mayRemarkEarlier reports whether an instructor may bring a sheet to today's rules: who leads its class, and a keeper
// of the server where nobody who can sign in leads it.
func mayRemarkEarlier(ctx context.Context, rd store.Queryer, instructor int64, keeper bool, assignment int64) (bool,
	error) {
	leader, err := roster.FindSheetOwner(ctx, rd, assignment)
	return err == nil && (leader.ID == instructor || keeper && !leader.Barred.IsZero()), err
}

// RemarkEarlier marks a sheet anew by its own method, which brings cards that an earlier version marked to today's
// rules. Who leads the class may do that, and a keeper of the server where nobody leads it; others get ErrMayNot.
func (svc *Service) RemarkEarlier(ctx context.Context, by access.Actor, assignment int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		me, err := roster.FindInstructor(ctx, tx, by.ID)
		if err != nil {
			return err
		}
		may, err := mayRemarkEarlier(ctx, tx, by.ID, me.Keeper && me.Barred.IsZero(), assignment)
		if err == nil && !may {
			err = access.ErrForbidden
		}
		if err != nil {
			return err
		}
		leader, err := roster.FindSheetOwner(ctx, tx, assignment)
		if err != nil {
			return err
		}
		g, err := sitting.Whole(sitting.OpenGiven(sitting.FindAssignment(ctx, tx, leader.ID, assignment)))
		if err != nil {
			return err
		}
		log := access.Change{Who: by.Name, What: text.New("log.remarked-by-rules"), At: by.At}
		return applyRemark(ctx, tx, leader.ID, assignment, g.Sheet.Method, true, log)
	})
}

const EarlierMarked = "earlier-marked" // sheets that the last check found marked by an earlier version's rules
