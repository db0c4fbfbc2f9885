// Package factor holds the rules of the second factor of signing in: codes that change
// with time, and recovery codes.
package factor

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base32"
	"encoding/hex"
	"net/url"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
)

// Codes of the second factor (RFC 6238 §4 and §5.2).
const (
	period = 30 * time.Second
	digits = otp.DigitsSix
	// drift is how many steps a code may be early or late.
	drift = 1
)

// SecretSize is how many random bytes a secret is made of (RFC 4226 §4, R6).
const SecretSize = 20

// Secret writes random bytes as programs for codes take them: base32 without padding.
func Secret(random [SecretSize]byte) string { return plain.EncodeToString(random[:]) }

var plain = base32.StdEncoding.WithPadding(base32.NoPadding)

// URI is what a program for codes reads from a picture: the secret, and for what it is.
func URI(secret, organisation, login string) string {
	// A colon parts the two names of the label.
	name := strings.ReplaceAll(organisation, ":", " ")
	q := url.Values{"secret": {secret}, "issuer": {name}}
	return "otpauth://totp/" + url.PathEscape(name+":"+login) + "?" + strings.ReplaceAll(q.Encode(), "+", "%20")
}

// Step is the step of a code that was typed at an instant, if it is one of the secret
// and later than the last that counted.
func Step(secret, typed string, now time.Time, last int64) (step int64, ok bool) {
	typed = strings.Join(strings.Fields(typed), "")
	at := now.Unix() / int64(period/time.Second)
	for step := max(at-drift, last+1); step <= at+drift; step++ {
		code, err := hotp.GenerateCodeCustom(secret, uint64(step), hotp.ValidateOpts{
			Digits: digits, Algorithm: otp.AlgorithmSHA1,
		})
		if err == nil && hmac.Equal([]byte(code), []byte(typed)) {
			return step, true
		}
	}
	return 0, false
}

// Recovery codes, which let in when the device is lost.
const (
	RecoveryCodes = 10
	RecoverySize  = 10 // random bytes of one
)

// Recovery writes random bytes as a code that people can copy by hand.
func Recovery(random [RecoverySize]byte) string {
	text := strings.ToLower(plain.EncodeToString(random[:]))
	return text[:4] + "-" + text[4:8] + "-" + text[8:12] + "-" + text[12:]
}

// RecoveryHash is what is kept of a recovery code, however it was typed. Its 80 random
// bits need no slower hash.
func RecoveryHash(typed string) string {
	kept := strings.Map(func(r rune) rune {
		switch {
		case 'a' <= r && r <= 'z', '2' <= r && r <= '7':
			return r
		case 'A' <= r && r <= 'Z':
			return r + 'a' - 'A'
		}
		return -1
	}, typed)
	sum := sha256.Sum256([]byte(kept))
	return hex.EncodeToString(sum[:])
}
