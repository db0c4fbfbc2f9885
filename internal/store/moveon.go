package store

import (
	"context"
	"fmt"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Standing is how far a recipient got on the step that they are on.
type Standing struct {
	ID     int64
	Person roster.PersonID // 0 when they are no longer on the roster
	Step   int
	States []delivery.State
	Last   time.Time // when the last delivery of the step was free to leave
	Moved  time.Time // when the state of one of them last changed
}

// MovingOn lists the messages whose recipients may be tried on further steps.
func (s *Store) MovingOn(ctx context.Context) ([]int64, error) { return s.read().MovingOn(ctx) }

// Standings lists how far the recipients of a message got on their steps.
func (s *Store) Standings(ctx context.Context, message int64) ([]Standing, error) {
	rows, err := s.read().StepStates(ctx, message)
	var list []Standing
	for _, row := range rows {
		if len(list) == 0 || list[len(list)-1].ID != row.ID {
			list = append(list, Standing{ID: row.ID, Person: roster.PersonID(row.PersonID.Int64), Step: int(row.Step)})
		}
		at, last := at(row.DueAt), &list[len(list)-1]
		last.States = append(last.States, row.State)
		if at.After(last.Last) {
			last.Last = at
		}
		if row.UpdatedAt > millis(last.Moved) {
			last.Moved = time.UnixMilli(row.UpdatedAt).UTC()
		}
	}
	return list, err
}

// Move is a recipient who is tried on a further step, or, with step 0, for whom
// there is none.
type Move struct {
	Recipient  int64
	Step       int
	Why        string
	Deliveries []plan.Delivery
}

// MoveOn puts recipients of a message on further steps and queues what they get there.
func (s *Store) MoveOn(ctx context.Context, message int64, p *plan.Plan, moves []Move, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		moved := false
		for _, m := range moves {
			if m.Step == 0 {
				if err := q.Exhaust(ctx, m.Recipient); err != nil {
					return err
				}
				continue
			}
			moved = true
			if err := q.SetStep(ctx, query.SetStepParams{ID: m.Recipient, Step: int64(m.Step), Why: m.Why}); err != nil {
				return err
			}
			for _, d := range m.Deliveries {
				if err := queueFurther(ctx, q, message, m.Recipient, p, d, now); err != nil {
					return fmt.Errorf("moving a recipient on: %w", err)
				}
			}
		}
		if !moved {
			return nil
		}
		return q.Resume(ctx, message)
	})
}

func queueFurther(ctx context.Context, q *query.Queries, message, recipient int64, p *plan.Plan, d plan.Delivery, now time.Time) error {
	id, err := addDelivery(ctx, q, message, p, d, now)
	if err != nil {
		return err
	}
	if err := q.AddDeliveryRecipient(ctx, query.AddDeliveryRecipientParams{DeliveryID: id, RecipientID: recipient}); err != nil {
		return err
	}
	return q.QueueDelivery(ctx, id)
}

// Settled says that nobody of a message will be tried on a further step.
func (s *Store) Settled(ctx context.Context, message int64) error {
	return s.write(ctx, func(q *query.Queries) error { return q.SetMovesOn(ctx, query.SetMovesOnParams{ID: message}) })
}
