package sending

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/wording"
)

// Round is what goes to everybody in a thread with many.
type Round struct {
	Thread   int64
	Audience audience.Audience
	Subject  string // of emails; nobody translates it
	Text     string // in the organisation's language
	Copies   []store.Copied
	Files    []attachment.File // of emails; who gets none reads their names
	AtOnce   bool              // quiet hours do not hold
	// Interrupts lets pushes of it stay until they are touched.
	Interrupts bool
	Passes     int64         // the entry that it passes on; 0 for none
	Source     string        // of what the program says by itself; "" for what somebody writes
	Sharing    store.Sharing // what it changes about who sees what is said
}

// WeighRound works out what a round comes to.
func (d *Service) WeighRound(ctx context.Context, r Round, by access.Principal) (*Worked, error) {
	draft := message.Empty()
	draft.Urgency, draft.Audience, draft.Subject = roster.Timely, r.Audience, r.Subject
	draft.Email, draft.OwnText, draft.Text = rich.Lines(r.Text), true, r.naming(r.Text)
	draft.Files = r.Files
	draft.Copies.Accept, draft.Push.Sound = message.UncheckedToo, sound(r.Interrupts)
	if err := draft.Validate(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrUnfit, err)
	}
	w, err := d.planWith(ctx, 0, draft, by, func(s *plan.Settings) error {
		s.Signature, s.Near, s.Leaves = roster.Signature{}, nil, d.Now().Add(AnswerHold)
		for _, c := range r.Copies {
			c.Text = r.naming(c.Text)
			said, err := sayInLines(draft.Content, s.Language, c)
			if err != nil {
				return err
			}
			s.Copies = append(s.Copies, said)
		}
		return nil
	})
	if err == nil && r.AtOnce {
		for i := range w.Plan.Deliveries {
			w.Plan.Deliveries[i].At, w.Plan.Deliveries[i].Quiet = w.Plan.Settings.Leaves, false
		}
	}
	return w, err
}

// naming puts the names of the files below a text that cannot carry them.
func (r Round) naming(text string) string {
	if len(r.Files) == 0 {
		return text
	}
	names := make([]string, len(r.Files))
	for i, f := range r.Files {
		names[i] = strings.ReplaceAll(f.Name, "{{", "{ {")
	}
	return text + "\n[" + strings.Join(names, ", ") + "]"
}

// sound is how a push of a desk makes itself heard.
func sound(interrupts bool) message.PushSound {
	if interrupts {
		return message.Interrupts
	}
	return message.Quiet
}

// sayInLines is a text in another language, line by line beside what a message says. The
// subject stays as it is.
func sayInLines(c message.Content, written string, said store.Copied) (copies.Copy, error) {
	text := message.Content{OwnText: true, Text: c.Text}
	ours := lines.Cut(lines.Written{Content: text, Language: written})
	theirs := lines.Cut(lines.Written{Content: message.Content{OwnText: true, Text: said.Text}, Language: said.Language})
	if len(ours) != len(theirs) {
		return copies.Copy{}, fmt.Errorf("%w: the copy in %s has other lines than what was written", ErrBlocked,
			roster.LanguageName(said.Language))
	}
	out := copies.Copy{Language: said.Language, Targets: map[string]copies.Target{}}
	for _, l := range lines.Cut(lines.Written{Content: c, Language: written}) {
		target := copies.Target{Original: l.Line, Text: l.Text, Source: copies.Machine}
		at := slices.IndexFunc(ours, func(own lines.Standing) bool { return own.Key() == l.Key() })
		if at >= 0 {
			target.Text = theirs[at].Text
		}
		out.Targets[l.Key()] = target
	}
	return out, nil
}

// SendRound sends a round, as a message that stands in no list of messages. It returns the
// message, by which it can be taken back while it is held.
func (d *Service) SendRound(ctx context.Context, r Round, by access.Principal) (int64, error) {
	w, err := d.WeighRound(ctx, r, by)
	if err != nil {
		return 0, err
	}
	if err := fit(w); err != nil {
		return 0, err
	}
	now := d.Now()
	round := store.Round{
		Thread: r.Thread, By: by.ID, Roster: w.Roster, Plan: w.Plan, Passes: r.Passes, Sharing: r.Sharing,
		Leaves: now.Add(AnswerHold),
		Entry: store.Entry{
			Kind: store.EntryOut, At: now, Name: by.Name, Account: by.ID, Subject: r.Subject, Said: r.Text, Source: r.Source,
			Interrupts: r.Interrupts, Files: r.Files,
		},
	}
	if r.Source != "" || r.Passes != 0 {
		round.Entry.Name, round.Entry.Account, round.Leaves = w.Plan.Settings.Organisation, 0, now
		hasten(w.Plan, AnswerHold)
	}
	id, err := d.Store.SendRound(ctx, round, now)
	if err == nil {
		d.Held(id)
	}
	return id, err
}

// hasten lets what would leave after a hold leave without it.
func hasten(p *plan.Plan, hold time.Duration) {
	for i := range p.Deliveries {
		if p.Deliveries[i].At.Equal(p.Settings.Leaves) {
			p.Deliveries[i].At = p.Settings.Leaves.Add(-hold)
		}
	}
}

// fit refuses a round that could not be sent as a message, or that is so large that messages
// like it are confirmed first.
func fit(w *Worked) error {
	if problem, blocked := w.Summary.Blocked(); blocked {
		return fmt.Errorf("%w: %s", ErrBlocked, wording.Problem(problem, w.Plan.Settings))
	}
	if w.Summary.Confirm {
		return fmt.Errorf("%w: it would go to %s; to so many it goes as a message, which is checked first", ErrBlocked,
			plan.Count(w.Summary.Recipients, "person", "people"))
	}
	return nil
}
