package httpapi

import (
	"context"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
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
}

type settingsView struct {
	Language    string          `json:"language" doc:"In which messages are written, BCP 47"`
	Languages   []choice        `json:"languages"`
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
	Testers  []namedPerson                       `json:"testers" doc:"The testers by name"`
}

func (s *server) settingRoutes(api huma.API) {
	add(api, get("/settings", "settings", "Units, roles, attributes and languages", access.ChangeSettings), s.settings)
	add(
		api, put("/settings", "save-settings", "Change roles, languages and habits", access.ChangeSettings), s.saveSettings,
	)
	add(
		api, put("/settings/sending", "save-sending", "Change how messages are sent", access.ChangeSettings), s.saveSending,
	)
	add(api, post("/units", "save-unit", "Add a unit, or change one", access.ChangeSettings), s.saveUnit)
	add(api, del("/units/{id}", "drop-unit", "Delete a unit that owns nothing", access.ChangeSettings), s.dropUnit)
	add(
		api, post("/attributes", "save-attribute", "Add an attribute, or change one", access.ChangeSettings), s.saveAttribute,
	)
	add(
		api, del("/attributes/{id}", "drop-attribute", "Delete an attribute with its values", access.ChangeSettings),
		s.dropAttribute,
	)
	add(api, get("/accounts", "accounts", "Who signs in", access.ChangeSettings), s.accounts)
	add(api, post("/accounts", "save-account", "Add an account, or change one", access.ChangeSettings), s.saveAccount)
}

func (s *server) settings(ctx context.Context, _ *struct{}) (*body[settingsView], error) {
	d, err := s.Editor.View(ctx, accountOf(ctx))
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	r, o := d.Roster, d.Organisation
	out := settingsView{
		Language: o.Language, Languages: []choice{}, Roles: []roleView{}, UpdatesWait: o.UpdatesWait, Units: []unitView{},
		Attributes: []attributeView{}, Rights: []rightView{}, Sending: viewSending(r, o), Currency: o.Currency,
	}
	for _, tag := range o.Languages {
		out.Languages = append(out.Languages, choice{tag, roster.LanguageName(tag)})
	}
	for _, role := range findRoles(r, o.AllRoles(), "") {
		out.Roles = append(out.Roles, roleView{role.Role, role.People, slices.Contains(roster.Roles, role.Role)})
	}
	people, groups := r.ByUnit()
	for _, u := range r.Units {
		out.Units = append(out.Units, unitView{u, r.UnitPath(u.ID), people[u.ID], groups[u.ID]})
	}
	for _, a := range r.Attributes {
		having, _ := r.Select(roster.Rule{{On: roster.OnAttribute, Test: roster.Filled, ID: int64(a.ID)}})
		if a.Kind == roster.YesNoAttribute {
			having, _ = r.Select(roster.Rule{{On: roster.OnAttribute, Test: roster.Is, ID: int64(a.ID), Value: "yes"}})
		}
		out.Attributes = append(out.Attributes, attributeView{a, len(having)})
	}
	for _, right := range access.Rights {
		out.Rights = append(out.Rights, rightView{right, right.Words(), accountOf(ctx).May(right)})
	}
	return &body[settingsView]{out}, nil
}

func viewSending(r *roster.Roster, o store.Organisation) sendingView {
	v := sendingView{
		Now:      editing.SendingHabits{HoldSeconds: int(o.Hold.Seconds()), Steps: o.Steps, Rules: o.Sending},
		Defaults: map[roster.Urgency]precedence.Steps{}, Testers: namePeople(r, o.Sending.Testers).People,
	}
	if v.Now.Steps == nil {
		v.Now.Steps = map[roster.Urgency]precedence.Steps{}
	}
	for _, u := range roster.Urgencies {
		v.Defaults[u] = precedence.Default(u)
	}
	return v
}

func (s *server) saveSending(ctx context.Context, in *body[editing.SendingHabits]) (*body[settingsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Editor.SaveSending(ctx, in.Body); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *server) whole(ctx context.Context) error {
	if accountOf(ctx).Scope.Whole {
		return nil
	}
	return huma.Error403Forbidden("This is for accounts that reach the whole organisation.")
}

func (s *server) saveSettings(ctx context.Context, in *body[editing.Settings]) (*body[settingsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Editor.SaveSettings(ctx, in.Body); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *server) saveUnit(ctx context.Context, in *body[roster.Unit]) (*body[settingsView], error) {
	if _, err := s.Editor.SaveUnit(ctx, accountOf(ctx), in.Body); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *server) dropUnit(ctx context.Context, in *struct {
	ID roster.UnitID `path:"id"`
}) (*struct{}, error) {
	return nil, s.problem(ctx, s.Editor.DropUnit(ctx, accountOf(ctx), in.ID))
}

func (s *server) saveAttribute(ctx context.Context, in *body[roster.Attribute]) (*body[settingsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if _, err := s.Editor.SaveAttribute(ctx, in.Body); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.settings(ctx, nil)
}

func (s *server) dropAttribute(ctx context.Context, in *struct {
	ID roster.AttributeID `path:"id"`
}) (*struct{}, error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	return nil, s.problem(ctx, s.Editor.DropAttribute(ctx, in.ID))
}

func (s *server) accounts(ctx context.Context, _ *struct{}) (*body[[]accountView], error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	accounts, err := s.Store.Accounts(ctx)
	self := accountOf(ctx)
	out := []accountView{}
	for _, a := range accounts {
		if !self.Reaches(a.Grant, r.Units) {
			continue
		}
		v := accountView{a.ID, a.Login, a.Name, a.Duty, a.Active, a.Scope, a.Rights, []string{}, a.ID == self.ID}
		for _, u := range a.Scope.Units {
			v.Units = append(v.Units, r.UnitPath(u))
		}
		out = append(out, v)
	}
	return &body[[]accountView]{out}, s.problem(ctx, err)
}

func (s *server) saveAccount(ctx context.Context, in *struct {
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
}) (*body[[]accountView], error) {
	b := in.Body
	a := store.Account{
		ID: b.ID, Login: b.Login, Name: b.Name, Duty: b.Duty, Active: b.Active,
		Grant: access.Grant{Scope: b.Scope, Rights: b.Rights},
	}
	if b.Password != "" {
		if len([]rune(b.Password)) < editing.ShortestPassword {
			return nil, huma.Error422UnprocessableEntity("The password is too short: ten characters at least.")
		}
		hash, err := s.door.hash(ctx, b.Password)
		if err != nil {
			return nil, s.problem(ctx, err)
		}
		a.PasswordHash = hash
	}
	if _, err := s.Editor.SaveAccount(ctx, accountOf(ctx), a); err != nil {
		return nil, s.problem(ctx, err)
	}
	if b.ID == accountOf(ctx).ID && b.Password != "" { // their other sessions end
		account, err := s.Store.Account(ctx, b.ID)
		if err == nil {
			err = s.begin(ctx, account)
		}
		if err != nil {
			return nil, s.problem(ctx, err)
		}
	}
	s.Events.Sessions()
	return s.accounts(ctx, nil)
}
