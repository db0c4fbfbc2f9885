package sending

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/mend"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Need is somebody whom a message did not reach, and what would mend that.
type Need struct {
	Recipient int64           // 0 of somebody who got nothing
	Person    roster.PersonID // 0 of somebody who is not on the roster
	Name      string
	What      string // was wrong
	Way       mend.Way
	Hand      store.Hand
	Reached   bool // by a message of the chain
}

// Done reports whether nothing is left to be done for them.
func (n Need) Done() bool { return n.Reached || !n.Hand.DoneAt.IsZero() }

// Needs are those whom a message did not reach, without those for whom it was meant
// so: recipients first, then who got nothing.
func (d *Service) Needs(ctx context.Context, id int64, by access.Principal) ([]Need, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return nil, err
	}
	missed, err := d.Store.Missed(ctx, id)
	if err != nil {
		return nil, err
	}
	left, _, err := d.Store.LeftOut(ctx, id)
	if err != nil || len(missed)+len(left) == 0 {
		return nil, err
	}
	w, err := d.PlanSent(ctx, m)
	if err != nil {
		return nil, err
	}
	var needs []Need
	for _, one := range missed {
		needs = append(needs, Need{
			Recipient: one.ID, Person: one.Person, Name: one.Name, What: one.Tried[len(one.Tried)-1].Detail,
			Way: mend.Of(missing(w, one)),
		})
	}
	for _, one := range left {
		_, now := w.Plan.Find(w.Roster, one.Person)
		way := mend.Of(mend.Missed{Reason: plan.Reason(one.Reason), Fresh: now})
		if way != mend.Nothing {
			needs = append(needs, Need{Person: one.Person, Name: one.Name, What: one.Detail, Way: way})
		}
	}
	return needs, d.lookAfter(ctx, m, needs)
}

// missing is what there is to be known of a recipient who was not reached.
func missing(w *Worked, one store.Missed) mend.Missed {
	var out mend.Missed
	tried := func(channel roster.Channel, address string) bool {
		return slices.ContainsFunc(one.Tried, func(t store.Tried) bool {
			return t.Channel == channel && t.Address == address
		})
	}
	if at, known := w.Roster.Position(one.Person); known {
		sound := map[string]bool{}
		for _, a := range w.Roster.At(at).Addresses {
			// A call that nobody took says nothing of the number.
			doubtful := a.Health == roster.Failing && a.Channel != roster.Voice
			sound[a.Value] = sound[a.Value] || a.Health != roster.Dead && !doubtful
		}
		out.Blamed = slices.ContainsFunc(one.Tried, func(t store.Tried) bool { return !sound[t.Address] })
	}
	i, planned := w.Plan.Find(w.Roster, one.Person)
	if !planned {
		return out
	}
	out.Usable = true
	step, _ := w.Plan.Next(w.Roster, i, one.Step)
	out.Next = step > 0
	for _, n := range w.Plan.Recipients[i].Deliveries {
		delivery := w.Plan.Deliveries[n]
		out.Fresh = out.Fresh || !tried(delivery.Channel, delivery.Address)
	}
	return out
}

// lookAfter adds who looks after people, and whom the message's chain reached.
func (d *Service) lookAfter(ctx context.Context, m store.Message, needs []Need) error {
	hands, err := d.Store.Hands(ctx, m.ID)
	if err != nil {
		return err
	}
	first := m.ID
	if m.Draft.Follows != nil {
		first = m.Draft.Follows.Message
	}
	chain, err := d.Store.Chain(ctx, first, 0)
	if err != nil {
		return err
	}
	for i := range needs {
		needs[i].Hand = hands[needs[i].Person]
		needs[i].Reached = needs[i].Person != 0 && chain.People[needs[i].Person].Reached
	}
	return nil
}

// Colleagues are the accounts that see a message.
func (d *Service) Colleagues(ctx context.Context, id int64, by access.Principal) ([]store.Account, error) {
	if _, err := d.Messages.Heading(ctx, by, id); err != nil {
		return nil, err
	}
	accounts, err := d.Store.Accounts(ctx)
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(accounts, func(a store.Account) bool {
		_, err := d.Messages.Heading(ctx, a.Principal(access.Inside), id)
		return err != nil || !a.Active
	}), nil
}

// ErrNobodyHere means that none of the people that were named needs a hand.
var ErrNobodyHere = errors.New("none of these people needs a hand with this message")

// whoNeed are those of some people who need a hand with a message.
func (d *Service) whoNeed(
	ctx context.Context, id int64, people []roster.PersonID, by access.Principal,
) ([]roster.PersonID, error) {
	needs, err := d.Needs(ctx, id, by)
	if err != nil {
		return nil, err
	}
	list := slices.DeleteFunc(slices.Clone(people), func(p roster.PersonID) bool {
		return p == 0 || !slices.ContainsFunc(needs, func(n Need) bool { return n.Person == p })
	})
	if len(list) == 0 {
		return nil, ErrNobodyHere
	}
	return list, nil
}

// Tick says that people of a message are done, or that they are not after all.
func (d *Service) Tick(
	ctx context.Context, id int64, people []roster.PersonID, done bool, by access.Principal,
) error {
	list, err := d.whoNeed(ctx, id, people, by)
	if err != nil {
		return err
	}
	var at time.Time
	if done {
		at = d.Now()
	}
	return d.Store.Tick(ctx, id, list, by.ID, at)
}

// Give asks an account that sees the message to look after people of it; 0 asks
// nobody any more.
func (d *Service) Give(
	ctx context.Context, id int64, people []roster.PersonID, to int64, by access.Principal,
) error {
	list, err := d.whoNeed(ctx, id, people, by)
	if err != nil {
		return err
	}
	if to != 0 {
		account, err := d.Store.Account(ctx, to)
		if err != nil {
			return err
		}
		if _, err := d.Messages.Heading(ctx, account.Principal(access.Inside), id); err != nil {
			return fmt.Errorf("%w: %s does not see this message", access.ErrNotYours, account.Name)
		}
	}
	return d.Store.Give(ctx, id, list, to, by.ID)
}

// TryNext tries recipients of a message, whom it did not reach, on their next step at
// once. It returns how many have one.
func (d *Service) TryNext(ctx context.Context, id int64, recipients []int64, by access.Principal) (int, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return 0, err
	}
	missed, err := d.Store.Missed(ctx, id)
	if err != nil {
		return 0, err
	}
	var due []store.Standing
	for _, one := range missed {
		if one.Person != 0 && slices.Contains(recipients, one.ID) {
			due = append(due, store.Standing{ID: one.ID, Person: one.Person, Step: one.Step})
		}
	}
	if len(due) == 0 {
		return 0, ErrNobodyHere
	}
	now := d.Now()
	if m.Draft.Over(now) {
		return 0, fmt.Errorf("%w: it was not to leave any more after %s", ErrBlocked, m.Draft.Until.UTC().Format("2 January 15:04 UTC"))
	}
	w, err := d.PlanSent(ctx, m)
	if err != nil {
		return 0, err
	}
	w.Plan.Settings.Leaves = now
	moves := slices.DeleteFunc(movesOf(w, due), func(move store.Move) bool { return move.Step == 0 })
	if len(moves) == 0 {
		return 0, ErrNobodyHere
	}
	err = d.Store.MoveOn(ctx, id, w.Plan, moves, now)
	d.Held(id)
	return len(moves), err
}
