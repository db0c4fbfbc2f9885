package factor_test

import (
	"encoding/base32"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/factor"
)

// The secret of RFC 6238, Appendix B, whose codes have eight digits there.
var secret = base32.StdEncoding.EncodeToString([]byte("12345678901234567890"))

func TestCodesOfTheStandard(t *testing.T) {
	for seconds, code := range map[int64]string{
		59: "287082", 1111111109: "081804", 1111111111: "050471", 1234567890: "005924", 2000000000: "279037",
	} {
		step, ok := factor.Step(secret, code, time.Unix(seconds, 0), 0)
		assert.True(t, ok, "%d", seconds)
		assert.Equal(t, seconds/30, step)
	}
}

func TestWhenACodeCounts(t *testing.T) {
	at := time.Unix(1234567890, 0) // the beginning of a step
	for name, c := range map[string]struct {
		typed string
		after time.Duration
		last  int64
		ok    bool
	}{
		"now":                    {"005924", 0, 0, true},
		"with a space":           {"005 924", 0, 0, true},
		"one step late":          {"005924", 30 * time.Second, 0, true},
		"one step early":         {"005924", -time.Second, 0, true},
		"two steps late":         {"005924", 60 * time.Second, 0, false},
		"two steps early":        {"005924", -31 * time.Second, 0, false},
		"a second time":          {"005924", 0, 1234567890 / 30, false},
		"after a later one":      {"005924", 30 * time.Second, 1234567890/30 + 1, false},
		"after an earlier one":   {"005924", 0, 1234567890/30 - 1, true},
		"another":                {"005925", 0, 0, false},
		"nothing":                {"", 0, 0, false},
		"the code and something": {"0059240", 0, 0, false},
	} {
		t.Run(name, func(t *testing.T) {
			_, ok := factor.Step(secret, c.typed, at.Add(c.after), c.last)
			assert.Equal(t, c.ok, ok)
		})
	}
}

func TestNoCodeCountsTwice(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now, last := int64(1_700_000_000), int64(0)
		for range 20 {
			now += rapid.Int64Range(0, 45).Draw(t, "seconds")
			code := rapid.StringMatching(`\d{6}`).Draw(t, "code")
			step, ok := factor.Step(secret, code, time.Unix(now, 0), last)
			if ok {
				assert.Greater(t, step, last)
				last = step
			}
		}
	})
}

func TestWhatProgramsForCodesRead(t *testing.T) {
	uri := factor.URI(secret, "Quillmere: Rowing & Flood Watch", "hugo+1@quillmere.example")
	u, err := url.Parse(uri)
	require.NoError(t, err)
	assert.Equal(t, "otpauth", u.Scheme)
	assert.Equal(t, "/Quillmere  Rowing & Flood Watch:hugo+1@quillmere.example", u.Path)
	assert.Equal(t, secret, u.Query().Get("secret"))
	assert.NotContains(t, uri, "+Flood")
	assert.Len(t, factor.Secret([factor.SecretSize]byte{}), 32)
}

func TestRecoveryCodesHoweverTheyAreTyped(t *testing.T) {
	code := factor.Recovery([factor.RecoverySize]byte{1, 2, 3, 4, 5, 6, 7, 8, 9, 10})
	assert.Regexp(t, `^[a-z2-7]{4}(-[a-z2-7]{4}){3}$`, code)
	hash := factor.RecoveryHash(code)
	assert.Equal(t, hash, factor.RecoveryHash(" "+strings.ToUpper(strings.ReplaceAll(code, "-", " "))))
	assert.NotEqual(t, hash, factor.RecoveryHash(factor.Recovery([factor.RecoverySize]byte{})))
}
