package speech_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/speech"
)

func TestSay(t *testing.T) {
	require.True(t, speech.Available(), "the tests' machine has espeak-ng")
	for _, tag := range []string{"en", "en-US", "pl", "ar", "vi", "pt-BR", "pt-PT", "uk", "es", "zh-Hans"} {
		t.Run(tag, func(t *testing.T) {
			wav, err := speech.Say(t.Context(), "1 2 3", tag, 150)
			require.NoError(t, err)
			seconds := speech.Seconds(wav)
			assert.Positive(t, seconds)
			assert.Less(t, seconds, 15)
		})
	}
	slow, err := speech.Say(t.Context(), "Meet at the lock at half past eight, and bring a warm layer.", "en", 90)
	require.NoError(t, err)
	quick, err := speech.Say(t.Context(), "Meet at the lock at half past eight, and bring a warm layer.", "en", 250)
	require.NoError(t, err)
	assert.Greater(t, len(slow), len(quick))

	_, err = speech.Say(t.Context(), "x", "tlh", 150)
	require.ErrorIs(t, err, speech.ErrLanguage)
	wav, err := speech.Say(t.Context(), "--help", "en", 150)
	require.NoError(t, err, "what looks like an option is text")
	assert.Positive(t, speech.Seconds(wav))

	ended, end := context.WithCancel(t.Context())
	end()
	_, err = speech.Say(ended, "x", "en", 150)
	require.ErrorIs(t, err, context.Canceled)
}

func TestWithoutTheProgram(t *testing.T) {
	t.Setenv("PATH", t.TempDir())
	assert.False(t, speech.Available())
	_, err := speech.Say(t.Context(), "x", "en", 150)
	assert.ErrorIs(t, err, speech.ErrSilent)
}

func TestSecondsOfWhatIsNoSound(t *testing.T) {
	for _, content := range []string{"", "RIFF", "\x89PNG" + string(make([]byte, 100)), "RIFF1234WAVE" + string(make([]byte, 100))} {
		assert.Zero(t, speech.Seconds([]byte(content)))
	}
}
