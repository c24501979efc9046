package ui

import (
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestDecimalsInTheReadersManner(t *testing.T) {
	for text, want := range map[string]string{
		"31.64 mm, not 31.6.":                                                        "31,64 mm, not 31,6.",
		"−0.06 = 31 + 0.64 − (2.5 × 4)":                                              "−0,06 = 31 + 0,64 − (2,5 × 4)",
		"1.2.3 and v1.5, 127.0.0.1:8080":                                             "1.2.3 and v1.5, 127.0.0.1:8080",
		"7 . 5, .5, 5., e.g. 12":                                                     "7 . 5, .5, 5., e.g. 12",
		`<p title="0.5">0.5<br>1.5</p>`:                                              `<p title="0.5">0,5<br>1,5</p>`,
		`<svg><text>0.5</text><g/></svg>0.5`:                                         `<svg><text>0.5</text><g/></svg>0,5`,
		`<h1><a href="/1.5">1.5</a> 2.5</h1>3.5`:                                     `<h1><a href="/1.5">1.5</a> 2.5</h1>3,5`,
		`<svg x="" class="wide plot"><text>0.5</text></svg>0.5<svg><g>0.5</g></svg>`: `<svg x="" class="wide plot"><text>0,5</text></svg>0,5<svg><g>0.5</g></svg>`,
		"</svg></a>0.5":                                                              "</svg></a>0,5",
		"<textarea>0.5</textarea>0.5<!-- 0.5 -->":                                    "<textarea>0.5</textarea>0,5<!-- 0.5 -->",
		`<p>1.5<i`: `<p>1,5<i`,
	} {
		assert.Equal(t, want, commas(text))
	}
	for prefers, comma := range map[string]bool{
		"": false, "en": false, "en-GB,de;q=0.8": false, "de-AT,en;q=0.5": true, "fr": true, "pt-BR": true, "de-CH": false,
		"ja": false, "*": false, "tlh": false, "x;;;=": false, "en;q=0.1,nb": true,
	} {
		r := httptest.NewRequest("GET", "/", nil)
		r.Header.Set("Accept-Language", prefers)
		assert.Equal(t, comma, withComma(r), prefers)
	}
}

// Whatever stands in a page, only points between digits become commas.
func FuzzCommas(f *testing.F) {
	f.Add(`<p>1.5 <svg>2.5</svg></p>`)
	f.Fuzz(func(t *testing.T, page string) {
		said := commas(page)
		if assert.Len(t, said, len(page)) {
			for i := range page {
				if page[i] != said[i] {
					assert.Equal(t, ".,", page[i:i+1]+said[i:i+1])
				}
			}
		}
	})
}
