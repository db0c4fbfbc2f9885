package outgoing

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/shift"
	"upperlantern/internal/core/timing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

func (s *Area) todayRoutes(api huma.API) {
	route.Get(api, "/today", "today", "What a shift has to know of messages when it begins", s.today)
}

type todayMessage struct {
	ID         int64     `json:"id"`
	Title      string    `json:"title"`
	At         time.Time `json:"at" doc:"When it left, or leaves"`
	People     int       `json:"people"`
	Held       bool      `json:"held" doc:"It has not left"`
	NotReached int       `json:"notReached"`
}

type todayView struct {
	Now       time.Time      `json:"now"`
	From      time.Time      `json:"from" doc:"The day, on the organisation's clocks"`
	To        time.Time      `json:"to"`
	Quiet     *timing.Quiet  `json:"quiet,omitempty" doc:"The quiet hours of texts"`
	Day       []todayMessage `json:"day" doc:"Messages that leave, or left, on it; the earliest first"`
	Asking    []todayAsks    `json:"asking" doc:"Questions of two days that somebody has not answered; the latest first"`
	Readings  []todayReading `json:"readings" doc:"Copies of drafts that wait for their readers; the first asked for first"`
	Unsettled []todayMessage `json:"unsettled" doc:"Messages of two days that did not reach everybody; the latest first"`
}

type todayReading struct {
	Message  int64     `json:"message"`
	Title    string    `json:"title"`
	Language string    `json:"language" doc:"BCP 47"`
	Speaks   string    `json:"speaks"`
	Readers  string    `json:"readers" doc:"Who was asked and has not answered"`
	Until    time.Time `json:"until"`
}

type todayAsks struct {
	ID     int64        `json:"id"`
	Title  string       `json:"title"`
	At     time.Time    `json:"at"`
	Needed int          `json:"needed" doc:"So many answers that count are needed; 0 for however many"`
	Tally  asking.Tally `json:"tally"`
}

// asking are the questions of some messages that somebody has not answered.
func (s *Area) asking(ctx context.Context, some []shift.Message) ([]todayAsks, error) {
	ids := make([]int64, len(some))
	for i, m := range some {
		ids[i] = m.ID
	}
	known, err := s.Store.Asking(ctx, ids)
	list := []todayAsks{}
	for _, id := range ids {
		if !slices.Contains(known, id) {
			continue
		}
		b, failed := s.Sending.Board(ctx, id, route.By(ctx))
		if failed != nil && !errors.Is(failed, sending.ErrAsksNothing) {
			err = errors.Join(err, failed)
		}
		if failed != nil {
			continue
		}
		if b.Filled.IsZero() && b.Tally.Open() {
			list = append(list, todayAsks{id, b.Message.Title, b.Message.LeavesAt, b.Message.Draft.Question.Needed, b.Tally})
		}
	}
	return list, err
}

// looked is how many of the newest messages are looked through.
const looked = 200

func (s *Area) today(ctx context.Context, _ *struct{}) (*route.Body[todayView], error) {
	by := route.By(ctx)
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	now := s.Now().In(zone)
	out := todayView{
		Now: now, Day: []todayMessage{}, Asking: []todayAsks{}, Readings: []todayReading{}, Unsettled: []todayMessage{},
	}
	out.From, out.To = shift.Day(now)
	if q, ok := o.Sending.Quiet[roster.Text]; ok {
		out.Quiet = &q
	}
	if !by.May(access.Write) && !by.May(access.ReadRecords) {
		return route.Answer(out), nil
	}
	list, _, err := s.Messages.List(ctx, by, 0, looked)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	known := map[int64]store.Heading{}
	var sent []shift.Message
	var drafts []int64
	for _, m := range list {
		if m.State == store.Draft {
			drafts = append(drafts, m.ID)
			continue
		}
		known[m.ID] = m
		sent = append(sent, shift.Message{
			ID: m.ID, Leaves: m.LeavesAt, Held: m.State == store.Held, Ended: !m.EndedAt.IsZero(),
			NotReached: m.Figures.NotReached,
		})
	}
	view := func(some []shift.Message) []todayMessage {
		out := make([]todayMessage, len(some))
		for i, one := range some {
			m := known[one.ID]
			out[i] = todayMessage{m.ID, m.Title, m.LeavesAt, m.Figures.Recipients, one.Held, one.NotReached}
		}
		return out
	}
	if out.Asking, err = s.asking(ctx, shift.Lately(sent, now)); err != nil {
		return nil, s.Problem(ctx, err)
	}
	waiting, err := s.Store.OpenReadings(ctx, drafts, now)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	for _, r := range waiting {
		out.Readings = append(out.Readings, todayReading{
			r.Message, r.Title, r.Language, roster.LanguageName(r.Language), r.Names, r.Until,
		})
	}
	out.Day, out.Unsettled = view(shift.Today(sent, now)), view(shift.Unsettled(sent, now))
	return route.Answer(out), nil
}
