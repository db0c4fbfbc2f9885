package office

import (
	"context"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
	"upperlantern/internal/password"
	"upperlantern/internal/store"
)

type accountView struct {
	ID     int64          `json:"id"`
	Login  string         `json:"login"`
	Name   string         `json:"name"`
	Duty   string         `json:"duty"`
	Active bool           `json:"active"`
	Scope  roster.Scope   `json:"scope"`
	Rights []access.Right `json:"rights"`
	Units  []string       `json:"units" doc:"The scope in words; none for the whole organisation"`
	Self   bool           `json:"self"`
	// Of its signing in.
	Password bool       `json:"password" doc:"It has one; without it nobody signs in with it"`
	Factor   bool       `json:"factor" doc:"It has a second factor"`
	Invited  *time.Time `json:"invited,omitempty" doc:"Until when its invitation counts"`
}

type unitView struct {
	roster.Unit
	Path   string `json:"path"`
	People int    `json:"people" doc:"Its own, without the units in it"`
	Groups int    `json:"groups"`
}

type attributeView struct {
	roster.Attribute
	People int `json:"people" doc:"Who has a value for it"`
}

type roleView struct {
	Role    roster.Role `json:"role"`
	People  int         `json:"people"`
	BuiltIn bool        `json:"builtIn"`
}

type rightView struct {
	Right access.Right `json:"right"`
	Words string       `json:"words"`
	Held  bool         `json:"held" doc:"By the account itself, so that it can give it"`
	// Factor is for the whole organisation.
	Factor bool `json:"factor" doc:"It needs a second factor"`
}

type settingsView struct {
	Language    string          `json:"language" doc:"In which messages are written, BCP 47"`
	Languages   []view.Choice   `json:"languages"`
	Roles       []roleView      `json:"roles"`
	UpdatesWait bool            `json:"updatesWait"`
	Units       []unitView      `json:"units"`
	Attributes  []attributeView `json:"attributes"`
	Rights      []rightView     `json:"rights"`
	Sending     sendingView     `json:"sending"`
	Currency    string          `json:"currency" doc:"ISO 4217"`
}

type sendingView struct {
	Now      editing.SendingHabits               `json:"now"`
	Defaults map[roster.Urgency]precedence.Steps `json:"defaults" doc:"The built-in steps by urgency"`
	Testers  []view.NamedPerson                  `json:"testers" doc:"The testers by name"`
}

func (s *Area) settingRoutes(api huma.API) {
	route.Get(api, "/settings", "settings", "Units, roles, attributes and languages", s.settings, access.ChangeSettings)
	route.Put(
		api, "/settings", "save-settings", "Change roles, languages and habits",
		s.saveSettings, access.ChangeSettings,
	)
	route.Put(
		api, "/settings/sending", "save-sending", "Change how messages are sent",
		s.saveSending, access.ChangeSettings,
	)
	route.Post(api, "/units", "save-unit", "Add a unit, or change one", s.saveUnit, access.ChangeSettings)
	route.Del(api, "/units/{id}", "drop-unit", "Delete a unit that owns nothing", s.dropUnit, access.ChangeSettings)
	route.Post(
		api, "/attributes", "save-attribute", "Add an attribute, or change one",
		s.saveAttribute, access.ChangeSettings,
	)
	route.Del(
		api, "/attributes/{id}", "drop-attribute", "Delete an attribute with its values",
		s.dropAttribute, access.ChangeSettings,
	)
	route.Get(api, "/accounts", "accounts", "Who signs in", s.accounts, access.ChangeSettings)
	route.Post(api, "/accounts", "save-account", "Add an account, or change one", s.saveAccount, access.ChangeSettings)
}

func (s *Area) settings(ctx context.Context, _ *struct{}) (*route.Body[settingsView], error) {
	d, err := s.Editor.View(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	r, o := d.Roster, d.Organisation
	out := settingsView{
		Language: o.Language, Languages: []view.Choice{}, Roles: []roleView{}, UpdatesWait: o.UpdatesWait,
		Units:      []unitView{},
		Attributes: []attributeView{}, Rights: []rightView{}, Sending: viewSending(r, o), Currency: o.Currency,
	}
	for _, tag := range o.Languages {
		out.Languages = append(out.Languages, view.Choice{Value: tag, Words: roster.LanguageName(tag)})
	}
	for _, role := range r.CountRoles(o.AllRoles()) {
		out.Roles = append(
			out.Roles,
			roleView{Role: role.Role, People: role.People, BuiltIn: slices.Contains(roster.Roles, role.Role)},
		)
	}
	people, groups := r.ByUnit()
	for _, u := range r.Units {
		out.Units = append(
			out.Units,
			unitView{Unit: u, Path: r.UnitPath(u.ID), People: people[u.ID], Groups: groups[u.ID]},
		)
	}
	for _, a := range r.Attributes {
		having, _ := r.Select(roster.Rule{{On: roster.OnAttribute, Test: roster.Filled, ID: int64(a.ID)}})
		if a.Kind == roster.YesNoAttribute {
			having, _ = r.Select(roster.Rule{{On: roster.OnAttribute, Test: roster.Is, ID: int64(a.ID), Value: "yes"}})
		}
		out.Attributes = append(out.Attributes, attributeView{Attribute: a, People: len(having)})
	}
	for _, right := range access.Rights {
		out.Rights = append(out.Rights, rightView{
			Right: right, Words: right.Words(), Held: route.By(ctx).May(right), Factor: slices.Contains(o.FactorFor, right),
		})
	}
	return route.Answer(out), nil
}

func viewSending(r *roster.Roster, o store.Organisation) sendingView {
	v := sendingView{
		Now:      editing.SendingHabits{HoldSeconds: int(o.Hold.Seconds()), Steps: o.Steps, Rules: o.Sending},
		Defaults: map[roster.Urgency]precedence.Steps{}, Testers: view.NamePeople(r, o.Sending.Testers).People,
	}
	if v.Now.Steps == nil {
		v.Now.Steps = map[roster.Urgency]precedence.Steps{}
	}
	for _, u := range roster.Urgencies {
		v.Defaults[u] = precedence.Default(u)
	}
	return v
}

func (s *Area) saveSending(
	ctx context.Context,
	in *route.Body[editing.SendingHabits],
) (*route.Body[settingsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Editor.SaveSending(ctx, route.By(ctx), in.Body); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *Area) whole(ctx context.Context) error {
	if route.By(ctx).Scope.Whole {
		return nil
	}
	return huma.Error403Forbidden("This is for accounts that reach the whole organisation.")
}

func (s *Area) saveSettings(ctx context.Context, in *route.Body[editing.Settings]) (*route.Body[settingsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Editor.SaveSettings(ctx, route.By(ctx), in.Body); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *Area) saveUnit(ctx context.Context, in *route.Body[roster.Unit]) (*route.Body[settingsView], error) {
	if _, err := s.Editor.SaveUnit(ctx, route.By(ctx), in.Body); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *Area) dropUnit(ctx context.Context, in *struct {
	ID roster.UnitID `path:"id"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.DropUnit(ctx, route.By(ctx), in.ID))
}

func (s *Area) saveAttribute(ctx context.Context, in *route.Body[roster.Attribute]) (*route.Body[settingsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if _, err := s.Editor.SaveAttribute(ctx, in.Body); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *Area) dropAttribute(ctx context.Context, in *struct {
	ID roster.AttributeID `path:"id"`
}) (*struct{}, error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	return nil, s.Problem(ctx, s.Editor.DropAttribute(ctx, in.ID))
}

func (s *Area) accounts(ctx context.Context, _ *struct{}) (*route.Body[[]accountView], error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	accounts, err := s.Store.Accounts(ctx)
	self := route.By(ctx)
	out := []accountView{}
	for _, a := range accounts {
		if !self.Reaches(a.Grant, r.Units) {
			continue
		}
		v := accountView{
			ID:     a.ID,
			Login:  a.Login,
			Name:   a.Name,
			Duty:   a.Duty,
			Active: a.Active,
			Scope:  a.Scope,
			Rights: a.Rights,
			Units:  []string{},
			Self:   a.ID == self.ID,

			Password: a.PasswordHash != "",
			Factor:   len(a.Factor) > 0,
		}
		ends, err := s.Store.InvitedUntil(ctx, a.ID)
		if err != nil {
			return nil, s.Problem(ctx, err)
		}
		if !ends.IsZero() {
			v.Invited = &ends
		}
		for _, u := range a.Scope.Units {
			v.Units = append(v.Units, r.UnitPath(u))
		}
		out = append(out, v)
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) saveAccount(ctx context.Context, in *struct {
	Body struct {
		ID       int64          `json:"id,omitempty" doc:"Absent for a new one"`
		Login    string         `json:"login" maxLength:"200"`
		Name     string         `json:"name" maxLength:"200"`
		Duty     string         `json:"duty" maxLength:"200"`
		Active   bool           `json:"active"`
		Password string         `json:"password,omitempty" maxLength:"200" doc:"Absent to keep the old one"`
		Scope    roster.Scope   `json:"scope"`
		Rights   []access.Right `json:"rights"`
	}
}) (*route.Body[[]accountView], error) {
	b := in.Body
	a := store.Account{
		ID: b.ID, Login: b.Login, Name: b.Name, Duty: b.Duty, Active: b.Active,
		Grant: access.Grant{Scope: b.Scope, Rights: b.Rights},
	}
	if b.Password != "" {
		if err := password.Check(b.Password, b.Login, b.Name); err != nil {
			return nil, s.Problem(ctx, err)
		}
		hash, err := s.Sessions.Hash(ctx, b.Password)
		if err != nil {
			return nil, s.Problem(ctx, err)
		}
		a.PasswordHash = hash
	}
	if _, err := s.Editor.SaveAccount(ctx, route.By(ctx), a); err != nil {
		return nil, s.Problem(ctx, err)
	}
	if b.ID == route.By(ctx).ID && b.Password != "" { // their other sessions end
		account, err := s.Store.Account(ctx, b.ID)
		if err == nil {
			err = s.Sessions.Begin(ctx, account)
		}
		if err != nil {
			return nil, s.Problem(ctx, err)
		}
	}
	s.Sessions.Ended()
	return s.accounts(ctx, nil)
}
