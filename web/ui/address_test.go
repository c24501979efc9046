package ui

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
)

// An address that pages show is one that others can open, or it is said that they cannot.
func TestAddress(t *testing.T) {
	alone, reached := &Site{}, &Site{Reach: []string{"10.0.0.5:8080"}}
	for host, here := range map[string]bool{"127.0.0.1:8080": true, "localhost:8080": true, "LOCALHOST": true,
		"[::1]:8080": true, "[::1]": true, "mill.localhost:80": true, "10.0.0.5:8080": false, "mill.example": false,
		"127.example:80": false, "localhost.example": false, "": false} {
		r := httptest.NewRequest("GET", "/", nil)
		r.Host = host
		assert.Equal(t, here, alone.OnlyHere(r), host)
		assert.Equal(t, "http://"+host+"/join", alone.Address(r, "/join"))
		assert.False(t, reached.OnlyHere(r), host)
		if here {
			assert.Equal(t, "http://10.0.0.5:8080/join", reached.Address(r, "/join"), host)
		}
	}
	assert.Equal(t, "https://mill.example/join", (&Site{Secure: true}).Address(&http.Request{Host: "mill.example"},
		"/join"))
}
