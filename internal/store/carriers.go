package store

import (
	"context"
	"time"

	"upperlantern/internal/core/carrying"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Carrier is one of the organisation's carriers, as it is kept.
type Carrier struct {
	ID      int64
	Setup   carrying.Setup
	Secrets []byte // sealed
	TriedAt time.Time
	Tried   string // what was wrong with the last trial, or ""
}

// Carriers lists the organisation's carriers, each channel's in their order.
func (s *Store) Carriers(ctx context.Context) ([]Carrier, error) {
	rows, err := s.read().Carriers(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]Carrier, len(rows))
	for i, row := range rows {
		list[i] = Carrier{ID: row.ID, Secrets: row.Secrets, TriedAt: at(row.TriedAt), Tried: row.Tried}
		if err := carrierForm.read(row.Setup, &list[i].Setup); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// SaveCarrier adds a carrier at the end of its channel's order, or changes the one with
// the same identifier, and keeps in words what was changed by an account.
func (s *Store) SaveCarrier(
	ctx context.Context, account int64, c Carrier, said string, now time.Time,
) (id int64, err error) {
	setup, err := carrierForm.write(c.Setup)
	if err != nil {
		return 0, err
	}
	channel := c.Setup.Channel
	err = s.change(ctx, func(q *query.Queries) error {
		if id = c.ID; id == 0 {
			id, err = q.AddCarrier(ctx, query.AddCarrierParams{Channel: channel, Setup: setup, Secrets: c.Secrets})
		} else {
			err = one(q.SetCarrier(ctx, query.SetCarrierParams{ID: id, Channel: channel, Setup: setup, Secrets: c.Secrets}))
		}
		if err != nil {
			return err
		}
		return sayChange(ctx, q, account, said, now)
	})
	return id, err
}

// DropCarrier deletes a carrier with what is known of it.
func (s *Store) DropCarrier(ctx context.Context, account, id int64, said string, now time.Time) error {
	return s.change(ctx, func(q *query.Queries) error {
		if err := one(q.DropCarrier(ctx, id)); err != nil {
			return err
		}
		if err := q.DropCarrierDays(ctx, id); err != nil {
			return err
		}
		if err := q.DropCarrierTroubles(ctx, id); err != nil {
			return err
		}
		return sayChange(ctx, q, account, said, now)
	})
}

// OrderCarriers keeps in which order the carriers of a channel are tried.
func (s *Store) OrderCarriers(
	ctx context.Context, account int64, channel roster.Channel, ids []int64, said string, now time.Time,
) error {
	return s.change(ctx, func(q *query.Queries) error {
		for rank, id := range ids {
			err := one(q.RankCarrier(ctx, query.RankCarrierParams{ID: id, Channel: channel, Rank: int64(rank + 1)}))
			if err != nil {
				return err
			}
		}
		return sayChange(ctx, q, account, said, now)
	})
}

// CarrierTried keeps what came of a trial; problem is "" when it was taken.
func (s *Store) CarrierTried(ctx context.Context, id int64, problem string, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.CarrierTried(ctx, query.CarrierTriedParams{ID: id, Tried: problem, TriedAt: millis(now)})
	})
}

// Taken is how many deliveries a carrier took in a day.
type Taken struct {
	Channel roster.Channel
	Carrier int64 // 0 is what the program was started with
	Count   int
}

// TakenOn is what carriers took in a day of the organisation's clocks (ISO 8601).
func (s *Store) TakenOn(ctx context.Context, day string) ([]Taken, error) {
	rows, err := s.read().CarrierDays(ctx, day)
	list := make([]Taken, len(rows))
	for i, row := range rows {
		list[i] = Taken{row.Channel, row.Carrier, int(row.Taken)}
	}
	return list, err
}

// CountTaken adds to what carriers took in a day.
func (s *Store) CountTaken(ctx context.Context, day string, more []Taken) error {
	return s.write(ctx, func(q *query.Queries) error {
		for _, t := range more {
			if err := q.CountTaken(ctx, query.CountTakenParams{
				Channel: t.Channel, Carrier: t.Carrier, Day: day, Taken: int64(t.Count),
			}); err != nil {
				return err
			}
		}
		return nil
	})
}
