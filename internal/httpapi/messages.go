package httpapi

import (
	"context"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

type MessageView struct {
	ID        int64          `json:"id"`
	Title     string         `json:"title"`
	State     string         `json:"state" enum:"draft,held,sending,sent,stopped"`
	Scheduled bool           `json:"scheduled" doc:"It is held for its own time, not just for the hold"`
	Late      bool           `json:"late" doc:"Its time passed while the program was down: it waits until somebody lets it leave or stops it"`
	Urgency   string         `json:"urgency" enum:"routine,timely,emergency"`
	Revision  int64          `json:"revision"`
	Author    string         `json:"author"`
	Sender    string         `json:"sender"`
	Assenter  string         `json:"assenter,omitempty" doc:"Who said yes to sending it, besides the sender"`
	Asker     string         `json:"asker,omitempty" doc:"Of a draft: who asks for somebody else's yes to it as it is now"`
	AsksYou   bool           `json:"asksYou,omitempty" doc:"The account is not the one that asks"`
	UpdatedAt time.Time      `json:"updatedAt"`
	SentAt    *time.Time     `json:"sentAt,omitempty" doc:"When Send was pressed"`
	LeavesAt  *time.Time     `json:"leavesAt,omitempty"`
	EndedAt   *time.Time     `json:"endedAt,omitempty" doc:"When the last delivery had left or was stopped"`
	Figures   record.Figures `json:"figures" doc:"All zero for a draft"`
}

type draftView struct {
	MessageView
	Draft message.Draft `json:"draft"`
	// Labels name the parts of the audience, in their order.
	Labels []string `json:"labels"`
}

func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func viewMessage(ctx context.Context, m store.Heading) MessageView {
	return MessageView{
		ID: m.ID, Title: m.Title, State: string(m.State), Scheduled: m.State == store.Held && m.Scheduled, Late: m.Late,
		Urgency:  string(m.Urgency),
		Revision: m.Revision, Author: m.Author, Sender: m.Sender, Assenter: m.Assenter, Asker: m.Asker,
		AsksYou:   m.Asks(accountOf(ctx).ID),
		UpdatedAt: m.UpdatedAt, SentAt: moment(m.SentAt), LeavesAt: moment(m.LeavesAt), EndedAt: moment(m.EndedAt),
		Figures: m.Figures,
	}
}

// messageOf returns a message if the account may see it: its own, and those of
// accounts whose reach lies within its own.
func (s *server) messageOf(ctx context.Context, id int64) (store.Message, error) {
	if _, err := s.headingOf(ctx, id); err != nil {
		return store.Message{}, err
	}
	return s.Store.Message(ctx, id)
}

// headingOf is messageOf without what the message says.
func (s *server) headingOf(ctx context.Context, id int64) (store.Heading, error) {
	m, err := s.Store.Heading(ctx, id)
	if err != nil {
		return m, err
	}
	authors, err := s.Sending.Authors(ctx, accountOf(ctx))
	if err == nil && !slices.Contains(authors, m.AuthorID) {
		err = store.ErrNotFound
	}
	return m, err
}

type MessageID struct {
	ID int64 `path:"id"`
}

func (s *server) messageRoutes(api huma.API) {
	add(api, get("/messages", "messages", "The newest messages", access.Write, access.ReadRecords), s.messages)
	add(api, post("/messages", "add-message", "Begin a draft", access.Write), s.addMessage)
	add(
		api, get("/messages/{id}", "message", "One message as it was written", access.Write, access.ReadRecords), s.message,
	)
	add(api, put("/messages/{id}", "save-draft", "Keep a draft", access.Write), s.saveDraft)
	add(api, del("/messages/{id}", "delete-draft", "Delete a draft", access.Write), s.deleteDraft)
	add(
		api, post("/messages/{id}/send", "send", "Put a message on hold; it leaves when the hold is over", access.Write),
		s.send,
	)
	add(api, post("/messages/{id}/ask", "ask", "Ask for somebody else's yes, where that is needed", access.Write), s.ask)
	add(
		api,
		get("/messages/{id}/asked", "asked", "What goes out when somebody says the yes that was asked for", access.Write),
		s.asked,
	)
	add(api, post("/messages/{id}/stop", "stop", "Stop what has not left", access.Write), s.stop)
	add(
		api,
		post("/messages/{id}/decide", "decide", "Settle deliveries of which nobody can tell whether they left", access.Write),
		s.decide,
	)
	add(
		api,
		post(
			"/messages/{id}/late", "send-late", "Let a message leave whose time passed while the program was down", access.Write,
		),
		s.sendLate,
	)
}

type messagesView struct {
	Messages []MessageView `json:"messages"`
	All      int           `json:"all"`
}

func (s *server) messages(ctx context.Context, in *Page) (*body[messagesView], error) {
	authors, err := s.Sending.Authors(ctx, accountOf(ctx))
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	list, all, err := s.Store.Messages(ctx, authors, in.First, in.Count)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := messagesView{make([]MessageView, len(list)), all}
	for i, m := range list {
		out.Messages[i] = viewMessage(ctx, m)
	}
	return &body[messagesView]{out}, nil
}

func (s *server) draftView(ctx context.Context, m store.Message) (*body[draftView], error) {
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if m.Draft.Audience.Parts == nil {
		m.Draft.Audience.Parts = []audience.Part{}
	}
	return &body[draftView]{
		draftView{MessageView: viewMessage(ctx, m.Heading), Draft: m.Draft, Labels: labels(r, m.Draft.Audience)},
	}, nil
}

func labels(r *roster.Roster, a audience.Audience) []string {
	list := make([]string, len(a.Parts))
	for i, p := range a.Parts {
		list[i] = audience.Label(r, p)
	}
	return list
}

// emptyDraft is addressed to nobody and says nothing.
func emptyDraft() message.Draft {
	return message.Draft{
		Routing: message.Routing{
			Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{}, Receivers: audience.Guardians},
		},
	}
}

func (s *server) addMessage(ctx context.Context, in *struct {
	Body struct {
		CopyOf int64 `json:"copyOf,omitempty" doc:"Begin with what another message says"`
	}
}) (*body[draftView], error) {
	draft := emptyDraft()
	if in.Body.CopyOf != 0 {
		m, err := s.messageOf(ctx, in.Body.CopyOf)
		if err != nil {
			return nil, s.problem(ctx, err)
		}
		draft = m.Draft
		draft.SendAt, draft.Times = nil, nil
	}
	m, err := s.Store.AddDraft(ctx, accountOf(ctx).ID, draft, s.Now())
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	s.Events.Message(m.ID)
	return s.draftView(ctx, m)
}

func (s *server) message(ctx context.Context, in *MessageID) (*body[draftView], error) {
	m, err := s.messageOf(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.draftView(ctx, m)
}

type saved struct {
	Revision  int64     `json:"revision"`
	UpdatedAt time.Time `json:"updatedAt"`
}

func (s *server) saveDraft(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Revision int64         `json:"revision" doc:"The one that was changed"`
		Draft    message.Draft `json:"draft"`
	}
}) (*body[saved], error) {
	if err := in.Body.Draft.Validate(); err != nil {
		return nil, huma.Error422UnprocessableEntity("The draft was not kept: " + err.Error() + ".")
	}
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	now := s.Now()
	revision, err := s.Store.SaveDraft(ctx, in.ID, in.Body.Revision, accountOf(ctx).ID, in.Body.Draft, now)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[saved]{saved{revision, now}}, nil
}

func (s *server) deleteDraft(ctx context.Context, in *MessageID) (*struct{}, error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	if err := s.Store.DeleteDraft(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	s.Events.Message(in.ID)
	return nil, nil
}

type checkedMessage struct {
	MessageID
	Body struct {
		Revision   int64 `json:"revision" doc:"The one that was checked"`
		Recipients *int  `json:"recipients,omitempty" doc:"How many people the check spoke of; when the plan has changed, nothing is sent"`
		Typed      int   `json:"typed,omitempty" doc:"The number of people, typed by the sender, for an emergency or a big audience"`
	}
}

func (m checkedMessage) checked() sending.Checked {
	return sending.Checked{Recipients: m.Body.Recipients, Typed: m.Body.Typed}
}

func (s *server) ask(ctx context.Context, in *checkedMessage) (*struct{}, error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	return nil, s.problem(ctx, s.Sending.Ask(ctx, in.ID, in.Body.Revision, in.checked(), accountOf(ctx)))
}

func (s *server) asked(ctx context.Context, in *MessageID) (*body[planView], error) {
	m, err := s.messageOf(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	w, err := s.Sending.Asked(ctx, m)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[planView]{viewPlan(w)}, nil
}

func (s *server) send(ctx context.Context, in *checkedMessage) (*body[MessageView], error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	m, err := s.Sending.Send(ctx, in.ID, in.Body.Revision, in.checked(), accountOf(ctx))
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[MessageView]{viewMessage(ctx, m.Heading)}, nil
}

type stoppedView struct {
	Stopped int  `json:"stopped" doc:"How many deliveries will never leave"`
	Leaving int  `json:"leaving" doc:"How many are still being handed over; some of them may be stopped yet"`
	Draft   bool `json:"draft" doc:"Nothing had left: the message is a draft again"`
}

func (s *server) stop(ctx context.Context, in *MessageID) (*body[stoppedView], error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	stopped, err := s.Sending.Stop(ctx, in.ID, accountOf(ctx))
	return &body[stoppedView]{stoppedView{stopped.Stopped, stopped.Leaving, stopped.Draft}}, s.problem(ctx, err)
}

func (s *server) decide(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Again bool `json:"again" doc:"Send them again; otherwise they are left at that"`
	}
}) (*body[MessageView], error) {
	m, err := s.messageOf(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if _, err := s.Sending.Decide(ctx, m, in.Body.Again, accountOf(ctx)); err != nil {
		return nil, s.problem(ctx, err)
	}
	after, err := s.Store.Heading(ctx, in.ID)
	return &body[MessageView]{viewMessage(ctx, after)}, s.problem(ctx, err)
}

func (s *server) sendLate(ctx context.Context, in *MessageID) (*body[MessageView], error) {
	m, err := s.messageOf(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if err := s.Sending.SendLate(ctx, m, accountOf(ctx)); err != nil {
		return nil, s.problem(ctx, err)
	}
	if m, err = s.Store.Message(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[MessageView]{viewMessage(ctx, m.Heading)}, nil
}
