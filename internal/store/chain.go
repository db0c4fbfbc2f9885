package store

import (
	"context"
	"slices"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Chain is what became of a message and of those that repeat it, without one of them.
func (s *Store) Chain(ctx context.Context, first, besides int64) (*plan.Chain, error) {
	rows, err := s.read().Chain(ctx, query.ChainParams{First: first, Besides: besides})
	if err != nil {
		return nil, err
	}
	c := &plan.Chain{People: map[roster.PersonID]plan.Before{}, Addresses: map[string]plan.Before{}}
	for _, row := range rows {
		person := roster.PersonID(row.PersonID.Int64)
		b, stranger := c.People[person], !row.PersonID.Valid
		if stranger {
			b = c.Addresses[row.Address]
		}
		b.Reached = b.Reached || row.Outcome == record.Reached || row.Outcome == record.Answered
		b.Answered = b.Answered || row.Outcome == record.Answered
		b.Waiting = b.Waiting || row.Outcome == record.Waiting
		if row.State.MayBeThere() && !slices.Contains(b.Channels, row.Channel) {
			b.Channels = append(b.Channels, row.Channel)
		}
		if stranger {
			c.Addresses[row.Address] = b
		} else {
			c.People[person] = b
		}
	}
	return c, nil
}

// Follower is a message that follows another one.
type Follower struct {
	ID     int64
	Author int64 // the account
	As     message.As
	Title  string
	State  MessageState
}

// Followers are the messages that follow one, drafts among them, the oldest first.
func (s *Store) Followers(ctx context.Context, first int64) ([]Follower, error) {
	rows, err := s.read().Followers(ctx, first)
	list := make([]Follower, len(rows))
	for i, row := range rows {
		list[i] = Follower{row.ID, row.AccountID, message.As(row.FollowsAs), row.Title, MessageState(row.State)}
	}
	return list, err
}

// follows are the columns of what a draft follows.
func follows(d message.Draft) (id int64, as string) {
	if d.Follows == nil {
		return 0, ""
	}
	return d.Follows.Message, string(d.Follows.As)
}

// WhoGot are those who got a message, or may have got it: people of the roster, and addresses that belong
// to nobody on it.
type WhoGot struct {
	People    []roster.PersonID
	Addresses []string
}

// WhoGot returns who got a message or may have got it, or its copy in a language.
func (s *Store) WhoGot(ctx context.Context, id int64, language string) (WhoGot, error) {
	rows, err := s.read().WhoGot(ctx, query.WhoGotParams{MessageID: id, Copy: language})
	var got WhoGot
	for _, row := range rows {
		person, last := roster.PersonID(row.PersonID.Int64), len(got.People)-1
		switch {
		case !row.PersonID.Valid:
			got.Addresses = append(got.Addresses, row.Address)
		case last < 0 || got.People[last] != person:
			got.People = append(got.People, person)
		}
	}
	return got, err
}
