package measure_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/measure"
)

// The measurements run to their end and report every figure; none is judged.
func TestRun(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, measure.Run(
		t.Context(), measure.Options{People: 120, Typing: 60, Lists: 60, Messages: 12, Memory: 500, Incoming: 40, Out: &out},
	))
	for _, figure := range []string{
		"planned, rendered and segmented", "just reading those rows", "95 of 100 within", "the same with 10 copies", "opening a copy", "memory of 500 lines", "Stop, ", "an emergency behind",
		"planned and kept", "handed over",
		"every report taken", "a bare loop: post", "a bare loop: take", "the list of threads", "a bare loop: read and checked", "to one question", "the board of", "the strip", "its first page of people",
	} {
		assert.Contains(t, out.String(), figure)
	}
}
