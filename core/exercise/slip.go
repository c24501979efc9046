package exercise

import (
	"slices"
	"strings"

	"cavix/core/text"
)

// Code names a slip: a known mistake that predicts the wrong value it gives. A pair of slips is
// written with a plus between the two.
type Code string

// Singles takes a pair apart; a single slip is itself.
func (c Code) Singles() []Code {
	a, b, pair := strings.Cut(string(c), "+")
	if pair {
		return []Code{Code(a), Code(b)}
	}
	return []Code{c}
}

// Pair joins two slips.
func (c Code) Pair(other Code) Code { return c + "+" + other }

// IsPair reports whether the code stands for two slips.
func (c Code) IsPair() bool { return strings.Contains(string(c), "+") }

// You says to a student what was done, in a sentence: "You read one mark too few."
func (c Code) You() text.Text { return c.said("you", text.Run) }

// Name names a slip or a pair for tables and lists, as a noun phrase: "reading one mark too few".
func (c Code) Name() text.Text { return c.said("name", text.And) }

// Short names it in two or three words, where there is little room.
func (c Code) Short() text.Text { return c.said("short", text.Row) }

func (c Code) said(how string, join func(...text.Text) text.Text) text.Text {
	var of []text.Text
	for _, single := range c.Singles() {
		of = append(of, text.New("slips."+string(single)+"."+how))
	}
	return join(of...)
}

// Slip is a known mistake.
type Slip struct {
	Code Code
	// Whole is a slip of a whole value, which can be made on any card.
	Whole bool
	// Like names the groups of slips that it belongs to which put a value off by the same amount whatever the value,
	// so that nobody can tell one of them from another by the number.
	Like []string
	// Since is the first dealer that knows of the slip: older ones deal as if it did not exist. 0 is all of them.
	Since int
}

// Alike reports whether two slips belong to one group.
func (s Slip) Alike(o Slip) bool {
	return slices.ContainsFunc(s.Like, func(g string) bool { return slices.Contains(o.Like, g) })
}

// History counts earlier slips: of the student, and of the whole class.
type History struct {
	Student, Class map[Code]int
	Private        bool // nothing is said of what others did: the student reads it
}

// likelier puts first, among codes that explain an entry equally well, the one that was made most before,
// the student's own slips counting first, and says so. Among the rest the table decides.
func (h History) likelier(codes []Code) ([]Code, text.Text) {
	if len(codes) < 2 {
		return codes, text.Text{}
	}
	best := 0
	for i, code := range codes {
		if h.Student[code] > h.Student[codes[best]] ||
			h.Student[code] == h.Student[codes[best]] && h.Class[code] > h.Class[codes[best]] {
			best = i
		}
	}
	first := codes[best]
	if h.Student[first] == 0 && h.Class[first] == 0 {
		return codes, text.Text{}
	}
	out := append([]Code{first}, codes[:best]...)
	out = append(out, codes[best+1:]...)
	if n := h.Student[first]; n > 0 {
		return out, text.New("account.made-before", "n", n)
	}
	if h.Private {
		return out, text.Text{}
	}
	return out, text.New("account.made-in-class", "n", h.Class[first])
}

// SlipWording is an instructor's own text for a slip.
type SlipWording struct {
	Off    bool   // it is not named
	Advice string // instead of the handbook's; "" leaves that
	Note   string // added to it
}

// SlipWordings are an instructor's own words for slips.
type SlipWordings map[Code]SlipWording

// Named leaves out the codes that are switched off, pairs of them too.
func (w SlipWordings) Named(codes []Code) []Code {
	var out []Code
	for _, code := range codes {
		off := false
		for _, single := range code.Singles() {
			off = off || w[single].Off
		}
		if !off {
			out = append(out, code)
		}
	}
	return out
}

// Account returns the sentence on the slips that explain an entry, and the advice how to see the right value.
func (v Wording) Account(codes []Code, advice func(Code) text.Text) []text.Text {
	named, because := v.History.likelier(v.Wordings.Named(codes))
	if len(named) == 0 {
		return nil
	}
	code := named[0]
	if code.IsPair() {
		return []text.Text{text.New("account.pair", "slips", code.Name())}
	}
	says := advice(code)
	if own := v.Wordings[code].Advice; own != "" {
		says = text.Typed(own)
	}
	body := []text.Text{text.Run(says, text.Typed(v.Wordings[code].Note))}
	if !because.IsZero() {
		body = append(body, because)
	}
	var others []text.Text
	for _, o := range named[1:] {
		others = append(others, o.Name())
	}
	if len(others) > 0 {
		body = append(body, text.New("account.others", "n", len(others), "slips", text.Steps(others...)))
	}
	return body
}
