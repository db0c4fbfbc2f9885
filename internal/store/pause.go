package store

import (
	"context"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/store/query"
)

// Pause lets nothing more of a message leave until Resume. What is on hold or going out
// can be paused; anything else, and what is paused, is ErrConflict.
func (s *Store) Pause(ctx context.Context, id int64, by string) error { return s.pause(ctx, id, by) }

// Resume lets a paused message go on.
func (s *Store) Resume(ctx context.Context, id int64) error { return s.pause(ctx, id, "") }

func (s *Store) pause(ctx context.Context, id int64, by string) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.Pause(ctx, query.PauseParams{ID: id, ByName: by})
		if err == nil && n == 0 {
			err = ErrConflict
		}
		return err
	})
}

// Expired lists the messages of which something is here whose time is over.
func (s *Store) Expired(ctx context.Context, now time.Time) ([]int64, error) {
	return s.read().Expired(ctx, millis(now))
}

// NextExpiry is when the time of the next message is over, or the zero time.
func (s *Store) NextExpiry(ctx context.Context) (time.Time, error) {
	ms, err := s.read().NextExpiry(ctx)
	return at(ms), err
}

// Expire ends what has not left of a message whose time is over.
func (s *Store) Expire(ctx context.Context, id int64, now time.Time) error {
	return s.endHere(ctx, id, delivery.Expired, "it was not to leave any more", now)
}
