package studies

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// Survey is a survey that a class was given, opened.
type Survey struct {
	SurveyRow
	Plan survey.Plan
	Err  error // why its plan cannot be read, if it cannot
}

// Appraiser is a student as a reader of the survey.
func (s Survey) Appraiser(student int64) survey.Reader {
	return survey.Reader{Seed: uint64(s.Seed), Student: student}
}

// Runs reports whether it is still read.
func (s Survey) Runs() bool { return s.Closed.IsZero() }

// Card is the reading that a student takes in a cell.
func (s Survey) Card(student int64, cell int) exercise.Item {
	c := s.Plan.Cell(cell)
	if s.Plan.Gear != nil {
		return s.tooth(s.Plan.Indicated(s.Appraiser(student), c), s.Plan.Asked(c.Part))
	}
	return kinds.NewRound(s.Plan.Instrument(c.Part), s.Plan.Indicated(s.Appraiser(student), c),
		[]string{s.Plan.Asked(c.Part)}, s.Plan.Method)
}

// tooth is a card of the gear-tooth vernier on a tooth that the level scale shows so thick.
func (s Survey) tooth(shows length.Number, ask ...string) *kinds.GearTooth {
	in := s.Plan.Instrument(0)
	upright, _ := in.Second()
	return &kinds.GearTooth{Instrument: in, Outside: s.Plan.Gear.Outside, Pitch: s.Plan.Gear.Pitch,
		Start: upright.Closed(), Indicated: shows, Ask: ask, Method: s.Plan.Method}
}

// SetupCard asks a student to calculate and set the addendum before the teeth of a gear are measured.
func (s Survey) SetupCard(student int64) exercise.Item {
	return s.tooth(s.Plan.Indicated(s.Appraiser(student), survey.Cell{}), "addendum", "upright")
}

// Setup is the setting that a student calculated, with its result; nil if there is none yet.
func (svc *Service) Setup(ctx context.Context, s Survey, student int64) (exercise.Answer, *exercise.Result, error) {
	says, err := findSetup(ctx, svc.store, s.ID, student)
	if err != nil || says == "" {
		return nil, nil, err
	}
	a := exercise.Answer{}
	if err := json.Unmarshal([]byte(says), &a); err != nil {
		return nil, nil, fmt.Errorf("what student %d set in survey %d: %w", student, s.ID, err)
	}
	result, err := s.SetupCard(student).Mark(a)
	return a, &result, err
}

// SetToothDepth keeps what a student worked out and set before measuring. What cannot be read is a refusal.Refusal.
func (svc *Service) SetToothDepth(ctx context.Context, student, id int64, a exercise.Answer, at time.Time) error {
	says, err := store.JSON(a)
	if err != nil {
		return err
	}
	return svc.inSurvey(ctx, student, id, func(tx *store.Tx, s Survey) error {
		if s.Plan.Gear == nil {
			return ErrClosed
		}
		it := s.SetupCard(student)
		if empty := exercise.Empty(it, a); len(empty) > 0 {
			return refusal.New("setup", "log.left-empty", "empty", empty[0])
		}
		if _, err := it.Mark(a); err != nil {
			return err
		}
		return updateUp(ctx, tx, id, student, says, at)
	})
}

// inSurvey does something for a student in a survey of their class; it is ErrClosed where that has ended.
func (svc *Service) inSurvey(ctx context.Context, student, id int64, work func(*store.Tx, Survey) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := sitting.Present(ctx, tx, student); err != nil {
			return err
		}
		s, err := OpenSurvey(findStudentSurvey(ctx, tx, student, id))
		if s, err = s.whole(err); err != nil {
			return err
		}
		if !s.Runs() {
			return ErrClosed
		}
		return work(tx, s)
	})
}

// OpenSurvey opens a study; an error is passed on.
func OpenSurvey(k SurveyRow, err error) (Survey, error) {
	if err != nil {
		return Survey{}, err
	}
	s := Survey{SurveyRow: k}
	if s.Err = json.Unmarshal([]byte(k.Plan), &s.Plan); s.Err == nil {
		s.Err = s.Plan.Check()
	}
	if s.Err != nil {
		s.Err = store.DamagedRow{What: "study", ID: k.ID, Err: s.Err}
	}
	return s, nil
}

// whole fails where the plan cannot be read.
func (s Survey) whole(err error) (Survey, error) {
	if err == nil {
		err = s.Err
	}
	return s, err
}

// mostSurveys is the largest number of studies in a list.
const mostSurveys = 200

func openSurveys(list []SurveyRow, err error) ([]Survey, error) {
	out := make([]Survey, len(list))
	for i, k := range list {
		out[i], _ = OpenSurvey(k, nil)
	}
	return out, err
}

// Surveys lists the surveys of the classes that an instructor teaches, the newest first.
func (svc *Service) Surveys(ctx context.Context, instructor int64) ([]Survey, error) {
	return openSurveys(listSurveys(ctx, svc.store, instructor, mostSurveys))
}

// Survey finds a survey of a class that an instructor teaches.
func (svc *Service) Survey(ctx context.Context, instructor, id int64) (Survey, error) {
	if err := access.ViewClass.OnStudy(ctx, svc.store, instructor, id); err != nil {
		return Survey{}, err
	}
	s, err := OpenSurvey(findSurvey(ctx, svc.store, instructor, id))
	return s.whole(err)
}

// StudentSurveys lists the surveys of a student's class, the newest first.
func (svc *Service) StudentSurveys(ctx context.Context, student int64) ([]Survey, error) {
	return openSurveys(listStudentSurveys(ctx, svc.store, student, mostSurveys))
}

// StudentSurvey finds a survey of a student's class.
func (svc *Service) StudentSurvey(ctx context.Context, student, id int64) (Survey, error) {
	s, err := OpenSurvey(findStudentSurvey(ctx, svc.store, student, id))
	return s.whole(err)
}

// GiveSurvey gives a class a survey; a plan that cannot be read is a refusal.Refusal.
func (svc *Service) GiveSurvey(ctx context.Context, by access.Actor, class int64, title string, p survey.Plan,
	seed uint64) (id int64, err error) {
	if err := p.Check(); err != nil {
		return 0, err
	}
	err = svc.access.InClass(ctx, access.RunStudy, by.ID, class, func(tx *store.Tx) error {
		c, err := roster.FindClass(ctx, tx, by.ID, class)
		if err != nil {
			return err
		}
		school, err := roster.MethodOf(c)
		if err != nil {
			return err
		}
		p.Method = p.Method.Over(school)
		says, err := store.JSON(p)
		if err != nil {
			return err
		}
		id, err = insertSurvey(ctx, tx, SurveyRow{Class: class, Title: title, Plan: says, Seed: int64(seed),
			Given: by.At, Owner: by.ID})
		return err
	})
	return id, err
}

// onStudy changes a study of a class where an instructor has a right.
func (svc *Service) onStudy(ctx context.Context, right access.Right, by access.Actor, id int64,
	work func(*store.Tx, SurveyRow) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := right.OnStudy(ctx, tx, by.ID, id); err != nil {
			return err
		}
		s, err := findSurvey(ctx, tx, by.ID, id)
		if err != nil {
			return err
		}
		return work(tx, s)
	})
}

// CloseSurvey ends a survey: no more is read. Again lets it go on.
func (svc *Service) CloseSurvey(ctx context.Context, by access.Actor, id int64, again bool) error {
	at := by.At
	if again {
		at = time.Time{}
	}
	return svc.onStudy(ctx, access.RunStudy, by, id,
		func(tx *store.Tx, _ SurveyRow) error { return closeSurvey(ctx, tx, id, at) })
}

// RemoveReading deletes a student's reading in a cell of a survey, so that it can be read once more.
func (svc *Service) RemoveReading(ctx context.Context, by access.Actor, id, student int64, cell int) error {
	return svc.onStudy(ctx, access.RunStudy, by, id, func(tx *store.Tx, s SurveyRow) error {
		st, err := roster.FindInClass(ctx, tx, s.Class, student)
		if err != nil {
			return err
		}
		if err := deleteReading(ctx, tx, id, student, cell); err != nil {
			return err
		}
		return by.Log(ctx, tx, s.Class, text.New("log.remove-reading", "name", st.Name, "title", s.Title))
	})
}

// Observed is a reading of a survey, as a value.
type Observed struct {
	Reading
	Value length.Number
}

// OpenReadings reads readings. Those whose value cannot be read are returned apart.
func OpenReadings(list []Reading, err error) (read []Observed, damaged []Reading, _ error) {
	for _, g := range list {
		x, bad := length.ParseStored(g.Value)
		if bad != nil {
			damaged = append(damaged, g)
			continue
		}
		read = append(read, Observed{g, x})
	}
	return read, damaged, err
}

// Readings lists what was read in a survey of a class that an instructor teaches, by student. Readings whose value
// cannot be read are returned apart.
func (svc *Service) Readings(ctx context.Context, instructor, id int64) (read []Observed, damaged []Reading,
	err error) {
	if err := access.ViewClass.OnStudy(ctx, svc.store, instructor, id); err != nil {
		return read, damaged, err
	}
	return OpenReadings(listReadings(ctx, svc.store, id))
}

// ReadingsBy lists what a student has read in a survey, in the order in which it was read. A cell whose reading is
// damaged is not among them: it is read once more.
func (svc *Service) ReadingsBy(ctx context.Context, instructor, survey, student int64) ([]Observed, error) {
	if err := access.ViewClass.OnStudy(ctx, svc.store, instructor, survey); err != nil {
		return nil, err
	}
	read, _, err := OpenReadings(listReadingsBy(ctx, svc.store, survey, student))
	return read, err
}

// OwnReadings lists what a student has read in a study, as ReadingsBy does.
func (svc *Service) OwnReadings(ctx context.Context, student, id int64) ([]Observed, error) {
	read, _, err := OpenReadings(listReadingsBy(ctx, svc.store, id, student))
	return read, err
}

// OwnTrials tells how far a student has tried the parts of a study, by part.
func (svc *Service) OwnTrials(ctx context.Context, student, id int64) (map[int]Trial, error) {
	all, err := trials(ctx, svc.store, id)
	return all[student], err
}

// OwnVerdicts tells what a student has decided on the parts of a study, by part.
func (svc *Service) OwnVerdicts(ctx context.Context, student, id int64) (map[int]Verdict, error) {
	all, err := verdicts(ctx, svc.store, id)
	return all[student], err
}

// Measured reports whether a student measures a part: all where there is no gauge, and those that were rejected in it.
func (s Survey) Measured(part int, said map[int]Trial) bool {
	return s.Plan.Gauge == "" || said[part].Said == "reject"
}

// Cells returns the number of readings that a student takes, by what was said of the parts in their gauge.
func (s Survey) Cells(said map[int]Trial) int {
	n := 0
	for part := range s.Plan.Parts {
		if s.Measured(part, said) {
			n += s.Plan.Places * s.Plan.Repeats
		}
	}
	return n
}

// ToTry is the part that a student tries next in the gauge; −1 where there is none.
func (s Survey) ToTry(said map[int]Trial) int {
	if s.Plan.Gauge == "" {
		return -1
	}
	for part := range s.Plan.Parts {
		if said[part].Said == "" {
			return part
		}
	}
	return -1
}

// Next is the cell that a student reads next; −1 where all are read.
func (s Survey) Next(student int64, read []Observed, said map[int]Trial) int {
	done := make(map[int]bool, len(read))
	for _, g := range read {
		done[g.Cell] = true
	}
	for _, n := range s.Plan.Order(s.Appraiser(student)) {
		if !done[n] && s.Measured(s.Plan.Cell(n).Part, said) {
			return n
		}
	}
	return -1
}

// Trials tells how far the students of a survey have tried its parts: by student, then part.
func (svc *Service) Trials(ctx context.Context, instructor, survey int64) (map[int64]map[int]Trial, error) {
	if err := access.ViewClass.OnStudy(ctx, svc.store, instructor, survey); err != nil {
		return nil, err
	}
	return trials(ctx, svc.store, survey)
}

func trials(ctx context.Context, rd store.Queryer, survey int64) (map[int64]map[int]Trial, error) {
	list, err := listTrials(ctx, rd, survey)
	out := map[int64]map[int]Trial{}
	for _, t := range list {
		if out[t.Student] == nil {
			out[t.Student] = map[int]Trial{}
		}
		out[t.Student][t.Part] = t
	}
	return out, err
}

// Try keeps that a student tried a part in a gauge, or what was said of it. What was said stays.
func (svc *Service) Try(ctx context.Context, student, id int64, t Trial) error {
	t.Student = student
	return svc.inSurvey(ctx, student, id, func(tx *store.Tx, s Survey) error {
		known := t.Said == "" || t.Said == "accept" || t.Said == "reject"
		if s.Plan.Gauge == "" || t.Part < 0 || t.Part >= len(s.Plan.Parts) || !known {
			return ErrClosed
		}
		return try(ctx, tx, id, t)
	})
}

// Record keeps what a student read in a cell. A reading that was taken stays as it is; ErrOver where the survey has
// ended or there is no such cell. What cannot be read is a refusal.Refusal.
func (svc *Service) Record(ctx context.Context, student, id int64, cell int, says string, at time.Time) error {
	var class int64
	err := svc.inSurvey(ctx, student, id, func(tx *store.Tx, s Survey) error {
		class = s.Class
		if cell < 0 || cell >= s.Plan.Cells() {
			return ErrClosed
		}
		if may, err := ready(ctx, tx, s, student, s.Plan.Cell(cell).Part); err != nil || !may {
			return cmp.Or(err, ErrClosed)
		}
		g, err := s.reading(student, cell, says)
		if err != nil {
			return err
		}
		g.At = at
		there, damaged, err := OpenReadings(listReadingsBy(ctx, tx, id, student))
		if err != nil || slices.ContainsFunc(there, func(o Observed) bool { return o.Cell == cell }) {
			return err
		}
		if slices.ContainsFunc(damaged, func(o Reading) bool { return o.Cell == cell }) {
			if err := deleteReading(ctx, tx, id, student, cell); err != nil {
				return err
			}
		}
		return writeDown(ctx, tx, id, g)
	})
	if err == nil {
		svc.hub.Tell(hub.Topic{Class: class, What: hub.SheetNews})
	}
	return err
}

// reading returns a student's reading in a cell, marked. What cannot be read is a refusal.Refusal.
func (s Survey) reading(student int64, cell int, says string) (Reading, error) {
	field := s.Plan.Asked(s.Plan.Cell(cell).Part)
	if exercise.Blank(says) {
		return Reading{}, refusal.New(field, "log.reading")
	}
	result, err := s.Card(student, cell).Mark(exercise.Answer{field: says})
	if err != nil {
		return Reading{}, err
	}
	m := result.Field(field)
	value := s.Plan.Value(m.Value)
	if err := length.CheckDigits(value); err != nil {
		return Reading{}, refusal.New(field, "log.as-it-is", "err", err)
	}
	g := Reading{Student: student, Cell: cell, Given: says, Value: value.String(),
		Right: m.Outcome == exercise.Right || m.Outcome == exercise.InForm}
	if len(m.Slips) > 0 {
		g.Slip = string(m.Slips[0])
	}
	return g, nil
}

// NoTooth says that no tooth of a gear is worn.
const NoTooth = "none"

// WornTooth is the number of a part that stands for the question which tooth is worn.
func (s Survey) WornTooth() int { return len(s.Plan.Parts) }

// ready reports whether a student measures a part by now: a part that is tried in a gauge once it was rejected there,
// the teeth of a gear once the upright scale is set.
func ready(ctx context.Context, rd store.Queryer, s Survey, student int64, part int) (bool, error) {
	if s.Plan.Gear != nil {
		set, err := findSetup(ctx, rd, s.ID, student)
		return set != "", err
	}
	if s.Plan.Gauge == "" {
		return true, nil
	}
	tried, err := trials(ctx, rd, s.ID)
	return s.ToTry(tried[student]) < 0 && s.Measured(part, tried[student]), err
}

// canJudge reports whether something can be said of a part; of a gear also which of its teeth is worn.
func (s Survey) canJudge(v Verdict) bool {
	if s.Plan.Gear != nil && v.Part == s.WornTooth() {
		return v.Verdict == NoTooth ||
			slices.ContainsFunc(s.Plan.Parts, func(p survey.Part) bool { return p.Name == v.Verdict })
	}
	return v.Part >= 0 && v.Part < len(s.Plan.Parts) && slices.Contains(s.Plan.VerdictChoices(), v.Verdict)
}

// Decide keeps what a student says of a part of a survey.
func (svc *Service) Decide(ctx context.Context, student, id int64, v Verdict, at time.Time) error {
	if v.Beyond != "" {
		if _, err := length.ReadTyped(v.Beyond); err != nil {
			return refusal.New("beyond", "log.judge", "err", err)
		}
	}
	v.Student = student
	return svc.inSurvey(ctx, student, id, func(tx *store.Tx, s Survey) error {
		if !s.canJudge(v) {
			return ErrClosed
		}
		return updateVerdict(ctx, tx, id, v, at)
	})
}

// Verdicts lists what students say of the parts of a survey: by student, then part.
func (svc *Service) Verdicts(ctx context.Context, instructor, survey int64) (map[int64]map[int]Verdict, error) {
	if err := access.ViewClass.OnStudy(ctx, svc.store, instructor, survey); err != nil {
		return nil, err
	}
	return verdicts(ctx, svc.store, survey)
}

func verdicts(ctx context.Context, rd store.Queryer, survey int64) (map[int64]map[int]Verdict, error) {
	list, err := listVerdicts(ctx, rd, survey)
	out := map[int64]map[int]Verdict{}
	for _, v := range list {
		if out[v.Student] == nil {
			out[v.Student] = map[int]Verdict{}
		}
		out[v.Student][v.Part] = v
	}
	return out, err
}

// SurveyReadings lists what a student of a class has read in all surveys.
func (svc *Service) SurveyReadings(ctx context.Context, instructor, class, student int64) ([]SurveyReading, error) {
	if err := access.ExportPerson.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listSurveyReadings(ctx, svc.store, class, student)
}
