package store

import (
	"context"
	"time"

	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
)

// loadAge is how old the count of what people were sent may get; sending and
// stopping make it anew at once.
const loadAge = time.Minute

// loads are what people were sent lately, as counted at an instant.
type loads struct {
	at   time.Time
	sent int64 // Store.sent when they were counted
	by   map[roster.PersonID]plan.Load
}

// Loads tells how many messages somebody was sent within plan.LoadTime.
func (s *Store) Loads(ctx context.Context, now time.Time) (func(roster.PersonID) plan.Load, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.loads.by == nil || s.loads.sent != s.sent.Load() || now.Sub(s.loads.at).Abs() > loadAge {
		counted := loads{at: now, sent: s.sent.Load(), by: map[roster.PersonID]plan.Load{}}
		rows, err := s.read().Loads(ctx, millis(now.Add(-plan.LoadTime)))
		if err != nil {
			return nil, err
		}
		for _, row := range rows {
			id := roster.PersonID(row.PersonID.Int64)
			l := counted.by[id]
			switch roster.Urgency(row.Urgency) {
			case roster.Routine:
				l.Routine += int(row.Messages)
			case roster.Timely:
				l.Timely += int(row.Messages)
			case roster.Emergency:
				l.Emergency += int(row.Messages)
			}
			counted.by[id] = l
		}
		s.loads = counted
	}
	by := s.loads.by
	return func(id roster.PersonID) plan.Load { return by[id] }, nil
}
