package store

import (
	"context"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/store/query"
)

// Stop ends what is not being handed over. A message on hold becomes a draft
// again, as if Send had never been pressed. Later, nothing of it is leased from now
// on, and what was not leased is stopped at once; a lease ends as its hand-over
// does, or stopped when it is given back.
func (s *Store) Stop(ctx context.Context, id int64, by string, now time.Time) (draft bool, err error) {
	defer s.sent.Add(1)
	if _, busy := s.writing.LoadOrStore(id, true); busy {
		return false, ErrConflict
	}
	defer s.writing.Delete(id)
	err = s.write(ctx, func(q *query.Queries) error {
		n, err := q.UnholdMessage(ctx, query.UnholdMessageParams{ID: id, Now: millis(now)})
		if err != nil {
			return err
		}
		if draft = n == 1; draft {
			return nil
		}
		return q.SetStopped(ctx, query.SetStoppedParams{ID: id, Now: millis(now)})
	})
	if err != nil {
		return false, err
	}
	rest := context.WithoutCancel(ctx) // it is stopped whoever stops waiting
	if draft {
		return true, s.clearPlan(rest, id)
	}
	return false, s.stopHere(rest, id, "stopped by "+by, now)
}

// stopHere stops what is left of a stopped message and not leased.
func (s *Store) stopHere(ctx context.Context, id int64, detail string, now time.Time) error {
	return s.endHere(ctx, id, delivery.Stopped, detail, now)
}

// endHere gives what is left of a message and not leased its last state, some at a time.
func (s *Store) endHere(ctx context.Context, id int64, state delivery.State, detail string, now time.Time) error {
	for {
		left := 0
		err := s.write(ctx, func(q *query.Queries) error {
			rows, err := q.DeliveriesHere(ctx, query.DeliveriesHereParams{MessageID: id, Limit: chunk})
			if err != nil || len(rows) == 0 {
				return err
			}
			left = len(rows)
			ids, moves := make([]int64, left), make([]move, left)
			for i, row := range rows {
				ids[i], moves[i] = row.ID, move{row.ID, id, row.State, state, row.Cost}
			}
			err = q.SetAside(ctx, query.SetAsideParams{State: state, Detail: detail, Now: millis(now), Ids: idsText(ids)})
			if err != nil {
				return err
			}
			return follow(ctx, q, moves, millis(now))
		})
		if err != nil || left < chunk {
			return err
		}
	}
}

// Decide settles the deliveries of a message of which nobody can tell whether they
// left: they are sent again, or left. It returns how many there were. What was
// stopped is not sent again: ErrConflict.
func (s *Store) Decide(ctx context.Context, id int64, again bool, by string, now time.Time) (decided int, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		rows, err := q.DeliveriesUndecided(ctx, id)
		if err != nil || len(rows) == 0 {
			return err
		}
		decided = len(rows)
		to := delivery.Failed
		if again {
			to = delivery.Queued
		}
		ids, moves := make([]int64, decided), make([]move, decided)
		for i, row := range rows {
			ids[i], moves[i] = row.ID, move{row.ID, id, row.State, to, row.Cost}
		}
		if !again {
			err = q.SetAside(ctx, query.SetAsideParams{
				State: to, Detail: "nobody could tell whether it left; " + by + " left it at that", Now: millis(now),
				Ids: idsText(ids),
			})
		} else {
			err = queueAgain(ctx, q, id, ids, now)
		}
		if err != nil {
			return err
		}
		return follow(ctx, q, moves, millis(now))
	})
	return decided, err
}

func queueAgain(ctx context.Context, q *query.Queries, message int64, deliveries []int64, now time.Time) error {
	n, err := q.Resume(ctx, message)
	if err != nil {
		return err
	}
	if n == 0 {
		return ErrConflict
	}
	return q.QueueAgain(ctx, query.QueueAgainParams{Now: millis(now), Ids: idsText(deliveries)})
}
