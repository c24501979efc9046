package ui

import (
	"encoding/json"
	"fmt"
	"time"

	"github.com/alexedwards/scs/v2"
)

// SessionCodec writes a session as a JSON object, which is read on every request. A session holds whole numbers and
// texts. Those that an earlier version kept are read as they were written.
type SessionCodec struct{ earlier scs.GobCodec }

// keptSession is a session as it is written.
type keptSession struct {
	Until time.Time         `json:"until"`
	Holds map[string]int64  `json:"holds"`
	Says  map[string]string `json:"says,omitempty"`
}

// Encode writes a session.
func (SessionCodec) Encode(deadline time.Time, values map[string]any) ([]byte, error) {
	k := keptSession{Until: deadline, Holds: make(map[string]int64, len(values))}
	for name, v := range values {
		switch v := v.(type) {
		case int64:
			k.Holds[name] = v
		case string:
			if k.Says == nil {
				k.Says = map[string]string{}
			}
			k.Says[name] = v
		default:
			return nil, fmt.Errorf("a session holds whole numbers and texts only; %s is %T", name, v)
		}
	}
	return json.Marshal(k)
}

// Decode reads a session.
func (c SessionCodec) Decode(b []byte) (deadline time.Time, values map[string]any, err error) {
	if len(b) == 0 || b[0] != '{' {
		return c.earlier.Decode(b)
	}
	var k keptSession
	if err := json.Unmarshal(b, &k); err != nil {
		return time.Time{}, nil, err
	}
	values = make(map[string]any, len(k.Holds))
	for name, n := range k.Holds {
		values[name] = n
	}
	for name, says := range k.Says {
		values[name] = says
	}
	return k.Until, values, nil
}
