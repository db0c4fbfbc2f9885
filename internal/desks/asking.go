package desks

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// reply is what something that came in says to a question.
type reply struct {
	asking.Given
	to      store.Answered  // the question; zero for none
	person  roster.PersonID // who was asked and says it; 0 of somebody who is not on the roster
	unclear bool            // which of several people says it
}

// attended reports whether somebody has to look at it.
func (r reply) attended() bool {
	choice, ok := r.to.Question.Choice(r.Number)
	return !ok || r.unclear || r.Remark != "" || choice.Means == message.Attend
}

// read is an answer as the desk reads it: in the words of the one who asked.
func (r reply) read() store.Copied {
	choice, ok := r.to.Question.Choice(r.Number)
	if !ok || r.Remark != "" {
		return store.Copied{}
	}
	words := choice.Words
	if r.Minutes > 0 {
		words += fmt.Sprintf(" (%d min)", r.Minutes)
	}
	return store.Copied{Language: "und", Text: words, Checked: true}
}

// reads finds the answer to a question in something that came in: to the one that it
// answers, or else to the last one that left to the address, of which it must then be an
// answer and nothing else.
func (s *Service) reads(ctx context.Context, t taken) (reply, error) {
	asked := t.answers
	besides := len(asked.Choices) == 0
	if besides {
		var err error
		asked, err = s.Store.LastQuestion(ctx, t.Channel, t.From, s.Now().Add(-answersFor))
		if errors.Is(err, store.ErrNotFound) {
			return reply{}, nil
		}
		if err != nil {
			return reply{}, err
		}
	}
	given, ok := asking.Read(asked.Question, wordsOf(asked), t.Text)
	if !ok || besides && given.Remark != "" {
		return reply{}, nil
	}
	r := reply{Given: given, to: asked, person: answerer(t.person, asked.To)}
	r.unclear = r.person == 0 && len(asked.To) > 0
	return r, nil
}

// answerer is who of those who were asked answers. Somebody else can have the address by
// now, such as the one into whom its owner was merged: the only one who was asked there is
// meant all the same.
func answerer(p *roster.Person, to []roster.PersonID) roster.PersonID {
	if p != nil && slices.Contains(to, p.ID) {
		return p.ID
	}
	return only(to)
}

// wordsOf are the answers of a question as they were written and as they went out.
func wordsOf(a store.Answered) [][]string {
	words := make([][]string, 0, len(a.Choices))
	for i, w := range a.Choices {
		said := []string{w}
		if c, ok := a.Question.Choice(i + 1); ok {
			said = append(said, c.Words)
		}
		words = append(words, said)
	}
	return words
}

// counts keeps what something that came in answers.
func (s *Service) counts(ctx context.Context, t taken) error {
	g := store.Given{
		Given: t.reply.Given, Message: t.reply.to.Message, Channel: t.Channel, Address: t.From, At: t.At,
		Source: "in " + t.Key, Person: t.reply.person,
	}
	return s.keep(ctx, g)
}

// keep keeps an answer and tells who shows it.
func (s *Service) keep(ctx context.Context, g store.Given) error {
	g.Remark = shortRemark(g.Remark)
	chain, err := s.Store.KeepAnswer(ctx, g, s.Now())
	if err != nil {
		return fmt.Errorf("keeping an answer to message %d: %w", g.Message, err)
	}
	for _, id := range chain {
		s.Answered(id)
	}
	return nil
}

// longestRemark is how much of a remark stands on the board; all of it is in the thread.
const longestRemark = 200

func shortRemark(text string) string {
	text = strings.Join(strings.Fields(text), " ")
	if r := []rune(text); len(r) > longestRemark {
		return string(r[:longestRemark]) + "…"
	}
	return text
}

// TakeReport takes a report of a gateway: a key that was pressed during a call may be an
// answer.
func (s *Service) TakeReport(ctx context.Context, r delivery.Report) error {
	if r.Pressed == "" {
		return s.Report(ctx, r)
	}
	a, err := s.Store.Answers(ctx, r.DeliveryKey)
	if errors.Is(err, store.ErrNotFound) {
		return s.Report(ctx, r)
	}
	if err != nil {
		return err
	}
	number, err := strconv.Atoi(r.Pressed)
	if _, ok := a.Question.Choice(number); err != nil || !ok || len(a.Choices) == 0 {
		return s.Report(ctx, r)
	}
	g := store.Given{
		Given: asking.Given{Number: number}, Message: a.Message, Channel: a.Channel, Address: a.Address,
		At: notLater(r.OccurredAt, s.Now()), Source: "pressed " + r.Key, Person: only(a.To),
	}
	if err := s.keep(ctx, g); err != nil {
		return err
	}
	if len(a.To) > 1 { // nobody can tell yet which of them answered
		r.State = delivery.Opened
	}
	return s.Report(ctx, r)
}

// notLater is when something happened that cannot have happened later than now.
func notLater(at, now time.Time) time.Time {
	if at.IsZero() || at.After(now) {
		return now
	}
	return at
}

// only is the one person of a list; 0 of none and of several.
func only(people []roster.PersonID) roster.PersonID {
	if len(people) != 1 {
		return 0
	}
	return people[0]
}
