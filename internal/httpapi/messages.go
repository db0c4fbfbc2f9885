package httpapi

import (
	"context"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desk"
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

// scheduledAfter is how long after its hold a message must leave to count as
// one that waits for its own time.
const scheduledAfter = time.Second

func (s *server) viewMessage(ctx context.Context, m store.Message) (MessageView, error) {
	v := MessageView{
		ID: m.ID, Title: m.Title, State: string(m.State), Urgency: string(m.Draft.Urgency), Revision: m.Revision, Author: m.Author,
		Sender: m.Sender, Assenter: m.Assenter, Asker: m.Asker, AsksYou: m.Asks(accountOf(ctx).ID), UpdatedAt: m.UpdatedAt, Late: m.Late, SentAt: moment(m.SentAt), LeavesAt: moment(m.LeavesAt), EndedAt: moment(m.EndedAt),
	}
	if m.State == store.Draft {
		return v, nil
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return v, err
	}
	v.Scheduled = m.State == store.Held && m.LeavesAt.Sub(m.SentAt) > o.Hold+scheduledAfter
	v.Figures, err = s.Store.Figures(ctx, m.ID)
	return v, err
}

// messageOf returns a message if the account may see it: its own, and those of
// accounts whose reach lies within its own.
func (s *server) messageOf(ctx context.Context, id int64) (store.Message, error) {
	m, err := s.Store.Message(ctx, id)
	if err != nil {
		return m, err
	}
	authors, err := s.authors(ctx)
	if err == nil && !slices.Contains(authors, m.AuthorID) {
		err = store.ErrNotFound
	}
	return m, err
}

// authors are the accounts whose messages the account may see.
func (s *server) authors(ctx context.Context) ([]int64, error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	return s.Desk.VisibleAuthors(ctx, accountOf(ctx), r.Units)
}

// openMessages are the drafts and what has not left, as far as the account may see.
func (s *server) openMessages(ctx context.Context) ([]store.Message, error) {
	authors, err := s.authors(ctx)
	if err != nil {
		return nil, err
	}
	return s.Store.OpenMessages(ctx, authors)
}

type MessageID struct {
	ID int64 `path:"id"`
}

func (s *server) messageRoutes(api huma.API) {
	add(api, get("/messages", "messages", "The newest messages", access.Write, access.ReadRecords), s.messages)
	add(api, post("/messages", "add-message", "Begin a draft", access.Write), s.addMessage)
	add(api, get("/messages/{id}", "message", "One message as it was written", access.Write, access.ReadRecords), s.message)
	add(api, put("/messages/{id}", "save-draft", "Keep a draft", access.Write), s.saveDraft)
	add(api, del("/messages/{id}", "delete-draft", "Delete a draft", access.Write), s.deleteDraft)
	add(api, post("/messages/{id}/send", "send", "Put a message on hold; it leaves when the hold is over", access.Write), s.send)
	add(api, post("/messages/{id}/ask", "ask", "Ask for somebody else's yes, where that is needed", access.Write), s.ask)
	add(api, get("/messages/{id}/asked", "asked", "What goes out when somebody says the yes that was asked for", access.Write), s.asked)
	add(api, post("/messages/{id}/stop", "stop", "Stop what has not left", access.Write), s.stop)
	add(api, get("/messages/{id}/record", "record", "What became of a message", access.ReadRecords, access.Write), s.record)
	add(api, post("/messages/{id}/late", "send-late", "Let a message leave whose time passed while the program was down", access.Write), s.sendLate)
	add(api, post("/carriers/{channel}/try", "try-carrier", "Try a carrier that is in trouble at once", access.Write), s.tryCarrier)
	add(api, get("/strip", "strip", "What is held, going out and next", access.Write, access.ReadRecords), s.strip)
}

type messagesView struct {
	Messages []MessageView `json:"messages"`
	All      int           `json:"all"`
}

func (s *server) messages(ctx context.Context, in *Page) (*body[messagesView], error) {
	authors, err := s.authors(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	list, all, err := s.Store.Messages(ctx, authors, in.First, in.Count)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := messagesView{make([]MessageView, len(list)), all}
	for i, m := range list {
		if out.Messages[i], err = s.viewMessage(ctx, m); err != nil {
			return nil, s.problem(ctx, err)
		}
	}
	return &body[messagesView]{out}, nil
}

func (s *server) draftView(ctx context.Context, m store.Message) (*body[draftView], error) {
	v, err := s.viewMessage(ctx, m)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if m.Draft.Audience.Parts == nil {
		m.Draft.Audience.Parts = []audience.Part{}
	}
	return &body[draftView]{draftView{MessageView: v, Draft: m.Draft, Labels: labels(r, m.Draft.Audience)}}, nil
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
	return message.Draft{Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{}, Receivers: audience.Guardians}}
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

func (m checkedMessage) checked() desk.Checked {
	return desk.Checked{Recipients: m.Body.Recipients, Typed: m.Body.Typed}
}

func (s *server) ask(ctx context.Context, in *checkedMessage) (*struct{}, error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	return nil, s.problem(ctx, s.Desk.Ask(ctx, in.ID, in.Body.Revision, in.checked(), accountOf(ctx)))
}

func (s *server) asked(ctx context.Context, in *MessageID) (*body[planView], error) {
	m, err := s.messageOf(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	w, err := s.Desk.Asked(ctx, m)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[planView]{viewPlan(w)}, nil
}

func (s *server) send(ctx context.Context, in *checkedMessage) (*body[MessageView], error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	m, err := s.Desk.Send(ctx, in.ID, in.Body.Revision, in.checked(), accountOf(ctx))
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	v, err := s.viewMessage(ctx, m)
	return &body[MessageView]{v}, s.problem(ctx, err)
}

type stoppedView struct {
	Stopped int  `json:"stopped" doc:"How many deliveries were stopped"`
	Draft   bool `json:"draft" doc:"Nothing had left: the message is a draft again"`
}

func (s *server) stop(ctx context.Context, in *MessageID) (*body[stoppedView], error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	stopped, draft, err := s.Desk.Stop(ctx, in.ID, accountOf(ctx))
	return &body[stoppedView]{stoppedView{stopped, draft}}, s.problem(ctx, err)
}

func (s *server) sendLate(ctx context.Context, in *MessageID) (*body[MessageView], error) {
	m, err := s.messageOf(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if err := s.Desk.SendLate(ctx, m, accountOf(ctx)); err != nil {
		return nil, s.problem(ctx, err)
	}
	if m, err = s.Store.Message(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	v, err := s.viewMessage(ctx, m)
	return &body[MessageView]{v}, s.problem(ctx, err)
}

type deliveryView struct {
	Channel  string    `json:"channel" enum:"email,text,voice,push"`
	Address  string    `json:"address"`
	State    string    `json:"state" enum:"held,queued,retrying,carrier,expired,failed,stopped,arrived,opened,answered"`
	Detail   string    `json:"detail"`
	Attempts int       `json:"attempts"`
	At       time.Time `json:"at"`
}

type recipientView struct {
	ID         int64           `json:"id"`
	Person     roster.PersonID `json:"person" doc:"0 when they are no longer on the roster"`
	Name       string          `json:"name"`
	Speaks     string          `json:"speaks"`
	Step       int             `json:"step"`
	Why        string          `json:"why"`
	Outcome    string          `json:"outcome" enum:"reached,waiting,not-reached,stopped"`
	State      string          `json:"state" enum:"held,queued,retrying,carrier,expired,failed,stopped,arrived,opened,answered" doc:"The state that says most"`
	Deliveries []deliveryView  `json:"deliveries"`
}

type leftOutView struct {
	Person roster.PersonID `json:"person"`
	Name   string          `json:"name"`
	Reason string          `json:"reason"`
	Detail string          `json:"detail"`
	WayOut string          `json:"wayOut"`
}

type stepUsed struct {
	Step     int      `json:"step"`
	Channels []string `json:"channels"`
	People   int      `json:"people"`
}

type recordView struct {
	Message    MessageView      `json:"message"`
	Subject    string           `json:"subject"`
	Email      string           `json:"email" doc:"As it was written, with its fields"`
	Text       string           `json:"text"`
	Files      []string         `json:"files" doc:"The names of the files that went with the email"`
	Reason     string           `json:"reason" doc:"Why it was an emergency"`
	Practice   bool             `json:"practice" doc:"It was only an exercise"`
	Recipients []recipientView  `json:"recipients" doc:"By step, then by name"`
	LeftOut    []leftOutView    `json:"leftOut"`
	Told       []leftOutView    `json:"told" doc:"Dependents who were told through a guardian"`
	Languages  []languageView   `json:"languages"`
	Steps      []stepUsed       `json:"steps"`
	Failures   []record.Failure `json:"failures" doc:"What failed, and why, most first"`
	Arrivals   []time.Time      `json:"arrivals" doc:"When each recipient was first reached"`
	Spent      string           `json:"spent" doc:"The cost of what has left"`
	Planned    string           `json:"planned" doc:"The cost of the plan"`
}

func (s *server) record(ctx context.Context, in *MessageID) (*body[recordView], error) {
	m, err := s.messageOf(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	rec, err := s.Store.Record(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	v := recordView{
		Subject: m.Draft.Subject, Email: m.Draft.Email.Plain(), Text: m.Draft.TextBody(),
		Recipients: []recipientView{}, LeftOut: []leftOutView{}, Told: []leftOutView{}, Steps: []stepUsed{}, Languages: []languageView{},
		Failures: rec.Failures(), Files: []string{}, Reason: m.Draft.Reason, Practice: m.Draft.Practice && m.Draft.Urgency == roster.Emergency,
	}
	for _, f := range m.Draft.Files {
		v.Files = append(v.Files, f.Name)
	}
	if v.Message, err = s.viewMessage(ctx, m); err != nil {
		return nil, s.problem(ctx, err)
	}
	v.Message.Figures = rec.Figures
	for _, r := range rec.Recipients {
		v.Recipients = append(v.Recipients, viewRecipient(r))
	}
	v.LeftOut, v.Told = viewLeftOuts(v.LeftOut, rec.LeftOut), viewLeftOuts(v.Told, rec.Told)
	spent, planned := rec.Costs()
	v.Spent, v.Planned = spent.Format(o.Currency), planned.Format(o.Currency)
	v.Languages = viewLanguages(rec.Languages(o.Language))
	for i, people := range rec.Steps(len(o.Settings("").StepsFor(m.Draft))) {
		v.Steps = append(v.Steps, stepUsed{i + 1, channelNames(o.Settings("").StepsFor(m.Draft)[i]), people})
	}
	return &body[recordView]{v}, nil
}

func viewLeftOuts(list []leftOutView, kept []store.LeftOutRecord) []leftOutView {
	for _, l := range kept {
		list = append(list, leftOutView{l.Person, l.Name, l.Reason, l.Detail, plan.Reason(l.Reason).WayOut()})
	}
	return list
}

func viewRecipient(r store.RecipientRecord) recipientView {
	v := recipientView{
		ID: r.ID, Person: r.Person, Name: r.Name, Speaks: roster.LanguageName(r.Language), Step: r.Step, Why: r.Why,
		Outcome: string(r.Outcome), State: string(r.Best), Deliveries: []deliveryView{},
	}
	for _, d := range r.Deliveries {
		v.Deliveries = append(v.Deliveries, deliveryView{
			Channel: string(d.Channel), Address: phone.Display(d.Address), State: string(d.State), Detail: d.Detail, Attempts: d.Attempts, At: d.UpdatedAt,
		})
	}
	return v
}

type stripMessage struct {
	ID       int64      `json:"id"`
	Title    string     `json:"title"`
	People   int        `json:"people"`
	Here     int        `json:"here" doc:"Deliveries that have not left"`
	Total    int        `json:"total" doc:"All deliveries"`
	LeavesAt *time.Time `json:"leavesAt,omitempty"`
}

type troubleView struct {
	Channel roster.Channel `json:"channel" enum:"email,text,voice,push"`
	Detail  string         `json:"detail" doc:"What its carrier said"`
	Since   time.Time      `json:"since"`
	RetryAt time.Time      `json:"retryAt"`
}

type stripView struct {
	Now     time.Time      `json:"now" doc:"The server's clock, against which the countdown runs"`
	Held    []stripMessage `json:"held"`
	Sending []stripMessage `json:"sending"`
	Next    []stripMessage `json:"next" doc:"Scheduled, soonest first"`
	Late    []stripMessage `json:"late" doc:"Their time passed while the program was down: they wait for a yes"`
	Full    bool           `json:"full" doc:"The disk is full: nothing can be saved until there is room"`
	Trouble []troubleView  `json:"trouble" doc:"Carriers that take nothing for a reason of their own; what is for them waits"`
	Asked   []stripMessage `json:"asked" doc:"Drafts to which the account is asked to say yes"`
}

func (s *server) tryCarrier(_ context.Context, in *struct {
	Channel roster.Channel `path:"channel" enum:"email,text,voice,push"`
}) (*struct{}, error) {
	s.Carriers.TryNow(in.Channel)
	return nil, nil
}

func (s *server) strip(ctx context.Context, _ *struct{}) (*body[stripView], error) {
	list, err := s.openMessages(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	troubles, err := s.Store.Troubles(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	account := accountOf(ctx)
	out := stripView{Full: s.Store.Full(), Trouble: []troubleView{}, Now: s.Now(), Late: []stripMessage{}, Held: []stripMessage{}, Sending: []stripMessage{}, Next: []stripMessage{}, Asked: []stripMessage{}}
	for _, t := range troubles {
		out.Trouble = append(out.Trouble, troubleView{t.Channel, t.Detail, t.Since, t.RetryAt})
	}
	for _, m := range list {
		asked := m.Asks(account.ID) && account.May(access.Write)
		if m.State != store.Held && m.State != store.Sending && !asked {
			continue
		}
		v, err := s.viewMessage(ctx, m)
		if err != nil {
			return nil, s.problem(ctx, err)
		}
		one := stripMessage{m.ID, m.Title, v.Figures.Recipients, v.Figures.Here, v.Figures.Deliveries, v.LeavesAt}
		switch {
		case asked:
			out.Asked = append(out.Asked, one)
		case m.Late:
			out.Late = append(out.Late, one)
		case m.State == store.Sending:
			out.Sending = append(out.Sending, one)
		case v.Scheduled:
			out.Next = append(out.Next, one)
		default:
			out.Held = append(out.Held, one)
		}
	}
	slices.SortFunc(out.Next, func(a, b stripMessage) int { return a.LeavesAt.Compare(*b.LeavesAt) })
	return &body[stripView]{out}, nil
}
