// Package desk prepares and sends messages: it brings the roster, the
// organisation's settings and a draft together into a plan, and puts a plan
// on hold.
package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Desk is where messages are written and sent.
type Desk struct {
	Store *store.Store
	Now   func() time.Time
	// Held is told when something was put on hold, or stopped.
	Held func(messageID int64)
}

// Worked is a draft that was worked out.
type Worked struct {
	Roster       *roster.Roster
	Organisation store.Organisation
	Plan         *plan.Plan
	Summary      plan.Summary
}

// ErrBlocked means that a message cannot be sent as it is.
var ErrBlocked = errors.New("cannot be sent yet")

// Plan works out a draft for a sender, within what their account reaches.
func (d *Desk) Plan(ctx context.Context, draft message.Draft, sender store.Account) (*Worked, error) {
	o, err := d.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	everybody, err := d.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	r, err := d.Store.RosterWithin(ctx, sender.Scope)
	if err != nil {
		return nil, err
	}
	r = audience.WithStrangers(r, everybody, draft.Audience)
	settings := o.Settings(sender.Name)
	if settings.Load, err = d.Store.Loads(ctx, d.Now()); err != nil {
		return nil, err
	}
	if settings.Conversation, err = d.Store.Conversations(ctx); err != nil {
		return nil, err
	}
	p := plan.Make(r, draft, settings)
	return &Worked{Roster: r, Organisation: o, Plan: p, Summary: p.Summarise(r)}, nil
}

// Leaves is when a message would leave if Send were pressed at an instant: after
// the hold, and not before its own time.
func Leaves(o store.Organisation, draft message.Draft, now time.Time) time.Time {
	leaves := now.Add(o.Hold)
	if draft.SendAt != nil && draft.SendAt.After(leaves) {
		return *draft.SendAt
	}
	return leaves
}

// Leaving words when a message leaves, for a sentence.
func Leaving(o store.Organisation, draft message.Draft, now time.Time) string {
	leaves := Leaves(o, draft, now)
	if hold := now.Add(o.Hold); leaves.Equal(hold) {
		if o.Hold == 0 {
			return "at once"
		}
		return fmt.Sprintf("after a hold of %s, in which Stop undoes everything", plan.Count(int(o.Hold.Seconds()), "second", "seconds"))
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	return "on " + leaves.In(zone).Format("Monday 2 January at 15:04") + "; until then Stop undoes everything"
}

// Send works a draft out once more and puts it on hold. The revision is the
// one that the sender checked; a newer one is store.ErrConflict.
func (d *Desk) Send(ctx context.Context, id, revision int64, account store.Account) (store.Message, error) {
	m, err := d.Store.Message(ctx, id)
	if err != nil {
		return m, err
	}
	if m.State != store.Draft || m.Revision != revision {
		return m, store.ErrConflict
	}
	if m.Draft.Urgency == roster.Emergency && !account.May(access.WriteEmergencies) {
		return m, fmt.Errorf("%w: your account may not write emergencies", ErrBlocked)
	}
	worked, err := d.Plan(ctx, m.Draft, account)
	if err != nil {
		return m, err
	}
	if problem, blocked := worked.Summary.Blocked(); blocked {
		return m, fmt.Errorf("%w: %s", ErrBlocked, problem.Sentence)
	}
	if missing, err := d.Store.Missing(ctx, m.Draft.Everything()); err != nil || len(missing) > 0 {
		return m, errors.Join(err, fmt.Errorf("%w: add %s again; it is not here", ErrBlocked, strings.Join(missing, ", ")))
	}
	now := d.Now()
	if err := d.Store.Hold(ctx, id, revision, account.ID, worked.Roster, worked.Plan, now, Leaves(worked.Organisation, m.Draft, now)); err != nil {
		return m, err
	}
	d.Held(id)
	return d.Store.Message(ctx, id)
}

// Stop ends what has not left of a message; see store.Stop.
func (d *Desk) Stop(ctx context.Context, id int64, account store.Account) (stopped int, draft bool, err error) {
	stopped, draft, err = d.Store.Stop(ctx, id, account.Name, d.Now())
	if err == nil {
		d.Held(id)
	}
	return stopped, draft, err
}
