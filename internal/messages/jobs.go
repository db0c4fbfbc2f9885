package messages

import (
	"context"
	"fmt"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// comingAnswers are those with which a message begins that asks for a job who is coming.
var comingAnswers = []message.FixedAnswer{
	{Words: "I am coming", Means: message.Counts}, {Words: "I am coming later", Means: message.Minutes},
	{Words: "I cannot come"},
}

// AskForJob begins a message that asks for a job who is coming. Whom it asks is for its
// writer to say.
func (s *Service) AskForJob(ctx context.Context, by access.Principal, id roster.GroupID) (store.Message, error) {
	r, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return store.Message{}, err
	}
	g, there := r.Group(id)
	if !there || g.Kind != roster.Job || g.Closed != nil {
		return store.Message{}, store.ErrNotFound
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return store.Message{}, err
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return store.Message{}, err
	}
	draft := message.Empty()
	draft.Urgency, draft.Audience.Receivers = roster.Timely, "themselves"
	draft.Subject = g.Name + ": who is coming?"
	draft.Email = rich.Lines(jobLines(*g, zone))
	draft.Question = &message.Question{
		Choices: comingAnswers, Job: id, Filled: "We are enough now. Thank you, you do not need to come.",
	}
	return s.Store.AddDraft(ctx, by.ID, draft, s.Now())
}

// jobLines say what a job is, where and when.
func jobLines(g roster.Group, zone *time.Location) string {
	list := []string{"Can you come to this?", g.Name}
	if g.Place != "" {
		list = append(list, "Where: "+g.Place)
	}
	if g.Starts != nil {
		list = append(list, "From: "+g.Starts.In(zone).Format("Monday 2 January, 15:04"))
	}
	if g.Ends != nil {
		list = append(list, "Until about: "+g.Ends.In(zone).Format("Monday 2 January, 15:04"))
	}
	if g.Reference != "" {
		list = append(list, fmt.Sprintf("Reference: %s", g.Reference))
	}
	return strings.Join(list, "\n")
}
