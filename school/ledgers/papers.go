package ledgers

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/refusal"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// Paper is a version of a given sheet, with who has it.
type Paper struct {
	Version int
	Made    time.Time
	Items   []exercise.Item // only where one version is asked for
	Has     []PaperHas
	blocks  []int
}

// PaperHas is a student who has a version.
type PaperHas struct {
	roster.Student
	Typed bool // what was written on it has been typed back
}

// For says whose a version is: a student, a group, or "" where several have it who are no group.
func (p Paper) For() string {
	if len(p.Has) == 0 {
		return ""
	}
	name, team := p.Has[0].Name, p.Has[0].Team
	for _, h := range p.Has[1:] {
		name = ""
		if h.Team != team {
			team = ""
		}
	}
	if name == "" {
		return team
	}
	return name
}

// Per says who share a version.
type Per string

// Who they are.
const (
	PerStudent Per = "student"
	PerGroup   Per = "group"
	ForAll     Per = "all"
	PerVersion Per = "versions" // so many versions, dealt out in turn
)

// Printing says what is printed of a sheet.
type Printing struct {
	Per      Per
	Versions int  // of PerVersion
	Anew     bool // with new values
	Final    bool // only the final value of a reading is asked
}

// MostVersions is the largest number of versions that can be handed out in turn.
const MostVersions = 26

// MostPapers is the largest number of versions of a sheet; it keeps their numbers short.
const MostPapers = 9999

// ErrPapers is for more versions than a sheet may have.
var ErrPapers = fmt.Errorf("a sheet has at most %d versions on paper", MostPapers)

// Papers lists the versions of a sheet that an instructor has printed.
func (svc *Service) Papers(ctx context.Context, instructor, assignment int64) ([]Paper, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return nil, err
	}
	read := svc.store
	a, err := sitting.FindAssignment(ctx, read, instructor, assignment)
	if err != nil {
		return nil, err
	}
	return papers(ctx, read, instructor, a)
}

func papers(ctx context.Context, read store.Queryer, instructor int64, a sitting.Assignment) ([]Paper, error) {
	list, err := ListPapers(ctx, read, a.ID, MostPapers)
	if err != nil {
		return nil, err
	}
	people, err := roster.ListAll(ctx, read, instructor, a.Class)
	if err != nil {
		return nil, err
	}
	has, err := listPaperFor(ctx, read, a.ID)
	if err != nil {
		return nil, err
	}
	at := make(map[int64]PaperFor, len(has))
	for _, h := range has {
		at[h.Student] = h
	}
	out := make([]Paper, len(list))
	place := make(map[int]int, len(list))
	for i, p := range list {
		out[i], place[p.Version] = Paper{Version: p.Version, Made: p.Made}, i
	}
	for _, st := range people {
		h, is := at[st.ID]
		if i, there := place[h.Version]; is && there {
			out[i].Has = append(out[i].Has, PaperHas{st, h.Typed})
		}
	}
	return out, nil
}

// Paper finds a version of a sheet with its cards, as they are marked now.
func (svc *Service) Paper(ctx context.Context, instructor, assignment int64, version int) (Paper, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return Paper{}, err
	}
	read := svc.store
	g, err := sitting.Whole(sitting.OpenGiven(sitting.FindAssignment(ctx, read, instructor, assignment)))
	if err != nil {
		return Paper{}, err
	}
	list, err := papers(ctx, read, instructor, g.Assignment)
	if err != nil {
		return Paper{}, err
	}
	i := slices.IndexFunc(list, func(p Paper) bool { return p.Version == version })
	if i < 0 {
		return Paper{}, store.ErrNotFound
	}
	list[i].Items, list[i].blocks, err = Printed(ctx, read, g, version)
	return list[i], err
}

// Printed reads the cards of a version, to be marked by the method of the sheet as it is now.
func Printed(ctx context.Context, read store.Queryer, g sitting.Given, version int) (items []exercise.Item,
	blocks []int, err error) {
	p, err := findPaper(ctx, read, g.ID, version)
	if err != nil {
		return nil, nil, err
	}
	var documents []json.RawMessage
	err = errors.Join(json.Unmarshal([]byte(p.Cards), &documents), json.Unmarshal([]byte(p.Blocks), &blocks))
	for _, d := range documents {
		doc, bad := exercise.WithMethod(d, g.Sheet.Method)
		if bad == nil {
			var it exercise.Item
			it, bad = kinds.Open(doc)
			items = append(items, it)
		}
		err = errors.Join(err, bad)
	}
	if err == nil && len(blocks) != len(items) {
		err = fmt.Errorf("version %d of sheet %d: %d cards and %d blocks", version, g.ID, len(items), len(blocks))
	}
	return items, blocks, err
}

// MakeVersions has versions of an instructor's given sheet: of those who share one, whoever has none yet that asks the
// same gets a new one, or where new values are wanted everybody. It returns the numbers of the versions that the class
// has now.
func (svc *Service) MakeVersions(ctx context.Context, by access.Actor, assignment int64, w Printing) (versions []int,
	err error) {
	err = svc.sitting.OnSheet(ctx, access.MakePaper, by.ID, assignment, func(tx *store.Tx, a sitting.Assignment) error {
		g, err := sitting.Whole(sitting.OpenGiven(a, nil))
		if err != nil {
			return err
		}
		people, err := roster.ListStudents(ctx, tx, by.ID, a.Class)
		if err != nil {
			return err
		}
		list, err := papers(ctx, tx, by.ID, a)
		if err != nil {
			return err
		}
		versions, err = printer{tx, g, by.At, list, w}.print(ctx, sharing(people, w))
		return err
	})
	return versions, err
}

// sharing are the sets of students who share a version; one set of nobody where there are no students.
func sharing(people []roster.Student, w Printing) [][]roster.Student {
	per := w.Per
	if per == PerVersion {
		out := make([][]roster.Student, min(max(w.Versions, 1), MostVersions))
		for i, st := range people {
			out[i%len(out)] = append(out[i%len(out)], st)
		}
		return out
	}
	if per == ForAll || len(people) == 0 {
		return [][]roster.Student{people}
	}
	var out [][]roster.Student
	place := map[string]int{}
	for _, st := range people {
		key := st.Team
		if per == PerStudent {
			key = strconv.FormatInt(st.ID, 10)
		}
		i, there := place[key]
		if !there {
			i = len(out)
			out, place[key] = append(out, nil), i
		}
		out[i] = append(out[i], st)
	}
	return out
}

// printer deals what is printed.
type printer struct {
	tx   *store.Tx
	g    sitting.Given
	at   time.Time
	list []Paper
	want Printing
}

func (p printer) print(ctx context.Context, sets [][]roster.Student) ([]int, error) {
	has := map[int64]int{}
	holders := map[int]int{} // of a version
	next := 1
	for _, v := range p.list {
		next = max(next, v.Version+1)
		for _, h := range v.Has {
			has[h.ID] = v.Version
			if h.Here() {
				holders[v.Version]++
			}
		}
	}
	var versions []int
	for _, set := range sets {
		version := 0
		if !p.want.Anew {
			var err error
			if version, err = p.asWanted(ctx, p.shared(set, has, holders)); err != nil {
				return nil, err
			}
		}
		if version == 0 {
			if version = next; version > MostPapers {
				return nil, ErrPapers
			}
			if err := p.deal(ctx, version); err != nil {
				return nil, err
			}
			next++
		}
		versions = append(versions, version)
		for _, st := range set {
			if err := updatePaperFor(ctx, p.tx, p.g.ID, st.ID, version); err != nil {
				return nil, err
			}
		}
	}
	return versions, nil
}

// shared is the version that just these students have already; 0 where there is none.
func (p printer) shared(set []roster.Student, has map[int64]int, holders map[int]int) int {
	if len(set) == 0 {
		if n := len(p.list); n > 0 && p.want.Per != PerVersion {
			return p.list[n-1].Version
		}
		return 0
	}
	version := has[set[0].ID]
	for _, st := range set {
		if has[st.ID] != version {
			return 0
		}
	}
	if version == 0 || holders[version] != len(set) {
		return 0
	}
	return version
}

// asWanted returns a version, or 0 where its cards ask something else than what is wanted now.
func (p printer) asWanted(ctx context.Context, version int) (int, error) {
	if version == 0 {
		return 0, nil
	}
	items, _, err := Printed(ctx, p.tx, p.g, version)
	if err != nil {
		return 0, err
	}
	wanted, err := p.cards(version)
	if err != nil {
		return 0, err
	}
	asks := func(all []exercise.Item) (n int) {
		for _, it := range all {
			n += len(it.Fields())
		}
		return n
	}
	now := make([]exercise.Item, len(wanted))
	for i, d := range wanted {
		now[i] = d.Item
	}
	if asks(items) != asks(now) {
		return 0, nil
	}
	return version, nil
}

// cards deals a version. Its values are no student's on a screen: its seat is not in the class.
func (p printer) cards(version int) ([]exercise.Dealt, error) {
	dealt, err := p.g.Sheet.DealTo(kinds.All, exercise.Seat{Sheet: uint64(p.g.Seed), Student: -int64(version),
		Place: version - 1, Attempt: 1})
	if p.want.Final {
		for i := range dealt {
			dealt[i].Item = kinds.FinalOnly(dealt[i].Item)
		}
	}
	return dealt, err
}

// deal keeps the cards of a new version.
func (p printer) deal(ctx context.Context, version int) error {
	dealt, err := p.cards(version)
	if err != nil {
		return err
	}
	cards, blocks := make([]json.RawMessage, len(dealt)), make([]int, len(dealt))
	for i, d := range dealt {
		if cards[i], err = exercise.Document(d.Item); err != nil {
			return err
		}
		blocks[i] = d.Block
	}
	kept := PaperRow{Version: version, Made: p.at}
	if kept.Cards, err = store.JSON(cards); err != nil {
		return err
	}
	if kept.Blocks, err = store.JSON(blocks); err != nil {
		return err
	}
	return insertPaper(ctx, p.tx, p.g.ID, kept)
}

// EnteredPaper holds a student's answers on a version, by the number of the card, from 1.
type EnteredPaper struct {
	Student int64
	Version int
	Answers map[int]exercise.Answer
}

// EnterAnswers marks and keeps what students wrote on paper as an attempt of theirs, whole or not at all. What is typed
// again for the same version replaces what was typed before. An entry that cannot be read is a refusal.Refusal whose
// fields begin with the card: "3.main".
func (svc *Service) EnterAnswers(ctx context.Context, by access.Actor, assignment int64, list []EnteredPaper) error {
	err := svc.sitting.OnSheet(ctx, access.EnterAnswers, by.ID, assignment,
		func(tx *store.Tx, a sitting.Assignment) error {
			g, err := sitting.Whole(sitting.OpenGiven(a, nil))
			if err != nil {
				return err
			}
			s := sitting.State{Given: g, At: by.At}
			for _, w := range list {
				if err := typeBack(ctx, tx, s, w); err != nil {
					return err
				}
			}
			return nil
		})
	if err == nil {
		if a, err := sitting.FindAssignment(ctx, svc.store, by.ID, assignment); err == nil {
			svc.hub.Tell(hub.Topic{Class: a.Class, What: hub.SheetNews})
		}
	}
	return err
}

func typeBack(ctx context.Context, tx *store.Tx, s sitting.State, w EnteredPaper) error {
	st, err := roster.FindInClass(ctx, tx, s.Class, w.Student)
	if err != nil {
		return err
	}
	items, blocks, err := Printed(ctx, tx, s.Given, w.Version)
	if err != nil {
		return err
	}
	if bad := unreadable(items, w.Answers); len(bad) > 0 {
		return bad
	}
	attempt, err := sitOnPaper(ctx, tx, s, st.ID, w.Version, items, blocks)
	if err != nil {
		return err
	}
	cards, err := sitting.ListSat(ctx, tx, st.ID, s.ID, attempt)
	if err != nil {
		return err
	}
	if err := updatePaperFor(ctx, tx, s.ID, st.ID, w.Version); err != nil {
		return err
	}
	for i, k := range cards {
		answer := filled(w.Answers[k.N])
		if len(answer) == 0 && !k.Done() && !s.Test() {
			continue // of practice only what somebody has begun on
		}
		if err := retype(ctx, tx, s, k, items[i], answer); err != nil {
			return err
		}
	}
	return nil
}

// unreadable says which entries cannot be read.
func unreadable(items []exercise.Item, answers map[int]exercise.Answer) refusal.Refusal {
	var bad refusal.Refusal
	for i, it := range items {
		var r refusal.Refusal
		if errors.As(exercise.Readable(it, answers[i+1]), &r) {
			for _, f := range r {
				f.Field = fmt.Sprintf("%d.%s", i+1, f.Field)
				bad = append(bad, f)
			}
		}
	}
	return bad
}

// filled is an answer without its empty boxes.
func filled(a exercise.Answer) exercise.Answer {
	out := exercise.Answer{}
	for field, says := range a {
		if !exercise.Blank(says) {
			out[field] = says
		}
	}
	return out
}

// sitOnPaper finds the attempt that a student made on a version, or makes it.
func sitOnPaper(ctx context.Context, tx *store.Tx, s sitting.State, student int64, version int, items []exercise.Item,
	blocks []int) (int, error) {
	attempt, last, err := findPaperAttempt(ctx, tx, s.ID, student, version)
	if err != nil || attempt > 0 {
		return attempt, err
	}
	attempt = last + 1
	sit := sitting.Sitting{Assignment: s.ID, Student: student, Attempt: attempt, Began: s.At, Handed: s.At}
	if err := sitting.InsertPaperSitting(ctx, tx, sit, version); err != nil {
		return 0, err
	}
	for i, it := range items {
		c, err := sitting.NewCard(it)
		if err != nil {
			return 0, err
		}
		c.Assignment, c.Student, c.Attempt, c.N, c.Block = s.ID, student, attempt, i+1, blocks[i]
		if err := sitting.InsertCard(ctx, tx, c); err != nil {
			return 0, err
		}
	}
	return attempt, nil
}

// retype marks one card by what was written on paper.
func retype(ctx context.Context, tx *store.Tx, s sitting.State, k sitting.CardRow, it exercise.Item,
	a exercise.Answer) error {
	given, err := store.JSON(a)
	if err != nil {
		return err
	}
	result, err := it.Mark(a)
	if err != nil {
		return err
	}
	if err := updateTyped(ctx, tx, k.ID, sitting.Answer{Text: given, At: s.At, Hidden: !s.IsReleased()}); err != nil {
		return err
	}
	m, err := sitting.Weigh(ctx, tx, s.Sheet, k, it, result)
	if err != nil {
		return err
	}
	return sitting.UpdateMarks(ctx, tx, k.ID, m)
}

// EnteredAnswers returns the answers entered for a student's version on paper, by number of card; nil without any.
func (svc *Service) EnteredAnswers(ctx context.Context, instructor, assignment, student int64,
	version int) (map[int]exercise.Answer, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return nil, err
	}
	read := svc.store
	a, err := sitting.FindAssignment(ctx, read, instructor, assignment)
	if err != nil {
		return nil, err
	}
	if _, err := roster.FindInClass(ctx, read, a.Class, student); err != nil {
		return nil, err
	}
	attempt, _, err := findPaperAttempt(ctx, read, assignment, student, version)
	if err != nil || attempt == 0 {
		return nil, err
	}
	cards, err := sitting.ListSat(ctx, read, student, assignment, attempt)
	if err != nil {
		return nil, err
	}
	out := make(map[int]exercise.Answer, len(cards))
	for _, k := range cards {
		a := exercise.Answer{}
		if k.Done() {
			if err := json.Unmarshal([]byte(k.Answer), &a); err != nil {
				return nil, fmt.Errorf("card %d: %w", k.ID, err)
			}
		}
		out[k.N] = a
	}
	return out, nil
}
