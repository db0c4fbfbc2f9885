package httpapi

import (
	"context"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desk"
)

type stepView struct {
	Channels []string `json:"channels"`
	People   int      `json:"people"`
}

type channelView struct {
	Channel    string `json:"channel" enum:"email,text,voice"`
	People     int    `json:"people"`
	Deliveries int    `json:"deliveries"`
	Parts      int    `json:"parts"`
	Seconds    int    `json:"seconds"`
	Cost       string `json:"cost"`
}

type reasonView struct {
	Reason   string `json:"reason"`
	Sentence string `json:"sentence"`
	WayOut   string `json:"wayOut"`
	People   int    `json:"people"`
}

type languageView struct {
	Tag    string `json:"tag"`
	Name   string `json:"name"`
	People int    `json:"people"`
	Reads  bool   `json:"reads" doc:"The message is written in it"`
}

type forcingView struct {
	Character   string `json:"character"`
	Times       int    `json:"times"`
	Replacement string `json:"replacement" doc:"Empty when there is no fair one"`
}

type meterView struct {
	Alphabet string        `json:"alphabet" enum:"gsm7,ucs2"`
	Least    int           `json:"least"`
	Most     int           `json:"most"`
	Total    int           `json:"total"`
	Room     int           `json:"room" doc:"Units left in the last part of the longest text"`
	Forces   []forcingView `json:"forces" doc:"What keeps the text out of the short alphabet"`
	Saves    int           `json:"saves" doc:"Parts that the replacements would save"`
	Swapped  string        `json:"swapped" doc:"The text with the replacements"`
}

type partView struct {
	Label      string `json:"label"`
	Detail     string `json:"detail"`
	People     int    `json:"people" doc:"Named by the part itself"`
	Recipients int    `json:"recipients" doc:"Recipients it names, or takes away"`
	Missing    bool   `json:"missing"`
}

type problemView struct {
	Code     string `json:"code"`
	Sentence string `json:"sentence"`
	Blocks   bool   `json:"blocks"`
}

type planView struct {
	Recipients   int            `json:"recipients"`
	Named        int            `json:"named" doc:"People after the rules of the audience, before channels"`
	NamedTwice   int            `json:"namedTwice"`
	KeptOut      int            `json:"keptOut" doc:"Others who get nothing whatever the channels: away, left, barred, or nobody receives for them"`
	Nobody       int            `json:"nobody"`
	Deliveries   int            `json:"deliveries"`
	Shared       int            `json:"shared"`
	Overridden   int            `json:"overridden"`
	Wished       int            `json:"wished" doc:"People reached by the channel they asked for first"`
	Steps        []stepView     `json:"steps"`
	DefaultSteps bool           `json:"defaultSteps" doc:"The organisation's own for this urgency"`
	Channels     []channelView  `json:"channels"`
	LeftOut      []reasonView   `json:"leftOut"`
	Languages    []languageView `json:"languages"`
	Meter        meterView      `json:"meter"`
	Parts        []partView     `json:"parts"`
	Problems     []problemView  `json:"problems"`
	Cost         string         `json:"cost"`
	LeavesAt     time.Time      `json:"leavesAt"`
	Sentences    []string       `json:"sentences" doc:"The plan in whole sentences"`
	Sendable     bool           `json:"sendable"`
}

func (s *server) planRoutes(api huma.API) {
	add(api, post("/plan", "plan", "Work out who gets what", access.Write), s.plan)
	add(api, post("/plan/preview", "preview", "What one recipient gets, and why", access.Write), s.preview)
	add(api, post("/plan/people", "plan-people", "The people behind a figure of the plan", access.Write), s.planPeople)
}

// work validates a draft and works it out.
func (s *server) work(ctx context.Context, d message.Draft) (*desk.Worked, error) {
	if err := d.Validate(); err != nil {
		return nil, huma.Error422UnprocessableEntity("This cannot be worked out: " + err.Error() + ".")
	}
	w, err := s.Desk.Plan(ctx, d, accountOf(ctx))
	return w, s.problem(ctx, err)
}

func (s *server) plan(ctx context.Context, in *body[message.Draft]) (*body[planView], error) {
	w, err := s.work(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	return &body[planView]{viewPlan(w, s.Now())}, nil
}

func viewPlan(w *desk.Worked, now time.Time) planView {
	p, sum, currency := w.Plan, w.Summary, w.Organisation.Currency
	v := planView{
		Recipients: sum.Recipients, Named: len(p.Audience.Recipients), NamedTwice: p.Audience.NamedTwice, KeptOut: len(p.Audience.LeftOut), Nobody: sum.Nobody,
		Deliveries: sum.Deliveries, Shared: sum.Shared, Overridden: sum.Overridden, Wished: sum.Wished, DefaultSteps: p.Draft.Steps == nil,
		Steps: []stepView{}, Channels: []channelView{}, LeftOut: []reasonView{}, Parts: []partView{}, Problems: []problemView{},
		Languages: viewLanguages(sum.Languages), Meter: viewMeter(sum.Meter, p.Draft), Cost: sum.Cost.Format(currency),
		LeavesAt: desk.Leaves(w.Organisation, p.Draft, now), Sentences: []string{},
	}
	for _, step := range sum.Steps {
		v.Steps = append(v.Steps, stepView{channelNames(step.Channels), step.People})
	}
	for _, c := range sum.Channels {
		v.Channels = append(v.Channels, channelView{string(c.Channel), c.People, c.Deliveries, c.Parts, c.Seconds, c.Cost.Format(currency)})
	}
	for _, l := range sum.LeftOut {
		v.LeftOut = append(v.LeftOut, reasonView{string(l.Reason), l.Reason.Sentence(), l.Reason.WayOut(), l.People})
	}
	for i, part := range p.Audience.Parts {
		v.Parts = append(v.Parts, partView{
			Label: audience.Label(w.Roster, p.Draft.Audience.Parts[i]), Detail: audience.Describe(w.Roster, p.Draft.Audience, i, part),
			People: part.People, Recipients: part.Recipients, Missing: part.Missing,
		})
	}
	for _, problem := range sum.Problems {
		v.Problems = append(v.Problems, problemView{string(problem.Code), problem.Sentence, problem.Blocks})
	}
	if _, blocked := sum.Blocked(); !blocked {
		v.Sendable = true
		v.Sentences = p.Check(sum, desk.Leaving(w.Organisation, p.Draft, now))
	}
	return v
}

func channelNames(step precedence.Step) []string {
	names := make([]string, len(step))
	for i, c := range step {
		names[i] = string(c)
	}
	return names
}

func viewLanguages(counts []plan.LanguageCount) []languageView {
	list := []languageView{}
	for _, l := range counts {
		name := roster.LanguageName(l.Tag)
		if name == "" {
			name = "language not known"
		}
		list = append(list, languageView{l.Tag, name, l.People, l.Reads})
	}
	return list
}

func viewMeter(m plan.Meter, d message.Draft) meterView {
	v := meterView{
		Alphabet: string(m.Alphabet), Least: m.Least, Most: m.Most, Total: m.Total, Room: m.Room, Saves: m.Saves,
		Forces: []forcingView{}, Swapped: m.Swapped(d.TextBody()),
	}
	for _, f := range m.Forces {
		v.Forces = append(v.Forces, forcingView{f.Character, f.Times, f.Replacement})
	}
	return v
}

type previewDelivery struct {
	Channel string `json:"channel" enum:"email,text,voice"`
	To      string `json:"to"`
	From    string `json:"from" doc:"The name or the number that they see"`
	Subject string `json:"subject"`
	Body    string `json:"body"`
	Parts   int    `json:"parts"`
	Seconds int    `json:"seconds"`
	Shared  int    `json:"shared" doc:"How many others it counts for"`
}

type previewView struct {
	Index      int               `json:"index" doc:"From 0, in the order of the roster"`
	All        int               `json:"all"`
	Person     roster.PersonID   `json:"person"`
	Name       string            `json:"name"`
	Speaks     string            `json:"speaks"`
	Why        string            `json:"why"`
	Deliveries []previewDelivery `json:"deliveries"`
	// LeftOut says why they get nothing; the rest is then empty.
	LeftOut string `json:"leftOut"`
}

func (s *server) preview(ctx context.Context, in *struct {
	Index  int             `query:"index" minimum:"0" doc:"Which recipient, from 0"`
	Person roster.PersonID `query:"person" doc:"Or who, recipient or not"`
	Body   message.Draft
}) (*body[previewView], error) {
	w, err := s.work(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	v := previewView{All: len(w.Plan.Recipients), Index: min(in.Index, max(0, len(w.Plan.Recipients)-1)), Deliveries: []previewDelivery{}}
	if in.Person != 0 {
		index, found := w.Plan.Find(w.Roster, in.Person)
		if !found {
			return &body[previewView]{viewLeftOut(w, v, in.Person)}, nil
		}
		v.Index = index
	}
	if v.All > 0 {
		viewRecipientOf(w, &v)
	}
	return &body[previewView]{v}, nil
}

func viewLeftOut(w *desk.Worked, v previewView, id roster.PersonID) previewView {
	v.Person, v.LeftOut = id, w.Plan.WhyNot(w.Roster, id)
	if p := w.Roster.Person(id); p != nil {
		v.Name, v.Speaks = p.Name(), roster.LanguageName(p.Language)
	}
	return v
}

func viewRecipientOf(w *desk.Worked, v *previewView) {
	rec := w.Plan.Recipients[v.Index]
	p := w.Roster.At(rec.Person)
	v.Person, v.Name, v.Speaks, v.Why = p.ID, p.Name(), roster.LanguageName(p.Language), w.Plan.Explain(w.Roster, rec)
	for _, i := range rec.Deliveries {
		d := w.Plan.Deliveries[i]
		v.Deliveries = append(v.Deliveries, previewDelivery{
			Channel: string(d.Channel), To: phone.Display(d.To), From: phone.Display(d.From), Subject: d.Subject, Body: d.Body, Parts: d.Count.Parts, Seconds: d.Seconds,
			Shared: len(d.Recipients) - 1,
		})
	}
}

func (s *server) planPeople(ctx context.Context, in *struct {
	Page
	Step   int    `query:"step" minimum:"0" doc:"Those who are reached on a step, from 1"`
	Reason string `query:"reason" doc:"Those who get nothing for a reason; “any” for all of them"`
	Body   message.Draft
}) (*body[namedPeople], error) {
	w, err := s.work(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	var list []namedPerson
	for _, rec := range w.Plan.Recipients {
		if in.Step == rec.Step {
			p := w.Roster.At(rec.Person)
			list = append(list, namedPerson{p.ID, p.Name(), addressesOf(w, rec)})
		}
	}
	for _, l := range w.Plan.LeftOut {
		if in.Reason == string(l.Reason) || in.Reason == "any" {
			p := w.Roster.At(l.Person)
			list = append(list, namedPerson{p.ID, p.Name(), w.Plan.Detail(w.Roster, l)})
		}
	}
	out := namedPeople{People: append([]namedPerson{}, window(list, in.Page)...), All: len(list)}
	return &body[namedPeople]{out}, nil
}

func addressesOf(w *desk.Worked, rec plan.Recipient) string {
	list := make([]string, len(rec.Deliveries))
	for i, d := range rec.Deliveries {
		list[i] = phone.Display(w.Plan.Deliveries[d].To)
	}
	return strings.Join(list, ", ")
}
