package ui

import (
	"errors"
	"io"
	"mime"
	"net/http"
	"net/url"
	"os"
	"strings"
	"time"
	"unicode"

	"cavix/transfer"
)

// Download sends what follows as a file of a name, which is brought to letters and digits that every system takes.
func Download(w http.ResponseWriter, name, media string) {
	w.Header().Set("Content-Type", media)
	w.Header().Set("Content-Disposition",
		mime.FormatMediaType("attachment", map[string]string{"filename": FileName(name)}))
}

// Spooled has a download written to a file of its own before any of it is sent: somebody who reads slowly holds up no
// query then, and what fails is said on a page, not in the middle of a file.
func Spooled(w http.ResponseWriter, name, media string, write func(io.Writer) error) (err error) {
	spool, err := os.CreateTemp("", "cavix-download-*")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, spool.Close(), os.Remove(spool.Name())) }()
	if err := write(spool); err != nil {
		return err
	}
	if _, err := spool.Seek(0, io.SeekStart); err != nil {
		return err
	}
	Download(w, name, media)
	_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(slowly)) // where there is none, none is needed
	_, err = io.Copy(w, spool)
	return err
}

// slowly is how long sending a file may take: some megabytes over a poor line.
const slowly = 10 * time.Minute

// FileName is a name as every system takes it.
func FileName(name string) string {
	name = strings.Map(func(r rune) rune {
		if r == '.' || r < unicode.MaxASCII && (unicode.IsLetter(r) || unicode.IsDigit(r)) {
			return unicode.ToLower(r)
		}
		return '-'
	}, name)
	for strings.Contains(name, "--") {
		name = strings.ReplaceAll(name, "--", "-")
	}
	return strings.ReplaceAll(strings.Trim(name, "-."), "-.", ".")
}

// Bounds of what is brought in by a page: MostFile of a file, or of what is pasted, and MostForm of the form with which
// it goes on from its preview, where each byte may take up to three.
const (
	MostFile = 5 << 20
	MostForm = 10 << 20
)

// GoesOn reports whether a text passes from a preview to what follows it: a form has room for it.
func GoesOn(says string) bool { return len(url.QueryEscape(says)) < MostForm-1<<10 }

// Upload reads the file of a form's field, or what was pasted into its text field where no file was chosen. More than
// MostFile is an http.MaxBytesError.
func Upload(r *http.Request, file, says string) ([]byte, error) {
	const inMemory = 1 << 20
	data, err := upload(r, file, says, inMemory)
	if err == nil && len(data) > MostFile {
		err = &http.MaxBytesError{Limit: MostFile}
	}
	return data, err
}

func upload(r *http.Request, file, says string, inMemory int64) ([]byte, error) {
	if err := r.ParseMultipartForm(inMemory); err != nil && !errors.Is(err, http.ErrNotMultipart) {
		return nil, Unread(err)
	}
	if f, _, err := r.FormFile(file); err == nil {
		defer f.Close()
		b, err := io.ReadAll(f)
		if err != nil {
			return nil, Unread(err)
		}
		if len(b) > 0 {
			return b, nil
		}
	}
	return []byte(r.PostFormValue(says)), nil
}

// FormatOf is the format in which an address asks for a table: CSV, or with ?as=xlsx a spreadsheet.
func FormatOf(r *http.Request) transfer.Format {
	if transfer.Format(r.URL.Query().Get("as")) == transfer.XLSX {
		return transfer.XLSX
	}
	return transfer.CSV
}
