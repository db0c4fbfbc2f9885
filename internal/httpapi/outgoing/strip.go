package outgoing

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

func (s *Area) stripRoutes(api huma.API) {
	route.Get(api, "/strip", "strip", "What is held, going out and next", s.strip, access.Write, access.ReadRecords)
	route.Post(
		api, "/carriers/{channel}/try", "try-carrier", "Try a carrier that is in trouble at once",
		s.tryCarrier, access.Write,
	)
}

type stripMessage struct {
	ID       int64      `json:"id"`
	Title    string     `json:"title"`
	People   int        `json:"people"`
	Here     int        `json:"here" doc:"Deliveries that have not left"`
	Total    int        `json:"total" doc:"All deliveries"`
	LeavesAt *time.Time `json:"leavesAt,omitempty"`
	Changed  bool       `json:"changed,omitempty" doc:"It waits because the roster changed since it was checked"`
}

type troubleView struct {
	Channel roster.Channel `json:"channel"`
	Detail  string         `json:"detail" doc:"What its carrier said"`
	Since   time.Time      `json:"since"`
	RetryAt time.Time      `json:"retryAt"`
	Covered bool           `json:"covered" doc:"Another carrier takes what is for this one meanwhile"`
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
	Unsaved bool           `json:"unsaved" doc:"There is no backup that is new enough; told to who may change settings"`
	Unsent  []stripMessage `json:"unsent" doc:"Drafts that waited for their readings and did not leave"`
	Hands   []stripMessage `json:"hands" doc:"Messages of which the account is asked to look after people who were not reached; people are those who are not done"`
}

func (s *Area) tryCarrier(_ context.Context, in *struct {
	Channel roster.Channel `path:"channel"`
}) (*struct{}, error) {
	s.Carriers.TryNow(in.Channel)
	return nil, nil
}

func (s *Area) strip(ctx context.Context, _ *struct{}) (*route.Body[stripView], error) {
	now, err := s.Messages.Strip(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	troubles, err := s.Store.Troubles(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := stripView{
		Now: s.Now(), Full: s.Store.Full(), Trouble: []troubleView{}, Held: viewStrip(now.Held),
		Sending: viewStrip(now.Sending), Next: viewStrip(now.Next), Late: viewStrip(now.Late), Asked: viewStrip(now.Asked),
		Unsent:  viewStrip(now.Unsent),
		Hands:   []stripMessage{},
		Unsaved: s.Backups != nil && route.By(ctx).May(access.ChangeSettings) && s.Backups.Missing(),
	}
	asked, err := s.Store.AskedOf(ctx, route.By(ctx).ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	for _, a := range asked {
		out.Hands = append(out.Hands, stripMessage{ID: a.Message, Title: a.Title, People: a.People})
	}
	for _, t := range troubles {
		out.Trouble = append(out.Trouble, troubleView{
			Channel: t.Channel, Detail: t.Detail, Since: t.Since, RetryAt: t.RetryAt,
			Covered: s.covered(t.Channel, t.Carrier),
		})
	}
	return route.Answer(out), nil
}

// covered reports whether another carrier takes the next delivery of a channel.
func (s *Area) covered(channel roster.Channel, carrier int64) bool {
	for id, c := range s.Carriers.Conditions(channel) {
		if c.Next && id != carrier {
			return true
		}
	}
	return false
}

func viewStrip(list []store.Heading) []stripMessage {
	out := make([]stripMessage, len(list))
	for i, m := range list {
		out[i] = stripMessage{
			ID: m.ID, Title: m.Title, People: m.Figures.Recipients, Here: m.Figures.Here, Total: m.Figures.Deliveries,
			LeavesAt: moment(m.LeavesAt), Changed: m.Changed,
		}
	}
	return out
}
