package office

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/passes"
	"upperlantern/internal/store"
)

type invitationView struct {
	Link    string    `json:"link" doc:"To pass on by hand; shown this once"`
	Mailed  bool      `json:"mailed"`
	Problem string    `json:"problem" doc:"Why the mail was not handed over, or empty"`
	Ends    time.Time `json:"ends"`
}

func (s *Area) passRoutes(api huma.API) {
	route.Add(api, route.New(
		http.MethodPost, "/accounts/{id}/invitation", "invite", "Mail an account the link to its first password",
		access.ChangeSettings,
	).Small(), s.invite)
	route.Del(
		api, "/accounts/{id}/factor", "drop-factor-of", "Take the second factor of an account away", s.dropFactorOf,
		access.ChangeSettings,
	)
	route.Put(
		api, "/settings/factor", "save-factor-for", "Say which rights need a second factor", s.saveFactorFor,
		access.ChangeSettings,
	)
}

type accountPath struct {
	ID int64 `path:"id"`
}

// reached is an account that whoever asks looks after.
func (s *Area) reached(ctx context.Context, id int64) (store.Account, error) {
	account, err := s.Store.Account(ctx, id)
	if err != nil {
		return account, err
	}
	r, err := s.Store.Roster(ctx)
	if err == nil && !route.By(ctx).Reaches(account.Grant, r.Units) {
		err = store.ErrNotFound
	}
	return account, err
}

func (s *Area) invite(ctx context.Context, in *accountPath) (*route.Body[invitationView], error) {
	account, err := s.reached(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	if account.PasswordHash != "" {
		return nil, huma.Error409Conflict("This account has a password already: its holder can ask for a new one at the sign-in.")
	}
	link, failed, err := s.Passes.Invite(ctx, account, route.By(ctx).Name, route.Site(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := invitationView{Link: link, Mailed: failed == nil, Ends: s.Now().Add(passes.InvitedFor)}
	if failed != nil {
		out.Problem = failed.Error()
	}
	return route.Answer(out), nil
}

func (s *Area) dropFactorOf(ctx context.Context, in *accountPath) (*struct{}, error) {
	account, err := s.reached(ctx, in.ID)
	if err == nil {
		err = s.Editor.DropFactor(ctx, route.By(ctx), account)
	}
	return nil, s.Problem(ctx, err)
}

func (s *Area) saveFactorFor(ctx context.Context, in *route.Body[struct {
	Rights []access.Right `json:"rights" maxItems:"100"`
}]) (*route.Body[settingsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Editor.SaveFactorFor(ctx, route.By(ctx), in.Body.Rights); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.settings(ctx, nil)
}
