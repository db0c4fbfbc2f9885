package outgoing

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

func (s *Area) storyRoutes(api huma.API) {
	route.Get(
		api, "/messages/{id}/recipients/{recipient}", "story", "All that became of a message for one recipient",
		s.story, access.ReadRecords, access.Write,
	)
	route.Get(
		api, "/messages/{id}/progress", "progress", "How far the deliveries of a message came over time",
		s.progress, access.ReadRecords, access.Write,
	)
}

type pointView struct {
	At      time.Time              `json:"at"`
	Free    int                    `json:"free" doc:"Deliveries that might have left by then, as planned"`
	Left    int                    `json:"left" doc:"That a carrier had taken"`
	Arrived map[roster.Channel]int `json:"arrived" doc:"That had arrived, by channel"`
}

type progressView struct {
	Points     []pointView `json:"points" doc:"At equal distances; the last counts everything"`
	Reached    int         `json:"reached" doc:"Recipients of whom it is known when they were reached"`
	Half       float64     `json:"half" doc:"Seconds after which half of them were"`
	NineTenths float64     `json:"nineTenths" doc:"Seconds after which nine tenths of them were"`
}

// progressPoints is how many points the progress has, and one more.
const progressPoints = 60

func (s *Area) progress(ctx context.Context, in *MessageID) (*route.Body[progressView], error) {
	if _, err := s.Messages.Heading(ctx, route.By(ctx), in.ID); err != nil {
		return nil, s.Problem(ctx, err)
	}
	moments, err := s.Store.Moments(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	reached, err := s.Store.ReachedAfter(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := progressView{
		Points: []pointView{}, Reached: len(reached), Half: record.Share(reached, 0.5).Seconds(),
		NineTenths: record.Share(reached, 0.9).Seconds(),
	}
	for _, p := range record.Progress(moments, progressPoints) {
		v.Points = append(v.Points, pointView{p.At, p.Free, p.Left, p.Arrived})
	}
	return route.Answer(v), nil
}

type eventView struct {
	At      time.Time      `json:"at"`
	State   delivery.State `json:"state" doc:"That it came to, or that was reported"`
	Report  bool           `json:"report" doc:"The carrier said so after it took it"`
	Carrier string         `json:"carrier,omitempty" doc:"Of a hand-over: what the carrier is called"`
	Said    string         `json:"said,omitempty" doc:"The carrier's own words"`
	Plainly string         `json:"plainly,omitempty" doc:"What its status code (RFC 3463) comes to"`
}

type storyDelivery struct {
	DeliveryView
	Step     int               `json:"step"`
	Sender   string            `json:"sender" doc:"The name of an email, the number of a text or a call"`
	Mailbox  string            `json:"mailbox,omitempty" doc:"From which an email came"`
	Parts    int               `json:"parts"`
	Seconds  int               `json:"seconds"`
	Cost     string            `json:"cost"`
	FreeAt   time.Time         `json:"freeAt" doc:"When it was first free to leave"`
	Shared   int               `json:"shared" doc:"Recipients who share it, this one among them"`
	Language string            `json:"language" doc:"BCP 47"`
	Subject  string            `json:"subject,omitempty"`
	Body     string            `json:"body"`
	HTML     string            `json:"html,omitempty" doc:"Of a formatted email: only what the editor can write, escaped; pictures named by cid"`
	Link     string            `json:"link,omitempty"`
	Files    []attachment.File `json:"files"`
	Played   bool              `json:"played" doc:"The call played a recording"`
	Events   []eventView       `json:"events" doc:"What happened to it, in order"`
}

type asideView struct {
	Channel roster.Channel `json:"channel"`
	Address string         `json:"address"`
	Why     string         `json:"why" doc:"In words"`
}

type storyView struct {
	RecipientView
	Copy      string          `json:"copy" doc:"What they read: a language, or “the original”"`
	ReachedAt *time.Time      `json:"reachedAt,omitempty"`
	Aside     []asideView     `json:"aside" doc:"Addresses that could not be used"`
	Sent      []storyDelivery `json:"sent" doc:"Each delivery with what it said and what happened to it"`
}

func (s *Area) story(ctx context.Context, in *struct {
	MessageID
	Recipient int64 `path:"recipient"`
}) (*route.Body[storyView], error) {
	st, fixed, err := s.Sending.Story(ctx, in.ID, in.Recipient, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := storyView{
		RecipientView: viewRecipient(st.RecipientRecord), Copy: "the original", ReachedAt: moment(st.ReachedAt),
		Aside: []asideView{}, Sent: []storyDelivery{},
	}
	if st.Copy != "" {
		v.Copy = roster.LanguageName(st.Copy)
	}
	for _, a := range st.Aside {
		v.Aside = append(v.Aside, asideView{a.Channel, phone.Display(a.Address), plan.AsideWords(a.Why)})
	}
	for _, d := range st.Deliveries {
		v.Sent = append(v.Sent, viewStoryDelivery(d, fixed.Currency))
	}
	return route.Answer(v), nil
}

func viewStoryDelivery(d store.StoryDelivery, currency string) storyDelivery {
	v := storyDelivery{
		DeliveryView: viewDelivery(d.Delivery), Step: d.Step, Sender: d.Sender, Mailbox: d.Content.Parts.Mailbox,
		Parts: d.Parts, Seconds: d.Seconds, Cost: d.Cost.Format(currency), FreeAt: d.QueuedAt, Shared: d.Shared,
		Language: d.Content.Language, Subject: d.Content.Subject, Body: d.Content.Body, HTML: d.Content.HTML,
		Link: d.Content.Link, Files: []attachment.File{}, Played: d.Content.Parts.Recording != "", Events: []eventView{},
	}
	v.Files = append(v.Files, d.Content.Parts.Files...)
	for _, e := range d.Events {
		v.Events = append(v.Events, eventView{
			At: e.At, State: e.State, Report: e.Report, Carrier: e.Carrier, Said: e.Said, Plainly: delivery.Plainly(e.Code),
		})
	}
	return v
}
