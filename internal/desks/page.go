package desks

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Asked is the page of a delivery, on which its recipient answers without an account.
type Asked struct {
	Organisation string
	Words        phrase.Words // in the language in which they were asked
	Title        string
	Text         string // that they got, of a push
	Choices      []Choice
	Knows        Known
	Writes       bool            // they can write back
	People       []store.OnBoard // who of several may answer; one otherwise
}

// Known says whether somebody confirmed that they know.
type Known string

// What is known of that; "" is that nobody asks.
const (
	NotYet    Known = "not yet"
	Confirmed Known = "confirmed"
)

// Choice is an answer that can be chosen on the page.
type Choice struct {
	Number  int
	Words   string
	Minutes bool // it asks after how many
}

// Ask is the page of a delivery, by its key; ErrNotFound when it has none. A push has one,
// and so has what asks a question.
func (s *Service) Ask(ctx context.Context, key string) (Asked, error) {
	a, err := s.Store.Answers(ctx, key)
	if err != nil {
		return Asked{}, err
	}
	if a.Channel != roster.Push && !asks(a) {
		return Asked{}, store.ErrNotFound
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return Asked{}, err
	}
	page := Asked{Organisation: o.Name, Words: phrase.In(a.Language, o.Language), Title: a.Subject}
	if a.Channel == roster.Push {
		page.Text, page.Writes = a.Body, true
	}
	if page.Title == o.Name { // of a push that has none
		page.Title = ""
	}
	switch {
	case !confirms(a):
	case a.State == delivery.Answered:
		page.Knows = Confirmed
	default:
		page.Knows = NotYet
	}
	for i, w := range a.Choices {
		c, _ := a.Question.Choice(i + 1)
		page.Choices = append(page.Choices, Choice{Number: i + 1, Words: w, Minutes: c.Means == message.Minutes})
	}
	page.People, err = s.Store.AskedOfDelivery(ctx, a.ID)
	return page, err
}

// asks reports whether a delivery asked a question.
func asks(a store.Answered) bool { return len(a.Choices) > 0 && a.Question.Asks() }

// confirms reports whether a push asks to confirm that its recipient knows. A question is
// answered by its answers alone.
func confirms(a store.Answered) bool { return a.Channel == roster.Push && a.Confirms && !asks(a) }

// oneOf is who of the recipients of a delivery does something on its page; 0 where none of
// them is on the roster.
func oneOf(a store.Answered, person roster.PersonID) (roster.PersonID, error) {
	person = cmp.Or(person, only(a.To))
	if len(a.To) > 0 && !slices.Contains(a.To, person) {
		return 0, fmt.Errorf("%w: say who of you it is", ErrRefused)
	}
	return person, nil
}

// Say keeps the answer that somebody gave on their page. Person is 0 when the delivery
// went to one person.
func (s *Service) Say(ctx context.Context, key string, g asking.Given, person roster.PersonID) error {
	a, err := s.Store.Answers(ctx, key)
	if err != nil {
		return err
	}
	if !asks(a) {
		return store.ErrNotFound
	}
	if _, ok := a.Question.Choice(g.Number); !ok {
		return fmt.Errorf("%w: this is none of the answers", ErrRefused)
	}
	if g.Minutes < 0 || g.Minutes > asking.MostMinutes {
		return fmt.Errorf("%w: %d minutes is more than a day", ErrRefused, g.Minutes)
	}
	if person, err = oneOf(a, person); err != nil {
		return err
	}
	now := s.Now()
	err = s.keep(ctx, store.Given{
		Given: g, Message: a.Message, Person: person, Channel: a.Channel, Address: a.Address, At: now,
		Source: fmt.Sprintf("page %s %d %d", a.Key, person, now.UnixNano()),
	})
	if err != nil || len(a.To) > 1 {
		return err
	}
	return s.Report(ctx, delivery.Report{
		Via: delivery.ViaOf(a.Channel), DeliveryKey: a.Key, Key: "answer on the page", State: delivery.Answered,
		Detail: "answered on the page", OccurredAt: now,
	})
}

// Know keeps that the recipient of a push confirmed on its page that they know.
func (s *Service) Know(ctx context.Context, key string) error {
	a, err := s.Store.Answers(ctx, key)
	if err != nil {
		return err
	}
	if !confirms(a) {
		return fmt.Errorf("%w: nobody asks to confirm it", ErrRefused)
	}
	return s.Report(ctx, delivery.Report{
		Via: delivery.ViaDevice, DeliveryKey: key, Key: "page answered", State: delivery.Answered,
		Detail: "confirmed on the page", OccurredAt: s.Now(),
	})
}

// WriteBack takes what the recipient of a push wrote on its page, by a key of that page.
// Person is 0 when the push went to one person.
func (s *Service) WriteBack(ctx context.Context, key, nonce, text string, person roster.PersonID) error {
	a, err := s.Store.Answers(ctx, key)
	if err != nil {
		return err
	}
	if a.Channel != roster.Push {
		return store.ErrNotFound
	}
	if person, err = oneOf(a, person); err != nil {
		return err
	}
	item := incoming.Item{Key: own.BackKey(key, nonce), Delivery: key, Person: person, Text: text, At: s.Now()}
	if person == 0 {
		item.Channel, item.From = a.Channel, a.Address
	}
	if item = item.Bounded(s.Now()); strings.TrimSpace(item.Text) == "" {
		return fmt.Errorf("%w: there is nothing to send", ErrRefused)
	}
	n, err := s.Store.WrittenBack(ctx, key, s.Now().Add(-own.WritesIn))
	if err != nil {
		return err
	}
	if n >= own.MostWrites {
		return ErrTooMuch
	}
	return s.Take(ctx, item)
}
