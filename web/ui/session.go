package ui

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
)

// SessionCodec writes a session as a query of a URL, which is read on every request. A session holds whole numbers and
// texts. Those that an earlier version kept are read as they were written.
type SessionCodec struct{ earlier scs.GobCodec }

// Keys of a session: that of its end, and what stands before the name of each value.
const (
	sessionUntil  = "until"
	sessionNumber = "n."
	sessionText   = "t."
)

// Encode writes a session.
func (SessionCodec) Encode(deadline time.Time, values map[string]any) ([]byte, error) {
	q := url.Values{sessionUntil: {deadline.Format(time.RFC3339Nano)}}
	for name, v := range values {
		switch v := v.(type) {
		case int64:
			q.Set(sessionNumber+name, strconv.FormatInt(v, 10))
		case string:
			q.Set(sessionText+name, v)
		default:
			return nil, fmt.Errorf("a session holds whole numbers and texts only; %s is %T", name, v)
		}
	}
	return []byte(q.Encode()), nil
}

// Decode reads a session. One that cannot be read is empty, for a day: whoever has it signs in again.
func (c SessionCodec) Decode(b []byte) (deadline time.Time, values map[string]any, err error) {
	q, err := url.ParseQuery(string(b))
	if err == nil && q.Has(sessionUntil) {
		deadline, values, err = sessionOf(q)
	} else {
		deadline, values, err = c.earlier.Decode(b)
	}
	if err != nil {
		return time.Now().Add(24 * time.Hour), map[string]any{}, nil
	}
	return deadline, values, nil
}

func sessionOf(q url.Values) (deadline time.Time, values map[string]any, err error) {
	if deadline, err = time.Parse(time.RFC3339Nano, q.Get(sessionUntil)); err != nil {
		return time.Time{}, nil, err
	}
	q.Del(sessionUntil)
	values = make(map[string]any, len(q))
	for key := range q {
		name, isText := strings.CutPrefix(key, sessionText)
		if isText {
			values[name] = q.Get(key)
			continue
		}
		n, err := strconv.ParseInt(q.Get(key), 10, 64)
		if err != nil {
			return time.Time{}, nil, err
		}
		values[strings.TrimPrefix(key, sessionNumber)] = n
	}
	return deadline, values, nil
}
