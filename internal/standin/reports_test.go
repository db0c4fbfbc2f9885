package standin

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestAReportThatNobodyTakesIsSentAgainAtGrowingWaits(t *testing.T) {
	taken := time.Date(2026, 11, 2, 9, 0, 0, 0, time.UTC)
	for name, c := range map[string]struct {
		age, wait time.Duration
		more      bool
	}{
		"at once":                {0, 2 * time.Second, true},
		"after a minute":         {time.Minute, 15 * time.Second, true},
		"after an hour":          {time.Hour, 15 * time.Minute, true},
		"after a day":            {24 * time.Hour, 6 * time.Hour, false},
		"a clock that went back": {-time.Hour, 2 * time.Second, true},
	} {
		t.Run(name, func(t *testing.T) {
			at, more := dueReport{takenAt: taken}.again(taken.Add(c.age))
			assert.Equal(t, c.wait, at.Sub(taken.Add(c.age)))
			assert.Equal(t, c.more, more)
		})
	}
}
