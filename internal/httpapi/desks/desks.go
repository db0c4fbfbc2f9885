// Package desks is the routes of desks and their threads. Who does not sit at a desk is
// told that it is not there.
package desks

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	service "upperlantern/internal/desks"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
)

// Area is what these routes work with.
type Area struct {
	route.Kit
	Desks  *service.Service
	Editor *editing.Editor
}

// Routes registers the routes.
func (s *Area) Routes(api huma.API) {
	route.Get(api, "/desks", "my-desks", "The desks at which the account sits, and what waits there", s.mine)
	route.Get(api, "/settings/desks", "desks", "All desks", s.all, access.ChangeSettings)
	route.Add(api, route.New(
		http.MethodPost, "/settings/desks", "put-desk", "Make a desk, or change one", access.ChangeSettings,
	).Small(), s.put)
	route.Del(
		api, "/settings/desks/{id}", "drop-desk", "Remove a desk; its threads go to another one", s.drop, access.ChangeSettings,
	)
	route.Get(api, "/desks/{id}/phone", "desk-phone", "Whether the account is told by text what comes in", s.phone)
	route.Add(api, route.New(
		http.MethodPut, "/desks/{id}/phone", "tell-phone", "Be told by text what comes in, or not",
	).Small(), s.tellPhone)
	s.threadRoutes(api)
}

// DeskID names a desk in a path.
type DeskID struct {
	ID desk.ID `path:"id" minimum:"1"`
}

type deskView struct {
	ID      desk.ID       `json:"id"`
	Name    string        `json:"name"`
	Open    bool          `json:"open" doc:"Now is within its hours"`
	Until   *time.Time    `json:"until,omitempty" doc:"When these hours end"`
	Us      int           `json:"us" doc:"Threads that wait for us"`
	Them    int           `json:"them"`
	Quiet   int           `json:"quiet"`
	Unread  int           `json:"unread" doc:"Of those that wait for us"`
	Oldest  *time.Time    `json:"oldest,omitempty" doc:"Since when the oldest of them waits"`
	Members []route.Named `json:"members" doc:"Who sits there"`
}

func (s *Area) mine(ctx context.Context, _ *struct{}) (*route.Body[[]deskView], error) {
	mine, err := s.Desks.Overview(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := []deskView{}
	for _, d := range mine {
		v := deskView{
			ID: d.ID, Name: d.Name, Open: d.Open, Us: d.Counts[desk.Us], Them: d.Counts[desk.Them], Quiet: d.Counts[desk.Quiet],
			Unread: d.Unread, Members: []route.Named{},
		}
		if !d.Until.IsZero() {
			v.Until = &d.Until
		}
		if !d.Oldest.IsZero() {
			v.Oldest = &d.Oldest
		}
		for _, a := range d.Members {
			v.Members = append(v.Members, route.Named{ID: a.ID, Name: a.Name})
		}
		out = append(out, v)
	}
	return route.Answer(out), nil
}

type phoneView struct {
	Number string `json:"number" doc:"Of the person behind the account, as people read it; empty without one"`
	On     bool   `json:"on" doc:"It is told there what comes in"`
}

func (s *Area) phone(ctx context.Context, in *DeskID) (*route.Body[phoneView], error) {
	number, on, err := s.Desks.Phone(ctx, in.ID, route.By(ctx))
	return route.Answer(phoneView{phone.Display(number), on}), s.Problem(ctx, err)
}

func (s *Area) tellPhone(ctx context.Context, in *struct {
	DeskID
	Body struct {
		On bool `json:"on"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Desks.TellMe(ctx, in.ID, in.Body.On, route.By(ctx)))
}

type allDesks struct {
	Desks    []desk.Desk   `json:"desks"`
	Accounts []route.Named `json:"accounts" doc:"Who may sit at a desk"`
}

func (s *Area) all(ctx context.Context, _ *struct{}) (*route.Body[allDesks], error) {
	list, err := s.Store.Desks(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	accounts, err := s.Store.Accounts(ctx)
	out := allDesks{Desks: list, Accounts: []route.Named{}}
	for _, a := range accounts {
		if a.Active {
			out.Accounts = append(out.Accounts, route.Named{ID: a.ID, Name: a.Name})
		}
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) put(ctx context.Context, in *struct{ Body desk.Desk }) (*route.Body[allDesks], error) {
	if err := s.Desks.Put(ctx, in.Body, route.By(ctx)); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.all(ctx, nil)
}

func (s *Area) drop(ctx context.Context, in *struct {
	DeskID
	Into desk.ID `query:"into" doc:"The desk to which its threads go; 0 for none"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Desks.Drop(ctx, in.ID, in.Into, route.By(ctx)))
}

// person is what is known of somebody, as far as the account sees them.
type person struct {
	ID       roster.PersonID `json:"id"`
	Name     string          `json:"name"`
	Language string          `json:"language" doc:"BCP 47"`
	Speaks   string          `json:"speaks"`
	Unit     string          `json:"unit"`
	Groups   []string        `json:"groups"`
	About    []string        `json:"about" doc:"Their dependents, with their groups"`
	Barred   []string        `json:"barred" doc:"About whom contact with them is barred"`
	Wish     roster.Channel  `json:"wish,omitempty"`
	Notes    string          `json:"notes"`
}
