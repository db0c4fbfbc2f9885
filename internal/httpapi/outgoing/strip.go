package outgoing

import (
	"context"
	"slices"
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
}

type troubleView struct {
	Channel roster.Channel `json:"channel" enum:"email,text,voice,push"`
	Detail  string         `json:"detail" doc:"What its carrier said"`
	Since   time.Time      `json:"since"`
	RetryAt time.Time      `json:"retryAt"`
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
}

func (s *Area) tryCarrier(_ context.Context, in *struct {
	Channel roster.Channel `path:"channel" enum:"email,text,voice,push"`
}) (*struct{}, error) {
	s.Carriers.TryNow(in.Channel)
	return nil, nil
}

func (s *Area) strip(ctx context.Context, _ *struct{}) (*route.Body[stripView], error) {
	list, err := s.Messages.Open(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	troubles, err := s.Store.Troubles(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	account := route.By(ctx)
	out := stripView{
		Full: s.Store.Full(), Trouble: []troubleView{}, Now: s.Now(), Late: []stripMessage{}, Held: []stripMessage{},
		Sending: []stripMessage{}, Next: []stripMessage{}, Asked: []stripMessage{},
	}
	for _, t := range troubles {
		out.Trouble = append(
			out.Trouble,
			troubleView{Channel: t.Channel, Detail: t.Detail, Since: t.Since, RetryAt: t.RetryAt},
		)
	}
	for _, m := range list {
		asked := m.Asks(account.ID) && account.May(access.Write)
		if m.State != store.Held && m.State != store.Sending && !asked {
			continue
		}
		one := stripMessage{
			ID:       m.ID,
			Title:    m.Title,
			People:   m.Figures.Recipients,
			Here:     m.Figures.Here,
			Total:    m.Figures.Deliveries,
			LeavesAt: moment(m.LeavesAt),
		}
		switch {
		case asked:
			out.Asked = append(out.Asked, one)
		case m.Late:
			out.Late = append(out.Late, one)
		case m.State == store.Sending:
			out.Sending = append(out.Sending, one)
		case m.Scheduled:
			out.Next = append(out.Next, one)
		default:
			out.Held = append(out.Held, one)
		}
	}
	slices.SortFunc(out.Next, func(a, b stripMessage) int { return a.LeavesAt.Compare(*b.LeavesAt) })
	return route.Answer(out), nil
}
