package classroom

import (
	"context"
	"encoding/json"
	"fmt"

	"cavix/core/course"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/locale"
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
func (r *Room) Course(ctx context.Context, instructor int64, t Taking) (c course.Course, left []string, err error) {
	read := r.read(ctx)
	if t.Class != 0 {
		class, err := read.Class(instructor, t.Class)
		if err != nil {
			return c, nil, err
		}
		c.Name, c.Class = class.Name, &course.Class{}
		if c.Class.Method, err = methodOf(class); err != nil {
			return c, nil, err
		}
		if c.Class.Words, err = Words(class.Words); err != nil {
			return c, nil, err
		}
	}
	rack, err := r.Rack(ctx, instructor)
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
	sheets, err := r.Sheets(ctx, instructor)
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
		own, err := read.Bank(instructor, k.Name())
		if err != nil {
			return c, nil, err
		}
		for _, o := range own {
			c.Bank = append(c.Bank, course.Item{Kind: banked, Body: json.RawMessage(o.Body), Replaces: o.Replaces, Retired: o.Retired})
		}
	}
	return c, left, nil
}

// Incoming is one thing that a course brings, and what that would do.
type Incoming struct {
	What string // instrument, sheet, item, class, student
	Name string
	Difference
}

// bringing is a course on its way in.
type bringing struct {
	tx     *store.Tx // nil while it is only looked at
	by     Hand
	course course.Course
	people []Coming
	out    []Incoming
}

// Incoming tells what bringing a course in would do, one thing after another.
func (r *Room) Incoming(ctx context.Context, instructor int64, c course.Course, people []Coming) ([]Incoming, error) {
	b := bringing{by: Hand{ID: instructor}, course: c, people: people}
	err := b.bring(r.read(ctx))
	return b.out, err
}

// BringCourse brings a course in, whole or not at all. What has the name of something that is there takes its place;
// sheets given before keep their own copy.
func (r *Room) BringCourse(ctx context.Context, by Hand, c course.Course, people []Coming) (out []Incoming, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		b := bringing{tx: tx, by: by, course: c, people: people}
		err := b.bring(&tx.Reader)
		out = b.out
		return err
	})
	return out, err
}

func (b *bringing) note(what, name string, d Difference) {
	b.out = append(b.out, Incoming{what, name, d})
}

func (b *bringing) bring(read *store.Reader) error {
	rack, err := b.instruments(read)
	if err != nil {
		return err
	}
	if err := b.sheets(read, rack); err != nil {
		return err
	}
	if err := b.bank(read); err != nil {
		return err
	}
	if b.course.Class == nil {
		return nil
	}
	return b.class(read)
}

// there is something that stands already: under a name, with a document.
type there struct {
	id             int64
	name, document string
	taken          bool // something of the course takes its place, or is the same
}

// places finds for each of what comes the place that it takes: what is just the same, else what has its name, else none.
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
func differs(t *there, document string) Difference {
	switch {
	case t == nil:
		return Added
	case t.document == document:
		return Same
	}
	return Changed
}

// instruments brings instruments to the Rack; it returns their numbers there by their documents.
func (b *bringing) instruments(read *store.Reader) (map[string]int64, error) {
	stand, err := read.Rack(b.by.ID)
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
		doc, err := toJSON(in)
		if err != nil {
			return nil, err
		}
		known[doc] = true
	}
	for _, sh := range b.course.Sheets { // those too that only a sheet has
		for _, block := range sh.Blocks {
			for _, in := range block.Instruments {
				doc, err := toJSON(in)
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
		if docs[i], err = toJSON(in); err != nil {
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
		if d != Same && b.tx != nil {
			if id, err = keepInstrument(b.tx, b.by.ID, store.Racked{ID: id, Name: names[i], Document: docs[i]}); err != nil {
				return nil, err
			}
		}
		rack[docs[i]] = id
	}
	return rack, nil
}

// sheets brings sheets, composed from the instruments of the Rack.
func (b *bringing) sheets(read *store.Reader, rack map[string]int64) error {
	stand, err := read.Sheets(b.by.ID)
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
		if docs[i], err = toJSON(sh.Sheet); err != nil {
			return err
		}
	}
	for i, at := range places(stands, names, docs) {
		d := differs(at, docs[i])
		b.note("sheet", names[i], d)
		if d == Same || b.tx == nil {
			continue
		}
		racked, err := rackedOf(b.course.Sheets[i].Blocks, rack)
		if err != nil {
			return err
		}
		kept := store.Sheet{Title: names[i], Definition: docs[i], Racked: racked}
		if at != nil {
			kept.ID = at.id
		}
		if _, err := keepSheet(b.tx, b.by.ID, kept); err != nil {
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
			doc, err := toJSON(in)
			if err != nil {
				return "", err
			}
			out[i] = append(out[i], rack[doc])
		}
	}
	return toJSON(out)
}

// bank brings items of banks.
func (b *bringing) bank(read *store.Reader) error {
	stand := map[string][]store.Banked{}
	for _, it := range b.course.Bank {
		kind := it.Kind.Name()
		if _, known := stand[kind]; !known {
			own, err := read.Bank(b.by.ID, kind)
			if err != nil {
				return err
			}
			stand[kind] = own
		}
		d, id := Added, int64(0)
		for _, o := range stand[kind] {
			same := o.Replaces == it.Replaces && fingerprint(json.RawMessage(o.Body)) == fingerprint(it.Body)
			if it.Replaces != "" && o.Replaces == it.Replaces || same {
				d, id = Changed, o.ID
				if same && o.Retired == it.Retired {
					d = Same
				}
				break
			}
		}
		b.note("item", locale.Documents().Print(it.Says()), d)
		if d == Same || b.tx == nil {
			continue
		}
		if d == Added && len(stand[kind]) >= MaxBank {
			return fmt.Errorf("a bank holds up to %d items of your own: %w", MaxBank, store.ErrTaken)
		}
		kept := store.Banked{ID: id, Kind: kind, Replaces: it.Replaces, Body: string(it.Body), Retired: it.Retired}
		id, err := b.tx.KeepBanked(b.by.ID, kept)
		if err != nil {
			return err
		}
		if kept.ID = id; d == Added {
			stand[kind] = append(stand[kind], kept)
		}
	}
	return nil
}

// class brings how the class reads and speaks, and its people: to the running class of that name which the instructor
// leads, or to a new one.
func (b *bringing) class(read *store.Reader) error {
	c := b.course
	method, err := toJSON(c.Class.Method)
	if err != nil {
		return err
	}
	set, err := toJSON(c.Class.Words)
	if err != nil {
		return err
	}
	list, err := read.Classes(b.by.ID)
	if err != nil {
		return err
	}
	var class store.Class
	d := Added
	for _, k := range list {
		if k.Name != c.Name || !k.Runs() || !k.Role.May(store.Leads) {
			continue
		}
		class, d = k, Changed
		old, err := methodOf(k)
		if err != nil {
			return err
		}
		spoken, err := Words(k.Words)
		if err != nil {
			return err
		}
		before, err := toJSON([]any{old, spoken})
		if err != nil {
			return err
		}
		if now, err := toJSON([]any{c.Class.Method, c.Class.Words}); err != nil {
			return err
		} else if now == before {
			d = Same
		}
		break
	}
	b.note("class", c.Name, d)
	var stand []store.Student
	var taken []string
	if class.ID != 0 {
		if stand, err = read.Everybody(b.by.ID, class.ID); err != nil {
			return err
		}
		if taken, err = read.Namesakes(class.ID, 0); err != nil {
			return err
		}
	}
	for i, a := range arrivals(stand, taken, b.people) {
		b.note("student", b.people[i].Name, a.Difference)
	}
	if b.tx == nil {
		return nil
	}
	if class.ID == 0 {
		if class.ID, err = addClass(b.tx, b.by.ID, c.Name); err != nil {
			return err
		}
	}
	if d != Same {
		class.Name, class.Method, class.Words = c.Name, method, set
		if err := b.tx.SetClass(b.by.ID, class.ID, class.ClassSettings); err != nil {
			return err
		}
	}
	if len(b.people) == 0 {
		return nil
	}
	_, err = bringIn(b.tx, b.by, class.ID, b.people)
	return err
}
