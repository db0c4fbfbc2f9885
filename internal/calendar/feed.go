package calendar

import (
	"context"
	"fmt"
	"time"

	ics "github.com/arran4/golang-ical"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/store"
)

// eventLength makes an event large enough to be seen in a calendar.
const eventLength = 15 * time.Minute

// Feed is what is scheduled, as far as an account may see, as a calendar (RFC 5545).
func (s *Service) Feed(ctx context.Context, by access.Principal) (string, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return "", err
	}
	open, err := s.Messages.Open(ctx, by)
	if err != nil {
		return "", err
	}
	feed := ics.NewCalendarFor("Upper Lantern")
	feed.SetMethod(ics.MethodPublish)
	feed.SetXWRCalName(o.Name + ": messages")
	for _, m := range open {
		if m.State != store.Held {
			continue
		}
		event := feed.AddEvent(fmt.Sprintf("message-%d@%s", m.ID, o.ReturnDomain))
		event.SetDtStampTime(m.SentAt)
		event.SetStartAt(m.LeavesAt)
		event.SetEndAt(m.LeavesAt.Add(eventLength))
		event.SetSummary("Message: " + m.Title)
		event.SetDescription(fmt.Sprintf(
			"To %s, written by %s. Until then it can be stopped.",
			plan.Count(m.Figures.Recipients, "person", "people"), m.Author,
		))
		event.SetStatus(ics.ObjectStatusConfirmed)
	}
	return feed.Serialize(), nil
}
