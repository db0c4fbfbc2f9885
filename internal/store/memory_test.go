package store

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
)

// Lines that share much with another are found in a large memory, those of the language
// that is asked for, before and after the memory is tidied.
func TestLikeLinesAreFound(t *testing.T) {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	remember := func(language string, texts ...string) {
		var list []MemoryLine
		for _, text := range texts {
			list = append(list, MemoryLine{From: "en", Recalled: Recalled{
				Remembered: copies.Remembered{Original: lines.Line{Text: text}, Language: language, Text: language + " " + text},
				CheckedBy:  "Ola Nowak", CheckedAt: time.Now(),
			}})
		}
		require.NoError(t, s.Remember(t.Context(), list))
	}
	for n := range 40 { // in many writes, so that the index grows in parts
		remember("ar", fmt.Sprintf("The %d boats are washed by crew number %d on Sunday.", n, n*7), fmt.Sprintf("Key %d hangs in hall %d.", n, n))
	}
	remember("pl", "Please bring warm gloves to the pool session.")
	asked := func(language, text string) (found []string) {
		list, err := s.LikeLines(t.Context(), "en", language, text)
		require.NoError(t, err)
		for _, c := range list {
			found = append(found, c.Original)
		}
		return found
	}
	for range 2 {
		assert.Equal(t, []string{"Please bring warm gloves to the pool session."}, asked("pl", "Please bring warm socks to the pool session."))
		assert.Equal(t, []string{"Please bring warm gloves to the pool session."}, asked("", "Please bring warm socks to the pool session."))
		assert.Empty(t, asked("ar", "Please bring warm socks to the pool session."), "it is not said in Arabic")
		assert.Contains(t, asked("ar", "The 3 boats are washed by crew number 21 on Monday."), "The 3 boats are washed by crew number 21 on Sunday.")
		assert.Empty(t, asked("pl", ""))
		require.NoError(t, s.TidyMemory(t.Context()))
	}
	list, err := s.LikeLines(t.Context(), "en", "pl", "Please bring warm socks to the pool session.")
	require.NoError(t, err)
	targets, err := s.Targets(t.Context(), []int64{list[0].ID, 999}, "pl")
	require.NoError(t, err)
	require.Len(t, targets, 1)
	assert.Equal(t, "pl Please bring warm gloves to the pool session.", targets[list[0].ID][0].Text)
}
