package ui

import (
	"errors"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// hostileForm has what forms of ours have: texts, numbers, lists of structs, structs within structs.
type hostileForm struct {
	Text  string            `form:"text"`
	N     int               `form:"n"`
	IDs   []int64           `form:"ids"`
	Map   map[string]string `form:"map"`
	Parts []struct {
		Name string `form:"name"`
		Deep []struct {
			X string `form:"x"`
		} `form:"deep"`
	} `form:"parts"`
}

// What no page of ours sends is refused as no form, and never a fault of the server.
func FuzzDecode(f *testing.F) {
	for _, key := range []string{"text", "n", "ids", "ids[0]", "ids[-1]", "ids[99999999999999999999]", "map[a]",
		"parts[0].name", "parts[0].deep[1].x", "parts[0].deep[1].x[0]", strings.Repeat("a[", 50_000), "parts[",
		"parts]", "[]", ".", "parts[0]..name", "parts[4000000000].name"} {
		f.Add(key, "1")
	}
	f.Fuzz(func(t *testing.T, key, value string) {
		var into hostileForm
		err := decoded(url.Values{key: {value}, "text": {"kept"}}, &into)
		var bad BadForm
		assert.True(t, err == nil || errors.As(err, &bad), "%v", err)
	})
}
