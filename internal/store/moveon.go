package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
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

// MoveOn puts recipients of a message on further steps and queues what they get
// there. A message that was stopped meanwhile, and recipients who were moved on, are
// left alone: ErrConflict.
func (s *Store) MoveOn(ctx context.Context, message int64, p *plan.Plan, moves []Move, now time.Time) error {
	var further []prepared
	var figures record.Figures
	for _, m := range moves {
		list, err := prepare(p, m.Deliveries, nil)
		if err != nil {
			return err
		}
		for i, d := range m.Deliveries {
			list[i].recipients = []int64{m.Recipient}
			figures.AddDelivery(delivery.Queued, d.Cost)
		}
		further = append(further, list...)
	}
	return s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		for _, m := range moves {
			if err := moveRecipient(ctx, q, m); err != nil {
				return err
			}
		}
		if len(further) == 0 {
			return nil
		}
		n, err := q.Resume(ctx, message)
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrConflict
		}
		known, err := knownContents(ctx, q, message, further)
		if err != nil {
			return err
		}
		if err := addDeliveries(ctx, q, tx, message, further, known, now); err != nil {
			return fmt.Errorf("moving recipients on: %w", err)
		}
		for _, c := range channelsOf(deliveriesOf(moves)) {
			if err := q.AddFact(ctx, query.AddFactParams{Kind: "channel", Value: string(c), MessageID: message}); err != nil {
				return err
			}
		}
		if err := waitAgain(ctx, q, moves, &figures); err != nil {
			return err
		}
		return addFigures(ctx, q, message, figures)
	})
}

func deliveriesOf(moves []Move) (list []plan.Delivery) {
	for _, m := range moves {
		list = append(list, m.Deliveries...)
	}
	return list
}

func moveRecipient(ctx context.Context, q *query.Queries, m Move) error {
	if m.Step == 0 {
		return q.Exhaust(ctx, m.Recipient)
	}
	n, err := q.SetStep(ctx, query.SetStepParams{ID: m.Recipient, Step: int64(m.Step), Why: m.Why})
	if err == nil && n == 0 {
		err = ErrConflict // somebody else moved them on
	}
	return err
}

// waitAgain lets recipients wait who get something further.
func waitAgain(ctx context.Context, q *query.Queries, moves []Move, figures *record.Figures) error {
	for _, m := range moves {
		if len(m.Deliveries) == 0 {
			continue
		}
		was, err := q.OutcomeOf(ctx, m.Recipient)
		if err != nil {
			return err
		}
		if was != record.NotReached && was != record.Stopped {
			continue
		}
		if err := q.SetOutcome(ctx, query.SetOutcomeParams{
			Outcome: record.Waiting, Ids: idsText([]int64{m.Recipient}),
		}); err != nil {
			return err
		}
		figures.AddRecipients(was, -1)
		figures.AddRecipients(record.Waiting, 1)
	}
	return nil
}

// knownContents are those of a message that say what deliveries say, by hash.
func knownContents(
	ctx context.Context, q *query.Queries, message int64, list []prepared,
) (map[[sha256.Size]byte]int64, error) {
	known := map[[sha256.Size]byte]int64{}
	for _, d := range list {
		if known[d.hash] != 0 {
			continue
		}
		id, err := q.ContentByHash(ctx, query.ContentByHashParams{MessageID: message, Hash: d.hash[:]})
		if err == nil {
			known[d.hash] = id
		} else if !errors.Is(err, sql.ErrNoRows) {
			return nil, err
		}
	}
	return known, nil
}

// Settled says that nobody of a message will be tried on a further step.
func (s *Store) Settled(ctx context.Context, message int64) error {
	return s.write(ctx, func(q *query.Queries) error { return q.SetMovesOn(ctx, query.SetMovesOnParams{ID: message}) })
}
