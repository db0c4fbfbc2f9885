package httpapi

import (
	"cmp"
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/mileusna/useragent"

	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/password"
	"upperlantern/internal/store"
)

// What is kept with a session besides its account.
const (
	sessionID      = "id" // by which it is named; not the token, which would let in
	sessionBegun   = "begun"
	sessionNetwork = "network"
	sessionAgent   = "agent"
)

type ownSession struct {
	ID      string    `json:"id"`
	Browser string    `json:"browser" doc:"As it names itself"`
	Network string    `json:"network" doc:"From which it was begun"`
	Begun   time.Time `json:"begun"`
	Ends    time.Time `json:"ends"`
	Here    bool      `json:"here" doc:"The one that asks"`
}

type ownAccount struct {
	Login      string       `json:"login"`
	Name       string       `json:"name"`
	Factor     bool         `json:"factor" doc:"It has a second factor"`
	Recovery   int          `json:"recovery" doc:"Recovery codes that are left"`
	Needed     []string     `json:"needed" doc:"Rights that it holds only with a second factor, in words"`
	SlowedAt   *time.Time   `json:"slowedAt,omitempty" doc:"When wrong tries to sign in as it were last slowed down"`
	SlowedFrom string       `json:"slowedFrom" doc:"And from which network they came"`
	Sessions   []ownSession `json:"sessions" doc:"Where the account is signed in, the newest first"`
}

func (s *server) accountRoutes(api huma.API) {
	route.Get(api, "/session/account", "own-account", "The account itself, and where it is signed in", s.ownAccount)
	route.Add(api, route.New(
		http.MethodPost, "/session/password", "change-password", "Change one's own password, which ends all other sessions",
	).Small(), s.changePassword)
	route.Del(api, "/session/others/{id}", "end-session", "End another session of one's own", s.endSession)
}

// begunHere notes with the session at hand when and where it began.
func (s *server) begunHere(ctx context.Context, id string) {
	s.sessions.Put(ctx, sessionID, id)
	s.sessions.Put(ctx, sessionBegun, s.Now().UnixMilli())
	s.sessions.Put(ctx, sessionNetwork, networkOf(ctx))
	agent, _ := ctx.Value(agentKey{}).(string)
	s.sessions.Put(ctx, sessionAgent, agent)
}

func (s *server) ownAccount(ctx context.Context, _ *struct{}) (*route.Body[ownAccount], error) {
	account, err := s.Store.Account(ctx, route.By(ctx).ID)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	out := ownAccount{
		Login: account.Login, Name: account.Name, Factor: len(account.Factor) > 0, Needed: []string{},
		SlowedFrom: account.SlowedFrom, Sessions: []ownSession{},
	}
	if !account.SlowedAt.IsZero() {
		out.SlowedAt = &account.SlowedAt
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	for _, r := range account.Rights {
		if slices.Contains(o.FactorFor, r) {
			out.Needed = append(out.Needed, r.Words())
		}
	}
	if out.Recovery, err = s.Store.RecoveryCodesLeft(ctx, account.ID); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	here := s.sessions.GetString(ctx, sessionID)
	err = s.eachSession(ctx, account, func(ctx context.Context) error {
		id := s.sessions.GetString(ctx, sessionID)
		out.Sessions = append(out.Sessions, ownSession{
			ID: id, Browser: browserOf(s.sessions.GetString(ctx, sessionAgent)),
			Network: s.sessions.GetString(ctx, sessionNetwork), Begun: time.UnixMilli(s.sessions.GetInt64(ctx, sessionBegun)),
			Ends: s.sessions.Deadline(ctx), Here: id == here,
		})
		return nil
	})
	slices.SortFunc(out.Sessions, func(a, b ownSession) int { return b.Begun.Compare(a.Begun) })
	return route.Answer(out), s.kit.Problem(ctx, err)
}

// eachSession does something with every session that an account has.
func (s *server) eachSession(ctx context.Context, account store.Account, do func(context.Context) error) error {
	return s.sessions.Iterate(ctx, func(ctx context.Context) error {
		if s.sessions.GetInt64(ctx, "account") != account.ID || s.sessions.GetInt64(ctx, "epoch") != account.Epoch {
			return nil
		}
		return do(ctx)
	})
}

// browserOf names a browser and its system, from what it says of itself.
func browserOf(agent string) string {
	ua := useragent.Parse(agent)
	name := cmp.Or(ua.Name, "Another program")
	if ua.OS == "" {
		return name
	}
	return name + " on " + ua.OS
}

func (s *server) endSession(ctx context.Context, in *struct {
	ID string `path:"id" maxLength:"40"`
}) (*struct{}, error) {
	account, err := s.Store.Account(ctx, route.By(ctx).ID)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	if in.ID == s.sessions.GetString(ctx, sessionID) {
		return nil, huma.Error409Conflict("This is the session that you are in. Sign out instead.")
	}
	err = store.ErrNotFound
	failed := s.eachSession(ctx, account, func(ctx context.Context) error {
		if s.sessions.GetString(ctx, sessionID) != in.ID {
			return nil
		}
		err = nil
		return s.sessions.Destroy(ctx)
	})
	s.Events.Sessions()
	return nil, s.kit.Problem(ctx, errors.Join(failed, err))
}

func (s *server) changePassword(ctx context.Context, in *struct {
	Body struct {
		Now  string `json:"now" maxLength:"200" doc:"The present password"`
		Next string `json:"next" maxLength:"300" doc:"The new one"`
	}
}) (*struct{}, error) {
	account, err := s.confirmed(ctx, in.Body.Now)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	if strings.EqualFold(in.Body.Next, in.Body.Now) {
		return nil, huma.Error422UnprocessableEntity("The new password is the present one. Nothing was changed.")
	}
	if err := password.Check(in.Body.Next, account.Login, account.Name, in.Body.Now); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	hash, err := s.door.hash(ctx, in.Body.Next)
	if err == nil {
		err = s.Store.SetPassword(ctx, account.ID, hash)
	}
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	if account, err = s.Store.Account(ctx, account.ID); err == nil {
		err = s.Begin(ctx, account)
	}
	s.Events.Sessions()
	return nil, s.kit.Problem(ctx, err)
}

// confirmed is the account of the session, when its present password was typed. Wrong
// ones are slowed down as at the sign-in.
func (s *server) confirmed(ctx context.Context, typed string) (store.Account, error) {
	account, err := s.Store.Account(ctx, route.By(ctx).ID)
	if err != nil {
		return account, err
	}
	network := networkOf(ctx)
	try := tryOf(account.Login, network, true)
	if wait := s.door.begin(try, network, s.Now()); wait > 0 {
		return account, tooMany(wait)
	}
	match, err := s.door.compare(ctx, typed, account.PasswordHash)
	if err != nil {
		return account, err
	}
	if !match {
		return account, huma.Error422UnprocessableEntity("The present password is wrong. Nothing was changed.")
	}
	s.door.opened(try, network)
	return account, nil
}
