package account

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"net/http"
	"slices"
	"strings"
	"time"
)

// knownCookie lists the accounts that have signed in with a browser, so that what others try on them
// elsewhere does not hold it up. It lets nobody in.
const knownCookie = "cavix_known"

// mostKnown is the largest number of accounts that a browser is known for: a class may share one.
const mostKnown = 12

// seal returns the value of a browser's cookie for an account.
func (h *Handler) seal(r *http.Request, account string) (string, error) {
	key, err := h.School.Roster.DeviceKey(r.Context(), time.Now())
	if err != nil {
		return "", err
	}
	sum := hmac.New(sha256.New, []byte(key))
	sum.Write([]byte(account))
	return base64.RawURLEncoding.EncodeToString(sum.Sum(nil)[:15]), nil
}

func seals(r *http.Request) []string {
	c, err := r.Cookie(knownCookie)
	if err != nil || c.Value == "" {
		return nil
	}
	list := strings.Split(c.Value, ".")
	return list[:min(len(list), mostKnown)]
}

// knownFor reports whether somebody has signed in to an account with this browser before.
func (h *Handler) knownFor(r *http.Request, account string) (bool, error) {
	list := seals(r)
	if len(list) == 0 {
		return false, nil
	}
	want, err := h.seal(r, account)
	return slices.ContainsFunc(list, func(s string) bool { return hmac.Equal([]byte(s), []byte(want)) }), err
}

// know has a browser known for an account.
func (h *Handler) know(w http.ResponseWriter, r *http.Request, account string) error {
	s, err := h.seal(r, account)
	if err != nil {
		return err
	}
	list := append([]string{s}, slices.DeleteFunc(seals(r), func(o string) bool { return o == s })...)
	http.SetCookie(w, &http.Cookie{Name: knownCookie, Value: strings.Join(list[:min(len(list), mostKnown)], "."),
		Path: "/", MaxAge: 180 * 24 * 3600, HttpOnly: true, Secure: h.Secure, SameSite: http.SameSiteLaxMode})
	return nil
}
