package holiday_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/holiday"
)

func TestOn(t *testing.T) {
	for _, c := range []struct{ region, day, want string }{
		{"GB", "2026-12-25", "Christmas Day"},
		{"GB", "2026-12-28", "Boxing Day"}, // the 26th is a Saturday
		{"GB", "2026-04-03", "Good Friday"},
		{"GB", "2026-11-25", ""},
		{"PL", "2026-11-11", "Narodowe Święto Niepodległości"},
		{"XX", "2026-12-25", ""},
	} {
		day, err := time.Parse(time.DateOnly, c.day)
		assert.NoError(t, err)
		assert.Equal(t, c.want, holiday.On(c.region, day), c.region+" "+c.day)
	}
}
