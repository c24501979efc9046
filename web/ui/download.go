package ui

import (
	"errors"
	"io"
	"mime"
	"net/http"
	"os"
	"strings"
	"unicode"

	"cavix/transfer"
)

// Download sends what follows as a file of a name, which is brought to letters and digits that every system takes.
func Download(w http.ResponseWriter, name, media string) {
	w.Header().Set("Content-Type", media)
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": FileName(name)}))
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
	_, err = io.Copy(w, spool)
	return err
}

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

// Upload reads the file of a form's field, or what was pasted into its text field where no file was chosen.
func Upload(r *http.Request, file, text string, most int64) ([]byte, error) {
	if err := r.ParseMultipartForm(most); err != nil && !errors.Is(err, http.ErrNotMultipart) {
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
	return []byte(r.PostFormValue(text)), nil
}

// FormatOf is the format in which an address asks for a table: CSV, or with ?as=xlsx a spreadsheet.
func FormatOf(r *http.Request) transfer.Format {
	if transfer.Format(r.URL.Query().Get("as")) == transfer.XLSX {
		return transfer.XLSX
	}
	return transfer.CSV
}
