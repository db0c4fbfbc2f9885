package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/record"
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

// MessageStates lists every state of a message.
var MessageStates = []MessageState{Draft, Held, Sending, Sent, Stopped}

// Heading is a message without what it says, and where it stands. Times are zero
// until they apply.
type Heading struct {
	ID        int64
	OfDesk    bool // a desk wrote it in a thread: it is for those who sit there
	State     MessageState
	Title     string
	Urgency   roster.Urgency
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
	Scheduled bool      // it waits for its own time, not just for the hold
	StoppedAt time.Time // when Stop was pressed after the hold
	EndedAt   time.Time // when the last delivery had left or was stopped
	Late      bool      // its time passed while the program was down: it waits for a yes
	Restored  time.Time // it was under way in a backup that was made then, and restored: it is late
	Changed   bool      // its plan changed since it was checked
	PausedBy  string    // who lets it wait, and "" while nobody does
	Currency  string    // in which it is paid, ISO 4217; "" for a draft
	LateYesAt time.Time // when somebody said that it may leave late
	Figures   record.Figures
	Awaits    *Awaiting // of a draft that waits for its readings, where that is asked for
}

// Message is a heading with what was written.
type Message struct {
	Heading
	Draft message.Draft
}

// Waits reports whether nothing of the message may leave now, although it was sent.
func (m Heading) Waits() bool { return m.State == Held || m.Late || m.PausedBy != "" }

// ForItsTime reports whether the message is held for its own time, not just for the hold.
func (m Heading) ForItsTime() bool { return m.State == Held && m.Scheduled }

// Asks reports whether the draft asks an account for its yes.
func (m Heading) Asks(account int64) bool { return m.AskerID != 0 && m.AskerID != account }

func headingOf(row query.MessagesRow) (Heading, error) {
	m := Heading{
		ID: row.ID, OfDesk: row.Apart == 2,
		State: MessageState(row.State), Title: row.Title, Urgency: row.Urgency, Revision: row.Revision,
		Author: row.Author, AuthorID: row.AccountID, Sender: row.Sender, SenderID: row.SentBy.Int64, Assenter: row.Assenter,
		UpdatedAt: at(row.UpdatedAt), SentAt: at(row.SentAt), LeavesAt: at(row.LeavesAt), Scheduled: row.Scheduled,
		StoppedAt: at(row.StoppedAt), EndedAt: at(row.EndedAt),
		Late: row.Late, Restored: at(row.Restored), LateYesAt: at(row.LateYesAt), Changed: row.Changed == 1,
		PausedBy: row.PausedBy, Currency: row.Currency, Figures: figuresOf(row),
	}
	if row.AskedRevision == row.Revision {
		m.AskerID, m.Asker = row.AskedBy.Int64, row.Asker
	}
	m.Scope.Whole = row.AuthorWhole
	if err := json.Unmarshal([]byte(row.AuthorUnits), &m.Scope.Units); err != nil {
		return m, fmt.Errorf("reading the units of %s: %w", m.Author, err)
	}
	return m, nil
}

// AddDraft keeps a new draft.
func (s *Store) AddDraft(ctx context.Context, account int64, d message.Draft, now time.Time) (Message, error) {
	text, err := draftForm.write(d)
	if err != nil {
		return Message{}, err
	}
	var id int64
	first, as := follows(d)
	err = s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		if id, err = q.NextMessageID(ctx); err != nil {
			return err
		}
		err := q.AddMessage(ctx, query.AddMessageParams{
			ID: id, AccountID: account, Title: d.Title(), Urgency: d.Urgency, Draft: text, Follows: first, FollowsAs: as,
			Now: millis(now),
		})
		if err != nil {
			return err
		}
		return keepWords(ctx, q, tx, id, d)
	})
	if err != nil {
		return Message{}, err
	}
	return s.Message(ctx, id)
}

// Heading returns one message without what it says.
func (s *Store) Heading(ctx context.Context, id int64) (Heading, error) {
	row, err := s.read().Message(ctx, id)
	if err != nil {
		return Heading{}, found(err)
	}
	return headingOf(query.MessagesRow(row))
}

// Message returns one message.
func (s *Store) Message(ctx context.Context, id int64) (Message, error) {
	heading, err := s.Heading(ctx, id)
	m := Message{Heading: heading}
	if err != nil {
		return m, err
	}
	text, err := s.read().DraftOf(ctx, id)
	if err != nil {
		return m, found(err)
	}
	if err := draftForm.read(text, &m.Draft); err != nil {
		return m, fmt.Errorf("reading message %d: %w", m.ID, err)
	}
	return m, nil
}

// Messages lists messages of some accounts, what leaves last first, from the
// first on, and says how many there are in all.
func (s *Store) Messages(ctx context.Context, accounts []int64, first, count int) (list []Heading, all int, err error) {
	q, of := s.read(), idsText(accounts)
	n, err := q.CountMessages(ctx, of)
	if err != nil {
		return nil, 0, err
	}
	rows, err := q.Messages(ctx, query.MessagesParams{Accounts: of, First: int64(first), Count: int64(count)})
	if err != nil {
		return nil, 0, err
	}
	list, err = headingsOf(rows, func(row query.MessagesRow) query.MessagesRow { return row })
	return list, int(n), err
}

// OpenMessages lists the drafts of some accounts and what has not left yet, what
// leaves first first.
func (s *Store) OpenMessages(ctx context.Context, accounts []int64) ([]Heading, error) {
	rows, err := s.read().OpenMessages(ctx, idsText(accounts))
	if err != nil {
		return nil, err
	}
	return headingsOf(rows, func(row query.OpenMessagesRow) query.MessagesRow { return query.MessagesRow(row) })
}

// Written adds to headings what was written.
func (s *Store) Written(ctx context.Context, headings []Heading) ([]Message, error) {
	list, place, ids := make([]Message, len(headings)), map[int64]int{}, make([]int64, len(headings))
	for i, h := range headings {
		list[i].Heading, place[h.ID], ids[i] = h, i, h.ID
	}
	rows, err := s.read().DraftsOf(ctx, idsText(ids))
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		if err := draftForm.read(row.Draft, &list[place[row.ID]].Draft); err != nil {
			return nil, fmt.Errorf("reading message %d: %w", row.ID, err)
		}
	}
	return list, nil
}

func headingsOf[Row any](rows []Row, as func(Row) query.MessagesRow) ([]Heading, error) {
	list := make([]Heading, len(rows))
	for i, row := range rows {
		var err error
		if list[i], err = headingOf(as(row)); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// idsText writes identifiers as JSON, which one statement takes however many they are.
func idsText[ID ~int64](ids []ID) string {
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
func (s *Store) SaveDraft(
	ctx context.Context, id, revision, account int64, d message.Draft, now time.Time,
) (int64, error) {
	text, err := draftForm.write(d)
	if err != nil {
		return 0, err
	}
	var next int64
	first, as := follows(d)
	err = s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) (err error) {
		next, err = q.SaveDraft(ctx, query.SaveDraftParams{
			ID: id, Revision: revision, Title: d.Title(), Urgency: d.Urgency, Draft: text, UpdatedAt: millis(now),
			Follows: first, FollowsAs: as,
		})
		if err != nil {
			return err
		}
		if err := keepWords(ctx, q, tx, id, d); err != nil {
			return err
		}
		return keepVersion(ctx, q, id, account, text, now)
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
