package writing

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/match"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
	"upperlantern/internal/sending"
	"upperlantern/internal/wording"
)

type stepView struct {
	Channels []string `json:"channels"`
	People   int      `json:"people"`
}

type channelView struct {
	Channel    roster.Channel `json:"channel"`
	People     int            `json:"people"`
	Deliveries int            `json:"deliveries"`
	Parts      int            `json:"parts"`
	Seconds    int            `json:"seconds"`
	Bytes      int            `json:"bytes" doc:"Of the largest push, as it is sent before encryption"`
	Most       int            `json:"most" doc:"Bytes that a push can have"`
	Cost       string         `json:"cost"`
}

type reasonView struct {
	Reason   string `json:"reason"`
	Sentence string `json:"sentence"`
	WayOut   string `json:"wayOut"`
	People   int    `json:"people"`
}

// LanguageView is how many recipients prefer a language.
type LanguageView struct {
	Tag    string `json:"tag"`
	Name   string `json:"name"`
	People int    `json:"people"`
	Reads  bool   `json:"reads" doc:"The message is written in it"`
	Got    string `json:"got" doc:"The language of the copy that they get; empty for the original"`
	Trust  string `json:"trust,omitempty" doc:"Of a record: by whom that copy was checked"`
}

// copyUseView is a copy of the message, and who would get it.
type copyUseView struct {
	Language string       `json:"language"`
	Name     string       `json:"name"`
	State    copies.State `json:"state"`
	Used     bool         `json:"used" doc:"It is good enough for this message"`
	People   int          `json:"people" doc:"Who read it"`
	Lines    int          `json:"lines"`
	Filled   int          `json:"filled"`
	Checked  int          `json:"checked"`
	Doubtful int          `json:"doubtful" doc:"Lines that nobody checked and that are suspicious"`
	By       []string     `json:"by" doc:"Who checked lines"`
	Texts    int          `json:"texts" doc:"Texts that go out in it"`
	Parts    int          `json:"parts" doc:"Of the longest of them"`
	Alphabet string       `json:"alphabet" enum:"gsm7,ucs2," doc:"ucs2 when one of them needs it"`
	Cost     string       `json:"cost" doc:"Of those texts"`
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
	Shorten  int           `json:"shorten" doc:"Units less that would save parts; 0 when no text is over a part by little"`
	Shortens int           `json:"shortens" doc:"Parts that would be saved so"`
	Swapped  string        `json:"swapped" doc:"The text with the replacements"`
}

type pushView struct {
	Quiet        bool `json:"quiet" doc:"Devices show it without a sound"`
	UsuallyQuiet bool `json:"usuallyQuiet" doc:"They would, if the message did not say otherwise"`
}

type partView struct {
	Label      string `json:"label"`
	Detail     string `json:"detail"`
	People     int    `json:"people" doc:"Named by the part itself"`
	Recipients int    `json:"recipients" doc:"Recipients it names, or takes away"`
	Adds       int    `json:"adds" doc:"Recipients whom no other part names"`
	Within     string `json:"within" doc:"The part that already holds everybody in it"`
	Missing    bool   `json:"missing"`
}

type loadView struct {
	Routine   int `json:"routine" doc:"Messages that the recipients were sent in the last 7 days"`
	Timely    int `json:"timely"`
	Emergency int `json:"emergency"`
	Most      int `json:"most" doc:"Messages to the one who was sent the most"`
	Over      int `json:"over" doc:"Recipients whom this message takes over the limit"`
	Limit     int `json:"limit" doc:"The organisation's weekly limit; 0 is none"`
}

type problemView struct {
	Code     string         `json:"code"`
	Params   map[string]any `json:"params,omitempty" doc:"What it speaks of, by name"`
	Sentence string         `json:"sentence" doc:"The same in English"`
	Mend     string         `json:"mend" enum:"who,email,question,subject,copies,files,push,sender,steps,time,emergency,left-out" doc:"Where it is mended"`
	Blocks   bool           `json:"blocks"`
}

type waitView struct {
	Channel    roster.Channel `json:"channel"`
	Until      time.Time      `json:"until"`
	Deliveries int            `json:"deliveries"`
}

type senderView struct {
	Names   []string      `json:"names" doc:"That the account may write under, the organisation's first"`
	Numbers []string      `json:"numbers" doc:"That it may text and call from"`
	Shown   []string      `json:"shown" doc:"The numbers as people read them"`
	Replies string        `json:"replies" doc:"The organisation's mailbox, to which replies come"`
	Desks   []route.Named `json:"desks" doc:"To which answers can come"`
	Desk    string        `json:"desk" doc:"To which they come; empty while there is no desk"`
	Own     string        `json:"own" doc:"The sender's own mailbox; empty when there is none"`
	Prefix  string        `json:"prefix" doc:"That stands before the subject"`
	Footer  string        `json:"footer" doc:"That stands under the email"`
	InUse   []string      `json:"inUse" doc:"The names and numbers under which this message goes out"`
}

// PlanView is what a draft comes to.
type PlanView struct {
	Recipients   int            `json:"recipients"`
	Named        int            `json:"named" doc:"People after the rules of the audience, before channels"`
	NamedTwice   int            `json:"namedTwice"`
	KeptOut      int            `json:"keptOut" doc:"Others who get nothing whatever the channels: away, left, barred, or nobody receives for them"`
	Nobody       int            `json:"nobody"`
	Told         int            `json:"told" doc:"Dependents who are told through a guardian"`
	Deliveries   int            `json:"deliveries"`
	Shared       int            `json:"shared"`
	Overridden   int            `json:"overridden"`
	Wished       int            `json:"wished" doc:"People reached by the channel they asked for first"`
	Steps        []stepView     `json:"steps"`
	Off          []string       `json:"off" doc:"Channels that nothing carries"`
	DefaultSteps bool           `json:"defaultSteps" doc:"The organisation's own for this urgency"`
	Channels     []channelView  `json:"channels"`
	LeftOut      []reasonView   `json:"leftOut"`
	Languages    []LanguageView `json:"languages"`
	Copies       []copyUseView  `json:"copies" doc:"In the languages that these people read, and those that were begun; most people first"`
	CopiesSeen   string         `json:"copiesSeen" doc:"How far they are, to be given back when the message is sent"`
	Unchecked    bool           `json:"unchecked" doc:"Copies that nobody read are good enough"`
	Meter        meterView      `json:"meter"`
	Push         pushView       `json:"push"`
	Parts        []partView     `json:"parts"`
	Load         loadView       `json:"load"`
	Problems     []problemView  `json:"problems"`
	Cost         string         `json:"cost"`
	Sender       senderView     `json:"sender"`
	Budget       string         `json:"budget" doc:"Of this month; empty when there is none"`
	Spent        string         `json:"spent" doc:"Of the budget, on other messages"`
	LeavesAt     time.Time      `json:"leavesAt" doc:"When the first delivery leaves"`
	LastAt       time.Time      `json:"lastAt" doc:"When the last one leaves"`
	Waits        []waitView     `json:"waits" doc:"What waits for quiet hours to end"`
	Unquiet      int            `json:"unquiet" doc:"Deliveries of an emergency that leave in quiet hours"`
	Confirm      bool           `json:"confirm" doc:"The number of people must be typed before it is sent"`
	SecondYes    bool           `json:"secondYes" doc:"Instead, somebody else must say yes"`
	Sentences    []string       `json:"sentences" doc:"The plan in whole sentences"`
	Sendable     bool           `json:"sendable"`
}

func (s *Area) planRoutes(api huma.API) {
	route.Post(api, "/plan", "plan", "Work out who gets what", s.plan, access.Write)
	route.Post(api, "/plan/preview", "preview", "What one recipient gets, and why", s.preview, access.Write)
	route.Post(
		api, "/plan/try", "try", "Send what a recipient would get to one's own addresses",
		s.tryOnMe, access.Write,
	)
	route.Post(api, "/plan/part", "plan-part", "The people whom a part of the audience names", s.planPart, access.Write)
	route.Post(
		api, "/plan/list", "plan-list", "Whom a pasted list means: people, and addresses that are nobody's",
		s.planList, access.Write,
	)
	route.Post(api, "/plan/list-file", "plan-list-file", "Whom the rows of a file mean", s.planListFile, access.Write)
	route.Post(api, "/plan/people", "plan-people", "The people behind a figure of the plan", s.planPeople, access.Write)
}

// DraftAsked is a draft as it stands in a window.
type DraftAsked struct {
	Message int64 `query:"message" minimum:"0" doc:"The message that it is, whose copies in other languages are used"`
	Body    message.Draft
}

// work works a draft out for whoever asks.
func (s *Area) work(ctx context.Context, in DraftAsked) (*sending.Worked, error) {
	w, err := s.Sending.Plan(ctx, in.Message, in.Body, route.By(ctx))
	return w, s.Problem(ctx, err)
}

func (s *Area) plan(ctx context.Context, in *DraftAsked) (*route.Body[PlanView], error) {
	w, err := s.work(ctx, *in)
	if err != nil {
		return nil, err
	}
	return route.Answer(ViewPlan(w)), nil
}

// ViewPlan is a plan as the interface shows it.
func ViewPlan(w *sending.Worked) PlanView {
	p, sum, currency := w.Plan, w.Summary, w.Organisation.Currency
	v := PlanView{
		Recipients: sum.Recipients, Named: len(p.Audience.Recipients), NamedTwice: p.Audience.NamedTwice,
		KeptOut: len(p.Audience.LeftOut), Nobody: sum.Nobody, Told: sum.Told,
		Deliveries: sum.Deliveries, Shared: sum.Shared, Overridden: sum.Overridden, Wished: sum.Wished,
		DefaultSteps: p.Draft.Steps == nil, Off: ChannelNames(p.Settings.Off),
		Steps: []stepView{}, Channels: []channelView{}, LeftOut: []reasonView{}, Parts: []partView{},
		Problems:  []problemView{},
		Languages: ViewLanguages(sum.Languages), Copies: viewCopies(p, sum), CopiesSeen: p.CopiesSeen(),
		Unchecked: p.Draft.Copies.Unchecked(p.Draft.Urgency), Meter: viewMeter(sum.Meter, p.Draft),
		Push: pushView{
			Quiet:        p.Draft.PushIsQuiet(),
			UsuallyQuiet: message.UsuallyQuiet(p.Draft.Urgency),
		}, Cost: sum.Cost.Format(currency),
		LeavesAt: sum.First, LastAt: sum.Last, Waits: []waitView{}, Unquiet: p.Unquiet,
		Confirm:   sum.Confirm && !p.Settings.Sending.SecondYes,
		SecondYes: sum.Confirm && p.Settings.Sending.SecondYes, Sentences: []string{},
	}
	if budget := p.Settings.Budget; budget > 0 {
		v.Budget, v.Spent = budget.Format(currency), p.Settings.Spent.Format(currency)
	}
	for _, wait := range sum.Waits {
		v.Waits = append(
			v.Waits,
			waitView{Channel: wait.Channel, Until: wait.Until, Deliveries: wait.Deliveries},
		)
	}
	v.Sender = viewSender(w)
	had := sum.Load
	v.Load = loadView{
		Routine: had.Sent.Routine, Timely: had.Sent.Timely, Emergency: had.Sent.Emergency, Most: had.Most, Over: had.Over,
		Limit: p.Settings.Sending.LoadLimit,
	}
	for _, step := range sum.Steps {
		v.Steps = append(v.Steps, stepView{Channels: ChannelNames(step.Channels), People: step.People})
	}
	for _, c := range sum.Channels {
		v.Channels = append(v.Channels, channelView{
			Channel: c.Channel, People: c.People, Deliveries: c.Deliveries, Parts: c.Parts, Seconds: c.Seconds,
			Bytes: c.Bytes, Most: push.Most, Cost: c.Cost.Format(currency),
		})
	}
	for _, l := range sum.LeftOut {
		v.LeftOut = append(v.LeftOut, reasonView{
			Reason:   string(l.Reason),
			Sentence: l.Reason.Sentence(),
			WayOut:   l.Reason.WayOut(),
			People:   l.People,
		})
	}
	parts := p.Draft.Audience.Labels(w.Roster)
	for i, part := range p.Audience.Parts {
		one := partView{
			Label: parts[i], Detail: audience.Describe(w.Roster, p.Draft.Audience, i, part),
			People: part.People, Recipients: part.Recipients, Adds: part.Adds, Missing: part.Missing,
		}
		if part.Within >= 0 {
			one.Within = parts[part.Within]
		}
		v.Parts = append(v.Parts, one)
	}
	for _, problem := range sum.Problems {
		v.Problems = append(v.Problems, problemView{
			Code: string(problem.Code), Params: problem.Params, Sentence: wording.Problem(problem, p.Settings),
			Mend: string(problem.Mend), Blocks: problem.Blocks,
		})
	}
	if _, blocked := sum.Blocked(); !blocked {
		v.Sendable = true
		v.Sentences = p.Check(sum, sending.Leaving(w))
	}
	return v
}

func viewSender(w *sending.Worked) senderView {
	s := w.Plan.Settings
	v := senderView{
		Shown: []string{}, Replies: s.Mailbox, Own: s.Own, Prefix: s.Signature.Prefix, Footer: s.Signature.Footer,
		InUse: []string{},
	}
	v.Desks = []route.Named{}
	to := w.AnswersTo()
	for _, d := range w.Desks {
		v.Desks = append(v.Desks, route.Named{ID: int64(d.ID), Name: d.Name})
		if d.ID == to {
			v.Desk = d.Name
		}
	}
	v.Names, v.Numbers = plan.Identities(w.Roster, s)
	for _, n := range v.Numbers {
		v.Shown = append(v.Shown, phone.Display(n))
	}
	for _, d := range w.Plan.Deliveries {
		if from := phone.Display(d.Sender); from != "" && !slices.Contains(v.InUse, from) {
			v.InUse = append(v.InUse, from)
		}
	}
	return v
}

// ChannelNames are the channels of a step.
func ChannelNames(step precedence.Step) []string {
	names := make([]string, len(step))
	for i, c := range step {
		names[i] = string(c)
	}
	return names
}

// ViewLanguages are the languages that recipients prefer.
func ViewLanguages(counts []plan.LanguageCount) []LanguageView {
	list := []LanguageView{}
	for _, l := range counts {
		name := roster.LanguageName(l.Tag)
		if name == "" {
			name = "language not known"
		}
		list = append(list, LanguageView{Tag: l.Tag, Name: name, People: l.People, Reads: l.Reads, Got: l.Got})
	}
	return list
}

// viewCopies are the copies that were begun, and one for each other language that the
// recipients read.
func viewCopies(p *plan.Plan, sum plan.Summary) []copyUseView {
	list := []copyUseView{}
	at := func(tag string) int {
		i := slices.IndexFunc(list, func(c copyUseView) bool { return c.Language == tag })
		if i < 0 {
			i = len(list)
			list = append(list, copyUseView{
				Language: tag, Name: roster.LanguageName(tag), State: copies.Incomplete, By: []string{},
			})
		}
		return i
	}
	for _, c := range p.Copies {
		v := &list[at(c.Language)]
		v.State, v.Used, v.Lines, v.Filled = c.State, c.Used, c.Lines, c.Filled
		v.Checked, v.Doubtful, v.By = c.Standing.Checked, c.Doubtful, append(v.By, c.By...)
		if t := p.TextsIn(c); t.Texts > 0 {
			v.Texts, v.Parts, v.Alphabet, v.Cost = t.Texts, t.Most, string(t.Alphabet), t.Cost.Format(p.Settings.Currency)
		}
	}
	for _, l := range sum.Languages {
		if tag, ok := phrase.Tag(l.Tag); ok && !l.Reads {
			list[at(cmp.Or(p.CopyOf(l.Tag), tag))].People += l.People
		}
	}
	slices.SortStableFunc(list, func(a, b copyUseView) int { return b.People - a.People })
	return list
}

func viewMeter(m plan.Meter, d message.Draft) meterView {
	v := meterView{
		Alphabet: string(m.Alphabet), Least: m.Least, Most: m.Most, Total: m.Total, Room: m.Room, Saves: m.Saves,
		Shorten: m.Shorten, Shortens: m.Shortened,
		Forces: []forcingView{}, Swapped: m.Swapped(d.TextBody()),
	}
	for _, f := range m.Forces {
		v.Forces = append(v.Forces, forcingView{Character: f.Character, Times: f.Times, Replacement: f.Replacement})
	}
	return v
}

type previewDelivery struct {
	Channel  roster.Channel `json:"channel"`
	To       string         `json:"to"`
	From     string         `json:"from" doc:"The name or the number that they see"`
	Language string         `json:"language" doc:"Of the words, BCP 47"`
	Subject  string         `json:"subject"`
	Body     string         `json:"body"`
	HTML     string         `json:"html,omitempty" doc:"Of a formatted email: only what the editor can write, escaped"`
	Parts    int            `json:"parts"`
	Seconds  int            `json:"seconds"`
	Link     string         `json:"link,omitempty" doc:"That a push opens"`
	Quiet    bool           `json:"quiet,omitempty" doc:"A push that makes no sound"`
	Badge    bool           `json:"badge,omitempty" doc:"A push that marks the icon"`
	Shared   int            `json:"shared" doc:"How many others it counts for"`
	At       string         `json:"at" doc:"When it leaves, if not with the first: on their clocks"`
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

func (s *Area) preview(ctx context.Context, in *struct {
	Index  int             `query:"index" minimum:"0" doc:"Which recipient, from 0"`
	Person roster.PersonID `query:"person" doc:"Or who, recipient or not"`
	DraftAsked
}) (*route.Body[previewView], error) {
	w, err := s.work(ctx, in.DraftAsked)
	if err != nil {
		return nil, err
	}
	v := previewView{
		All: len(
			w.Plan.Recipients,
		), Index: min(in.Index, max(0, len(w.Plan.Recipients)-1)), Deliveries: []previewDelivery{},
	}
	if in.Person != 0 {
		index, found := w.Plan.Find(w.Roster, in.Person)
		if !found {
			return route.Answer(viewLeftOut(w, v, in.Person)), nil
		}
		v.Index = index
	}
	if v.All > 0 {
		viewRecipientOf(w, &v)
	}
	return route.Answer(v), nil
}

func viewLeftOut(w *sending.Worked, v previewView, id roster.PersonID) previewView {
	v.Person, v.LeftOut = id, w.Plan.WhyNot(w.Roster, id)
	if p := w.Roster.Person(id); p != nil {
		v.Name, v.Speaks = p.Name(), roster.LanguageName(p.Language)
	}
	return v
}

func viewRecipientOf(w *sending.Worked, v *previewView) {
	rec := w.Plan.Recipients[v.Index]
	p := w.Roster.At(rec.Person)
	v.Person, v.Name, v.Speaks, v.Why = p.ID, p.Name(), roster.LanguageName(p.Language), w.Plan.Explain(w.Roster, rec)
	draft := w.Plan.Draft
	for _, i := range rec.Deliveries {
		d := w.Plan.Deliveries[i]
		pushed := d.Channel == roster.Push
		v.Deliveries = append(v.Deliveries, previewDelivery{
			Channel: d.Channel, To: phone.Display(d.Address), From: phone.Display(d.Sender), Language: d.Language,
			Subject: d.Subject,
			Body:    d.Body,
			HTML:    w.Plan.HTML(d, fileSource), Parts: d.Count.Parts, Seconds: d.Seconds,
			Link: d.Link, Quiet: pushed && draft.PushIsQuiet(), Badge: pushed && draft.Push.Badge,
			Shared: len(d.Recipients) - 1, At: leavesFor(w, p, d),
		})
	}
}

// leavesFor says when a delivery leaves, on the clocks of whoever gets it.
func leavesFor(w *sending.Worked, p *roster.Person, d plan.Delivery) string {
	if d.At.Equal(w.Plan.Settings.Leaves) {
		return ""
	}
	words := d.At.In(w.Plan.Zone(p)).Format("Mon 2 Jan 15:04")
	if d.Quiet {
		words += ", after quiet hours"
	}
	if p.TimeZone != "" && p.TimeZone != w.Organisation.TimeZone {
		words += " in " + p.TimeZone
	}
	return words
}

func (s *Area) planPeople(ctx context.Context, in *struct {
	route.Page
	Step       int    `query:"step" minimum:"0" doc:"Those who are reached on a step, from 1"`
	Channel    string `query:"channel" doc:"Those who are reached by a channel"`
	Language   string `query:"language" doc:"Those who prefer a language; “other” for any in which they do not get it"`
	Copy       string `query:"copy" doc:"Those who get the copy in a language"`
	From       string `query:"from" doc:"Those who hear from a name or a number in E.164"`
	Over       bool   `query:"over" doc:"Those whom the message takes over the weekly limit"`
	Wished     bool   `query:"wished" doc:"Those who are reached by the channel they asked for first"`
	Overridden bool   `query:"overridden" doc:"Those whose withheld consent an emergency overrides"`
	Quiet      bool   `query:"quiet" doc:"Those for whom something waits for quiet hours to end"`
	Reason     string `query:"reason" doc:"Those who get nothing for a reason; “any” for all of them; “guardians-told” for those who are told through a guardian"`
	DraftAsked
}) (*route.Body[view.NamedPeople], error) {
	w, err := s.work(ctx, in.DraftAsked)
	if err != nil {
		return nil, err
	}
	var list []view.NamedPerson
	asked := plan.Asked{
		Step: in.Step, Channel: in.Channel, Language: in.Language, Copy: in.Copy, From: in.From, Over: in.Over,
		Wished:     in.Wished,
		Overridden: in.Overridden, Quiet: in.Quiet,
	}
	for _, rec := range w.Plan.Recipients {
		p := w.Roster.At(rec.Person)
		if w.Plan.Fits(w.Roster, rec, asked) {
			list = append(list, view.NamedPerson{ID: p.ID, Name: p.Name(), Detail: addressesOf(w, rec)})
		}
	}
	for _, l := range w.Plan.LeftOut {
		if in.Reason == string(l.Reason) || in.Reason == "any" {
			p := w.Roster.At(l.Person)
			list = append(list, view.NamedPerson{ID: p.ID, Name: p.Name(), Detail: w.Plan.Detail(w.Roster, l)})
		}
	}
	if in.Reason == string(plan.GuardiansTold) {
		for _, t := range w.Plan.Told {
			p := w.Roster.At(t.Person)
			list = append(list, view.NamedPerson{ID: p.ID, Name: p.Name(), Detail: w.Plan.Through(w.Roster, t)})
		}
	}
	out := view.NamedPeople{People: append([]view.NamedPerson{}, route.Window(list, in.Page)...), All: len(list)}
	return route.Answer(out), nil
}

func fileSource(hash string) string { return "/api/files/" + hash }

type triedView struct {
	Sent []string `json:"sent" doc:"By which channel, and where to"`
}

func (s *Area) tryOnMe(ctx context.Context, in *struct {
	Index    int    `query:"index" minimum:"0" doc:"For which recipient it is filled"`
	Language string `query:"language" maxLength:"40" doc:"In which copy, as far as it is filled, BCP 47; absent for what they get"`
	DraftAsked
}) (*route.Body[triedView], error) {
	deliveries, err := s.Sending.Try(ctx, in.Message, in.Body, in.Index, in.Language, route.By(ctx))
	out := triedView{Sent: []string{}}
	for _, d := range deliveries {
		out.Sent = append(out.Sent, plan.ChannelWord(d.Channel)+" to "+phone.Display(d.Address))
	}
	return route.Answer(out), s.Problem(ctx, err)
}

type partPerson struct {
	ID      roster.PersonID `json:"id" doc:"Negative for an address that is nobody's"`
	Name    string          `json:"name"`
	Detail  string          `json:"detail"`
	LeftOut bool            `json:"leftOut" doc:"A part of the audience leaves them out"`
}

type partPeople struct {
	People  []partPerson      `json:"people"`
	All     int               `json:"all"`
	Filters []view.FilterView `json:"filters" doc:"Its conditions, and how many people each leaves"`
}

func (s *Area) planPart(ctx context.Context, in *struct {
	route.Page
	Part   int    `query:"part" minimum:"0" doc:"Which part, from 0"`
	Search string `query:"search" maxLength:"200"`
	DraftAsked
}) (*route.Body[partPeople], error) {
	w, err := s.work(ctx, in.DraftAsked)
	if err != nil {
		return nil, err
	}
	if in.Part >= len(in.Body.Audience.Parts) {
		return nil, huma.Error404NotFound("The audience has no such part any more.")
	}
	gone := map[int]bool{}
	for _, p := range in.Body.Audience.Parts {
		if p.LeaveOut {
			for _, i := range audience.Named(w.Roster, p) {
				gone[i] = true
			}
		}
	}
	part := in.Body.Audience.Parts[in.Part]
	people := w.Roster.Search(audience.Named(w.Roster, part), in.Search)
	out := partPeople{People: []partPerson{}, All: len(people), Filters: conditionsOf(w.Roster, part)}
	for _, i := range route.Window(people, in.Page) {
		p := w.Roster.At(i)
		out.People = append(out.People, partPerson{ID: p.ID, Name: p.Name(), Detail: rolesInWords(p), LeftOut: gone[i]})
	}
	return route.Answer(out), nil
}

// conditionsOf are those of a part by rule, or those that it includes some by.
func conditionsOf(r *roster.Roster, p audience.Part) []view.FilterView {
	conditions := p.Only
	step := func(rule roster.Rule) audience.Part { return audience.Part{Kind: audience.ByRule, Rule: rule} }
	if p.Kind == audience.ByRule && len(p.Only) == 0 {
		conditions = p.Rule
	} else {
		step = func(rule roster.Rule) audience.Part {
			p.Only = rule
			return p
		}
	}
	list := []view.FilterView{}
	for i, words := range r.RuleWords(conditions) {
		list = append(list, view.FilterView{Words: words, Leaves: len(audience.Named(r, step(conditions[:i+1])))})
	}
	return list
}

func rolesInWords(p *roster.Person) string {
	if p.Stranger() {
		return "not on the roster"
	}
	words := make([]string, len(p.Roles))
	for i, role := range p.Roles {
		words[i] = string(role)
	}
	return strings.Join(words, ", ")
}

type listed struct {
	People    []roster.PersonID `json:"people" doc:"Named by their name or identifier, each once"`
	Addresses []string          `json:"addresses" doc:"Mailboxes and numbers, each once"`
	Known     int               `json:"known" doc:"Addresses that belong to somebody on the roster"`
	Unclear   []match.Found     `json:"unclear" doc:"What means nobody, or nobody for sure"`
}

func viewListed(found []match.Found) *route.Body[listed] {
	out := listed{People: []roster.PersonID{}, Addresses: []string{}, Unclear: []match.Found{}}
	people, addresses := map[roster.PersonID]bool{}, map[string]bool{}
	for _, f := range found {
		switch {
		case f.Address != "":
			if key := strings.ToLower(f.Address); !addresses[key] {
				addresses[key] = true
				out.Addresses = append(out.Addresses, f.Address)
				if len(f.People) > 0 {
					out.Known++
				}
			}
		case f.Problem != "":
			out.Unclear = append(out.Unclear, f)
		default:
			for _, id := range f.People {
				if !people[id] {
					people[id] = true
					out.People = append(out.People, id)
				}
			}
		}
	}
	return route.Answer(out)
}

func (s *Area) planList(ctx context.Context, in *struct {
	Body struct {
		Text string `json:"text" maxLength:"2000000"`
	}
}) (*route.Body[listed], error) {
	found, _, err := s.Editor.Match(ctx, route.By(ctx), in.Body.Text)
	return viewListed(found), s.Problem(ctx, err)
}

func (s *Area) planListFile(ctx context.Context, in *struct {
	RawBody []byte `contentType:"application/octet-stream"`
}) (*route.Body[listed], error) {
	table, err := exchange.Read(in.RawBody)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	found, _, err := s.Editor.MatchTable(ctx, route.By(ctx), table)
	return viewListed(found), s.Problem(ctx, err)
}

func addressesOf(w *sending.Worked, rec plan.Recipient) string {
	list := make([]string, len(rec.Deliveries))
	for i, d := range rec.Deliveries {
		list[i] = phone.Display(w.Plan.Deliveries[d].Address)
	}
	return strings.Join(list, ", ")
}
