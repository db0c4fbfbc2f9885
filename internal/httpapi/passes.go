package httpapi

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/password"
	"upperlantern/internal/store"
)

// Paths of strangers who have a link to a password, or want one.
const (
	passPath      = "/api/pass/"
	forgottenPath = "/api/forgotten"
)

type passView struct {
	Organisation string `json:"organisation"`
	Name         string `json:"name"`
	Login        string `json:"login"`
	Invites      bool   `json:"invites" doc:"It is the account's first password"`
	Signed       bool   `json:"signed" doc:"Whoever set the password is signed in"`
}

func (s *server) passRoutes(api huma.API) {
	route.Get(api, "/pass/{token}", "pass", "Whose password a link sets", s.pass)
	route.Add(api, route.New(http.MethodPost, "/pass/{token}", "use-pass", "Set a password by a link, once").Small(), s.usePass)
	route.Add(api, route.New(
		http.MethodPost, "/forgotten", "forgotten", "Ask for a link to a new password, by mail",
	).Small(), s.forgotten)
}

// looked is the link of a token with its account.
func (s *server) looked(ctx context.Context, token string) (passView, store.Account, error) {
	found, err := s.Passes.Look(ctx, token)
	if err != nil {
		return passView{}, store.Account{}, ended(err)
	}
	account, err := s.Store.Account(ctx, found.Account)
	if err != nil {
		return passView{}, account, ended(err)
	}
	o, err := s.Store.Organisation(ctx)
	return passView{
		Organisation: o.Name, Name: account.Name, Login: account.Login, Invites: found.Invites,
	}, account, err
}

// ended answers for a link that counts no more.
func ended(err error) error {
	if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	return huma.Error404NotFound("This link was used, has ended, or another one was sent after it.")
}

func (s *server) pass(ctx context.Context, in *struct {
	Token string `path:"token" maxLength:"60"`
}) (*route.Body[passView], error) {
	out, _, err := s.looked(ctx, in.Token)
	return route.Answer(out), s.kit.Problem(ctx, err)
}

func (s *server) usePass(ctx context.Context, in *struct {
	Token string `path:"token" maxLength:"60"`
	Body  struct {
		Password string `json:"password" maxLength:"300"`
	}
}) (*route.Body[passView], error) {
	out, account, err := s.looked(ctx, in.Token)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	if err := password.Check(in.Body.Password, account.Login, account.Name); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	hash, err := s.door.hash(ctx, in.Body.Password)
	if err == nil {
		err = ended(s.Passes.Use(ctx, in.Token, hash))
	}
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	s.Events.Sessions()
	if len(account.Factor) > 0 { // its code is asked for at the sign-in
		return route.Answer(out), nil
	}
	if account, err = s.Store.Account(ctx, account.ID); err == nil {
		err = s.Begin(ctx, account)
	}
	out.Signed = true
	return route.Answer(out), s.kit.Problem(ctx, err)
}

// forgotten answers alike whether there is an account or not.
func (s *server) forgotten(ctx context.Context, in *struct {
	Body struct {
		Login string `json:"login" maxLength:"200"`
	}
}) (*struct{}, error) {
	network := networkOf(ctx)
	if wait := s.door.asks(tryOf(in.Body.Login, network, false), network, s.Now()); wait > 0 {
		return nil, tooMany(wait)
	}
	s.Passes.Forgotten(strings.TrimSpace(in.Body.Login))
	return nil, nil
}
