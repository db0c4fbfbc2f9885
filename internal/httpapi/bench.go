package httpapi

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
)

type benchItem struct {
	standin.Item
	Parts []string `json:"parts" doc:"A text as the network carries it"`
}

type carrierView struct {
	Channel string `json:"channel" enum:"email,text,voice,push"`
	Down    bool   `json:"down"`
}

func (s *server) benchRoutes(api huma.API) {
	add(api, get("/bench/people/{id}", "received", "What somebody's phone and mailbox got", access.SeePeople), s.received)
	add(api, get("/bench/carriers", "carriers", "The stand-in carriers", access.SeePeople), s.carriers)
	add(
		api, put("/bench/carriers", "set-carrier", "Take a stand-in carrier down, or up again", access.ChangeSettings),
		s.setCarrier,
	)
}

func noBench() error {
	return huma.Error404NotFound("The stand-ins do not run here, so there is no bench.")
}

func (s *server) received(ctx context.Context, in *struct {
	ID roster.PersonID `path:"id"`
}) (*body[[]benchItem], error) {
	if s.Bench == nil {
		return nil, noBench()
	}
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	p := r.Person(in.ID)
	if p == nil {
		return nil, s.problem(ctx, store.ErrNotFound)
	}
	var addresses []string
	for _, a := range p.Addresses {
		addresses = append(addresses, a.Value)
	}
	items, err := s.Bench.Received(ctx, addresses)
	out := []benchItem{}
	for _, i := range items {
		i.From = phone.Display(i.From)
		one := benchItem{Item: i, Parts: []string{}}
		if i.Channel == roster.Text {
			one.Parts = segment.Split(i.Body)
		}
		out = append(out, one)
	}
	return &body[[]benchItem]{out}, s.problem(ctx, err)
}

func (s *server) carriers(_ context.Context, _ *struct{}) (*body[[]carrierView], error) {
	if s.Bench == nil {
		return nil, noBench()
	}
	out := []carrierView{}
	for _, c := range roster.Channels {
		out = append(out, carrierView{string(c), s.Bench.Down(c)})
	}
	return &body[[]carrierView]{out}, nil
}

func (s *server) setCarrier(ctx context.Context, in *body[carrierView]) (*body[[]carrierView], error) {
	if s.Bench == nil {
		return nil, noBench()
	}
	s.Bench.SetDown(roster.Channel(in.Body.Channel), in.Body.Down)
	return s.carriers(ctx, nil)
}
