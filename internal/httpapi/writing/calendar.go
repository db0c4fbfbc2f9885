package writing

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"upperlantern/internal/calendar"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

// FeedPath is where calendars read what is scheduled.
const FeedPath = "/calendar/"

// FeedRights are those of which reading what is scheduled takes one.
var FeedRights = []access.Right{access.Write, access.ReadRecords}

type feedView struct {
	Path string `json:"path" doc:"Where a calendar reads what is scheduled (RFC 5545); whoever knows it can read it"`
}

func (s *Area) calendarRoutes(api huma.API) {
	route.Get(api, "/calendar", "calendar", "Where a calendar reads what is scheduled", s.calendar, FeedRights...)
	route.Get(
		api, "/moments", "moment", "The instant that a typed day and time mean",
		s.moment, access.Write, access.EditPeople,
	)
	route.Get(api, "/days", "day", "The day that was typed", s.day, access.Write, access.EditPeople)
	route.Get(
		api, "/months", "month", "What a month holds: what leaves, and public holidays",
		s.month, access.Write, access.EditPeople, access.ReadRecords,
	)
}

func (s *Area) calendar(ctx context.Context, _ *struct{}) (*route.Body[feedView], error) {
	o, err := s.Store.Organisation(ctx)
	return route.Answer(feedView{Path: FeedPath + link.MakeFeed(o.Secret, route.By(ctx).ID) + ".ics"}), s.Problem(ctx, err)
}

// Feed serves what is scheduled as a calendar, to whoever has an account's token.
func (s *Area) Feed(w http.ResponseWriter, r *http.Request) {
	calendar, err := s.scheduled(r.Context(), chi.URLParam(r, "token"))
	switch {
	case errors.Is(err, link.ErrNotOurs) || errors.Is(err, store.ErrNotFound):
		http.Error(w, "there is no such calendar", http.StatusNotFound)
	case err != nil:
		s.Log.ErrorContext(r.Context(), "writing a calendar", "error", err)
		http.Error(w, "the calendar cannot be written just now", http.StatusServiceUnavailable)
	default:
		w.Header().Set("Content-Type", "text/calendar; charset=utf-8")
		w.Header().Set("Cache-Control", "private, max-age=300")
		_, _ = w.Write([]byte(calendar)) // the caller is gone if this fails
	}
}

func (s *Area) scheduled(ctx context.Context, token string) (string, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return "", err
	}
	id, err := link.ReadFeed(o.Secret, token)
	if err != nil {
		return "", err
	}
	account, err := s.Store.Account(ctx, id)
	if err != nil {
		return "", err
	}
	if route.Refusal(account.Grant, FeedRights) != "" {
		return "", store.ErrNotFound // it may no longer see what it once could
	}
	return s.Calendar.Feed(ctx, account.Principal(access.ByFeed))
}

// AsTyped is how a person wrote a moment.
type AsTyped struct {
	Typed string `query:"typed" required:"true" maxLength:"60" doc:"Such as 28 Nov 2026, 18:00, or tomorrow 7:30"`
}

type momentView struct {
	At   time.Time   `json:"at"`
	Note timing.Note `json:"note" enum:"skipped,twice," doc:"What is odd about it: clocks are put forward over it, or back"`
}

func (s *Area) moment(ctx context.Context, in *struct {
	AsTyped
	Before time.Time `query:"before" doc:"What stood there: a day alone keeps its time"`
}) (*route.Body[momentView], error) {
	m, err := s.Calendar.Moment(ctx, in.Typed, in.Before)
	return route.Answer(momentView{At: m.At, Note: m.Note}), s.Problem(ctx, err)
}

type dayView struct {
	Day string `json:"day" format:"date"`
}

func (s *Area) day(ctx context.Context, in *AsTyped) (*route.Body[dayView], error) {
	day, err := s.Calendar.Day(ctx, in.Typed)
	return route.Answer(dayView{Day: day.Format(time.DateOnly)}), s.Problem(ctx, err)
}

type monthView struct {
	First string         `json:"first" format:"date"`
	Today string         `json:"today" format:"date"`
	Days  []monthDayView `json:"days"`
	Quiet []quietView    `json:"quiet" doc:"When a channel waits, on the recipient's clocks"`
	Usual []string       `json:"usual" doc:"Moments that are often meant, as they would be typed"`
}

type monthDayView struct {
	Day     string        `json:"day" format:"date"`
	Holiday string        `json:"holiday" doc:"Its name in the country's own language; empty for none"`
	Leaves  []leavingView `json:"leaves" doc:"Messages that wait for their time"`
}

type leavingView struct {
	Message int64     `json:"message"`
	Title   string    `json:"title"`
	At      time.Time `json:"at"`
}

type quietView struct {
	Channel roster.Channel `json:"channel"`
	timing.Quiet
}

func (s *Area) month(ctx context.Context, in *struct {
	Of string `query:"of" format:"date" doc:"A day of the month; today's if it is left out"`
}) (*route.Body[monthView], error) {
	of, err := dayOrNone(in.Of)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The month is not one such as 2026-11-01.")
	}
	m, err := s.Calendar.Month(ctx, of, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(viewMonth(m)), nil
}

func dayOrNone(text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	return time.Parse(time.DateOnly, text)
}

func viewMonth(m calendar.Month) monthView {
	view := monthView{
		First: m.First.Format(time.DateOnly), Today: m.Today.Format(time.DateOnly), Usual: m.Usual,
		Days: make([]monthDayView, len(m.Days)), Quiet: []quietView{},
	}
	for i, day := range m.Days {
		leaves := make([]leavingView, len(day.Leaves))
		for j, l := range day.Leaves {
			leaves[j] = leavingView{Message: l.ID, Title: l.Title, At: l.At}
		}
		view.Days[i] = monthDayView{Day: day.Day.Format(time.DateOnly), Holiday: day.Holiday, Leaves: leaves}
	}
	for _, c := range roster.Channels {
		if quiet, ok := m.Quiet[c]; ok {
			view.Quiet = append(view.Quiet, quietView{Channel: c, Quiet: quiet})
		}
	}
	return view
}
