package phone_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/phone"
)

func TestParseReadsAllThatPeopleType(t *testing.T) {
	for _, typed := range []string{
		"07700 900417", "07700900417", "+44 7700 900417", "0044 7700 900 417", "(07700) 900-417", "+44 (0)7700 900417",
		"７７00 900417",
	} {
		t.Run(typed, func(t *testing.T) {
			got, err := phone.Parse(typed, "GB")
			require.NoError(t, err)
			assert.Equal(t, "+447700900417", got)
		})
	}
}

func TestParseRefusesWhatIsNoNumber(t *testing.T) {
	for typed, reason := range map[string]string{
		"ask Hugo": "cannot be read", "07700 900": "too short", "0770090041712345": "too long", "": "cannot be read",
	} {
		t.Run(typed, func(t *testing.T) {
			_, err := phone.Parse(typed, "GB")
			require.ErrorIs(t, err, phone.ErrUnreadable)
			require.ErrorContains(t, err, reason)
		})
	}
}

func TestDisplay(t *testing.T) {
	for e164, want := range map[string]string{
		"+447700900417":     "+44 7700 900417",
		"+447700900418":     "+44 7700 900418",
		"+12015550123":      "+1 201-555-0123",
		"rania@example.org": "rania@example.org",
		"+":                 "+",
		"+999":              "+999",
	} {
		assert.Equal(t, want, phone.Display(e164))
	}
}

func TestWithin(t *testing.T) {
	for typed, want := range map[string]string{
		"07700 900417": "7700900417", "+44 7700 900": "+447700900", "(0)77-00": "7700",
		"Rania@Example.org ": "rania@example.org", "900": "900", "": "",
	} {
		assert.Equal(t, want, phone.Within(typed), typed)
	}
}
