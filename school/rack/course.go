package rack

import (
	"context"
	"encoding/json"

	"cavix/core/course"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/locale"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
)

// Taking says what of an instructor's work is carried out.
type Taking struct {
	Class       int64          // whose school and words are carried; 0 for none
	Instruments map[int64]bool // of the Rack; nil for all
	Sheets      map[int64]bool // nil for all
}

// Course gathers what an instructor carries to another server. Instruments and sheets that this program cannot read
// stay; their names are told.
func (svc *Service) Course(ctx context.Context, instructor int64, t Taking) (c course.Course, left []string,
	err error) {
	read := svc.store
	if t.Class != 0 {
		class, err := roster.FindClass(ctx, read, instructor, t.Class)
		if err != nil {
			return c, nil, err
		}
		c.Name, c.Class = class.Name, &course.Class{}
		if c.Class.Method, err = roster.MethodOf(class); err != nil {
			return c, nil, err
		}
		if c.Class.Words, err = roster.Words(class.Words); err != nil {
			return c, nil, err
		}
	}
	rack, err := svc.Rack(ctx, instructor)
	if err != nil {
		return c, nil, err
	}
	for _, k := range rack {
		switch {
		case t.Instruments != nil && !t.Instruments[k.ID]:
		case k.Err != nil:
			left = append(left, k.Name)
		default:
			c.Instruments = append(c.Instruments, k.Instrument)
		}
	}
	sheets, err := svc.Sheets(ctx, instructor)
	if err != nil {
		return c, nil, err
	}
	for _, sh := range sheets {
		switch {
		case t.Sheets != nil && !t.Sheets[sh.ID]:
		case sh.Err != nil:
			left = append(left, sh.Title)
		default:
			c.Sheets = append(c.Sheets, exercise.TitledSheet{Title: sh.Title, Sheet: sh.Definition})
		}
	}
	for _, k := range kinds.All {
		banked, ok := k.(exercise.Banked)
		if !ok {
			continue
		}
		own, err := listBank(ctx, read, instructor, k.Name())
		if err != nil {
			return c, nil, err
		}
		for _, o := range own {
			c.Bank = append(c.Bank, course.Item{Kind: banked, Body: json.RawMessage(o.Body), Replaces: o.Replaces,
				Retired: o.Retired})
		}
	}
	return c, left, nil
}

// ImportEffect is one thing that a course brings, and what that would do.
type ImportEffect struct {
	What string // instrument, sheet, item, class, student
	Name string
	roster.Difference
}

// bringing is a course on its way in.
type bringing struct {
	tx     *store.Tx // nil while it is only looked at
	by     access.Actor
	course course.Course
	people []roster.ImportedPerson
	out    []ImportEffect
}

// PreviewCourse tells what bringing a course in would do, one thing after another.
func (svc *Service) PreviewCourse(ctx context.Context, instructor int64, c course.Course,
	people []roster.ImportedPerson) ([]ImportEffect, error) {
	b := bringing{by: access.Actor{ID: instructor}, course: c, people: people}
	err := b.bring(ctx, svc.store)
	return b.out, err
}

// ImportCourse brings a course in, whole or not at all. What has the name of something that is there takes its place;
// sheets given before keep their own copy.
func (svc *Service) ImportCourse(ctx context.Context, by access.Actor, c course.Course,
	people []roster.ImportedPerson) (out []ImportEffect, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		b := bringing{tx: tx, by: by, course: c, people: people}
		err := b.bring(ctx, tx)
		out = b.out
		return err
	})
	return out, err
}

func (b *bringing) note(what, name string, d roster.Difference) {
	b.out = append(b.out, ImportEffect{what, name, d})
}

func (b *bringing) bring(ctx context.Context, read store.Queryer) error {
	rack, err := b.instruments(ctx, read)
	if err != nil {
		return err
	}
	if err := b.sheets(ctx, read, rack); err != nil {
		return err
	}
	if err := b.bank(ctx, read); err != nil {
		return err
	}
	if b.course.Class == nil {
		return nil
	}
	return b.class(ctx, read)
}

// there is something that stands already: under a name, with a document.
type there struct {
	id             int64
	name, document string
	taken          bool // something of the course takes its place, or is the same
}

// places finds for each of what comes the place that it takes: what is just the same, else what has its name, else
// none.
func places(stands []there, names, documents []string) []*there {
	out := make([]*there, len(names))
	for _, same := range []bool{true, false} {
		for i := range names {
			for k := range stands {
				t := &stands[k]
				if out[i] == nil && !t.taken && t.name == names[i] && (!same || t.document == documents[i]) {
					out[i], t.taken = t, true
				}
			}
		}
	}
	return out
}

// differs says what it does that a document takes a place.
func differs(t *there, document string) roster.Difference {
	switch {
	case t == nil:
		return roster.Added
	case t.document == document:
		return roster.Same
	}
	return roster.Changed
}

// instruments brings instruments to the Rack; it returns their numbers there by their documents.
func (b *bringing) instruments(ctx context.Context, read store.Queryer) (map[string]int64, error) {
	stand, err := listRack(ctx, read, b.by.ID)
	if err != nil {
		return nil, err
	}
	rack := map[string]int64{}
	stands := make([]there, len(stand))
	for i, k := range stand {
		stands[i] = there{id: k.ID, name: k.Name, document: k.Document}
		rack[k.Document] = k.ID
	}
	all := b.course.Instruments
	known := map[string]bool{}
	for _, in := range all {
		doc, err := store.JSON(in)
		if err != nil {
			return nil, err
		}
		known[doc] = true
	}
	for _, sh := range b.course.Sheets { // those too that only a sheet has
		for _, block := range sh.Blocks {
			for _, in := range block.Instruments {
				doc, err := store.JSON(in)
				if err != nil {
					return nil, err
				}
				if !known[doc] && rack[doc] == 0 {
					known[doc] = true
					all = append(all, in)
				}
			}
		}
	}
	names, docs := make([]string, len(all)), make([]string, len(all))
	for i, in := range all {
		names[i] = in.Name()
		if docs[i], err = store.JSON(in); err != nil {
			return nil, err
		}
	}
	for i, at := range places(stands, names, docs) {
		d := differs(at, docs[i])
		b.note("instrument", names[i], d)
		var id int64
		if at != nil {
			id = at.id
		}
		if d != roster.Same && b.tx != nil {
			if id, err = keepInstrument(ctx, b.tx, b.by.ID,
				RackedRow{ID: id, Name: names[i], Document: docs[i]}); err != nil {
				return nil, err
			}
		}
		rack[docs[i]] = id
	}
	return rack, nil
}

// sheets brings sheets, composed from the instruments of the Rack.
func (b *bringing) sheets(ctx context.Context, read store.Queryer, rack map[string]int64) error {
	stand, err := listSheets(ctx, read, b.by.ID)
	if err != nil {
		return err
	}
	stands := make([]there, len(stand))
	for i, k := range stand {
		stands[i] = there{id: k.ID, name: k.Title, document: k.Definition}
	}
	names, docs := make([]string, len(b.course.Sheets)), make([]string, len(b.course.Sheets))
	for i, sh := range b.course.Sheets {
		names[i] = sh.Title
		if docs[i], err = store.JSON(sh.Sheet); err != nil {
			return err
		}
	}
	for i, at := range places(stands, names, docs) {
		d := differs(at, docs[i])
		b.note("sheet", names[i], d)
		if d == roster.Same || b.tx == nil {
			continue
		}
		racked, err := rackedOf(b.course.Sheets[i].Blocks, rack)
		if err != nil {
			return err
		}
		kept := SheetRow{Title: names[i], Definition: docs[i], Racked: racked}
		if at != nil {
			kept.ID = at.id
		}
		if _, err := keepSheet(ctx, b.tx, b.by.ID, kept); err != nil {
			return err
		}
	}
	return nil
}

// rackedOf are the numbers on the Rack of the instruments of blocks.
func rackedOf(blocks []exercise.Block, rack map[string]int64) (string, error) {
	out := make([][]int64, len(blocks))
	for i, b := range blocks {
		out[i] = []int64{}
		for _, in := range b.Instruments {
			doc, err := store.JSON(in)
			if err != nil {
				return "", err
			}
			out[i] = append(out[i], rack[doc])
		}
	}
	return store.JSON(out)
}

// bank brings items of banks.
func (b *bringing) bank(ctx context.Context, read store.Queryer) error {
	stand := map[string][]BankedRow{}
	for _, it := range b.course.Bank {
		kind := it.Kind.Name()
		if _, known := stand[kind]; !known {
			own, err := listBank(ctx, read, b.by.ID, kind)
			if err != nil {
				return err
			}
			stand[kind] = own
		}
		d, id := roster.Added, int64(0)
		for _, o := range stand[kind] {
			same := o.Replaces == it.Replaces && fingerprint(json.RawMessage(o.Body)) == fingerprint(it.Body)
			if it.Replaces != "" && o.Replaces == it.Replaces || same {
				d, id = roster.Changed, o.ID
				if same && o.Retired == it.Retired {
					d = roster.Same
				}
				break
			}
		}
		b.note("item", locale.Documents().Print(it.Says()), d)
		if d == roster.Same || b.tx == nil {
			continue
		}
		if d == roster.Added && len(stand[kind]) >= MaxBank {
			return ErrBankFull
		}
		kept := BankedRow{ID: id, Kind: kind, Replaces: it.Replaces, Body: string(it.Body), Retired: it.Retired}
		id, err := saveBanked(ctx, b.tx, b.by.ID, kept)
		if err != nil {
			return err
		}
		if kept.ID = id; d == roster.Added {
			stand[kind] = append(stand[kind], kept)
		}
	}
	return nil
}

// class brings how the class reads and speaks, and its people: to the running class of that name which the instructor
// leads, or to a new one.
func (b *bringing) class(ctx context.Context, read store.Queryer) error {
	c := b.course
	method, err := store.JSON(c.Class.Method)
	if err != nil {
		return err
	}
	set, err := store.JSON(c.Class.Words)
	if err != nil {
		return err
	}
	list, err := roster.ListClasses(ctx, read, b.by.ID)
	if err != nil {
		return err
	}
	var class roster.Class
	d := roster.Added
	for _, k := range list {
		if k.Name != c.Name || !k.Runs() || !access.ImportPeople.Allows(k.Role) {
			continue
		}
		class, d = k, roster.Changed
		old, err := roster.MethodOf(k)
		if err != nil {
			return err
		}
		spoken, err := roster.Words(k.Words)
		if err != nil {
			return err
		}
		before, err := store.JSON([]any{old, spoken})
		if err != nil {
			return err
		}
		if now, err := store.JSON([]any{c.Class.Method, c.Class.Words}); err != nil {
			return err
		} else if now == before {
			d = roster.Same
		}
		break
	}
	b.note("class", c.Name, d)
	var stand []roster.Student
	var taken []string
	if class.ID != 0 {
		if stand, err = roster.ListAll(ctx, read, b.by.ID, class.ID); err != nil {
			return err
		}
		if taken, err = roster.ListNamesakes(ctx, read, class.ID, 0); err != nil {
			return err
		}
	}
	for i, a := range roster.Arrivals(stand, taken, b.people) {
		b.note("student", b.people[i].Name, a.Difference)
	}
	if b.tx == nil {
		return nil
	}
	if class.ID == 0 {
		if class.ID, err = roster.AddClass(ctx, b.tx, b.by.ID, c.Name); err != nil {
			return err
		}
	}
	if d != roster.Same {
		class.Name, class.Method, class.Words = c.Name, method, set
		if err := roster.UpdateClass(ctx, b.tx, class.ID, class.ClassSettings); err != nil {
			return err
		}
	}
	if len(b.people) == 0 {
		return nil
	}
	_, err = roster.BringIn(ctx, b.tx, b.by, class.ID, b.people)
	return err
}
