package httpapi

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

type addressView struct {
	Channel         string `json:"channel" enum:"email,text,voice"`
	Value           string `json:"value"`
	Shown           string `json:"shown" doc:"The value as people read it"`
	Label           string `json:"label"`
	Health          string `json:"health" enum:"untried,good,failing,dead"`
	DeclinesRoutine bool   `json:"declinesRoutine"`
	DeclinesTimely  bool   `json:"declinesTimely"`
}

type PersonView struct {
	ID         roster.PersonID `json:"id"`
	ExternalID string          `json:"externalId"`
	Name       string          `json:"name"`
	Roles      []string        `json:"roles"`
	Language   string          `json:"language" doc:"BCP 47, or empty"`
	Speaks     string          `json:"speaks" doc:"The language's name in English"`
	Status     string          `json:"status" enum:"active,away,left"`
	Groups     []string        `json:"groups"`
	Addresses  []addressView   `json:"addresses"`
}

type tieView struct {
	ID       roster.PersonID `json:"id"`
	Name     string          `json:"name"`
	Guardian bool            `json:"guardian" doc:"They are the guardian, not the dependent"`
	Receives bool            `json:"receives"`
	Barred   bool            `json:"barred"`
}

type personDetailView struct {
	PersonView
	Ties []tieView `json:"ties"`
}

type peopleView struct {
	People   []PersonView `json:"people"`
	Matching int          `json:"matching"`
	All      int          `json:"all"`
}

type groupView struct {
	ID     roster.GroupID `json:"id"`
	Name   string         `json:"name"`
	Own    int            `json:"own" doc:"People picked for the group itself"`
	People int            `json:"people" doc:"With everybody in the groups inside it, each once"`
	Inside []string       `json:"inside" doc:"The groups directly inside it"`
	Depth  int            `json:"depth" doc:"How deep it is nested where it is listed"`
}

func viewPerson(p store.PersonRow) PersonView {
	v := PersonView{
		ID: p.Person.ID, ExternalID: p.Person.ExternalID, Name: p.Person.Name(), Language: p.Person.Language,
		Speaks: languageName(p.Person.Language), Status: string(p.Person.Status), Groups: append([]string{}, p.Groups...),
		Roles: []string{}, Addresses: []addressView{},
	}
	for _, r := range p.Person.Roles {
		v.Roles = append(v.Roles, string(r))
	}
	for _, a := range p.Person.Addresses {
		v.Addresses = append(v.Addresses, addressView{
			Channel: string(a.Channel), Value: a.Value, Shown: phone.Display(a.Value), Label: a.Label, Health: string(a.Health),
			DeclinesRoutine: a.DeclinesRoutine, DeclinesTimely: a.DeclinesTimely,
		})
	}
	return v
}

// languageName is a language's name in English, or "" for none.
func languageName(tag string) string {
	if tag == "" {
		return ""
	}
	return display.English.Tags().Name(language.Make(tag))
}

type Page struct {
	First int `query:"first" minimum:"0" default:"0" doc:"How many to skip"`
	Count int `query:"count" minimum:"1" maximum:"500" default:"100"`
}

func (s *server) rosterRoutes(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "people", Method: http.MethodGet, Path: "/people", Summary: "Search the roster"}, s.people)
	huma.Register(api, huma.Operation{OperationID: "person", Method: http.MethodGet, Path: "/people/{id}", Summary: "One person"}, s.person)
	huma.Register(api, huma.Operation{OperationID: "groups", Method: http.MethodGet, Path: "/groups", Summary: "All groups in their one order"}, s.groups)
	huma.Register(api, huma.Operation{OperationID: "group-people", Method: http.MethodGet, Path: "/groups/{id}/people", Summary: "Everybody in a group"}, s.groupPeople)
	huma.Register(api, huma.Operation{OperationID: "find", Method: http.MethodGet, Path: "/find", Summary: "Find groups, roles, people and messages by name"}, s.find)
}

func (s *server) people(ctx context.Context, in *struct {
	Page
	Search string `query:"search" maxLength:"200"`
}) (*body[peopleView], error) {
	rows, matching, all, err := s.Store.People(ctx, strings.TrimSpace(in.Search), in.First, in.Count)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := peopleView{People: make([]PersonView, len(rows)), Matching: matching, All: all}
	for i, row := range rows {
		out.People[i] = viewPerson(row)
	}
	return &body[peopleView]{out}, nil
}

func (s *server) person(ctx context.Context, in *struct {
	ID roster.PersonID `path:"id"`
}) (*body[personDetailView], error) {
	p, err := s.Store.Person(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := personDetailView{PersonView: viewPerson(p.PersonRow), Ties: []tieView{}}
	for _, t := range p.Ties {
		out.Ties = append(out.Ties, tieView{t.Other, t.Name, t.Guardian, t.Receives, t.Barred})
	}
	return &body[personDetailView]{out}, nil
}

func (s *server) groups(ctx context.Context, _ *struct{}) (*body[[]groupView], error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[[]groupView]{groupTree(r)}, nil
}

// groupTree lists every group under the first group that holds it, in order.
func groupTree(r *roster.Roster) []groupView {
	inner := map[roster.GroupID]bool{}
	for _, g := range r.Groups() {
		for _, id := range g.Inside {
			inner[id] = true
		}
	}
	list := []groupView{}
	listed := map[roster.GroupID]bool{}
	var add func(g *roster.Group, depth int)
	add = func(g *roster.Group, depth int) {
		if listed[g.ID] {
			return
		}
		listed[g.ID] = true
		v := groupView{ID: g.ID, Name: g.Name, Own: len(g.Members), People: len(r.In(g.ID)), Inside: []string{}, Depth: depth}
		at := len(list)
		list = append(list, v)
		for _, id := range g.Inside {
			if below, ok := r.Group(id); ok {
				list[at].Inside = append(list[at].Inside, below.Name)
				add(below, depth+1)
			}
		}
	}
	for i := range r.Groups() {
		if g := &r.Groups()[i]; !inner[g.ID] {
			add(g, 0)
		}
	}
	return list
}

type namedPerson struct {
	ID     roster.PersonID `json:"id"`
	Name   string          `json:"name"`
	Detail string          `json:"detail"`
}

type namedPeople struct {
	People []namedPerson `json:"people"`
	All    int           `json:"all"`
}

func (s *server) groupPeople(ctx context.Context, in *struct {
	Page
	ID roster.GroupID `path:"id"`
}) (*body[namedPeople], error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if _, ok := r.Group(in.ID); !ok {
		return nil, s.problem(ctx, store.ErrNotFound)
	}
	members := r.In(in.ID)
	out := namedPeople{People: []namedPerson{}, All: len(members)}
	for _, i := range window(members, in.Page) {
		p := r.At(i)
		out.People = append(out.People, namedPerson{p.ID, p.Name(), strings.Join(r.Path(in.ID, p.ID), " › ")})
	}
	return &body[namedPeople]{out}, nil
}

func window[T any](list []T, p Page) []T {
	from := min(p.First, len(list))
	return list[from:min(from+p.Count, len(list))]
}

type foundView struct {
	Groups   []foundGroup   `json:"groups"`
	Roles    []foundRole    `json:"roles"`
	People   []namedPerson  `json:"people"`
	Messages []foundMessage `json:"messages"`
}

type foundGroup struct {
	ID     roster.GroupID `json:"id"`
	Name   string         `json:"name"`
	People int            `json:"people"`
}

type foundRole struct {
	Role   roster.Role `json:"role"`
	People int         `json:"people"`
}

type foundMessage struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
	State string `json:"state"`
}

const foundAtMost = 8

// find offers what a sender may name. Without anything typed it offers every
// group and role, and nobody in person.
func (s *server) find(ctx context.Context, in *struct {
	Search string `query:"search" maxLength:"200"`
}) (*body[foundView], error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	search := strings.ToLower(strings.TrimSpace(in.Search))
	out := foundView{Groups: []foundGroup{}, Roles: findRoles(r, search), People: []namedPerson{}, Messages: []foundMessage{}}
	for _, g := range r.Groups() {
		if strings.Contains(strings.ToLower(g.Name), search) {
			out.Groups = append(out.Groups, foundGroup{g.ID, g.Name, len(r.In(g.ID))})
		}
	}
	if search == "" {
		return &body[foundView]{out}, nil
	}
	for i := 0; i < r.Len() && len(out.People) < foundAtMost; i++ {
		if p := r.At(i); strings.Contains(strings.ToLower(p.Name()), search) {
			out.People = append(out.People, namedPerson{p.ID, p.Name(), personNote(p)})
		}
	}
	messages, err := s.Store.Messages(ctx)
	for _, m := range messages {
		if len(out.Messages) < foundAtMost && strings.Contains(strings.ToLower(m.Title), search) {
			out.Messages = append(out.Messages, foundMessage{m.ID, m.Title, string(m.State)})
		}
	}
	return &body[foundView]{out}, s.problem(ctx, err)
}

func findRoles(r *roster.Roster, search string) []foundRole {
	list := []foundRole{}
	for _, role := range roster.Roles {
		if !strings.Contains(string(role), search) {
			continue
		}
		n := 0
		for i := range r.Len() {
			if r.At(i).Has(role) {
				n++
			}
		}
		list = append(list, foundRole{role, n})
	}
	return list
}

// personNote tells two people of the same name apart.
func personNote(p *roster.Person) string {
	var note []string
	for _, role := range p.Roles {
		note = append(note, string(role))
	}
	if p.ExternalID != "" {
		note = append(note, p.ExternalID)
	}
	return strings.Join(note, ", ")
}
