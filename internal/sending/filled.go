package sending

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// TellFilled ends the asking of messages that enough people answered, and tells those who
// were asked and have not. All of it can be done again: what was cut off by the end of
// the program is done once. What fails for one does not keep the others.
func (d *Service) TellFilled(ctx context.Context) error {
	due, err := d.Store.Filled(ctx)
	for _, id := range due {
		if failed := d.tellFilled(ctx, id); failed != nil {
			err = errors.Join(err, fmt.Errorf("ending the asking of message %d: %w", id, failed))
		}
	}
	return err
}

func (d *Service) tellFilled(ctx context.Context, id int64) error {
	m, err := d.Store.Message(ctx, id)
	if err != nil {
		return err
	}
	account, err := d.Store.Account(ctx, m.SenderID)
	if err != nil {
		return err
	}
	by := account.Principal(access.Inside)
	if _, err := d.Stop(ctx, id, by); err != nil && !errors.Is(err, store.ErrConflict) {
		return err
	}
	if err := d.sendFilled(ctx, m, by); err != nil && !errors.Is(err, ErrBlocked) {
		return err
	}
	if err := d.Store.FilledTold(ctx, id); err != nil {
		return err
	}
	d.Held(id)
	return nil
}

// sendFilled sends what the sender wrote for those who are needed no more.
func (d *Service) sendFilled(ctx context.Context, m store.Message, by access.Principal) error {
	others, err := d.unanswered(ctx, m.ID)
	if err != nil || len(others) == 0 || strings.TrimSpace(m.Draft.Question.Filled) == "" {
		return err
	}
	made, err := d.filledDraft(ctx, m, others, by)
	if err != nil || made.State != store.Draft {
		return err // it went out before the program ended
	}
	w, err := d.ready(ctx, made, Checked{}, by)
	if err != nil {
		return err
	}
	hasten(w.Plan, w.Organisation.Hold) // who hears it late is on the way already
	err = d.Store.Hold(ctx, made.ID, made.Revision, store.Senders{Sender: by.ID}, w.Roster, w.Plan, d.Now(), d.Now())
	d.Held(made.ID)
	return err
}

// told are those who are told: who may have the question and gave no answer.
var told = []asking.Stand{asking.Silent, asking.Wrote, asking.OnTheWay}

// unanswered are the people who were asked by a message, or may have been, and have not
// answered it.
func (d *Service) unanswered(ctx context.Context, id int64) ([]roster.PersonID, error) {
	b, err := d.Store.Board(ctx, id)
	if err != nil {
		return nil, err
	}
	var list []roster.PersonID
	for _, a := range b.Asked {
		if a.Person != 0 && slices.Contains(told, a.Stand()) {
			list = append(list, a.Person)
		}
	}
	return list, nil
}

// filledDraft is the message that says so: made before, or made now.
func (d *Service) filledDraft(
	ctx context.Context, m store.Message, others []roster.PersonID, by access.Principal,
) (store.Message, error) {
	before, err := d.Store.Followers(ctx, m.ID)
	if err != nil {
		return store.Message{}, err
	}
	if at := slices.IndexFunc(before, func(f store.Follower) bool { return f.As == message.Filled }); at >= 0 {
		made, err := d.Store.Message(ctx, before[at].ID)
		if err != nil || made.State != store.Draft {
			return made, err
		}
		return made, d.Store.CopyCopies(ctx, m.ID, made.ID)
	}
	draft := message.Empty()
	draft.Urgency, draft.Reason, draft.Practice, draft.Copies = m.Urgency, m.Draft.Reason, m.Draft.Practice, m.Draft.Copies
	draft.From, draft.Desk = m.Draft.From, m.Draft.Desk
	draft.Subject, draft.Email = m.Draft.Subject, rich.Lines(m.Draft.Question.Filled)
	draft.Audience.Receivers = audience.Themselves
	draft.Audience.Parts = []audience.Part{{Kind: audience.ByPeople, People: others}}
	draft.Follows = &message.Follows{Message: m.ID, As: message.Filled}
	made, err := d.Store.AddDraft(ctx, by.ID, draft, d.Now())
	if err != nil {
		return made, err
	}
	return made, d.Store.CopyCopies(ctx, m.ID, made.ID)
}
