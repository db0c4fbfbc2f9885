package store

import (
	"context"
	"time"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Missed is a recipient whom a message did not reach, with what was tried.
type Missed struct {
	ID     int64
	Person roster.PersonID // 0 when they are no longer on the roster, or never were
	Name   string
	Step   int
	Tried  []Tried
}

// Tried is an address to which a message went, and what was last heard of it.
type Tried struct {
	Channel roster.Channel
	Address string
	Detail  string
}

// Missed lists the recipients whom a message did not reach, by step and name.
func (s *Store) Missed(ctx context.Context, message int64) ([]Missed, error) {
	rows, err := s.read().Missed(ctx, message)
	var list []Missed
	for _, row := range rows {
		if len(list) == 0 || list[len(list)-1].ID != row.ID {
			list = append(list, Missed{
				ID: row.ID, Person: roster.PersonID(row.PersonID.Int64), Name: row.Name, Step: int(row.Step),
			})
		}
		m := &list[len(list)-1]
		m.Tried = append(m.Tried, Tried{row.Channel, row.Address, row.Detail})
	}
	return list, err
}

// Hand is who looks after somebody whom a message did not reach.
type Hand struct {
	GivenTo int64 // the account; 0 is nobody
	Given   string
	Done    string    // who said that they are done
	DoneAt  time.Time // zero while they are not
}

// Hands are who looks after whom of a message.
func (s *Store) Hands(ctx context.Context, message int64) (map[roster.PersonID]Hand, error) {
	rows, err := s.read().Hands(ctx, message)
	hands := make(map[roster.PersonID]Hand, len(rows))
	for _, row := range rows {
		hands[roster.PersonID(row.PersonID)] = Hand{
			GivenTo: row.GivenTo.Int64, Given: row.Given, Done: row.Done, DoneAt: at(row.DoneAt),
		}
	}
	return hands, err
}

// Give asks an account to look after people of a message; 0 asks nobody any more.
func (s *Store) Give(ctx context.Context, message int64, people []roster.PersonID, to, by int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.GiveHands(ctx, query.GiveHandsParams{
			MessageID: message, People: idsText(people), GivenTo: nullID(to), GivenBy: nullID(by),
		})
	})
}

// Tick says that people of a message are done, or, at the zero time, that they are not.
func (s *Store) Tick(ctx context.Context, message int64, people []roster.PersonID, by int64, now time.Time) error {
	if now.IsZero() {
		by = 0
	}
	return s.write(ctx, func(q *query.Queries) error {
		return q.TickHands(ctx, query.TickHandsParams{
			MessageID: message, People: idsText(people), DoneBy: nullID(by), DoneAt: millis(now),
		})
	})
}

// Asked is how many people of a message an account is asked to look after.
type Asked struct {
	Message int64
	Title   string
	People  int
}

// AskedOf lists whom an account is asked to look after, by message, the newest first.
func (s *Store) AskedOf(ctx context.Context, account int64) ([]Asked, error) {
	rows, err := s.read().HandsOf(ctx, nullID(account))
	list := make([]Asked, len(rows))
	for i, row := range rows {
		list[i] = Asked{row.MessageID, row.Title, int(row.People)}
	}
	return list, err
}
