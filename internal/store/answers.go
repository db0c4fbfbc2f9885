package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Given is an answer to the question of a message.
type Given struct {
	asking.Given
	Message int64
	Person  roster.PersonID // 0 of somebody who is not on the roster, or not known for sure
	Channel roster.Channel  // "" for what was written down for them
	Address string
	At      time.Time
	Account int64  // who wrote it down; 0 for nobody
	By      string // the name of that account
	Source  string // by which one that comes twice is known
}

// KeepAnswer keeps an answer, for its recipient in every message of the chain. What came
// before, by its source, changes nothing. It returns the messages that it concerns.
func (s *Store) KeepAnswer(ctx context.Context, g Given, now time.Time) (chain []int64, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		if chain, err = q.ChainOf(ctx, g.Message); err != nil {
			return err
		}
		n, err := q.AddAnswerGiven(ctx, query.AddAnswerGivenParams{
			MessageID: g.Message, PersonID: nullID(int64(g.Person)), Channel: g.Channel, Address: g.Address,
			Number: int64(g.Number), Minutes: int64(g.Minutes), Remark: g.Remark, At: millis(g.At),
			AccountID: nullID(g.Account), Source: g.Source,
		})
		if err != nil || n == 0 {
			return err
		}
		return countAnswer(ctx, q, chain, g, now)
	})
	return chain, err
}

// asked is a recipient of a message of the chain.
type asked struct {
	id, message, answeredAt int64
	outcome                 record.Outcome
}

// countAnswer counts an answer for its recipient, unless a younger one counts.
func countAnswer(ctx context.Context, q *query.Queries, chain []int64, g Given, now time.Time) error {
	list, err := askedBy(ctx, q, chain, g)
	if err != nil {
		return err
	}
	for _, r := range list {
		if r.answeredAt > millis(g.At) {
			continue
		}
		err := q.SetAnswer(ctx, query.SetAnswerParams{
			ID: r.id, Answer: int64(g.Number), Minutes: int64(g.Minutes), At: millis(g.At),
		})
		if err != nil {
			return err
		}
		if r.outcome != record.Answered {
			var change record.Figures
			change.AddRecipients(r.outcome, -1)
			change.AddRecipients(record.Answered, 1)
			if err := addFigures(ctx, q, r.message, change); err != nil {
				return err
			}
		}
		if err := q.SetReachedAt(ctx, idsText([]int64{r.id})); err != nil {
			return err
		}
	}
	return fill(ctx, q, chain, now)
}

// askedBy are the recipients of a chain who gave an answer.
func askedBy(ctx context.Context, q *query.Queries, chain []int64, g Given) ([]asked, error) {
	var list []asked
	if g.Person != 0 {
		rows, err := q.RecipientsAsked(ctx, query.RecipientsAskedParams{
			Messages: idsText(chain), PersonID: nullID(int64(g.Person)),
		})
		for _, row := range rows {
			list = append(list, asked{row.ID, row.MessageID, row.AnsweredAt, row.Outcome})
		}
		return list, err
	}
	rows, err := q.StrangersAsked(ctx, query.StrangersAskedParams{Messages: idsText(chain), Address: g.Address})
	for _, row := range rows {
		list = append(list, asked{row.ID, row.MessageID, row.AnsweredAt, row.Outcome})
	}
	return list, err
}

// fill notes of the messages of a chain that enough people gave an answer that counts.
func fill(ctx context.Context, q *query.Queries, chain []int64, now time.Time) error {
	for _, id := range chain {
		draft, err := q.DraftOf(ctx, id)
		if err != nil {
			return err
		}
		var d message.Draft
		if err := draftForm.read(draft, &d); err != nil {
			return err
		}
		if d.Question == nil || d.Question.Needed == 0 {
			continue
		}
		numbers, err := json.Marshal(d.Question.Filling())
		if err != nil {
			return err
		}
		n, err := q.CountFilling(ctx, query.CountFillingParams{MessageID: id, Answers: string(numbers)})
		if err != nil {
			return err
		}
		if int(n) < d.Question.Needed {
			continue
		}
		if _, err := q.SetFilled(ctx, query.SetFilledParams{ID: id, Now: millis(now)}); err != nil {
			return err
		}
	}
	return nil
}

// Filled are the messages of which enough people answered, while the others were not told.
func (s *Store) Filled(ctx context.Context) ([]int64, error) { return s.read().FilledUntold(ctx) }

// Asking are those of some messages that ask something.
func (s *Store) Asking(ctx context.Context, ids []int64) ([]int64, error) {
	return s.read().Asking(ctx, idsText(ids))
}

// FilledTold keeps that the others were told.
func (s *Store) FilledTold(ctx context.Context, message int64) error {
	return s.write(ctx, func(q *query.Queries) error { return q.SetFilledTold(ctx, message) })
}

// latestAnswers is how many of the last answers a board tells one by one.
const latestAnswers = 40

// Board is what everybody who was asked has answered.
type Board struct {
	Asked   []OnBoard
	Latest  []Given   // the last answers that came, the newest first
	Unclear int       // addresses of several people, from which one of them answered
	Filled  time.Time // when enough people answered; zero for not yet
}

// OnBoard is somebody who was asked.
type OnBoard struct {
	asking.Asked
	Recipient  int64
	Person     roster.PersonID
	Name       string
	AnsweredAt time.Time
}

// AskedOfDelivery are the recipients of a delivery, with what they answered.
func (s *Store) AskedOfDelivery(ctx context.Context, id int64) ([]OnBoard, error) {
	rows, err := s.read().AskedOfDelivery(ctx, id)
	list := make([]OnBoard, len(rows))
	for i, row := range rows {
		list[i] = OnBoard{
			Asked: asking.Asked{Number: int(row.Answer), Minutes: int(row.Minutes), Outcome: row.Outcome}, Recipient: row.ID,
			Person: roster.PersonID(row.PersonID.Int64), Name: row.Name, AnsweredAt: at(row.AnsweredAt),
		}
	}
	return list, err
}

// Board returns the answers to a message's question.
func (s *Store) Board(ctx context.Context, id int64) (b Board, err error) {
	q := s.read()
	rows, err := q.Board(ctx, id)
	if err != nil {
		return b, err
	}
	wrote := map[int64]bool{}
	writers, err := q.WroteTo(ctx, nullID(id))
	if err != nil {
		return b, err
	}
	for _, person := range writers {
		wrote[person.Int64] = true
	}
	b.Asked = make([]OnBoard, len(rows))
	for i, row := range rows {
		b.Asked[i] = OnBoard{
			Asked: asking.Asked{
				Number: int(row.Answer), Minutes: int(row.Minutes), Outcome: row.Outcome, Wrote: wrote[row.PersonID],
			},
			Recipient: row.ID, Person: roster.PersonID(row.PersonID), Name: row.Name, AnsweredAt: at(row.AnsweredAt),
		}
	}
	chain, err := q.ChainOf(ctx, id)
	if err != nil {
		return b, err
	}
	given, err := q.LatestAnswers(ctx, query.LatestAnswersParams{Messages: idsText(chain), Most: latestAnswers})
	if err != nil {
		return b, err
	}
	for _, a := range given {
		b.Latest = append(b.Latest, Given{
			Given:  asking.Given{Number: int(a.Number), Minutes: int(a.Minutes), Remark: a.Remark},
			Person: roster.PersonID(a.PersonID.Int64), Channel: a.Channel, Address: a.Address, At: at(a.At), By: a.WrittenBy,
		})
	}
	unclear, unclearErr := q.CountUnclear(ctx, idsText(chain))
	filled, err := q.FilledAt(ctx, id)
	b.Unclear = int(unclear)
	if filled > 0 {
		b.Filled = at(filled)
	}
	return b, errors.Join(unclearErr, err)
}

// nameAnswers counts what came from an address of several for the one who wrote it.
func nameAnswers(ctx context.Context, q *query.Queries, address string, p roster.PersonID, now time.Time) error {
	rows, err := q.UnclearFrom(ctx, address)
	if err != nil || len(rows) == 0 {
		return err
	}
	if err := q.JoinAgain(ctx); err != nil {
		return err
	}
	for _, row := range rows {
		chain, err := q.ChainOf(ctx, row.MessageID)
		if err != nil {
			return err
		}
		g := Given{
			Given:  asking.Given{Number: int(row.Number), Minutes: int(row.Minutes)},
			Person: p, Address: address, At: at(row.At),
		}
		to, err := askedBy(ctx, q, chain, g)
		if err != nil {
			return err
		}
		if len(to) == 0 {
			continue // somebody who was not asked
		}
		if err := q.NameAnswer(ctx, query.NameAnswerParams{ID: row.ID, PersonID: nullID(int64(p))}); err != nil {
			return err
		}
		if err := countAnswer(ctx, q, chain, g, now); err != nil {
			return err
		}
	}
	return nil
}
