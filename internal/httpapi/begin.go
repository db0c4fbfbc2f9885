package httpapi

import (
	"context"
	"errors"
	"net"
	"net/http"
	"net/netip"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/founding"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
)

// beginView is the page of the set-up.
type beginView struct {
	Typed founding.Typed `json:"typed" doc:"So far"`
	view.Places
	Carried bool `json:"carried" doc:"The command line names the carriers"`
}

// BeginToken is that of the one-time address of the set-up.
type BeginToken struct {
	Token string `path:"token" maxLength:"100"`
}

func (s *server) beginRoutes(api huma.API) {
	route.Get(api, "/begin/{token}", "begin", "The set-up of the organisation, so far", s.begin)
	route.Add(api, route.New(
		http.MethodPut, "/begin/{token}", "keep-begun", "Keep what was typed so far, all but the password",
	).Small(), s.keepBegun)
	route.Add(api, route.New(
		http.MethodPost, "/begin/{token}", "found", "Make the organisation, and sign in its first account",
	).Small(), s.found)
}

func (s *server) begin(ctx context.Context, in *BeginToken) (*route.Body[beginView], error) {
	if s.Founding == nil {
		return nil, begun()
	}
	typed, err := s.Founding.Typed(ctx, in.Token)
	if err != nil {
		return nil, s.beginProblem(ctx, err)
	}
	return route.Answer(beginView{Typed: typed, Places: view.AllPlaces(), Carried: s.Founding.Carried}), nil
}

func (s *server) keepBegun(ctx context.Context, in *struct {
	BeginToken
	Body founding.Typed
}) (*struct{}, error) {
	if s.Founding == nil {
		return nil, begun()
	}
	return nil, s.beginProblem(ctx, s.Founding.Keep(ctx, in.Token, in.Body))
}

func (s *server) found(ctx context.Context, in *struct {
	BeginToken
	Body struct {
		Typed    founding.Typed `json:"typed"`
		Password string         `json:"password" maxLength:"300"`
	}
}) (*struct{}, error) {
	if s.Founding == nil {
		return nil, begun()
	}
	id, err := s.Founding.Found(ctx, in.Token, in.Body.Typed, in.Body.Password)
	if err != nil {
		return nil, s.beginProblem(ctx, err)
	}
	account, err := s.Store.Account(ctx, id)
	if err == nil {
		err = s.Begin(ctx, account)
	}
	return nil, s.kit.Problem(ctx, err)
}

// begun answers an address of the set-up once the organisation is there.
func begun() error {
	return huma.Error410Gone("This organisation is set up already. Sign in with your account.")
}

func (s *server) beginProblem(ctx context.Context, err error) error {
	if errors.Is(err, founding.ErrNotBegun) {
		return huma.Error404NotFound(
			"This address of the set-up does not work. Take the one that the program printed when it started last.",
		)
	}
	return s.kit.Problem(ctx, err)
}

// atHome refuses to set up an organisation from elsewhere while the program listens on
// its own machine only: neither through a proxy nor under another name.
func (s *server) atHome(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		local := loopback(r.RemoteAddr) && loopback(r.Host) && r.Header.Get("X-Forwarded-For") == "" &&
			r.Header.Get("Forwarded") == ""
		if s.Loopback && !local {
			route.Write(w, http.StatusForbidden,
				"The set-up is open on the machine itself only. Open its address there, or start the program with --host.")
			return
		}
		next.ServeHTTP(w, r)
	})
}

// loopback reports whether an address, with or without a port, is on this machine.
func loopback(address string) bool {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		host = address
	}
	at, err := netip.ParseAddr(host)
	return host == "localhost" || err == nil && at.Unmap().IsLoopback()
}
