package store

import (
	"context"
	"time"

	"upperlantern/internal/store/query"
)

// Beat keeps that the program looked for what is due at an instant. When it had
// not looked for longer than the limit, the messages whose time passed in
// between by more than that are held until somebody says yes; it returns them.
func (s *Store) Beat(ctx context.Context, now time.Time, limit time.Duration) (late []int64, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		last, err := q.AliveAt(ctx)
		if err != nil {
			return found(err)
		}
		if now.Sub(at(last)) > limit {
			late, err = q.HoldLate(ctx, query.HoldLateParams{Before: millis(now.Add(-limit)), AliveAt: last})
			if err != nil {
				return err
			}
		}
		return q.SetAlive(ctx, millis(now))
	})
	return late, err
}

// HoldMovingOn lets a message wait for a yes before its recipients are tried on
// further steps.
func (s *Store) HoldMovingOn(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return q.HoldMovingOn(ctx, id) })
}

// LetLateLeave lets a message leave that waited for a yes; one that does not
// wait is ErrConflict.
func (s *Store) LetLateLeave(ctx context.Context, id, account int64, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.LetLateLeave(ctx, query.LetLateLeaveParams{ID: id, AccountID: nullID(account), Now: millis(now)})
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrConflict
		}
		return nil
	})
}
