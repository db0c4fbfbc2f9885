package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// loadAge is how old the count of what people were sent may get; sending and
// stopping make it anew at once.
const loadAge = time.Minute

// lately is what was sent lately, as counted at an instant.
type lately struct {
	at    time.Time
	sent  int64 // Store.sent when it was counted
	loads map[roster.PersonID]plan.Load
	spent map[time.Time][]query.SpentRow // by the instant from which on it is counted
}

// recent is the count that holds now; the caller holds the store's lock.
func (s *Store) recent(now time.Time) *lately {
	if s.lately.sent != s.sent.Load() || now.Sub(s.lately.at).Abs() > loadAge {
		s.lately = lately{at: now, sent: s.sent.Load()}
	}
	return &s.lately
}

// Near lists the messages that were sent, or are to leave, between two instants.
func (s *Store) Near(ctx context.Context, from, to time.Time) ([]plan.Near, error) {
	rows, err := s.read().NearMessages(ctx, query.NearMessagesParams{Earliest: millis(from), Latest: millis(to)})
	if err != nil {
		return nil, err
	}
	var list []plan.Near
	for _, row := range rows {
		people, err := s.read().PeopleOf(ctx, row.ID)
		if err != nil {
			return nil, err
		}
		near := plan.Near{
			Author: row.AccountID, Title: row.Title, At: at(row.LeavesAt), To: make(map[roster.PersonID]bool, len(people)),
		}
		for _, id := range people {
			near.To[roster.PersonID(id.Int64)] = true
		}
		list = append(list, near)
	}
	return list, nil
}

// Spent is what messages of accounts within a scope cost from an instant on.
func (s *Store) Spent(
	ctx context.Context, scope roster.Scope, units []roster.Unit, from, now time.Time,
) (money.Amount, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	counted := s.recent(now)
	rows, known := counted.spent[from]
	if !known {
		var err error
		if rows, err = s.read().Spent(ctx, millis(from)); err != nil {
			return 0, err
		}
		counted.spent = map[time.Time][]query.SpentRow{from: rows}
	}
	var sum money.Amount
	for _, row := range rows {
		author := roster.Scope{Whole: row.Whole}
		if err := json.Unmarshal([]byte(row.Units), &author.Units); err != nil {
			return 0, fmt.Errorf("reading an account's units: %w", err)
		}
		if scope.Covers(author, units) {
			sum += money.Amount(row.Cost)
		}
	}
	return sum, nil
}

// Loads tells how many messages somebody was sent within plan.LoadTime.
func (s *Store) Loads(ctx context.Context, now time.Time) (func(roster.PersonID) plan.Load, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	counted := s.recent(now)
	if counted.loads == nil {
		rows, err := s.read().Loads(ctx, millis(now.Add(-plan.LoadTime)))
		if err != nil {
			return nil, err
		}
		counted.loads = make(map[roster.PersonID]plan.Load, len(rows))
		for _, row := range rows {
			id := roster.PersonID(row.PersonID.Int64)
			l := counted.loads[id]
			switch row.Urgency {
			case roster.Routine:
				l.Routine += int(row.Messages)
			case roster.Timely:
				l.Timely += int(row.Messages)
			case roster.Emergency:
				l.Emergency += int(row.Messages)
			}
			counted.loads[id] = l
		}
	}
	by := counted.loads
	return func(id roster.PersonID) plan.Load { return by[id] }, nil
}
