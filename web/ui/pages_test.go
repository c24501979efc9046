package ui_test

import (
	"io/fs"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/web/account"
	"cavix/web/admin"
	"cavix/web/author"
	"cavix/web/bench"
	"cavix/web/board"
	"cavix/web/class"
	"cavix/web/handbook"
	"cavix/web/student"
	"cavix/web/survey"
	"cavix/web/ui"
)

// Pages are made when they are first asked for; this one asks for all.
func TestEveryPageCanBeMade(t *testing.T) {
	places := []fs.FS{account.Files, admin.Files, author.Files, bench.Files, board.Files, class.Files, handbook.Files,
		student.Files, survey.Files}
	site, err := ui.New(ui.Site{}, places...)
	require.NoError(t, err)
	made, err := site.MakeAll()
	require.NoError(t, err)
	files := 0
	for _, p := range places {
		pages, err := fs.Glob(p, "*.html")
		require.NoError(t, err)
		files += len(pages)
	}
	assert.GreaterOrEqual(t, made, files/2)
}
