package outgoing

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/writing"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

func (s *Area) recordRoutes(api huma.API) {
	route.Get(
		api, "/messages/{id}/record", "record", "What became of a message",
		s.record, access.ReadRecords, access.Write,
	)
	route.Get(
		api, "/messages/{id}/recipients", "recipients", "What became of a message for each recipient",
		s.recipients, access.ReadRecords, access.Write,
	)
	route.Get(
		api, "/messages/{id}/marks", "marks", "Every recipient of a message in one glance",
		s.marks, access.ReadRecords, access.Write,
	)
	route.Get(
		api, "/messages/{id}/left-out", "left-out", "Who was named and got nothing",
		s.leftOut, access.ReadRecords, access.Write,
	)
}

type DeliveryView struct {
	Channel  roster.Channel `json:"channel"`
	Address  string         `json:"address"`
	State    delivery.State `json:"state"`
	Detail   string         `json:"detail"`
	Attempts int            `json:"attempts"`
	At       time.Time      `json:"at"`
}

type RecipientView struct {
	ID         int64           `json:"id"`
	Person     roster.PersonID `json:"person" doc:"0 when they are no longer on the roster"`
	Name       string          `json:"name"`
	Speaks     string          `json:"speaks"`
	Step       int             `json:"step"`
	Why        string          `json:"why"`
	Outcome    record.Outcome  `json:"outcome"`
	State      delivery.State  `json:"state" doc:"The state that says most"`
	Deliveries []DeliveryView  `json:"deliveries"`
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
	Message   MessageView            `json:"message"`
	Subject   string                 `json:"subject"`
	Email     string                 `json:"email" doc:"As it was written, with its fields"`
	Text      string                 `json:"text"`
	Files     []string               `json:"files" doc:"The names of the files that went with the email"`
	Reason    string                 `json:"reason" doc:"Why it was an emergency"`
	Practice  bool                   `json:"practice" doc:"It was only an exercise"`
	Languages []writing.LanguageView `json:"languages"`
	Trust     plan.Trust             `json:"trust" doc:"People by how far what they got can be trusted"`
	Steps     []stepUsed             `json:"steps"`
	Failures  []record.Failure       `json:"failures" doc:"What failed, and why, most first"`
	Spent     string                 `json:"spent" doc:"The cost of what has left"`
	Planned   string                 `json:"planned" doc:"The cost of the plan"`
	AtOnce    int                    `json:"atOnce" doc:"How many deliveries would have left with every channel at once; 0 when it is not known"`
	Saving    int                    `json:"saving" doc:"How many deliveries fewer the precedence planned"`
	Saved     string                 `json:"saved" doc:"What these would have cost; empty for nothing"`
	Changes   *planChanges           `json:"changes,omitempty" doc:"What changed since the message was checked"`
	Asks      *asksView              `json:"asks,omitempty" doc:"The question of the message, and how it was answered"`
	Chain     []chainedView          `json:"chain" doc:"Messages that it follows, or that follow it, the oldest first"`
}

type asksView struct {
	Question message.Question `json:"question"`
	Tally    asking.Tally     `json:"tally"`
	Filled   *time.Time       `json:"filled,omitempty" doc:"When enough people answered"`
}

type planChanges struct {
	At     time.Time    `json:"at"`
	All    int          `json:"all" doc:"For how many people"`
	Waits  bool         `json:"waits" doc:"It was more than goes without a yes, or could not be compared"`
	Failed bool         `json:"failed" doc:"The plan could not be compared with the roster; the log says why"`
	List   []planChange `json:"list" doc:"Some of them"`
}

type planChange struct {
	Name  string `json:"name"`
	About string `json:"about" doc:"What changed for them, in words"`
}

func viewChanges(c *store.Changed) *planChanges {
	if c == nil {
		return nil
	}
	v := &planChanges{At: c.At, All: c.All, Waits: c.Waits, Failed: c.Failed, List: make([]planChange, len(c.List))}
	for i, one := range c.List {
		v.List[i] = planChange{one.Name, one.About}
	}
	return v
}

type chainedView struct {
	ID    int64              `json:"id"`
	Title string             `json:"title"`
	State store.MessageState `json:"state"`
	As    message.As         `json:"as" enum:"again,further,unanswered,correction,all-clear,filled," doc:"How it follows; empty for the first"`
}

func (s *Area) record(ctx context.Context, in *MessageID) (*route.Body[recordView], error) {
	r, err := s.Sending.Record(ctx, in.ID, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	m := r.Message
	v := recordView{
		Message: viewMessage(ctx, m.Heading), Subject: m.Draft.Subject, Email: m.Draft.Email.Plain(),
		Text: m.Draft.TextBody(), Files: []string{},
		Reason: m.Draft.Reason, Practice: m.Draft.Practice && m.Urgency == roster.Emergency,
		Languages: writing.ViewLanguages(r.Languages), Trust: r.Trust, Steps: []stepUsed{},
		Failures: r.Failures, Spent: r.Spent, Planned: r.Planned,
		AtOnce: r.AtOnce, Saving: r.Saving.Deliveries, Saved: r.Saved, Chain: []chainedView{},
	}
	chain, err := s.Messages.Chained(ctx, route.By(ctx), m)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	changes, err := s.Store.Changes(ctx, m.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v.Changes = viewChanges(changes)
	for _, c := range chain {
		v.Chain = append(v.Chain, chainedView{c.ID, c.Title, c.State, c.As})
	}
	for i, l := range v.Languages {
		if l.Got != "" {
			v.Languages[i].Trust = plan.TrustWords(r.Copies[l.Got])
		}
	}
	for _, f := range m.Draft.Files {
		v.Files = append(v.Files, f.Name)
	}
	for i, step := range r.Steps {
		v.Steps = append(
			v.Steps,
			stepUsed{Step: i + 1, Channels: writing.ChannelNames(step.Channels), People: step.People},
		)
	}
	if v.Asks, err = s.asks(ctx, m); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(v), nil
}

// asks is the question of a message and how it was answered, or nil.
func (s *Area) asks(ctx context.Context, m store.Message) (*asksView, error) {
	if !m.Draft.Question.Asks() {
		return nil, nil
	}
	b, err := s.Sending.Board(ctx, m.ID, route.By(ctx))
	if errors.Is(err, sending.ErrAsksNothing) { // it was taken back to a draft
		return nil, nil
	}
	return &asksView{Question: *m.Draft.Question, Tally: b.Tally, Filled: moment(b.Filled)}, err
}

// outcomes are what recipients are looked for by; whoever answered was reached.
var outcomes = map[string][]record.Outcome{
	"":            nil,
	"reached":     {record.Reached, record.Answered},
	"answered":    {record.Answered},
	"waiting":     {record.Waiting},
	"not-reached": {record.NotReached},
	"stopped":     {record.Stopped},
}

type recipientsView struct {
	Recipients []RecipientView `json:"recipients" doc:"By step, then by name"`
	All        int             `json:"all" doc:"How many are wanted in all"`
}

func (s *Area) recipients(ctx context.Context, in *struct {
	MessageID
	route.Page
	Outcome string `query:"outcome" enum:"reached,answered,waiting,not-reached,stopped," doc:"Those for whom it came to this"`
	Words   string `query:"words" maxLength:"100" doc:"Of a name or an address"`
}) (*route.Body[recipientsView], error) {
	m, err := s.Messages.Heading(ctx, route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	list, all, err := s.Store.Recipients(ctx, m, store.Wanted{
		Outcomes: outcomes[in.Outcome], Words: in.Words, First: in.First, Count: in.Count,
	})
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := recipientsView{Recipients: make([]RecipientView, len(list)), All: all}
	for i, r := range list {
		v.Recipients[i] = viewRecipient(r)
	}
	return route.Answer(v), nil
}

func viewRecipient(r store.RecipientRecord) RecipientView {
	v := RecipientView{
		ID: r.ID, Person: r.Person, Name: r.Name, Speaks: roster.LanguageName(r.Language), Step: r.Step, Why: r.Why,
		Outcome: r.Outcome, State: r.Best, Deliveries: []DeliveryView{},
	}
	for _, d := range r.Deliveries {
		v.Deliveries = append(v.Deliveries, viewDelivery(d))
	}
	return v
}

func viewDelivery(d delivery.Delivery) DeliveryView {
	return DeliveryView{
		Channel: d.Channel, Address: phone.Display(d.Address), State: d.State, Detail: d.Detail,
		Attempts: d.Attempts, At: d.UpdatedAt,
	}
}

type marksView struct {
	Channels []roster.Channel `json:"channels"`
	States   []delivery.State `json:"states"`
	Marks    string           `json:"marks" doc:"For each recipient, by step and then by name, two digits in base 36: the channel and the state that say most, by their places in the lists"`
}

func (s *Area) marks(ctx context.Context, in *MessageID) (*route.Body[marksView], error) {
	m, err := s.Messages.Heading(ctx, route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	marks, err := s.Store.Marks(ctx, m)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(marksView{Channels: roster.Channels, States: delivery.States, Marks: writeMarks(marks)}), nil
}

const digits = "0123456789abcdefghijklmnopqrstuvwxyz"

func writeMarks(marks []store.Mark) string {
	text := make([]byte, 0, 2*len(marks))
	for _, m := range marks {
		text = append(
			text,
			digits[slices.Index(roster.Channels, m.Channel)],
			digits[slices.Index(delivery.States, m.State)],
		)
	}
	return string(text)
}

type leftOutsView struct {
	People []leftOutView `json:"people"`
	All    int           `json:"all"`
}

func (s *Area) leftOut(ctx context.Context, in *struct {
	MessageID
	route.Page
	Told bool `query:"told" doc:"Those instead who were told through a guardian"`
}) (*route.Body[leftOutsView], error) {
	if _, err := s.Messages.Heading(ctx, route.By(ctx), in.ID); err != nil {
		return nil, s.Problem(ctx, err)
	}
	list, told, err := s.Store.LeftOut(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	if in.Told {
		list = told
	}
	v := leftOutsView{People: []leftOutView{}, All: len(list)}
	for _, l := range route.Window(list, in.Page) {
		v.People = append(v.People, leftOutView{
			Person: l.Person,
			Name:   l.Name,
			Reason: l.Reason,
			Detail: l.Detail,
			WayOut: plan.Reason(l.Reason).WayOut(),
		})
	}
	return route.Answer(v), nil
}
