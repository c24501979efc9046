package ui

import (
	"html/template"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"cavix/core/text"
	"cavix/locale"
)

// A time is written by its own zone's clock, for people and for the browser alike; a zero time is nothing.
func TestTimesAreWrittenByTheirOwnClock(t *testing.T) {
	said := locale.English(text.Words{})
	at := time.Date(2026, 3, 1, 0, 30, 0, 0, time.FixedZone("far", 10*60*60)) // the day before elsewhere
	assert.Equal(t, template.HTML(`<time datetime="2026-03-01">1 Mar</time>`), Day(at).html(said))
	assert.Equal(t, template.HTML(`<time datetime="2026-03-01">1 Mar 2026</time>`), Date(at).html(said))
	assert.Equal(t, template.HTML(`<time datetime="2026-03-01T00:30">1 Mar, 00:30</time>`), Moment(at).html(said))
	assert.Equal(t, template.HTML(`<time datetime="2026-03-01T00:30">1 Mar 2026, 00:30</time>`),
		LongMoment(at).html(said))
	assert.Empty(t, Moment(time.Time{}).html(said))
}
