package transfer

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"

	"cavix/core/course"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/locale"
)

// Bounds of a course file, so that a small one cannot grow without end when it is read.
const (
	mostFiles  = 1500
	mostOfFile = 2 << 20  // bytes of one file
	mostOfAll  = 32 << 20 // of all
)

// CourseFile is a course as one file carries it.
type CourseFile struct {
	course.Course
	People  []Person
	Refused []BadFile   // documents that cannot stand
	Left    []text.Text // what the file holds and nobody brings in, in words
}

// BadFile is a document of a course file that cannot stand.
type BadFile struct{ Name, Reason text.Text }

// Names of the files of a course.
const (
	headFile    = "course.json"
	peopleFile  = "people.csv"
	answersFile = "answers.csv"
)

// WriteCourse writes a course as one file. People and answers are left out where they are nil; answers writes the table
// that formats.md describes.
func WriteCourse(w io.Writer, c course.Course, people []Person, answers func(io.Writer) error) error {
	b := NewBundle(w)
	h := course.NewHead(c)
	h.Instruments, h.Sheets = make([]string, len(c.Instruments)), make([]string, len(c.Sheets))
	for i, in := range c.Instruments {
		h.Instruments[i] = fileName("instruments", i, in.Name())
	}
	for i, s := range c.Sheets {
		h.Sheets[i] = fileName("sheets", i, s.Title)
	}
	for i, it := range c.Bank {
		h.Care = append(h.Care, fileName("bank", i, locale.Documents().Print(it.Says())))
	}
	err := b.JSON(headFile, h)
	for i, in := range c.Instruments {
		err = errors.Join(err, b.JSON(h.Instruments[i], in))
	}
	for i, s := range c.Sheets {
		err = errors.Join(err, b.JSON(h.Sheets[i], s))
	}
	for i, it := range c.Bank {
		err = errors.Join(err, b.JSON(h.Care[i], it))
	}
	if err == nil && people != nil {
		var f io.Writer
		if f, err = b.File(peopleFile); err == nil {
			err = WritePeople(CSV, f, people)
		}
	}
	if err == nil && answers != nil {
		var f io.Writer
		if f, err = b.File(answersFile); err == nil {
			err = answers(f)
		}
	}
	return errors.Join(err, b.Close())
}

// fileName names a file of a course, in letters and digits that every system takes.
func fileName(folder string, i int, title string) string {
	var name strings.Builder
	for _, r := range strings.ToLower(title) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			name.WriteRune(r)
		case name.Len() > 0 && !strings.HasSuffix(name.String(), "-"):
			name.WriteByte('-')
		}
		if name.Len() >= 40 {
			break
		}
	}
	return fmt.Sprintf("%s/%03d-%s.json", folder, i+1, strings.Trim(name.String(), "-"))
}

// ReadCourse reads a course file, or one document alone: an instrument, a sheet, an item of a bank. Of a course only
// the files that its head names are read, and people.csv. Documents that cannot stand are told; the error is for a file
// that cannot be read at all.
func ReadCourse(data []byte) (CourseFile, error) {
	if len(data) == 0 {
		return CourseFile{}, text.Error("course-file.read-course")
	}
	if !bytes.HasPrefix(data, []byte("PK")) {
		var f CourseFile
		if err := f.Add(data); err != nil {
			f.Refused = append(f.Refused, BadFile{text.New("course-file.document"), refusal.Says(err)})
		}
		return f, nil
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return CourseFile{}, text.Error("course-file.no-zip-file-can", "err", err)
	}
	if len(z.File) > mostFiles {
		return CourseFile{}, text.Error("course-file.holds-files-course-most", "file", len(z.File), "most_files",
			mostFiles)
	}
	return courseReader{map[string]*zip.File{}, new(int64)}.read(z.File)
}

// courseReader reads files of a course within its bounds.
type courseReader struct {
	files map[string]*zip.File
	all   *int64 // bytes read so far
}

func (r courseReader) read(list []*zip.File) (f CourseFile, err error) {
	for _, file := range list {
		r.files[file.Name] = file
	}
	data, err := r.file(headFile)
	if err != nil {
		return f, err
	}
	h, c, err := course.ReadHead(data)
	if err != nil {
		return f, text.Error("course-file.read", "head_file", headFile, "err", err)
	}
	f.Course = c
	for _, names := range [][]string{h.Instruments, h.Sheets, h.Care} {
		for _, name := range names {
			data, err := r.file(name)
			if err == nil {
				err = f.Add(data)
			}
			if err != nil {
				f.Refused = append(f.Refused, BadFile{text.Typed(name), refusal.Says(err)})
			}
		}
	}
	if _, there := r.files[peopleFile]; there {
		data, err := r.file(peopleFile)
		if err == nil {
			f.People, err = ReadPeople(data)
		}
		if err != nil {
			f.Refused = append(f.Refused, BadFile{text.Typed(peopleFile), refusal.Says(err)})
		}
		for _, p := range f.People {
			if !p.Bad.IsZero() {
				f.Refused = append(f.Refused,
					BadFile{text.New("course-file.line", "people_file", peopleFile, "line", p.Line), p.Bad})
			}
		}
	}
	if _, there := r.files[answersFile]; there {
		f.Left = append(f.Left, text.New("course-file.answers-csv-stays-table"))
	}
	return f, nil
}

// file reads one file. Its name is only looked up among those of the zip, so no path leads out of it.
func (r courseReader) file(name string) ([]byte, error) {
	f, there := r.files[name]
	if !there {
		return nil, text.Error("course-file.file", "name", name)
	}
	in, err := f.Open()
	if err != nil {
		return nil, text.Error("course-file.as-it-is", "name", name, "err", err)
	}
	defer in.Close()
	data, err := io.ReadAll(io.LimitReader(in, mostOfFile+1))
	if err != nil {
		return nil, text.Error("course-file.as-it-is", "name", name, "err", err)
	}
	if *r.all += int64(len(data)); len(data) > mostOfFile || *r.all > mostOfAll {
		return nil, text.Error("course-file.too-long-document-most", "name", name, "most_of_file", mostOfFile>>20,
			"most_of_all", mostOfAll>>20)
	}
	return data, nil
}

// Document writes one document as it is taken out alone, indented for people.
func Document(w io.Writer, v any) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	enc.SetEscapeHTML(false)
	return enc.Encode(v)
}
