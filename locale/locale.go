// Package locale holds the catalogues: a folder for each language, with the texts of the program by place, the terms of
// the trade and the pages of the handbook.
package locale

import (
	"embed"
	"io/fs"
	"slices"
	"sync"

	"golang.org/x/text/language"

	"cavix/core/text"
)

// Files are the catalogues and pages, a folder for each language.
//
//go:embed */*.txt */handbook/*.md
var Files embed.FS

// Languages lists the languages of the interface, a folder each: English first, the others by their tags.
var Languages = languages()

func languages() []language.Tag {
	folders, err := Files.ReadDir(".")
	if err != nil {
		panic(err) // the folders are in the program
	}
	out := []language.Tag{language.English}
	for _, f := range folders {
		if tag := language.MustParse(f.Name()); tag != language.English {
			out = append(out, tag)
		}
	}
	return out
}

// catalogues are read when they are first asked for.
var catalogues = func() map[language.Tag]func() *text.Catalogue {
	out := map[language.Tag]func() *text.Catalogue{}
	for _, tag := range Languages {
		out[tag] = sync.OnceValue(func() *text.Catalogue {
			var fallback *text.Catalogue
			if tag != language.English {
				fallback = out[language.English]()
			}
			folder, err := fs.Sub(Files, tag.String())
			if err != nil {
				panic(err) // the folder is in the program
			}
			c, err := text.Load(tag, folder, fallback)
			if err != nil {
				panic("locale/" + tag.String() + "/" + err.Error()) // it is in the program, and checked before
			}
			return c
		})
	}
	return out
}()

var matcher = language.NewMatcher(Languages)

// Match returns the catalogue that serves a reader best who prefers languages in this order.
func Match(prefers ...language.Tag) *text.Catalogue {
	_, i, _ := matcher.Match(prefers...)
	return catalogues[Languages[i]]()
}

// Of returns the catalogue of a language, as "de"; the English one if there is none of it.
func Of(code string) *text.Catalogue {
	i := slices.IndexFunc(Languages, func(t language.Tag) bool { return t.String() == code })
	return catalogues[Languages[max(i, 0)]]()
}

// Speaks reports whether there is a catalogue of a language, as "de".
func Speaks(code string) bool {
	return slices.ContainsFunc(Languages, func(t language.Tag) bool { return t.String() == code })
}

// Name returns the name of a language in that language.
func Name(t language.Tag) string {
	return catalogues[t]().Printer(text.Words{}, t).Say("language.name")
}

// English returns a printer of English in some words.
func English(w text.Words) *text.Printer { return Of("en").Printer(w, language.English) }

// Documents returns a printer for commands and files: English, in the words of documents.
func Documents() *text.Printer { return English(text.Words{Base: "documents"}) }

// Word is a term in the sets of words that are ready-made, and as a class says it.
type Word struct {
	Term                       text.Term
	Is                         string
	Workshop, Laboratory, Here string
}

// Words lists the terms, in a printer's language and the words of its class.
func Words(p *text.Printer) []Word {
	c := Of(p.Tag().String())
	workshop, laboratory := c.Printer(text.Words{Base: "workshop"}, p.Tag()), c.Printer(text.Words{Base: "laboratory"},
		p.Tag())
	var out []Word
	for _, t := range c.Terms() {
		w := Word{Term: t, Is: c.Is(t)}
		w.Workshop, _ = workshop.Word(t)
		w.Laboratory, _ = laboratory.Word(t)
		w.Here, _ = p.Word(t)
		out = append(out, w)
	}
	return out
}
