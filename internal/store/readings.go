package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Reading is one reader's look at one copy of a message. Times are zero until they
// apply.
type Reading struct {
	ID          int64
	Message     int64
	Language    string          // BCP 47
	Person      roster.PersonID // 0 for an account; they may have left the roster
	Account     int64           // 0 for a person
	Name        string
	AskedBy     int64
	AskedAt     time.Time
	Until       time.Time
	Request     int64 // the message that asked them last
	OpenedAt    time.Time
	DoneAt      time.Time
	WithdrawnAt time.Time
	Remark      string
}

// Open reports whether a reading is waited for.
func (r Reading) Open(now time.Time) bool {
	return r.DoneAt.IsZero() && r.WithdrawnAt.IsZero() && now.Before(r.Until)
}

func readingOf(r query.Reading) Reading {
	return Reading{
		ID: r.ID, Message: r.MessageID, Language: r.Language, Person: roster.PersonID(r.PersonID), Account: r.AccountID,
		Name: r.Name, AskedBy: r.AskedBy, AskedAt: at(r.AskedAt), Until: at(r.Until), Request: r.RequestID,
		OpenedAt: at(r.OpenedAt), DoneAt: at(r.DoneAt), WithdrawnAt: at(r.WithdrawnAt), Remark: r.Remark,
	}
}

// AskReading keeps that somebody is asked to read a copy, and returns the reading.
// Asked again, it is the same one and begins anew; what was said in it stays.
func (s *Store) AskReading(ctx context.Context, r Reading) (id int64, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		id, err = q.AskReading(ctx, query.AskReadingParams{
			MessageID: r.Message, Language: r.Language, PersonID: int64(r.Person), AccountID: r.Account, Name: r.Name,
			AskedBy: r.AskedBy, AskedAt: millis(r.AskedAt), Until: millis(r.Until),
		})
		return err
	})
	return id, err
}

// SetRequest keeps which message asks for a reading.
func (s *Store) SetRequest(ctx context.Context, id, request int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.SetRequest(ctx, query.SetRequestParams{ID: id, Request: request})
	})
}

// Reading returns one reading.
func (s *Store) Reading(ctx context.Context, id int64) (Reading, error) {
	row, err := s.read().Reading(ctx, id)
	return readingOf(row), found(err)
}

// Readings are those of a message, by language and when they were asked.
func (s *Store) Readings(ctx context.Context, message int64) ([]Reading, error) {
	rows, err := s.read().Readings(ctx, message)
	list := make([]Reading, len(rows))
	for i, row := range rows {
		list[i] = readingOf(row)
	}
	return list, err
}

// OpenReadings are what somebody was asked to read of a draft in a language.
type OpenReadings struct {
	Message  int64
	Title    string
	Language string // BCP 47
	Names    string // of whoever was asked and has not answered, the first asked first
	Until    time.Time
}

// OpenReadings are the readings of some drafts that are waited for, those that were asked
// for first before others.
func (s *Store) OpenReadings(ctx context.Context, messages []int64, now time.Time) ([]OpenReadings, error) {
	rows, err := s.read().OpenReadings(ctx, query.OpenReadingsParams{Now: millis(now), Messages: idsText(messages)})
	list := make([]OpenReadings, len(rows))
	for i, row := range rows {
		list[i] = OpenReadings{row.MessageID, row.Title, row.Language, row.Names, at(row.Until)}
	}
	return list, err
}

// Said is what was said in a reading of a line, known by its key.
type Said struct {
	Reading  int64
	Language string
	Key      string
	copies.Saying
}

// Sayings are what was said in all readings of a message, the first first.
func (s *Store) Sayings(ctx context.Context, message int64) ([]Said, error) {
	rows, err := s.read().Sayings(ctx, message)
	return saidOf(rows), err
}

func saidOf(rows []query.SayingsRow) []Said {
	list := make([]Said, len(rows))
	for i, r := range rows {
		list[i] = Said{
			Reading: r.ReadingID, Language: r.Language, Key: r.Key,
			Saying: copies.Saying{Reader: r.Name, Text: r.Says, At: at(r.SaidAt)},
		}
	}
	return list
}

// OpenReading keeps when a reader first looked.
func (s *Store) OpenReading(ctx context.Context, id int64, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.OpenReading(ctx, query.OpenReadingParams{ID: id, Now: millis(now)})
	})
}

// Heard is what a reader says of a line, and what they had before them.
type Heard struct {
	Original lines.Line
	Seen     string
	Says     string
}

// Hear keeps what a reader says, and lets it become the lines of the copy as far as it
// may (copies.Target.Heard). All of it is kept, or nothing. A message that is no draft
// any more is ErrConflict, a reading that was taken back ErrNotFound. From is the
// language of the originals, unit that of whoever asked for the reading.
func (s *Store) Hear(
	ctx context.Context, r Reading, from string, unit roster.UnitID, heard []Heard, done bool, now time.Time,
) error {
	return s.write(ctx, func(q *query.Queries) error {
		if err := mayBeSaid(ctx, q, r.ID); err != nil {
			return err
		}
		rows, err := q.Sayings(ctx, r.Message)
		if err != nil {
			return err
		}
		earlier, others := map[string]string{}, map[string][]copies.Saying{}
		for _, o := range saidOf(rows) {
			switch {
			case o.Reading == r.ID:
				earlier[o.Key] = o.Text
			case o.Language == r.Language:
				others[o.Key] = append(others[o.Key], o.Saying)
			}
		}
		for _, h := range heard {
			key := h.Original.Key()
			if err := hearLine(ctx, q, r, from, unit, h, earlier[key], others[key], now); err != nil {
				return err
			}
		}
		end := query.EndReadingParams{ID: r.ID, Remark: r.Remark, DoneAt: millisOrNever(r.DoneAt)}
		if done {
			end.DoneAt = millis(now)
		}
		return q.EndReading(ctx, end)
	})
}

func mayBeSaid(ctx context.Context, q *query.Queries, id int64) error {
	row, err := q.Reading(ctx, id)
	if err != nil {
		return found(err)
	}
	if row.WithdrawnAt != 0 {
		return ErrNotFound
	}
	m, err := q.Message(ctx, row.MessageID)
	if err == nil && MessageState(m.State) != Draft {
		err = ErrConflict
	}
	return found(err)
}

func hearLine(
	ctx context.Context, q *query.Queries, r Reading, from string, unit roster.UnitID, h Heard, earlier string,
	others []copies.Saying, now time.Time,
) error {
	key, saying := h.Original.Key(), copies.Saying{Reader: r.Name, Text: h.Says, At: now}
	err := q.Say(ctx, query.SayParams{ReadingID: r.ID, Key: key, Says: h.Says, SaidAt: millis(now)})
	if err != nil {
		return fmt.Errorf("keeping what %s says: %w", r.Name, err)
	}
	row, err := q.CopyTarget(ctx, query.CopyTargetParams{MessageID: r.Message, Language: r.Language, Key: key})
	if err != nil && !errors.Is(found(err), ErrNotFound) {
		return err
	}
	is := copies.Target{
		Original: h.Original, Text: row.Target, Source: copies.Source(row.Source), By: row.FilledBy, At: at(row.FilledAt),
		CheckedBy: row.CheckedBy, CheckedAt: at(row.CheckedAt),
	}
	becomes := is.Heard(saying, h.Seen, earlier, others)
	if becomes.Text == "" { // others' words stand beside a line that is still missing
		return nil
	}
	if err := setLine(ctx, q, r.Message, r.Language, becomes); err != nil {
		return err
	}
	if becomes.CheckedBy != r.Name || !becomes.CheckedAt.Equal(now) {
		return nil
	}
	return remember(ctx, q, from, r.Language, unit, becomes)
}

func setLine(ctx context.Context, q *query.Queries, message int64, language string, t copies.Target) error {
	places, err := json.Marshal(t.Original.Places)
	if err != nil {
		return err
	}
	n, err := q.SetCopyLine(ctx, query.SetCopyLineParams{
		MessageID: message, Language: language, Key: t.Original.Key(), Original: t.Original.Text, Places: string(places),
		Target: t.Text, Source: string(t.Source), FilledBy: t.By, FilledAt: millis(t.At), CheckedBy: t.CheckedBy,
		CheckedAt: millisOrNever(t.CheckedAt),
	})
	if err == nil && n == 0 {
		return ErrConflict // it is no draft any more
	}
	return err
}

// WithdrawReading takes a reading of a message back; one that is not there, or was
// taken back before, is ErrNotFound.
func (s *Store) WithdrawReading(ctx context.Context, message, id int64, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.WithdrawReading(ctx, query.WithdrawReadingParams{ID: id, Message: message, Now: millis(now)})
		if err == nil && n == 0 {
			return ErrNotFound
		}
		return err
	})
}

// Awaiting is a draft that was checked and waits for its readings until a time.
type Awaiting struct {
	Message    int64
	Revision   int64
	Account    int64 // that leaves it to wait
	Recipients int   // that the check spoke of
	Until      time.Time
	Failed     string // why it did not leave
}

// Await lets a draft wait for its readings.
func (s *Store) Await(ctx context.Context, a Awaiting) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.Await(ctx, query.AwaitParams{
			MessageID: a.Message, Revision: a.Revision, AccountID: a.Account, Recipients: int64(a.Recipients),
			Until: millis(a.Until),
		})
	})
}

// Awaited is how a draft waits at its revision; ErrNotFound when it does not.
func (s *Store) Awaited(ctx context.Context, message int64) (Awaiting, error) {
	row, err := s.read().Awaited(ctx, message)
	return Awaiting{
		Message: message, Revision: row.Revision, Account: row.AccountID, Recipients: int(row.Recipients),
		Until: at(row.Until), Failed: row.Failed,
	}, found(err)
}

// Awaits are all drafts that wait at their revision, or waited and did not leave.
func (s *Store) Awaits(ctx context.Context) ([]Awaiting, error) {
	rows, err := s.read().Awaits(ctx)
	list := make([]Awaiting, len(rows))
	for i, row := range rows {
		list[i] = Awaiting{
			Message: row.MessageID, Revision: row.Revision, Account: row.AccountID, Recipients: int(row.Recipients),
			Until: at(row.Until), Failed: row.Failed,
		}
	}
	return list, err
}

// AwaitedNow are the drafts whose wait is over.
func (s *Store) AwaitedNow(ctx context.Context, now time.Time) ([]Awaiting, error) {
	rows, err := s.read().AwaitedNow(ctx, millis(now))
	list := make([]Awaiting, len(rows))
	for i, row := range rows {
		list[i] = Awaiting{
			Message: row.MessageID, Revision: row.Revision, Account: row.AccountID, Recipients: int(row.Recipients),
			Until: at(row.Until),
		}
	}
	return list, err
}

// FailAwaited keeps why a draft did not leave whose wait was over.
func (s *Store) FailAwaited(ctx context.Context, a Awaiting, why string) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.FailAwaited(ctx, query.FailAwaitedParams{Message: a.Message, Revision: a.Revision, Why: why})
	})
}

// StopAwaiting lets a draft wait no longer; one that does not is ErrNotFound.
func (s *Store) StopAwaiting(ctx context.Context, message int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.StopAwaiting(ctx, message)
		if err == nil && n == 0 {
			return ErrNotFound
		}
		return err
	})
}
