package sending

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Board is what everybody who was asked by a message has answered.
type Board struct {
	store.Board
	Message store.Message
	Tally   asking.Tally
	Roster  *roster.Roster
	Groups  []roster.GroupID // by which the board can be looked at
}

// ErrAsksNothing means that a message has no question, or was not sent.
var ErrAsksNothing = errors.New("this message asked nothing")

// Board is the board of a message that somebody may see.
func (d *Service) Board(ctx context.Context, id int64, by access.Principal) (Board, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return Board{}, err
	}
	if !m.Draft.Question.Asks() || m.State == store.Draft {
		return Board{}, ErrAsksNothing
	}
	kept, err := d.Store.Board(ctx, id)
	if err != nil {
		return Board{}, err
	}
	r, err := d.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return Board{}, err
	}
	list := make([]asking.Asked, len(kept.Asked))
	for i, a := range kept.Asked {
		list[i] = a.Asked
	}
	return Board{
		Board: kept, Message: m, Tally: asking.Count(m.Draft.Question, list), Roster: r, Groups: groupsOf(r, m.Draft),
	}, nil
}

// groupsOf are the groups that a message was written to, with those right inside.
func groupsOf(r *roster.Roster, d message.Draft) []roster.GroupID {
	var list []roster.GroupID
	add := func(id roster.GroupID) {
		if _, ok := r.Group(id); ok && !slices.Contains(list, id) {
			list = append(list, id)
		}
	}
	for _, p := range d.Audience.Parts {
		if p.Kind != audience.ByGroup || p.LeaveOut {
			continue
		}
		add(p.Group)
		if g, ok := r.Group(p.Group); ok {
			for _, inner := range g.Inside {
				add(inner)
			}
		}
	}
	return list
}

// GroupsOf are the groups of the board in which somebody is, or one whom they answer for.
func (b Board) GroupsOf() map[roster.PersonID][]roster.GroupID {
	in := map[roster.PersonID][]roster.GroupID{}
	for _, g := range b.Groups {
		seen := map[roster.PersonID]bool{}
		add := func(id roster.PersonID) {
			if !seen[id] {
				seen[id] = true
				in[id] = append(in[id], g)
			}
		}
		for _, i := range b.Roster.In(g) {
			add(b.Roster.At(i).ID)
			for _, tie := range b.Roster.Guardians(i) {
				add(tie.Guardian)
			}
		}
	}
	return in
}

// WriteDown keeps what somebody said when they were called.
func (d *Service) WriteDown(
	ctx context.Context, id int64, person roster.PersonID, g asking.Given, by access.Principal,
) error {
	b, err := d.Board(ctx, id, by)
	if err != nil {
		return err
	}
	if _, ok := b.Message.Draft.Question.Choice(g.Number); !ok {
		return fmt.Errorf("%w: the question has no answer %d", ErrUnfit, g.Number)
	}
	if !slices.ContainsFunc(b.Asked, func(a store.OnBoard) bool { return a.Person == person && person != 0 }) {
		return fmt.Errorf("%w: nobody asked this person", ErrUnfit)
	}
	now := d.Now()
	chain, err := d.Store.KeepAnswer(ctx, store.Given{
		Given: g, Message: id, Person: person, At: now, Account: by.ID,
		Source: fmt.Sprintf("by hand %d %d %d", by.ID, person, now.UnixNano()),
	}, now)
	for _, one := range chain {
		d.Held(one)
	}
	return err
}
