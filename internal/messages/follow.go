package messages

import (
	"context"
	"errors"
	"slices"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// ErrNobodyGot means that nobody got a message, or a copy of it, so that nothing can
// be corrected.
var ErrNobodyGot = errors.New("nobody got this message")

// ErrNotSent means that a message that was not sent cannot be followed.
var ErrNotSent = errors.New("this message was not sent yet")

// Following is a message that is to follow another one.
type Following struct {
	As       message.As
	People   []roster.PersonID // of those it is for, just these; none is all
	Language string            // of a correction: for those who got this copy; "" is everybody
}

// Follow makes a draft that follows a message. What says the same again says what it
// said, to the same audience or to one that is still to be named; anything else goes to
// exactly those who got it.
func (s *Service) Follow(
	ctx context.Context, by access.Principal, id int64, f Following,
) (store.Message, error) {
	m, err := s.Message(ctx, by, id)
	if err != nil {
		return m, err
	}
	if m.State == store.Draft || m.State == store.Held {
		return m, ErrNotSent
	}
	if f.As == message.Filled {
		return m, errors.Join(ErrNotKept, errors.New("the program itself says that enough people answered"))
	}
	if f.As == message.Unanswered && !m.Draft.Question.Asks() {
		return m, errors.Join(ErrNotKept, errors.New("this message asked nothing"))
	}
	first := id
	if m.Draft.Follows != nil {
		first = m.Draft.Follows.Message
	}
	draft := m.Draft
	draft.SendAt, draft.Times = nil, nil // those were of that day
	if !f.As.Repeats() {
		if draft, err = s.toWhoGot(ctx, m, f.Language); err != nil {
			return m, err
		}
		first = id // exactly those who got this one
	}
	if f.As == message.Further {
		draft.Audience.Parts = []audience.Part{}
	}
	draft.Follows = &message.Follows{Message: first, As: f.As, People: f.People}
	if err := draft.Validate(); err != nil {
		return m, errors.Join(ErrNotKept, err)
	}
	made, err := s.Store.AddDraft(ctx, by.ID, draft, s.Now())
	if err == nil && f.As.Repeats() {
		err = s.Store.CopyCopies(ctx, id, made.ID)
	}
	if err == nil {
		s.Moved(made.ID)
	}
	return made, err
}

// toWhoGot is an empty draft to exactly those who got a message, or its copy in a
// language.
func (s *Service) toWhoGot(ctx context.Context, m store.Message, language string) (message.Draft, error) {
	draft := message.Empty()
	draft.Urgency, draft.Reason, draft.Practice = m.Urgency, m.Draft.Reason, m.Draft.Practice
	got, err := s.Store.WhoGot(ctx, m.ID, language)
	if err != nil {
		return draft, err
	}
	if len(got.People)+len(got.Addresses) == 0 {
		return draft, ErrNobodyGot
	}
	draft.Audience.Receivers = audience.Themselves
	if len(got.People) > 0 {
		draft.Audience.Parts = append(draft.Audience.Parts, audience.Part{Kind: audience.ByPeople, People: got.People})
	}
	if len(got.Addresses) > 0 {
		draft.Audience.Parts = append(draft.Audience.Parts, audience.Part{
			Kind: audience.ByAddresses, Addresses: got.Addresses, Name: "not on the roster",
		})
	}
	return draft, nil
}

// Chained are the messages of a message's chain that somebody may see, without itself.
func (s *Service) Chained(ctx context.Context, by access.Principal, m store.Message) ([]store.Follower, error) {
	first := m.ID
	if m.Draft.Follows != nil {
		first = m.Draft.Follows.Message
	}
	list, err := s.Store.Followers(ctx, first)
	if err != nil {
		return nil, err
	}
	if first != m.ID {
		if h, err := s.Heading(ctx, by, first); err == nil {
			list = append([]store.Follower{{ID: h.ID, Author: h.AuthorID, Title: h.Title, State: h.State}}, list...)
		}
	}
	authors, err := s.Authors(ctx, by)
	return slices.DeleteFunc(list, func(f store.Follower) bool {
		return f.ID == m.ID || !slices.Contains(authors, f.Author)
	}), err
}
