package demo

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/messages"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

// past is a message that Quillmere sent now and then.
type past struct {
	sender  int // of Accounts
	group   string
	urgency roster.Urgency
	subject string
	text    string

	reason   string // of an emergency
	question *message.Question
	copies   map[string][]string // by language, line by line
}

// habitual are the messages of a year, one after the other and then from the start.
var habitual = []past{
	{sender: 1, group: "U14", urgency: roster.Routine, subject: "Swim tests on Thursday", text: "Swim tests are on Thursday at 17:30. Please bring the signed card."},
	{sender: 2, group: "Flood watch", urgency: roster.Timely, subject: "River at the lower mark", text: "The river is at the lower mark at Harrow Lock. Look at your stretch before dark."},
	{sender: 1, group: "Coaches", urgency: roster.Routine, subject: "Launch key", text: "The launch key is with the office this week. Sign for it, please."},
	{sender: 0, group: "Junior squads", urgency: roster.Routine, subject: "Boathouse closed for painting", text: "The boathouse is closed on Tuesday. Sessions are at the pool."},
	{sender: 1, group: "U16", urgency: roster.Timely, subject: "Session moved indoors", text: "Tonight’s session is indoors: the wind is too strong. Same time."},
	{sender: 2, group: "Sluice keys", urgency: roster.Routine, subject: "Sluice keys to be counted", text: "Please show your sluice key at the desk before the end of the month."},
	{sender: 0, group: "U12", urgency: roster.Routine, subject: "Lost jackets", text: "Three blue jackets are at the office. They go to the charity box on Friday."},
}

// historyLength is how many messages the year before had, one about every other week.
const historyLength, everyDays, newestDays = 26, 13, 10

// history writes what Quillmere sent in the year before the demo begins, and how many
// gaps its roster had.
func history(ctx context.Context, folder string, now time.Time) (err error) {
	s, err := store.Open(folder)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	h := historian{Store: s, random: rand.New(rand.NewPCG(7, 11))} //nolint:gosec // made-up data, the same each time
	h.sender = &sending.Service{
		Store: s, Messages: &messages.Service{Store: s, Now: h.clock}, Now: h.clock, Held: func(int64) {},
	}
	if h.accounts, err = s.Accounts(ctx); err != nil {
		return err
	}
	if h.run, err = s.BeginRun(ctx, now); err != nil {
		return err
	}
	for n := range historyLength {
		ago := newestDays + (historyLength-1-n)*everyDays
		local := now.In(quillmere()).AddDate(0, 0, -ago)
		h.now = time.Date(local.Year(), local.Month(), local.Day(), 9+n%9, (n*17)%60, 0, 0, local.Location())
		if _, err := h.send(ctx, habitual[n%len(habitual)]); err != nil {
			return fmt.Errorf("the message of %s: %w", h.now.Format(time.DateOnly), err)
		}
	}
	return h.gaps(ctx, now)
}

type historian struct {
	*store.Store
	random   *rand.Rand
	now      time.Time
	run      int64
	accounts []store.Account
	sender   *sending.Service
}

func (h *historian) clock() time.Time { return h.now }

// send sends a message, hands all of it over and takes the reports. It returns 0 when there
// is nobody to send it to.
func (h *historian) send(ctx context.Context, p past) (int64, error) {
	r, err := h.Roster(ctx)
	if err != nil {
		return 0, err
	}
	g, there := r.GroupNamed(p.group)
	if !there {
		return 0, nil // a roster of another size
	}
	d := message.Draft{
		Content: message.Content{Subject: p.subject, Email: rich.Lines("Dear {{first name}},\n\n" + p.text), OwnText: true, Text: p.text, Question: p.question},
		Routing: message.Routing{Urgency: p.urgency, Reason: p.reason, Audience: audience.Audience{
			Receivers: audience.Guardians, Parts: []audience.Part{group(g.ID)},
		}},
	}
	account := h.accounts[p.sender]
	by := account.Principal(access.Inside)
	m, err := h.AddDraft(ctx, account.ID, d, h.now)
	if err != nil {
		return 0, err
	}
	if err := h.inTheirWords(ctx, m, p); err != nil {
		return 0, err
	}
	w, err := h.sender.Plan(ctx, m.ID, m.Draft, by)
	if err != nil {
		return 0, err
	}
	if _, err := h.sender.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: w.Summary.Recipients}, by); err != nil {
		return 0, err
	}
	h.now = h.now.Add(w.Organisation.Hold)
	if _, err := h.Release(ctx, h.now); err != nil {
		return 0, err
	}
	for _, channel := range roster.Channels {
		if err := h.handOver(ctx, channel); err != nil {
			return 0, err
		}
	}
	return m.ID, nil
}

// together is how many deliveries are handed over at once.
const together = 200

func (h *historian) handOver(ctx context.Context, channel roster.Channel) error {
	for {
		room := store.Room{Most: together, Others: together}
		leased, err := h.Lease(ctx, h.run, channel, room, 0, h.now, h.now.Add(time.Minute))
		if err != nil || len(leased) == 0 {
			return err
		}
		done := make([]store.Handover, len(leased))
		for i, l := range leased {
			done[i] = store.Handover{Leased: l.As(delivery.Carrier, "accepted"), Carrier: carriedBy[channel]}
		}
		if _, err := h.Finish(ctx, h.run, done, h.now.Add(time.Second)); err != nil {
			return err
		}
		for i, l := range leased {
			if err := h.report(ctx, l, i); err != nil {
				return err
			}
		}
	}
}

// carriedBy are what the stand-ins are called.
var carriedBy = map[roster.Channel]string{
	roster.Email: "stand-in mail server", roster.Text: "stand-in text gateway", roster.Voice: "stand-in voice gateway",
	roster.Push: "stand-in push service",
}

// report takes what a carrier says some time later: nearly always that it arrived.
func (h *historian) report(ctx context.Context, l store.Leased, n int) error {
	after := 2*time.Second + time.Duration(h.random.ExpFloat64()*float64(40*time.Second))
	rep := delivery.Report{
		Via: delivery.ViaOf(l.Channel), DeliveryKey: l.Key, Key: fmt.Sprintf("past-%d-%d", l.Message, n), State: delivery.Arrived,
		OccurredAt: h.now.Add(after),
	}
	if h.random.IntN(14) == 0 {
		rep.State, rep.Detail = delivery.Expired, "not reached within the time: switched off"
	}
	_, err := h.TakeReport(ctx, rep, rep.OccurredAt)
	return err
}

// gaps are counted for each of some days before: the office has mended some since.
func (h *historian) gaps(ctx context.Context, now time.Time) error {
	r, err := h.Roster(ctx)
	if err != nil {
		return err
	}
	const weeks = 40
	for ago := weeks; ago > 0; ago-- {
		counts := report.CountDay(r)
		for _, of := range counts {
			for gap, n := range of {
				if gap != report.CountPeople && gap != report.CountDeclines {
					of[gap] = n + n*ago/weeks + (ago+n)%3
				}
			}
			of[report.CountDeclines] -= of[report.CountDeclines] * ago / (2 * weeks)
		}
		day := roster.Date(now.In(quillmere()).AddDate(0, 0, -7*ago).Format(time.DateOnly))
		if err := h.KeepGaps(ctx, day, counts); err != nil {
			return err
		}
	}
	return nil
}
