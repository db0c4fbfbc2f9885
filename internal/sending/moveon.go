package sending

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/store"
)

// MoveOn tries recipients on the next step whose turn it is, in every message
// that says so, and forgets the messages of which nobody is left to be tried.
// What fails for one message does not keep the others from moving on.
func (d *Service) MoveOn(ctx context.Context) error {
	messages, err := d.Store.MovingOn(ctx)
	for _, id := range messages {
		if failed := d.moveOn(ctx, id); failed != nil {
			err = errors.Join(err, fmt.Errorf("moving on in message %d: %w", id, failed))
		}
	}
	return err
}

func (d *Service) moveOn(ctx context.Context, id int64) error {
	m, err := d.Store.Message(ctx, id)
	if err != nil {
		return err
	}
	standings, err := d.Store.Standings(ctx, id)
	if err != nil {
		return err
	}
	o, err := d.Store.Organisation(ctx) // how late is late is of today: it asks, and changes nothing of what is sent
	if err != nil {
		return err
	}
	now := d.Now()
	if m.Draft.Over(now) {
		return d.Store.Settled(ctx, id)
	}
	t := turnsOf(m, standings, now, o.Sending.Late())
	switch {
	case t.late:
		d.Held(id)
		return d.Store.HoldMovingOn(ctx, id)
	case len(t.due) > 0:
	case t.open:
		return nil
	default:
		return d.Store.Settled(ctx, id)
	}
	w, err := d.PlanSent(ctx, m)
	if err != nil {
		return err
	}
	w.Plan.Settings.Leaves = now
	err = d.Store.MoveOn(ctx, id, w.Plan, movesOf(w, t.due), now)
	d.Held(id)
	return err
}

// turns say who moves on now.
type turns struct {
	due  []store.Standing
	open bool // others still may
	late bool // somebody's turn passed by more than the limit, and nobody said yes to that
}

func turnsOf(m store.Message, standings []store.Standing, now time.Time, limit time.Duration) (t turns) {
	on := m.Draft.MoveOn
	for _, s := range standings {
		switch {
		case s.Person == 0 || slices.ContainsFunc(s.States, on.Confirms) || slices.Contains(s.States, delivery.Stopped):
		case on.Due(s.States, s.Last, now):
			t.due = append(t.due, s)
			turn := latest(s.Moved, s.Last.Add(time.Duration(on.Minutes)*time.Minute), m.LateYesAt)
			t.late = t.late || now.Sub(turn) > limit
		default:
			t.open = t.open || on.Minutes > 0 || slices.ContainsFunc(s.States, delivery.State.Waiting)
		}
	}
	return t
}

func latest(times ...time.Time) time.Time { return slices.MaxFunc(times, time.Time.Compare) }

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
