package httpapi

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
)

type benchItem struct {
	standin.Item
	Parts []string `json:"parts" doc:"A text as the network carries it"`
}

type carrierView struct {
	Channel roster.Channel `json:"channel"`
	Down    bool           `json:"down"`
}

func (s *server) benchRoutes(api huma.API) {
	route.Get(
		api, "/bench/people/{id}", "received", "What somebody's phone and mailbox got",
		s.received, access.SeePeople,
	)
	route.Get(api, "/bench/carriers", "carriers", "The stand-in carriers", s.carriers, access.SeePeople)
	route.Put(
		api, "/bench/carriers", "set-carrier", "Take a stand-in carrier down, or up again",
		s.setCarrier, access.ChangeSettings,
	)
}

// bench is what the stand-ins received; nil while they do not run.
func (s *server) bench() Bench {
	if s.Options.Bench == nil {
		return nil
	}
	return s.Options.Bench()
}

func noBench() error {
	return huma.Error404NotFound("The stand-ins do not run here, so there is no bench.")
}

func (s *server) received(ctx context.Context, in *struct {
	ID roster.PersonID `path:"id"`
}) (*route.Body[[]benchItem], error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	r, err := s.kit.Roster(ctx)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	p := r.Person(in.ID)
	if p == nil {
		return nil, s.kit.Problem(ctx, store.ErrNotFound)
	}
	var addresses []string
	for _, a := range p.Addresses {
		addresses = append(addresses, a.Value)
	}
	items, err := bench.Received(ctx, addresses)
	out := []benchItem{}
	for _, i := range items {
		i.From = phone.Display(i.From)
		one := benchItem{Item: i, Parts: []string{}}
		if i.Channel == roster.Text {
			one.Parts = segment.Split(i.Body)
		}
		out = append(out, one)
	}
	return route.Answer(out), s.kit.Problem(ctx, err)
}

func (s *server) carriers(_ context.Context, _ *struct{}) (*route.Body[[]carrierView], error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	out := []carrierView{}
	for _, c := range roster.Channels {
		out = append(out, carrierView{Channel: c, Down: bench.Down(c)})
	}
	return route.Answer(out), nil
}

func (s *server) setCarrier(ctx context.Context, in *route.Body[carrierView]) (*route.Body[[]carrierView], error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	bench.SetDown(in.Body.Channel, in.Body.Down)
	return s.carriers(ctx, nil)
}
