package ui

import (
	"net/url"
	"strings"

	"cavix/core/exercise"
	"cavix/core/handbook"
	"cavix/core/text"
)

// HandbookHref is the address of a place of the handbook, from which the reader can go back to where it was linked.
func HandbookHref(p handbook.Place, from string) string {
	href := "/handbook/" + p.Page
	if from != "" {
		href += "?from=" + url.QueryEscape(from)
	}
	if p.Anchor != "" {
		href += "#" + p.Anchor
	}
	return href
}

// explainedIn returns the address in the handbook that explains the mistake on a marked card: the slip, else the field.
// It has no text where nothing went wrong.
func (c CardState) explainedIn(e exercise.Explanation) (Link, error) {
	asked := handbook.Asked{Kind: c.Item.Kind(), Field: e.Field}
	if w, several := c.Item.(interface{ Way() string }); several {
		asked.Way = w.Way()
	}
	if figures := c.Item.Figures(); len(figures) > 0 {
		asked.Family = figures[0].Instrument.Spec().Family
	}
	for _, m := range c.Result.Fields {
		switch {
		case asked.Field == "" && m.Outcome != exercise.Right && m.Outcome != exercise.Carried:
			asked.Field = m.Field
		case asked.Field != m.Field:
			continue
		}
		if named := c.Wording.Wordings.Named(m.Slips); m.Field == asked.Field && len(named) > 0 {
			asked.Slip = named[0]
		}
	}
	if asked.Field == "" {
		return Link{}, nil
	}
	book, err := handbook.In(c.Said)
	if err != nil {
		return Link{}, err
	}
	p := book.Look(asked)
	from, _, _ := strings.Cut(c.At, "?")
	return Link{Text: text.Typed(p.Title), Href: HandbookHref(p, strings.TrimSuffix(from, "/figure"))}, nil
}
