package link_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/link"
	"upperlantern/internal/core/roster"
)

var now = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func TestALinkIsForOnePersonUntilAMoment(t *testing.T) {
	token := link.Make("secret", 417, now.Add(time.Hour))
	person, until, err := link.Read("secret", token, now)
	require.NoError(t, err)
	assert.Equal(t, roster.PersonID(417), person)
	assert.True(t, until.Equal(now.Add(time.Hour)))
	_, _, err = link.Read("secret", token, now.Add(time.Hour))
	require.ErrorIs(t, err, link.ErrExpired)
	for _, c := range []struct{ secret, token string }{
		{"other", token}, {"", token}, {"secret", token[:len(token)-2]}, {"secret", ""}, {"secret", "§"},
		{"secret", token[:len(token)-1] + string(token[len(token)-1]+1)}, // only bits that mean nothing
	} {
		_, _, err = link.Read(c.secret, c.token, now)
		require.ErrorIs(t, err, link.ErrNotOurs)
	}
}

// Whatever is changed in a token, it is not one of ours any more.
func TestAChangedLinkDoesNotWork(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		token := []byte(link.Make("secret", roster.PersonID(rapid.Int64Min(1).Draw(t, "person")), now.Add(time.Hour)))
		at := rapid.IntRange(0, len(token)-1).Draw(t, "at")
		by := rapid.SampledFrom([]byte("ABCxyz019-_")).Draw(t, "by")
		if token[at] == by {
			return
		}
		token[at] = by
		if _, _, err := link.Read("secret", string(token), now); err == nil {
			t.Fatalf("%s was taken", token)
		}
	})
}

func FuzzRead(f *testing.F) {
	f.Add(link.Make("secret", 1, now))
	f.Fuzz(func(t *testing.T, token string) {
		if _, _, err := link.Read("another secret", token, now); err == nil {
			t.Fatal("a token of nobody was taken")
		}
	})
}

func TestFeed(t *testing.T) {
	token := link.MakeFeed("secret", 7)
	account, err := link.ReadFeed("secret", token)
	require.NoError(t, err)
	assert.Equal(t, int64(7), account)
	personal := link.Make("secret", 7, time.Now().Add(time.Hour))
	for name, c := range map[string]struct{ secret, token string }{
		"another secret": {"other", token}, "no secret": {"", token}, "a personal link": {"secret", personal},
		"nothing": {"secret", ""}, "cut": {"secret", token[:10]},
	} {
		_, err := link.ReadFeed(c.secret, c.token)
		assert.ErrorIs(t, err, link.ErrNotOurs, name)
	}
	_, _, err = link.Read("secret", token, time.Now())
	assert.ErrorIs(t, err, link.ErrNotOurs, "a feed is no personal link")
}

func TestALinkToAReadingIsForNothingElse(t *testing.T) {
	token := link.MakeReading("secret", 7, now.Add(time.Hour))
	id, until, err := link.ReadReading("secret", token, now)
	require.NoError(t, err)
	assert.Equal(t, int64(7), id)
	assert.True(t, until.Equal(now.Add(time.Hour)))
	_, _, err = link.ReadReading("secret", token, until)
	require.ErrorIs(t, err, link.ErrExpired)
	_, _, err = link.Read("secret", token, now)
	require.ErrorIs(t, err, link.ErrNotOurs, "it does not open somebody's details")
	_, _, err = link.ReadReading("secret", link.Make("secret", 7, now.Add(time.Hour)), now)
	require.ErrorIs(t, err, link.ErrNotOurs, "a personal link opens no reading")
}
