package sending

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
	"upperlantern/internal/store"
)

// AnswerHold is how long an answer of a desk can be taken back.
const AnswerHold = 6 * time.Second

// Answer is what a desk writes in a thread.
type Answer struct {
	Thread   int64
	Channel  roster.Channel
	Address  string
	Language string // in which it is written, BCP 47; "" for the organisation's
	Subject  string // of an email
	Text     string
	Copy     store.Copied      // as which it leaves, if it is not as it was written
	Files    []attachment.File // of an email
	// Interrupts lets a push stay until it is touched.
	Interrupts bool
	Source     string // of what the program answers by itself; "" for what somebody writes
	Key        string // by which what somebody wrote elsewhere is known when it comes twice
}

// Weighed is what an answer comes to.
type Weighed struct {
	Parts int // of a text
	Text  segment.Count
	Cost  string
}

// Weigh works out what an answer comes to before it is sent.
func (d *Service) Weigh(ctx context.Context, a Answer, by access.Principal) (Weighed, error) {
	p, delivery, err := d.answer(ctx, a, by)
	if err != nil {
		return Weighed{}, err
	}
	w := Weighed{Parts: delivery.Count.Parts, Text: delivery.Count}
	if delivery.Cost > money.Amount(0) {
		w.Cost = delivery.Cost.Format(p.Settings.Currency)
	}
	return w, nil
}

// SendAnswer sends what a desk writes, as a message that stands in no list of messages.
// It returns the message, by which it can be taken back while it is held.
func (d *Service) SendAnswer(ctx context.Context, a Answer, by access.Principal) (int64, error) {
	p, delivery, err := d.answer(ctx, a, by)
	if err != nil {
		return 0, err
	}
	now := d.Now()
	e := store.Entry{
		Kind: store.EntryOut, At: now, Channel: a.Channel, Address: a.Address, Name: by.Name, Account: by.ID,
		Subject: a.Subject, Said: a.Text, Copy: a.Copy, Files: a.Files, Source: cmp.Or(a.Source, a.Key),
		Interrupts: a.Interrupts,
	}
	leaves := now.Add(AnswerHold)
	if a.Source != "" {
		e.Name, e.Account, leaves = p.Settings.Organisation, 0, now
	}
	delivery.At = leaves
	id, err := d.Store.SendAnswer(ctx, a.Thread, by.ID, p, delivery, e, now, leaves)
	if err == nil {
		d.Held(id)
	}
	return id, err
}

// answer is the plan of an answer, which has one delivery.
func (d *Service) answer(ctx context.Context, a Answer, by access.Principal) (*plan.Plan, plan.Delivery, error) {
	none := plan.Delivery{}
	text := cmp.Or(a.Copy.Text, a.Text)
	draft := message.Empty()
	draft.Urgency, draft.Steps = roster.Timely, precedence.Steps{{a.Channel}}
	draft.Subject, draft.Email, draft.OwnText, draft.Text = a.Subject, rich.Lines(text), true, text
	draft.Files, draft.Push.Sound = a.Files, sound(a.Interrupts)
	if err := draft.Validate(); err != nil {
		return nil, none, fmt.Errorf("%w: %w", ErrUnfit, err)
	}
	w, err := d.planWith(ctx, 0, draft, by, func(s *plan.Settings) error {
		s.Signature = roster.Signature{} // what leaves is what was seen
		return nil
	})
	if err != nil {
		return nil, none, err
	}
	if !w.Plan.Carries(a.Channel) {
		return nil, none, fmt.Errorf("%w: nothing carries this channel yet; choose another one", ErrBlocked)
	}
	if sum, most := attachment.Sum(a.Files), w.Plan.Settings.Sending.LargestMail(); sum > most {
		return nil, none, fmt.Errorf("%w: the files have %s together, and mailboxes here take at most %s", ErrBlocked,
			attachment.Size(sum), attachment.Size(most))
	}
	delivery, missing := w.Plan.Answer(a.Channel, a.Address, cmp.Or(a.Copy.Language, a.Language))
	if missing != "" {
		return nil, none, fmt.Errorf("%w: an answer has no fields; write out what “%s” stands for", ErrBlocked, missing)
	}
	return w.Plan, delivery, nil
}
