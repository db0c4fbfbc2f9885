package personal_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/personal"
	"upperlantern/internal/store"
)

var now = time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC)

// van is a terminal to which one emergency was pushed.
type van struct{ personal.Store }

func (van) Visit(context.Context, string) (editing.Visitor, error) {
	return editing.Visitor{
		View: editing.View{Roster: &roster.Roster{}}, Sheet: &roster.Sheet{}, Kept: store.KeptPage{ID: 1, Device: "Van"},
	}, nil
}

func (van) Received(context.Context, roster.PersonID, time.Time) ([]own.Received, error) {
	return []own.Received{{
		Message: 1, Key: "K1", Channel: roster.Push, Address: "Van", State: delivery.Carrier, Urgency: roster.Emergency, Left: now,
	}}, nil
}

func (van) Wrote(context.Context, roster.PersonID, time.Time) ([]own.Wrote, error) { return nil, nil }

// A terminal shows what it must show also while that it arrived cannot be kept.
func TestATerminalShowsAllTheSame(t *testing.T) {
	broken := errors.New("broken")
	for name, c := range map[string]struct{ reported, fails error }{
		"as usual":                 {nil, nil},
		"the disk is full":         {store.ErrFull, nil},
		"the delivery is not ours": {store.ErrNotFound, nil},
		"anything else":            {broken, broken},
	} {
		t.Run(name, func(t *testing.T) {
			var got []delivery.Report
			s := personal.Service{
				Store: van{}, Visits: van{}, Now: func() time.Time { return now },
				Report: func(_ context.Context, r delivery.Report) error {
					got = append(got, r)
					return c.reported
				},
			}
			p, err := s.Page(t.Context(), "key")
			require.ErrorIs(t, err, c.fails)
			require.Len(t, got, 1)
			assert.Equal(t, delivery.Arrived, got[0].State)
			if c.fails == nil {
				assert.True(t, p.Items[0].Waits)
			}
		})
	}
}
