package instrument_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/length"
)

func TestReadVectors(t *testing.T) {
	data, err := os.ReadFile("../../testdata/read.json")
	require.NoError(t, err)
	var vectors []readVector
	require.NoError(t, json.Unmarshal(data, &vectors))
	for _, v := range vectors {
		v.hold(t)
	}
	assert.Len(t, vectors, 80)
	var scales struct{ Read []readVector }
	data, err = os.ReadFile("../../testdata/scales.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &scales))
	for _, v := range scales.Read {
		v.hold(t)
	}
	assert.Len(t, scales.Read, 60)
}

// readVector is an instrument at a position, and what it reads.
type readVector struct {
	Instrument json.RawMessage
	Position   struct {
		Indicated, Size *length.Number
		Closed          bool
	}
	Between instrument.Between
	Expect  map[string]any
}

func (v readVector) hold(t *testing.T) {
	t.Helper()
	in, err := instrument.Parse(v.Instrument)
	require.NoError(t, err, "%s", v.Instrument)
	y := in.Closed()
	if v.Position.Indicated != nil {
		y = *v.Position.Indicated
	}
	if v.Position.Size != nil {
		y = v.Position.Size.Add(in.Spec().ZeroError)
	}
	r, err := in.ReadBy(y, v.Between)
	require.NoError(t, err)
	var got map[string]any
	b, err := json.Marshal(in.Report(r))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(b, &got))
	for key, want := range v.Expect {
		have := got[strings.TrimSuffix(key, "_text")]
		if text, isText := want.(string); isText && !strings.HasSuffix(key, "_text") {
			w, err := length.Parse(text)
			if err != nil { // in degrees and minutes
				assert.Equal(t, text, have, "%s in %s", key, v.Instrument)
				continue
			}
			h, err := length.Parse(have.(string))
			require.NoError(t, err)
			assert.True(t, w.Equal(h), "%s: %s, want %s in %s", key, h, w, v.Instrument)
			continue
		}
		assert.Equal(t, want, have, "%s in %s", key, v.Instrument)
	}
}

func TestRefuseVectors(t *testing.T) {
	data, err := os.ReadFile("../../testdata/refuse.json")
	require.NoError(t, err)
	var vectors []struct {
		Instrument json.RawMessage
		Names      string
	}
	require.NoError(t, json.Unmarshal(data, &vectors))
	for _, v := range vectors {
		_, err := instrument.Parse(v.Instrument)
		require.Error(t, err)
		assert.True(t, strings.HasPrefix(err.Error(), v.Names+": "), "%q should name %q first", err, v.Names)
	}
	assert.Len(t, vectors, 8)
	var scales struct {
		Refuse []struct {
			Instrument json.RawMessage
			Names      string
		}
	}
	data, err = os.ReadFile("../../testdata/scales.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &scales))
	held := 0
	for _, v := range scales.Refuse {
		if v.Instrument == nil {
			continue
		}
		held++
		_, err := instrument.Parse(v.Instrument)
		if assert.Error(t, err, "%s", v.Instrument) {
			assert.True(t, strings.HasPrefix(err.Error(), v.Names+": "), "%q should name %q first", err, v.Names)
		}
	}
	assert.Equal(t, 8, held)
}
