package paper

import (
	"bytes"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
)

// joiner writes several documents of fpdf's as one: the objects of each get numbers after those before, and its pages
// become a branch of one tree (ISO 32000-1, 7.7.3). It holds no more than one document at a time.
type joiner struct {
	to      io.Writer
	err     error
	written int64
	offsets []int64 // of the objects that are written, by their number less one
	roots   []int   // the numbers of the documents' page trees
	pages   int
	info    int // the number of what the first document says of itself
}

// Numbers of a document's own page tree, and the keys by which its parts are found, as fpdf writes them.
const ownRoot = 1

var (
	xrefAt     = regexp.MustCompile(`startxref\n(\d+)\n%%EOF\s*$`)
	infoIs     = regexp.MustCompile(`/Info (\d+) 0 R`)
	catalogIs  = regexp.MustCompile(`/Root (\d+) 0 R`)
	count      = regexp.MustCompile(`/Count (\d+)`)
	references = regexp.MustCompile(`\b(\d+) 0 R\b`)
)

func (j *joiner) write(format string, args ...any) {
	if j.err == nil {
		var n int
		n, j.err = fmt.Fprintf(j.to, format, args...)
		j.written += int64(n)
	}
}

// number notes that an object begins here.
func (j *joiner) number(n int) {
	for len(j.offsets) < n {
		j.offsets = append(j.offsets, 0)
	}
	j.offsets[n-1] = j.written
}

// treeOf is the number that the tree of all pages gets; it is not known before the end, so it stands first.
const treeOf = 1

// add writes the objects of a document.
func (j *joiner) add(doc []byte) error {
	if len(j.offsets) == 0 {
		j.write("%s", doc[:bytes.IndexByte(doc, '\n')+1]) // %PDF-1.…
		j.offsets = append(j.offsets, 0)
	}
	shift := len(j.offsets)
	objects, trailer, err := objectsOf(doc)
	if err != nil {
		return err
	}
	info, catalog := numberIn(infoIs, trailer), numberIn(catalogIs, trailer)
	for _, o := range objects {
		switch {
		case o.number == catalog, o.number == info && j.info != 0:
			continue
		case o.number == info: // nothing in it refers to anything, and a title may look as if it did
			j.info = shift + o.number
		case o.number == ownRoot:
			j.roots = append(j.roots, shift+o.number)
			j.pages += numberIn(count, o.body)
		}
		head, rest := o.body, []byte(nil)
		if at := bytes.Index(o.body, []byte("stream\n")); at >= 0 {
			head, rest = o.body[:at], o.body[at:]
		}
		if o.number != info {
			head = references.ReplaceAllFunc(head, func(says []byte) []byte {
				n, _ := strconv.Atoi(string(says[:bytes.IndexByte(says, ' ')]))
				return fmt.Appendf(nil, "%d 0 R", shift+n)
			})
		}
		if o.number == ownRoot {
			head = bytes.Replace(head, []byte("/Type /Pages"), fmt.Appendf(nil, "/Type /Pages\n/Parent %d 0 R", treeOf),
				1)
		}
		j.number(shift + o.number)
		j.write("%d 0 obj\n%s%s", shift+o.number, head, rest)
	}
	return j.err
}

// end writes the tree of all pages and what a document ends with.
func (j *joiner) end() error {
	j.number(treeOf)
	j.write("%d 0 obj\n<</Type /Pages\n/Kids [", treeOf)
	for _, root := range j.roots {
		j.write("%d 0 R ", root)
	}
	j.write("]\n/Count %d\n>>\nendobj\n", j.pages)
	catalog := len(j.offsets) + 1
	j.number(catalog)
	j.write("%d 0 obj\n<</Type /Catalog\n/Pages %d 0 R\n>>\nendobj\n", catalog, treeOf)
	at := j.written
	j.write("xref\n0 %d\n0000000000 65535 f \n", len(j.offsets)+1)
	for _, offset := range j.offsets {
		if offset == 0 {
			j.write("0000000000 00000 f \n")
		} else {
			j.write("%010d 00000 n \n", offset)
		}
	}
	j.write("trailer\n<<\n/Size %d\n/Root %d 0 R\n/Info %d 0 R\n>>\n", len(j.offsets)+1, catalog, j.info)
	j.write("startxref\n%d\n%%%%EOF\n", at)
	return j.err
}

// object is an object of a document: what stands between "n 0 obj" and the next one, "endobj" included.
type object struct {
	number int
	body   []byte
}

// objectsOf takes a document apart by its table of objects.
func objectsOf(doc []byte) (list []object, trailer []byte, err error) {
	found := xrefAt.FindSubmatch(doc)
	if found == nil {
		return nil, nil, fmt.Errorf("the document of %d bytes has no end", len(doc))
	}
	at, _ := strconv.Atoi(string(found[1])) // digits
	lines := bytes.Split(doc[at:], []byte("\n"))
	type place struct{ number, at int }
	places := []place{{0, at}} // the end of the last object
	for n, line := range lines[2:] {
		if len(line) < 18 || line[17] != 'n' && line[17] != 'f' {
			trailer = doc[at:]
			break
		}
		if line[17] == 'n' {
			offset, _ := strconv.Atoi(string(line[:10]))
			places = append(places, place{n, offset})
		}
	}
	slices.SortFunc(places, func(a, b place) int { return a.at - b.at })
	for i, p := range places[:len(places)-1] {
		body := doc[p.at:places[i+1].at]
		list = append(list, object{p.number, body[bytes.IndexByte(body, '\n')+1:]})
	}
	return list, trailer, nil
}

// numberIn is the first number that an expression finds; 0 for none.
func numberIn(of *regexp.Regexp, says []byte) int {
	found := of.FindSubmatch(says)
	if found == nil {
		return 0
	}
	n, _ := strconv.Atoi(string(found[1]))
	return n
}
