package outgoing

import (
	"context"
	"errors"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/writing"
	"upperlantern/internal/messages"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

type MessageView struct {
	ID        int64              `json:"id"`
	Title     string             `json:"title"`
	State     store.MessageState `json:"state"`
	Scheduled bool               `json:"scheduled" doc:"It is held for its own time, not just for the hold"`
	Restored  *time.Time         `json:"restored,omitempty" doc:"It was under way in the backup of then, which was restored: some of it may have left since"`
	Late      bool               `json:"late" doc:"Its time passed while the program was down: it waits until somebody lets it leave or stops it"`
	Changed   bool               `json:"changed,omitempty" doc:"The roster changed since it was checked; while it is late, it waits for a yes to that"`
	PausedBy  string             `json:"pausedBy,omitempty" doc:"Who paused it; it goes on when somebody says so"`
	Urgency   roster.Urgency     `json:"urgency"`
	Revision  int64              `json:"revision"`
	Author    string             `json:"author"`
	Sender    string             `json:"sender"`
	Assenter  string             `json:"assenter,omitempty" doc:"Who said yes to sending it, besides the sender"`
	Asker     string             `json:"asker,omitempty" doc:"Of a draft: who asks for somebody else's yes to it as it is now"`
	AsksYou   bool               `json:"asksYou,omitempty" doc:"The account is not the one that asks"`
	UpdatedAt time.Time          `json:"updatedAt"`
	SentAt    *time.Time         `json:"sentAt,omitempty" doc:"When Send was pressed"`
	LeavesAt  *time.Time         `json:"leavesAt,omitempty"`
	EndedAt   *time.Time         `json:"endedAt,omitempty" doc:"When the last delivery had left or was stopped"`
	Figures   record.Figures     `json:"figures" doc:"All zero for a draft"`
	Awaits    *awaitView         `json:"awaits,omitempty" doc:"Of a draft: how it waits for its readings, as it is now"`
}

type draftView struct {
	MessageView
	Draft message.Draft `json:"draft"`
	// Labels name the parts of the audience, in their order.
	Labels []string `json:"labels"`
}

type awaitView struct {
	Until  time.Time `json:"until"`
	Failed string    `json:"failed" doc:"Why it did not leave when the wait was over"`
}

func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func viewMessage(ctx context.Context, m store.Heading) MessageView {
	return MessageView{
		ID: m.ID, Title: m.Title, State: m.State, Scheduled: m.ForItsTime(), Late: m.Late, Restored: moment(m.Restored),
		Changed: m.Changed, PausedBy: m.PausedBy,
		Urgency:  m.Urgency,
		Revision: m.Revision, Author: m.Author, Sender: m.Sender, Assenter: m.Assenter, Asker: m.Asker,
		AsksYou:   m.Asks(route.By(ctx).ID),
		UpdatedAt: m.UpdatedAt, SentAt: moment(m.SentAt), LeavesAt: moment(m.LeavesAt), EndedAt: moment(m.EndedAt),
		Figures: m.Figures, Awaits: viewAwait(m.Awaits),
	}
}

func viewAwait(a *store.Awaiting) *awaitView {
	if a == nil {
		return nil
	}
	return &awaitView{Until: a.Until, Failed: a.Failed}
}

type MessageID struct {
	ID int64 `path:"id"`
}

func (s *Area) messageRoutes(api huma.API) {
	route.Get(api, "/messages", "messages", "The newest messages", s.messages, access.Write, access.ReadRecords)
	route.Post(api, "/messages", "add-message", "Begin a draft", s.addMessage, access.Write)
	route.Get(
		api, "/messages/{id}", "message", "One message as it was written",
		s.message, access.Write, access.ReadRecords,
	)
	route.Post(
		api, "/messages/{id}/follow", "follow", "Begin a message that follows this one", s.follow, access.Write,
	)
	route.Put(api, "/messages/{id}", "save-draft", "Keep a draft", s.saveDraft, access.Write)
	route.Del(api, "/messages/{id}", "delete-draft", "Delete a draft", s.deleteDraft, access.Write)
	route.Post(
		api, "/messages/{id}/send", "send", "Put a message on hold; it leaves when the hold is over",
		s.send, access.Write,
	)
	route.Post(
		api, "/messages/{id}/ask", "ask", "Ask for somebody else's yes, where that is needed",
		s.ask, access.Write,
	)
	route.Get(
		api, "/messages/{id}/asked", "asked", "What goes out when somebody says the yes that was asked for",
		s.asked, access.Write,
	)
	route.Post(
		api, "/messages/{id}/await", "await", "Let a draft wait for its readings until a time, and leave then",
		s.await, access.Write,
	)
	route.Del(api, "/messages/{id}/await", "stop-awaiting", "Let a draft wait no longer", s.stopAwaiting, access.Write)
	route.Post(api, "/messages/{id}/stop", "stop", "Stop what has not left", s.stop, access.Write)
	route.Post(api, "/messages/{id}/pause", "pause", "Let nothing more leave for now", s.pause, access.Write)
	route.Post(api, "/messages/{id}/resume", "resume", "Let a paused message go on", s.resume, access.Write)
	route.Post(
		api, "/messages/{id}/decide", "decide", "Settle deliveries of which nobody can tell whether they left",
		s.decide, access.Write,
	)
	route.Post(
		api, "/messages/{id}/late", "send-late", "Let a message leave whose time passed while the program was down",
		s.sendLate, access.Write,
	)
}

type messagesView struct {
	Messages []MessageView `json:"messages"`
	All      int           `json:"all"`
}

func (s *Area) messages(ctx context.Context, in *route.Page) (*route.Body[messagesView], error) {
	list, all, err := s.Messages.List(ctx, route.By(ctx), in.First, in.Count)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := messagesView{Messages: make([]MessageView, len(list)), All: all}
	for i, m := range list {
		out.Messages[i] = viewMessage(ctx, m)
	}
	return route.Answer(out), nil
}

func (s *Area) draftView(ctx context.Context, m store.Message) (*route.Body[draftView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := draftView{
		MessageView: viewMessage(ctx, m.Heading), Draft: whole(m.Draft), Labels: m.Draft.Audience.Labels(r),
	}
	a, err := s.Sending.Awaited(ctx, m.ID, route.By(ctx))
	switch {
	case err == nil:
		v.Awaits = viewAwait(&a)
	case !errors.Is(err, store.ErrNotFound):
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(v), nil
}

// whole is a draft whose audience is a list, be it empty.
func whole(d message.Draft) message.Draft {
	if d.Audience.Parts == nil {
		d.Audience.Parts = []audience.Part{}
	}
	return d
}

func (s *Area) addMessage(ctx context.Context, in *struct {
	Body struct {
		CopyOf int64 `json:"copyOf,omitempty" doc:"Begin with what another message says"`
	}
}) (*route.Body[draftView], error) {
	m, err := s.Messages.Begin(ctx, route.By(ctx), in.Body.CopyOf)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.draftView(ctx, m)
}

func (s *Area) follow(ctx context.Context, in *struct {
	MessageID
	Body struct {
		As       message.As        `json:"as" enum:"again,further,unanswered,correction,all-clear"`
		People   []roster.PersonID `json:"people,omitempty" maxItems:"200000" doc:"Of those it is for, just these"`
		Language string            `json:"language,omitempty" maxLength:"40" doc:"Of a correction: only to those who got the copy in it, BCP 47"`
	}
}) (*route.Body[draftView], error) {
	m, err := s.Messages.Follow(ctx, route.By(ctx), in.ID, messages.Following{
		As: in.Body.As, People: in.Body.People, Language: in.Body.Language,
	})
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.draftView(ctx, m)
}

func (s *Area) message(ctx context.Context, in *MessageID) (*route.Body[draftView], error) {
	m, err := s.Messages.Message(ctx, route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.draftView(ctx, m)
}

type saved struct {
	Revision  int64     `json:"revision"`
	UpdatedAt time.Time `json:"updatedAt"`
}

func (s *Area) saveDraft(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Revision int64         `json:"revision" doc:"The one that was changed"`
		Draft    message.Draft `json:"draft"`
	}
}) (*route.Body[saved], error) {
	now := s.Now()
	revision, err := s.Messages.Keep(ctx, route.By(ctx), in.ID, in.Body.Revision, in.Body.Draft)
	return route.Answer(saved{Revision: revision, UpdatedAt: now}), s.Problem(ctx, err)
}

func (s *Area) deleteDraft(ctx context.Context, in *MessageID) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Messages.Delete(ctx, route.By(ctx), in.ID))
}

type CheckedBody struct {
	Revision   int64   `json:"revision" doc:"The one that was checked"`
	Recipients *int    `json:"recipients,omitempty" doc:"How many people the check spoke of; when the plan has changed, nothing is sent"`
	Copies     *string `json:"copies,omitempty" maxLength:"5000" doc:"How far the copies were that the check spoke of (copiesSeen); when that has changed, nothing is sent"`
	Typed      int     `json:"typed,omitempty" doc:"The number of people, typed by the sender, for an emergency or a big audience"`
}

func (b CheckedBody) checked() sending.Checked {
	return sending.Checked{Recipients: b.Recipients, Copies: b.Copies, Typed: b.Typed}
}

type checkedMessage struct {
	MessageID
	Body CheckedBody
}

func (s *Area) ask(ctx context.Context, in *checkedMessage) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Sending.Ask(ctx, in.ID, in.Body.Revision, in.Body.checked(), route.By(ctx)))
}

func (s *Area) asked(ctx context.Context, in *MessageID) (*route.Body[writing.PlanView], error) {
	w, err := s.Sending.Asked(ctx, in.ID, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(writing.ViewPlan(w)), nil
}

func (s *Area) send(ctx context.Context, in *checkedMessage) (*route.Body[MessageView], error) {
	m, err := s.Sending.Send(ctx, in.ID, in.Body.Revision, in.Body.checked(), route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(viewMessage(ctx, m.Heading)), nil
}

func (s *Area) await(ctx context.Context, in *struct {
	MessageID
	Body struct {
		CheckedBody
		Until time.Time `json:"until" doc:"When it leaves at the latest"`
	}
}) (*struct{}, error) {
	b := in.Body
	return nil, s.Problem(ctx, s.Sending.Await(ctx, in.ID, b.Revision, b.checked(), b.Until, route.By(ctx)))
}

func (s *Area) stopAwaiting(ctx context.Context, in *MessageID) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Sending.StopAwaiting(ctx, in.ID, route.By(ctx)))
}

type stoppedView struct {
	Stopped int  `json:"stopped" doc:"How many deliveries will never leave"`
	Leaving int  `json:"leaving" doc:"How many are still being handed over; some of them may be stopped yet"`
	Draft   bool `json:"draft" doc:"Nothing had left: the message is a draft again"`
}

func (s *Area) stop(ctx context.Context, in *MessageID) (*route.Body[stoppedView], error) {
	stopped, err := s.Sending.Stop(ctx, in.ID, route.By(ctx))
	return route.Answer(stoppedView{
		Stopped: stopped.Stopped, Leaving: stopped.Leaving, Draft: stopped.Draft,
	}), s.Problem(ctx, err)
}

func (s *Area) pause(ctx context.Context, in *MessageID) (*route.Body[MessageView], error) {
	if err := s.Sending.Pause(ctx, in.ID, route.By(ctx)); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.heading(ctx, in.ID)
}

func (s *Area) resume(ctx context.Context, in *MessageID) (*route.Body[MessageView], error) {
	if err := s.Sending.Resume(ctx, in.ID, route.By(ctx)); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.heading(ctx, in.ID)
}

func (s *Area) decide(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Again bool `json:"again" doc:"Send them again; otherwise they are left at that"`
	}
}) (*route.Body[MessageView], error) {
	if _, err := s.Sending.Decide(ctx, in.ID, in.Body.Again, route.By(ctx)); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.heading(ctx, in.ID)
}

func (s *Area) sendLate(ctx context.Context, in *MessageID) (*route.Body[MessageView], error) {
	if err := s.Sending.SendLate(ctx, in.ID, route.By(ctx)); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.heading(ctx, in.ID)
}

func (s *Area) heading(ctx context.Context, id int64) (*route.Body[MessageView], error) {
	m, err := s.Messages.Heading(ctx, route.By(ctx), id)
	return route.Answer(viewMessage(ctx, m)), s.Problem(ctx, err)
}
