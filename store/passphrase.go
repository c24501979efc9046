package store

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// Argon2id's cost: 19 MiB, 2 passes, 1 lane (the OWASP recommendation).
const (
	argonMemory = 19 << 10 // KiB
	argonPasses = 2
)

// HashPassphrase returns the salted Argon2id hash of a passphrase, in the usual $-separated form.
func HashPassphrase(passphrase string) string {
	salt := make([]byte, 16)
	rand.Read(salt)
	key := argon2.IDKey([]byte(passphrase), salt, argonPasses, argonMemory, 1, 32)
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=1$%s$%s", argon2.Version, argonMemory, argonPasses, b64(salt), b64(key))
}

// CheckPassphrase compares a passphrase with a hash that HashPassphrase made.
func CheckPassphrase(hash, passphrase string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 {
		return false
	}
	var memory, passes uint32
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=1", &memory, &passes); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil || len(want) == 0 {
		return false
	}
	got := argon2.IDKey([]byte(passphrase), salt, passes, memory, 1, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}
