package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// MessageState is how far a message got.
type MessageState string

const (
	Draft   MessageState = "draft"
	Held    MessageState = "held"    // Send was pressed, nothing has left
	Sending MessageState = "sending" // some deliveries have not left yet
	Sent    MessageState = "sent"    // everything left
	Stopped MessageState = "stopped" // it ended, and some of it was stopped
)

// Message is a message and where it stands. Times are zero until they apply.
type Message struct {
	ID        int64
	State     MessageState
	Title     string
	Draft     message.Draft
	Revision  int64
	Author    string
	AuthorID  int64
	Scope     roster.Scope // what the author's account reaches
	Sender    string       // who pressed Send, or asked for the yes on which it was sent
	SenderID  int64        // 0 for a draft
	AskerID   int64        // who asks for somebody else's yes to this revision; 0 is nobody
	Asker     string
	Assenter  string // who said yes, besides the sender
	UpdatedAt time.Time
	SentAt    time.Time // when Send was pressed
	LeavesAt  time.Time // when the hold, or the wait for its time, is over
	EndedAt   time.Time // when the last delivery had left or was stopped
	Late      bool      // its time passed while the program was down: it waits for a yes
	LateYesAt time.Time // when somebody said that it may leave late
}

// Asks reports whether the draft asks an account for its yes.
func (m Message) Asks(account int64) bool { return m.AskerID != 0 && m.AskerID != account }

func messageOf(row query.MessagesRow) (Message, error) {
	m := Message{
		ID: row.ID, State: MessageState(row.State), Title: row.Title, Revision: row.Revision, Author: row.Author, AuthorID: row.AccountID,
		Sender: row.Sender, UpdatedAt: at(row.UpdatedAt), SentAt: at(row.SentAt), LeavesAt: at(row.LeavesAt), EndedAt: at(row.EndedAt), Assenter: row.Assenter,
		SenderID: row.SentBy.Int64, Late: row.Late, LateYesAt: at(row.LateYesAt),
	}
	if row.AskedRevision == row.Revision {
		m.AskerID, m.Asker = row.AskedBy.Int64, row.Asker
	}
	m.Scope.Whole = row.AuthorWhole
	if err := json.Unmarshal([]byte(row.AuthorUnits), &m.Scope.Units); err != nil {
		return m, fmt.Errorf("reading the units of %s: %w", m.Author, err)
	}
	if err := json.Unmarshal([]byte(row.Draft), &m.Draft); err != nil {
		return m, fmt.Errorf("reading message %d: %w", m.ID, err)
	}
	return m, nil
}

// AddDraft keeps a new draft.
func (s *Store) AddDraft(ctx context.Context, account int64, d message.Draft, now time.Time) (Message, error) {
	text, err := json.Marshal(d)
	if err != nil {
		return Message{}, err
	}
	var id int64
	err = s.write(ctx, func(q *query.Queries) error {
		if id, err = q.NextMessageID(ctx); err != nil {
			return err
		}
		return q.AddMessage(ctx, query.AddMessageParams{ID: id, AccountID: account, Title: d.Title(), Draft: string(text), Now: millis(now)})
	})
	if err != nil {
		return Message{}, err
	}
	return s.Message(ctx, id)
}

// Message returns one message.
func (s *Store) Message(ctx context.Context, id int64) (Message, error) {
	row, err := s.read().Message(ctx, id)
	if err != nil {
		return Message{}, found(err)
	}
	return messageOf(query.MessagesRow(row))
}

// Messages lists messages of some accounts, what leaves last first, from the
// first on, and says how many there are in all.
func (s *Store) Messages(ctx context.Context, accounts []int64, first, count int) (list []Message, all int, err error) {
	q, of := s.read(), idsText(accounts)
	n, err := q.CountMessages(ctx, of)
	if err != nil {
		return nil, 0, err
	}
	rows, err := q.Messages(ctx, query.MessagesParams{Accounts: of, First: int64(first), Count: int64(count)})
	if err != nil {
		return nil, 0, err
	}
	for _, row := range rows {
		m, err := messageOf(row)
		if err != nil {
			return nil, 0, err
		}
		list = append(list, m)
	}
	return list, int(n), nil
}

// OpenMessages lists the drafts of some accounts and what has not left yet, what
// leaves first first.
func (s *Store) OpenMessages(ctx context.Context, accounts []int64) ([]Message, error) {
	rows, err := s.read().OpenMessages(ctx, idsText(accounts))
	if err != nil {
		return nil, err
	}
	list := make([]Message, len(rows))
	for i, row := range rows {
		if list[i], err = messageOf(query.MessagesRow(row)); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// idsText writes identifiers as JSON, which one statement takes however many they are.
func idsText(ids []int64) string {
	text, err := json.Marshal(ids)
	if err != nil || ids == nil {
		return "[]" // there is nothing in a list of numbers that cannot be written
	}
	return string(text)
}

// MessageTitle names a message.
type MessageTitle struct {
	ID    int64
	Title string
	State MessageState
}

// MessageTitles lists the titles of the messages of some accounts, the newest first.
func (s *Store) MessageTitles(ctx context.Context, accounts []int64) ([]MessageTitle, error) {
	rows, err := s.read().MessageTitles(ctx, idsText(accounts))
	list := make([]MessageTitle, len(rows))
	for i, row := range rows {
		list[i] = MessageTitle{row.ID, row.Title, MessageState(row.State)}
	}
	return list, err
}

// SaveDraft keeps a draft over the given revision and returns the new one. A
// newer revision, or a message that is no draft any more, is ErrConflict.
func (s *Store) SaveDraft(ctx context.Context, id, revision, account int64, d message.Draft, now time.Time) (int64, error) {
	text, err := json.Marshal(d)
	if err != nil {
		return 0, err
	}
	var next int64
	err = s.write(ctx, func(q *query.Queries) (err error) {
		next, err = q.SaveDraft(ctx, query.SaveDraftParams{
			ID: id, Revision: revision, Title: d.Title(), Draft: string(text), UpdatedAt: millis(now),
		})
		if err != nil {
			return err
		}
		return keepVersion(ctx, q, id, account, string(text), now)
	})
	if errors.Is(found(err), ErrNotFound) {
		if _, err := s.Message(ctx, id); err != nil {
			return 0, err
		}
		return 0, ErrConflict
	}
	return next, err
}

// DeleteDraft deletes a draft. What was sent is never deleted.
func (s *Store) DeleteDraft(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.DeleteDraft(ctx, id)
		if err == nil && n == 0 {
			return ErrConflict
		}
		return err
	})
}

// AskYes keeps that an account asks for somebody else's yes to a revision of a draft.
func (s *Store) AskYes(ctx context.Context, id, revision, asker int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.AskYes(ctx, query.AskYesParams{ID: id, Revision: revision, AskedBy: nullID(asker)})
		if err == nil && n == 0 {
			return ErrConflict
		}
		return err
	})
}

// Senders are the accounts that let a message go: who sent it, and who said
// yes to that, or 0.
type Senders struct{ Sender, Assenter int64 }

// Hold keeps the plan of a draft and puts the message on hold until leaves.
// The plan's rows and the change of state are one transaction.
func (s *Store) Hold(ctx context.Context, id, revision int64, by Senders, r *roster.Roster, p *plan.Plan, now, leaves time.Time) error {
	defer s.sent.Add(1)
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.HoldMessage(ctx, query.HoldMessageParams{
			ID: id, Revision: revision, SentBy: nullID(by.Sender), YesBy: nullID(by.Assenter), SentAt: millis(now), LeavesAt: millis(leaves),
		})
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrConflict
		}
		if err := q.SetMovesOn(ctx, query.SetMovesOnParams{ID: id, MovesOn: flag(p.Draft.MoveOn != message.MoveOn{} && len(p.Steps) > 1)}); err != nil {
			return err
		}
		return keepPlan(ctx, q, id, r, p, now)
	})
}

func flag(on bool) int64 {
	if on {
		return 1
	}
	return 0
}

func keepPlan(ctx context.Context, q *query.Queries, id int64, r *roster.Roster, p *plan.Plan, now time.Time) error {
	recipients := make([]int64, len(p.Recipients))
	for i, rec := range p.Recipients {
		person := r.At(rec.Person)
		var err error
		recipients[i], err = q.AddRecipient(ctx, query.AddRecipientParams{
			MessageID: id, PersonID: personID(person), Name: person.Name(), Language: person.Language,
			Step: int64(rec.Step), Why: p.Explain(r, rec),
		})
		if err != nil {
			return fmt.Errorf("keeping a recipient: %w", err)
		}
	}
	leaveOut := func(at int, reason plan.Reason, detail string) error {
		person := r.At(at)
		return q.AddLeftOut(ctx, query.AddLeftOutParams{
			MessageID: id, PersonID: personID(person), Name: person.Name(), Reason: string(reason), Detail: detail,
		})
	}
	for _, l := range p.LeftOut {
		if err := leaveOut(l.Person, l.Reason, p.Detail(r, l)); err != nil {
			return fmt.Errorf("keeping who is left out: %w", err)
		}
	}
	for _, t := range p.Told {
		if err := leaveOut(t.Person, plan.GuardiansTold, p.Through(r, t)); err != nil {
			return fmt.Errorf("keeping who is told through a guardian: %w", err)
		}
	}
	for _, d := range p.Deliveries {
		delivery, err := addDelivery(ctx, q, id, p, d, now)
		if err != nil {
			return fmt.Errorf("keeping a delivery: %w", err)
		}
		for _, i := range d.Recipients {
			if err := q.AddDeliveryRecipient(ctx, query.AddDeliveryRecipientParams{DeliveryID: delivery, RecipientID: recipients[i]}); err != nil {
				return fmt.Errorf("keeping a delivery's recipient: %w", err)
			}
		}
	}
	return nil
}

func addDelivery(ctx context.Context, q *query.Queries, id int64, p *plan.Plan, d plan.Delivery, now time.Time) (int64, error) {
	return q.AddDelivery(ctx, query.AddDeliveryParams{
		MessageID: id, Channel: d.Channel, Address: d.To, Sender: d.From, Subject: d.Subject, Body: d.Body,
		Html: p.HTML(d, ContentID), Link: d.Link, Step: int64(d.Step), Parts: int64(d.Count.Parts),
		Seconds: int64(d.Seconds), Cost: d.Cost, Key: rand.Text(), DueAt: millis(d.At), UpdatedAt: millis(now),
	})
}

// SendTrial queues what a sender tries on themselves. It counts for nobody and
// stands in no list of messages.
func (s *Store) SendTrial(ctx context.Context, account int64, p *plan.Plan, deliveries []plan.Delivery, now time.Time) (id int64, err error) {
	draft, err := json.Marshal(p.Draft)
	if err != nil {
		return 0, err
	}
	err = s.write(ctx, func(q *query.Queries) error {
		if id, err = q.NextMessageID(ctx); err != nil {
			return err
		}
		if err := q.AddTrial(ctx, query.AddTrialParams{ID: id, AccountID: account, Title: p.Draft.Title(), Draft: string(draft), Now: millis(now)}); err != nil {
			return err
		}
		for _, d := range deliveries {
			if _, err := addDelivery(ctx, q, id, p, d, now); err != nil {
				return fmt.Errorf("keeping a trial's delivery: %w", err)
			}
		}
		return q.QueueDeliveries(ctx, query.QueueDeliveriesParams{MessageID: id, Now: millis(now)})
	})
	return id, err
}

// ContentID refers from an email to a picture that goes with it (RFC 2392).
func ContentID(hash string) string { return "cid:" + hash }

// personID is how a recipient refers to the roster; a stranger does not.
func personID(p *roster.Person) sql.NullInt64 { return nullID(max(0, int64(p.ID))) }

// Stop ends what has not left. A message on hold becomes a draft again, as if
// Send had never been pressed; later, its remaining deliveries are stopped.
// It returns how many deliveries that were.
func (s *Store) Stop(ctx context.Context, id int64, by string, now time.Time) (stopped int, draft bool, err error) {
	defer s.sent.Add(1)
	err = s.write(ctx, func(q *query.Queries) error {
		n, err := q.UnholdMessage(ctx, query.UnholdMessageParams{ID: id, UpdatedAt: millis(now)})
		if err != nil {
			return err
		}
		if n == 1 {
			draft = true
			return dropPlan(ctx, q, id)
		}
		if err := errors.Join(q.SetMovesOn(ctx, query.SetMovesOnParams{ID: id}), q.StopLate(ctx, id)); err != nil {
			return err
		}
		rows, err := q.StopDeliveries(ctx, query.StopDeliveriesParams{MessageID: id, Detail: "stopped by " + by, UpdatedAt: millis(now)})
		if err != nil {
			return err
		}
		stopped = int(rows)
		_, err = q.EndMessages(ctx, millis(now))
		return err
	})
	return stopped, draft, err
}

func dropPlan(ctx context.Context, q *query.Queries, id int64) error {
	return errors.Join(q.DropDeliveries(ctx, id), q.DropRecipients(ctx, id), q.DropLeftOut(ctx, id))
}
