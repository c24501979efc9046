package kinds_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/kinds"
)

// A kind stands in its own file, its schema, its tests and the list. No other code of the program asks which
// kind an item is of: everything beside works by what the kind says of itself.
func TestAKindStandsInOnePlace(t *testing.T) {
	root := filepath.Join("..", "..")
	for _, k := range kinds.All {
		id := k.Name()
		word := regexp.MustCompile(`"` + id + `"`)
		assert.FileExists(t, id+".go")
		assert.FileExists(t, filepath.Join(root, "core", "schema", "kinds", id+".schema.json"))
		looked := 0
		require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil {
				return err
			}
			rel, _ := filepath.Rel(root, path)
			if d.IsDir() {
				if strings.HasPrefix(d.Name(), ".") && rel != "." ||
					slices.Contains([]string{"vendor", "testdata", "docs", "bin"}, d.Name()) {
					return filepath.SkipDir
				}
				return nil
			}
			own := rel == filepath.Join("core", "kinds", id+".go") ||
				// the quantity c is called least_count as well
				rel == filepath.Join("core", "instrument", "finding.go") ||
				strings.HasPrefix(rel, "demo"+string(filepath.Separator)) || // what the demo's sheets ask is data
				strings.HasSuffix(path, "_test.go")
			if own || !slices.Contains([]string{".go", ".html", ".js"}, filepath.Ext(path)) {
				return nil
			}
			looked++
			b, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			for i, line := range strings.Split(string(b), "\n") {
				if found := word.FindString(line); found != "" && !strings.Contains(line, `json:"`) {
					t.Errorf("%s:%d names the kind %s: %s", rel, i+1, id, strings.TrimSpace(line))
				}
			}
			return nil
		}))
		assert.Greater(t, looked, 60)
	}
}
