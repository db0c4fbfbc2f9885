package readaloud_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/readaloud"
)

func TestSay(t *testing.T) {
	require.True(t, readaloud.Available(), "the tests' machine has espeak-ng")
	for _, tag := range []string{"en", "en-US", "pl", "ar", "vi", "pt-BR", "pt-PT", "uk", "es", "zh-Hans"} {
		t.Run(tag, func(t *testing.T) {
			wav, err := readaloud.Say(t.Context(), "1 2 3", tag, 150)
			require.NoError(t, err)
			seconds := readaloud.Seconds(wav)
			assert.Positive(t, seconds)
			assert.Less(t, seconds, 15)
		})
	}
	slow, err := readaloud.Say(t.Context(), "Meet at the lock at half past eight, and bring a warm layer.", "en", 90)
	require.NoError(t, err)
	quick, err := readaloud.Say(t.Context(), "Meet at the lock at half past eight, and bring a warm layer.", "en", 250)
	require.NoError(t, err)
	assert.Greater(t, len(slow), len(quick))

	_, err = readaloud.Say(t.Context(), "x", "tlh", 150)
	require.ErrorIs(t, err, readaloud.ErrLanguage)
	wav, err := readaloud.Say(t.Context(), "--help", "en", 150)
	require.NoError(t, err, "what looks like an option is text")
	assert.Positive(t, readaloud.Seconds(wav))

	ended, end := context.WithCancel(t.Context())
	end()
	_, err = readaloud.Say(ended, "x", "en", 150)
	require.ErrorIs(t, err, context.Canceled)
}

func TestWithoutTheProgram(t *testing.T) {
	t.Setenv("PATH", t.TempDir())
	assert.False(t, readaloud.Available())
	_, err := readaloud.Say(t.Context(), "x", "en", 150)
	assert.ErrorIs(t, err, readaloud.ErrSilent)
}

func TestSecondsOfWhatIsNoSound(t *testing.T) {
	for _, content := range []string{
		"", "RIFF", "\x89PNG" + string(make([]byte, 100)), "RIFF1234WAVE" + string(make([]byte, 100)),
	} {
		assert.Zero(t, readaloud.Seconds([]byte(content)))
	}
}
