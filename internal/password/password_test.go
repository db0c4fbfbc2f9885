package password_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/password"
)

func TestWhichPasswordsDo(t *testing.T) {
	for name, c := range map[string]struct {
		typed string
		says  string
	}{
		"words that do not belong together": {"otter gravel teapot", ""},
		"in another script":                 {"фонарь над рекой", ""},
		"no kinds of characters are asked":  {"kettlebarnswim", ""},
		"too short":                         {"x7#Qp", "5 characters"},
		"short in characters, not bytes":    {"фонарьнад", "9 characters"},
		"too long":                          {strings.Repeat("otter gravel ", 20), "260 characters"},
		"tried first":                       {"password123", "tried first"},
		"a row of keys":                     {"qwertyuiop", "tried first"},
		"the same again and again":          {"aaaaaaaaaaaaaaaa", "tried first"},
		"its owner's name":                  {"hugofarrowby", "tried first"},
	} {
		t.Run(name, func(t *testing.T) {
			err := password.Check(c.typed, "Hugo Farrowby", "hugofarrowby")
			if c.says == "" {
				require.NoError(t, err)
				return
			}
			require.ErrorIs(t, err, password.ErrWeak)
			assert.ErrorContains(t, err, c.says)
		})
	}
}

func TestAHashIsOfItsPasswordOnly(t *testing.T) {
	cost := &password.Cost{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	hash, err := password.Hash("otter gravel teapot", cost)
	require.NoError(t, err)
	again, err := password.Hash("otter gravel teapot", cost)
	require.NoError(t, err)
	assert.NotEqual(t, hash, again, "each has a salt of its own")
	for typed, want := range map[string]bool{"otter gravel teapot": true, "otter gravel teapots": false, "": false} {
		got, err := password.Matches(typed, hash)
		require.NoError(t, err)
		assert.Equal(t, want, got, typed)
	}
}
