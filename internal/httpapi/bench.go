package httpapi

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
	"upperlantern/internal/standin"
)

type benchItem struct {
	standin.Item
	Parts []string `json:"parts" doc:"A text as the network carries it"`
}

type carrierView struct {
	Channel string `json:"channel" enum:"email,text,voice"`
	Down    bool   `json:"down"`
}

func (s *server) benchRoutes(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "received", Method: http.MethodGet, Path: "/bench/people/{id}", Summary: "What somebody's phone and mailbox got",
	}, s.received)
	huma.Register(api, huma.Operation{OperationID: "carriers", Method: http.MethodGet, Path: "/bench/carriers", Summary: "The stand-in carriers"}, s.carriers)
	huma.Register(api, huma.Operation{
		OperationID: "set-carrier", Method: http.MethodPut, Path: "/bench/carriers", Summary: "Take a stand-in carrier down, or up again",
	}, s.setCarrier)
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
	p, err := s.Store.Person(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	var addresses []string
	for _, a := range p.Person.Addresses {
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
