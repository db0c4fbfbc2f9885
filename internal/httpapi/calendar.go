package httpapi

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/arran4/golang-ical"
	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/store"
)

const feedPath = "/calendar/"

// feedRights are those of which reading what is scheduled takes one.
var feedRights = []access.Right{access.Write, access.ReadRecords}

type feedView struct {
	Path string `json:"path" doc:"Where a calendar reads what is scheduled (RFC 5545); whoever knows it can read it"`
}

func (s *server) calendarRoutes(api huma.API) {
	add(api, get("/calendar", "calendar", "Where a calendar reads what is scheduled", feedRights...), s.calendar)
}

func (s *server) calendar(ctx context.Context, _ *struct{}) (*body[feedView], error) {
	o, err := s.Store.Organisation(ctx)
	return &body[feedView]{feedView{feedPath + link.MakeFeed(o.Secret, accountOf(ctx).ID) + ".ics"}}, s.problem(ctx, err)
}

// feed serves what is scheduled as a calendar, to whoever has an account's token.
func (s *server) feed(w http.ResponseWriter, r *http.Request) {
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

func (s *server) scheduled(ctx context.Context, token string) (string, error) {
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
	if refusal(account.Grant, feedRights) != "" {
		return "", store.ErrNotFound // it may no longer see what it once could
	}
	messages, err := s.openMessages(context.WithValue(ctx, accountKey{}, account))
	if err != nil {
		return "", err
	}
	calendar := ics.NewCalendarFor("Upper Lantern")
	calendar.SetMethod(ics.MethodPublish)
	calendar.SetXWRCalName(o.Name + ": messages")
	for _, m := range messages {
		if m.State != store.Held {
			continue
		}
		event := calendar.AddEvent(fmt.Sprintf("message-%d@%s", m.ID, o.ReturnDomain))
		event.SetDtStampTime(m.SentAt)
		event.SetStartAt(m.LeavesAt)
		event.SetEndAt(m.LeavesAt.Add(eventLength))
		event.SetSummary("Message: " + m.Title)
		event.SetDescription(
			fmt.Sprintf(
				"To %s, written by %s. Until then it can be stopped.", plan.Count(m.Figures.Recipients, "person", "people"),
				m.Author,
			),
		)
		event.SetStatus(ics.ObjectStatusConfirmed)
	}
	return calendar.Serialize(), nil
}

// eventLength makes an event large enough to be seen in a calendar.
const eventLength = 15 * time.Minute
