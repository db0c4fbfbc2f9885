package desk

import (
	"context"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/store"
)

// MoveOn tries recipients on the next step whose turn it is, in every message
// that says so, and forgets the messages of which nobody is left to be tried.
func (d *Desk) MoveOn(ctx context.Context) error {
	messages, err := d.Store.MovingOn(ctx)
	if err != nil {
		return err
	}
	for _, id := range messages {
		if err := d.moveOn(ctx, id); err != nil {
			return fmt.Errorf("moving on in message %d: %w", id, err)
		}
	}
	return nil
}

func (d *Desk) moveOn(ctx context.Context, id int64) error {
	m, err := d.Store.Message(ctx, id)
	if err != nil {
		return err
	}
	standings, err := d.Store.Standings(ctx, id)
	if err != nil {
		return err
	}
	due, open := turns(m.Draft.MoveOn, standings, d.Now())
	if len(due) == 0 {
		if !open {
			return d.Store.Settled(ctx, id)
		}
		return nil
	}
	author, err := d.Store.Account(ctx, m.AuthorID)
	if err != nil {
		return err
	}
	w, err := d.Plan(ctx, m.Draft, author)
	if err != nil {
		return err
	}
	w.Plan.Settings.Leaves = d.Now()
	err = d.Store.MoveOn(ctx, id, w.Plan, movesOf(w, due), d.Now())
	d.Held(id)
	return err
}

// turns are the recipients who move on now; open tells whether others still may.
func turns(on message.MoveOn, standings []store.Standing, now time.Time) (due []store.Standing, open bool) {
	for _, s := range standings {
		switch {
		case s.Person == 0 || slices.ContainsFunc(s.States, on.Confirms) || slices.Contains(s.States, delivery.Stopped):
		case on.Due(s.States, s.Last, now):
			due = append(due, s)
		default:
			open = open || on.Minutes > 0 || slices.ContainsFunc(s.States, delivery.State.Waiting)
		}
	}
	return due, open
}

// movesOf are the further steps of those whose turn it is.
func movesOf(w *Worked, due []store.Standing) []store.Move {
	moves := make([]store.Move, len(due))
	for n, s := range due {
		moves[n].Recipient = s.ID
		i, ok := w.Plan.Find(w.Roster, s.Person)
		if !ok {
			continue // no longer somebody to be told
		}
		step, deliveries := w.Plan.Next(w.Roster, i, s.Step)
		if step > 0 {
			why := fmt.Sprintf("Moved on from step %d to step %d.", s.Step, step)
			moves[n] = store.Move{Recipient: s.ID, Step: step, Why: why, Deliveries: deliveries}
		}
	}
	return moves
}
