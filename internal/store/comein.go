package store

import (
	"cmp"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Answered is the delivery that something answers.
type Answered struct {
	ID      int64
	Message int64
	Key     string
	Channel roster.Channel
	Address string
	Leaving bool              // it is just being handed over: nobody knows yet whether it left
	Thread  int64             // of which it was an answer itself, 0 of a message
	Desk    desk.ID           // that the message names
	To      []roster.PersonID // its recipients
	Groups  []roster.GroupID  // to which the message was written
	Unit    roster.UnitID     // that wrote it

	Question *message.Question // that the message asks; nil for none
	Choices  []string          // its answers, as they got them
	Language string            // in which, BCP 47
	Subject  string            // under which
	Body     string            // that they got
	Confirms bool              // only an answer confirms that they know
	State    delivery.State
}

// SentFrom reports whether a text or a call ever went to a number from one of ours.
func (s *Store) SentFrom(ctx context.Context, ours, to string) (bool, error) {
	n, err := s.read().CountSentFrom(ctx, query.CountSentFromParams{Address: to, Sender: ours})
	return n > 0, err
}

// Answers is the delivery with a key, or ErrNotFound.
func (s *Store) Answers(ctx context.Context, key string) (Answered, error) {
	q := s.read()
	row, err := q.DeliveryByKey(ctx, key)
	if err != nil {
		return Answered{}, found(err)
	}
	a := Answered{
		ID: row.ID, Message: row.MessageID, Key: row.Key, Channel: row.Channel, Address: row.Address,
		Language: row.Language, Subject: row.Subject, Body: row.Body, State: row.State,
	}
	return s.answered(ctx, q, a, row.Apart, row.Draft, row.Parts)
}

// LastQuestion is the last delivery that left to an address on a channel since an instant
// and asked a question, or ErrNotFound.
func (s *Store) LastQuestion(
	ctx context.Context, channel roster.Channel, address string, since time.Time,
) (Answered, error) {
	q := s.read()
	row, err := q.LastQuestion(ctx, query.LastQuestionParams{Address: address, Channel: channel, Since: millis(since)})
	if err != nil {
		return Answered{}, found(err)
	}
	a := Answered{
		ID: row.ID, Message: row.MessageID, Key: row.Key, Channel: channel, Address: address, Leaving: row.Leaving != 0,
	}
	return s.answeredAt(ctx, q, a, row.Apart, row.Draft, row.Parts)
}

// LastAnswered is the last delivery that left to an address on a channel since an
// instant, or ErrNotFound.
func (s *Store) LastAnswered(
	ctx context.Context, channel roster.Channel, address string, since time.Time,
) (Answered, error) {
	q := s.read()
	row, err := q.LastDelivery(ctx, query.LastDeliveryParams{Address: address, Channel: channel, Since: millis(since)})
	if err != nil {
		return Answered{}, found(err)
	}
	a := Answered{
		ID: row.ID, Message: row.MessageID, Key: row.Key, Channel: channel, Address: address, Leaving: row.Leaving != 0,
	}
	return s.answeredAt(ctx, q, a, row.Apart, row.Draft, row.Parts)
}

// answeredAt is a delivery that something without a key answers. Where people share the
// address, its message may have gone there for each of them: nobody can tell which is meant.
func (s *Store) answeredAt(
	ctx context.Context, q *query.Queries, a Answered, apart int64, draft, parts string,
) (Answered, error) {
	a, err := s.answered(ctx, q, a, apart, draft, parts)
	if err != nil {
		return a, err
	}
	people, err := q.RecipientsAt(ctx, query.RecipientsAtParams{
		Address: a.Address, Channel: a.Channel, MessageID: a.Message,
	})
	a.To = nil
	for _, p := range people {
		a.To = append(a.To, roster.PersonID(p.Int64))
	}
	return a, err
}

func (s *Store) answered(
	ctx context.Context, q *query.Queries, a Answered, apart int64, draft, parts string,
) (Answered, error) {
	people, err := q.RecipientsOfDelivery(ctx, a.ID)
	if err != nil {
		return a, err
	}
	for _, p := range people {
		a.To = append(a.To, roster.PersonID(p.Int64))
	}
	if apart != 0 {
		a.Thread, err = threadOfMessage(ctx, q, a.Message)
		return a, err
	}
	var d message.Draft
	if err := draftForm.read(draft, &d); err != nil {
		return a, err
	}
	a.Desk, a.Question, a.Confirms = desk.ID(d.Desk), d.Question, d.MoveOn.Answered
	var went delivery.Parts
	if err := json.Unmarshal([]byte(parts), &went); err != nil {
		return a, fmt.Errorf("reading what a delivery said: %w", err)
	}
	a.Choices = went.Choices
	facts, err := q.FactsOf(ctx, a.Message)
	for _, f := range facts {
		var id int64
		if _, err := fmt.Sscan(f.Value, &id); err != nil {
			continue // no unit
		}
		if f.Kind == "group" {
			a.Groups = append(a.Groups, roster.GroupID(id))
		} else {
			a.Unit = roster.UnitID(id)
		}
	}
	return a, err
}

// threadOfMessage is the thread in which a message was said, or passed on; 0 of a trial,
// which is nobody's.
func threadOfMessage(ctx context.Context, q *query.Queries, message int64) (int64, error) {
	e, err := q.EntryOfMessage(ctx, nullID(message))
	if err == nil {
		return e.ThreadID, nil
	}
	if !errors.Is(err, sql.ErrNoRows) {
		return 0, err
	}
	thread, err := q.RoundThread(ctx, nullID(message))
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	return thread, err
}

// ComeIn is what came in, and where it belongs.
type ComeIn struct {
	Entry
	Thread int64 // 0 for that of the person, or of the address, at the desk
	Many   bool  // it is a thread with many
	Desk   desk.ID
	Any    bool // desk is good, if a thread is there
	Person roster.PersonID
	Called string // the person, or the address of somebody else
	Waits  bool   // it is to be answered
}

// TakeIn keeps what came in, in its thread, which is made if there is none. What came
// before, by its source, changes nothing and is in the thread that is returned.
func (s *Store) TakeIn(ctx context.Context, c ComeIn) (thread int64, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		known, err := q.EntryBySource(ctx, sql.NullString{String: c.Source, Valid: true})
		if err == nil {
			thread = known
			return nil
		}
		if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if thread, err = threadFor(ctx, q, c); err != nil {
			return err
		}
		if _, err := addEntry(ctx, q, thread, c.Entry); err != nil {
			return err
		}
		if !c.Many && (c.Kind == EntryIn || c.Kind == EntryWord) {
			err = q.ThreadHeard(ctx, query.ThreadHeardParams{
				ID: thread, Channel: c.Channel, Address: c.Address, MessageID: nullID(c.Message), At: millis(c.At),
				LastText: beginning(c.Entry.shows()),
			})
		}
		if c.Many || c.Kind == EntryAutomatic {
			err = q.ThreadSaid(ctx, query.ThreadSaidParams{
				ID: thread, At: millis(c.At), LastText: beginning(c.Entry.shows()),
			})
		}
		if err != nil || !c.Waits {
			return err
		}
		return moved(ctx, q, thread, func(at desk.Standing) desk.Standing { return at.Heard(c.At) })
	})
	return thread, err
}

// threadFor finds the thread where something belongs, or makes it.
func threadFor(ctx context.Context, q *query.Queries, c ComeIn) (int64, error) {
	if c.Thread != 0 {
		row, err := q.Thread(ctx, c.Thread)
		if err == nil {
			return row.ID, nil
		}
		if !errors.Is(err, sql.ErrNoRows) {
			return 0, err
		}
	}
	fits := func(of sql.NullInt64) bool { return c.Any || desk.ID(of.Int64) == c.Desk }
	if c.Person != 0 {
		rows, err := q.ThreadsOfPerson(ctx, nullID(int64(c.Person)))
		if err != nil {
			return 0, err
		}
		for _, row := range rows {
			if !fits(row.DeskID) {
				continue
			}
			if row.PersonID.Int64 == int64(c.Person) {
				return row.ID, nil
			}
			return row.ID, q.NameThread(ctx, query.NameThreadParams{ // somebody else became them
				ID: row.ID, PersonID: nullID(int64(c.Person)), Name: c.Called,
			})
		}
	}
	rows, err := q.ThreadsOfAddress(ctx, c.Address)
	if err != nil {
		return 0, err
	}
	for _, row := range rows {
		if !fits(row.DeskID) {
			continue
		}
		if c.Person == 0 {
			return row.ID, nil
		}
		return row.ID, q.NameThread(ctx, query.NameThreadParams{ // they are on the roster now
			ID: row.ID, PersonID: nullID(int64(c.Person)), Name: c.Called,
		})
	}
	return q.AddThread(ctx, query.AddThreadParams{
		DeskID: nullID(int64(c.Desk)), PersonID: nullID(int64(c.Person)), Name: c.Called, Channel: c.Channel,
		Address: c.Address, MessageID: nullID(c.Message), Now: millis(c.At),
	})
}

// OpenThread finds the thread with somebody at a desk, or makes a quiet one.
func (s *Store) OpenThread(ctx context.Context, c ComeIn) (thread int64, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		thread, err = threadFor(ctx, q, c)
		return err
	})
	return thread, err
}

// NoteThread writes a note into a thread, which never leaves.
func (s *Store) NoteThread(ctx context.Context, thread int64, e Entry) error {
	return s.write(ctx, func(q *query.Queries) error {
		_, err := addEntry(ctx, q, thread, e)
		return err
	})
}

// LeaveThread leaves a thread for the next shift, with a note.
func (s *Store) LeaveThread(ctx context.Context, thread int64, note string, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		err := errors.Join(
			q.LeaveThread(ctx, query.LeaveThreadParams{ID: thread, LeftNote: note}),
			q.HoldThread(ctx, query.HoldThreadParams{ID: thread}),
		)
		if err != nil {
			return err
		}
		return moved(ctx, q, thread, func(at desk.Standing) desk.Standing { return at.Left(now) })
	})
}

// Identify keeps who somebody is who writes from an address, and counts what they answered
// to questions; what was said with them elsewhere at the desk comes into the same thread,
// which is returned.
func (s *Store) Identify(
	ctx context.Context, t Thread, p roster.PersonID, name string, now time.Time,
) (thread int64, err error) {
	thread = t.ID
	err = s.write(ctx, func(q *query.Queries) error {
		if err := q.PutWriter(ctx, query.PutWriterParams{Address: t.Address, PersonID: int64(p)}); err != nil {
			return err
		}
		if err := nameAnswers(ctx, q, t.Address, p, now); err != nil {
			return err
		}
		rows, err := q.ThreadsOfPerson(ctx, nullID(int64(p)))
		if err != nil {
			return err
		}
		for _, row := range rows {
			if desk.ID(row.DeskID.Int64) != t.Desk || row.ID == t.ID {
				continue
			}
			thread = row.ID
			return mergeThreads(ctx, q, t, row.ID)
		}
		return q.NameThread(ctx, query.NameThreadParams{ID: t.ID, PersonID: nullID(int64(p)), Name: name})
	})
	return thread, err
}

// mergeThreads brings a thread into another one, which then stands as the younger did.
func mergeThreads(ctx context.Context, q *query.Queries, from Thread, into int64) error {
	if err := q.MoveEntries(ctx, query.MoveEntriesParams{FromID: from.ID, IntoID: into}); err != nil {
		return err
	}
	err := q.ThreadHeard(ctx, query.ThreadHeardParams{
		ID: into, Channel: from.Channel, Address: from.Address, MessageID: nullID(from.Message), At: millis(from.LastAt),
		LastText: from.LastText,
	})
	if err != nil {
		return err
	}
	err = moved(ctx, q, into, func(at desk.Standing) desk.Standing {
		if from.Waits != desk.Us {
			return at
		}
		if at.Waits == desk.Us && at.Since.Before(from.Since) {
			at.Unread = at.Unread || from.Unread
			return at
		}
		return from.Standing
	})
	if err != nil {
		return err
	}
	return q.DropThread(ctx, from.ID)
}

// WritesFrom is who was chosen for an address that several people have, or 0.
func (s *Store) WritesFrom(ctx context.Context, address string) (roster.PersonID, error) {
	id, err := s.read().Writer(ctx, address)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	return roster.PersonID(id), err
}

// SendAnswer keeps what a desk writes, in its thread and as a message of its own that
// leaves after a hold and stands in no list of messages.
func (s *Store) SendAnswer(
	ctx context.Context, thread int64, by int64, p *plan.Plan, d plan.Delivery, e Entry, now, leaves time.Time,
) (id int64, err error) {
	draft, err := draftForm.write(p.Draft)
	if err != nil {
		return 0, err
	}
	list, err := prepare(p, []plan.Delivery{d}, nil)
	if err != nil {
		return 0, err
	}
	var figures record.Figures
	figures.AddDelivery(delivery.Queued, d.Cost)
	err = s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		if _, err := q.EntryBySource(ctx, sql.NullString{String: e.Source, Valid: e.Source != ""}); err == nil {
			return ErrConflict // the program answered this before
		} else if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if id, err = q.NextMessageID(ctx); err != nil {
			return err
		}
		err := q.AddAnswer(ctx, query.AddAnswerParams{
			ID: id, AccountID: by, Title: p.Draft.Title(), Urgency: p.Draft.Urgency, Draft: draft, Now: millis(now),
			LeavesAt: millis(leaves), Currency: p.Settings.Currency,
		})
		if err != nil {
			return err
		}
		if err := addDeliveries(ctx, q, tx, id, list, map[[sha256.Size]byte]int64{}, now); err != nil {
			return fmt.Errorf("keeping an answer's delivery: %w", err)
		}
		e.Message = id
		if _, err := addEntry(ctx, q, thread, e); err != nil {
			return err
		}
		if err := addFigures(ctx, q, id, figures); err != nil {
			return err
		}
		return told(ctx, q, thread, e)
	})
	return id, err
}

// shows is what stands for an entry in the list of threads: its words, or the names of the
// files that came without any.
func (e Entry) shows() string {
	names := make([]string, len(e.Files))
	for i, f := range e.Files {
		names[i] = f.Name
	}
	return cmp.Or(e.Copy.Text, e.Said, strings.Join(names, ", "))
}

// told is a thread after we wrote; what the machine says by itself changes nothing.
func told(ctx context.Context, q *query.Queries, thread int64, e Entry) error {
	if e.Account == 0 {
		return nil
	}
	err := errors.Join(
		q.ThreadSaid(ctx, query.ThreadSaidParams{ID: thread, At: millis(e.At), LastText: beginning(e.Said)}),
		q.LeaveThread(ctx, query.LeaveThreadParams{ID: thread}),
	)
	if err != nil {
		return err
	}
	return moved(ctx, q, thread, func(at desk.Standing) desk.Standing { return at.Told(e.At) })
}

// TakeBackAnswer takes an answer back that is still held, and returns its words and files. The
// thread then waits as before.
func (s *Store) TakeBackAnswer(ctx context.Context, thread, message int64) (e Entry, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		row, err := q.EntryOfMessage(ctx, nullID(message))
		if err != nil {
			return found(err)
		}
		if row.ThreadID != thread {
			return ErrNotFound
		}
		e = Entry{ID: row.ID, Said: row.Said, Channel: row.Channel, Address: row.Address}
		if err := json.Unmarshal([]byte(row.Files), &e.Files); err != nil {
			return err
		}
		if n, err := q.TakeBackAnswer(ctx, message); err != nil || n == 0 {
			return errors.Join(err, ErrConflict)
		}
		if err := q.DropEntry(ctx, row.ID); err != nil {
			return err
		}
		last, err := q.LastEntry(ctx, thread)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		err = q.ThreadSaid(ctx, query.ThreadSaidParams{ID: thread, At: last.At, LastText: beginning(last.Said)})
		if err != nil {
			return err
		}
		return moved(ctx, q, thread, func(s desk.Standing) desk.Standing {
			switch EntryKind(last.Kind) {
			case EntryIn:
				return desk.Standing{Waits: desk.Us, Since: at(last.At)}
			case EntryOut:
				return s
			}
			return s.Settled(s.Since)
		})
	})
	return e, err
}

// SetStop keeps that nothing is to go to an address on a channel any more, whoever has
// it. It returns since when that holds.
func (s *Store) SetStop(
	ctx context.Context, channel roster.Channel, address, said string, now time.Time,
) (since time.Time, err error) {
	err = s.change(ctx, func(q *query.Queries) error {
		ms, err := q.PutStop(ctx, query.PutStopParams{Channel: channel, Address: address, At: millis(now), Said: said})
		since = at(ms)
		return err
	})
	return since, err
}

// Stopped reports whether somebody asked to be sent nothing at an address.
func (s *Store) Stopped(ctx context.Context, channel roster.Channel, address string) (bool, error) {
	n, err := s.read().CountStops(ctx, query.CountStopsParams{Channel: channel, Address: address})
	return n > 0, err
}

// LanguagesRead are the languages that people on the roster read.
func (s *Store) LanguagesRead(ctx context.Context) ([]string, error) {
	return s.read().LanguagesRead(ctx)
}

// LiftStop takes a stop back, the carrier's too. It reports whether there was one.
func (s *Store) LiftStop(ctx context.Context, channel roster.Channel, address string) (was bool, err error) {
	err = s.change(ctx, func(q *query.Queries) error {
		n, err := q.DropStop(ctx, query.DropStopParams{Channel: channel, Address: address})
		was = n > 0
		return errors.Join(err, q.LiftStop(ctx, query.LiftStopParams{Channel: channel, Value: address}))
	})
	return was, err
}

// stopped marks the addresses at which somebody asked to be sent nothing.
func stopped(ctx context.Context, q *query.Queries, people []roster.Person) error {
	rows, err := q.Stops(ctx)
	if err != nil || len(rows) == 0 {
		return err
	}
	type place struct {
		channel roster.Channel
		value   string
	}
	known := make(map[place]bool, len(rows))
	for _, row := range rows {
		known[place{row.Channel, row.Address}] = true
	}
	for i := range people {
		for j := range people[i].Addresses {
			a := &people[i].Addresses[j]
			a.CarrierStop = a.CarrierStop || known[place{a.Channel, a.Value}]
		}
	}
	return nil
}

// Uncopied is something that came in and that the desk can read only in their language.
type Uncopied struct {
	ID       int64
	Thread   int64
	Desk     desk.ID
	Said     string
	Language string // that they read, BCP 47
}

// Uncopied are what came into a thread, from somebody whose language is known, without a
// copy for the desk; the newest first.
func (s *Store) Uncopied(ctx context.Context, thread int64) ([]Uncopied, error) {
	rows, err := s.read().Uncopied(ctx, thread)
	list := make([]Uncopied, len(rows))
	for i, row := range rows {
		list[i] = uncopiedOf(row)
	}
	return list, err
}

func uncopiedOf(row query.UncopiedRow) Uncopied {
	return Uncopied{row.ID, row.ThreadID, desk.ID(row.DeskID.Int64), row.Said, row.Language}
}

// NewlyUncopied are the first of those in all threads that came in after an entry, and are
// among the latest.
func (s *Store) NewlyUncopied(ctx context.Context, after, latest, most int64) ([]Uncopied, error) {
	rows, err := s.read().NewlyUncopied(ctx, query.NewlyUncopiedParams{After: after, Latest: latest, Most: most})
	list := make([]Uncopied, len(rows))
	for i, row := range rows {
		list[i] = uncopiedOf(query.UncopiedRow(row))
	}
	return list, err
}

// CopyEntry keeps something that came in as the desk reads it, in the list of threads, too,
// while nothing else was said.
func (s *Store) CopyEntry(ctx context.Context, from Uncopied, c Copied) error {
	return s.write(ctx, func(q *query.Queries) error {
		said, err := q.CopyEntry(ctx, query.CopyEntryParams{
			ID: from.ID, ThreadID: from.Thread, Language: c.Language, Copy: c.Text, Checked: c.Checked,
		})
		if err != nil {
			return found(err)
		}
		read := query.ThreadReadsParams{ID: from.Thread, Said: beginning(said), LastText: beginning(c.Text)}
		if !c.Checked {
			read.LastFrom = from.Language
		}
		return q.ThreadReads(ctx, read)
	})
}
