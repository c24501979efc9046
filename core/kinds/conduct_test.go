package kinds_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
)

// Every way in which a sheet can be taken goes out with its document and comes in again.
func TestConductTravels(t *testing.T) {
	const sheet = `{"format":"cavix/sheet","version":1,"title":"Order","blocks":[{"kind":"care","cards":1}],%s}`
	for field, choices := range exercise.ConductChoices {
		for _, c := range choices {
			doc := fmt.Appendf(nil, sheet, fmt.Sprintf("%q:%q", field, c.Value))
			s, err := kinds.All.ParseSheet(doc)
			require.NoError(t, err, "%s %q", field, c.Value)
			out, err := json.Marshal(s.Sheet)
			require.NoError(t, err)
			if c.Value != "" {
				assert.Contains(t, string(out), fmt.Sprintf("%q:%q", field, c.Value))
			}
		}
	}
}
