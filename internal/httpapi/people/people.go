package people

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
	"upperlantern/internal/store"
)

type addressView struct {
	roster.Address
	Shown string `json:"shown" doc:"The value as people read it"`
}

type PersonView struct {
	ID         roster.PersonID `json:"id"`
	ExternalID string          `json:"externalId"`
	Name       string          `json:"name"`
	KnownAs    string          `json:"knownAs"`
	Roles      []roster.Role   `json:"roles"`
	Unit       string          `json:"unit" doc:"From the outermost down; empty for the organisation as a whole"`
	Language   string          `json:"language" doc:"BCP 47, or empty"`
	Speaks     string          `json:"speaks" doc:"The language's name in English"`
	Status     roster.Status   `json:"status"`
	AwayUntil  roster.Date     `json:"awayUntil"`
	Groups     []string        `json:"groups"`
	Addresses  []addressView   `json:"addresses"`
	ReachedOn  roster.Date     `json:"reachedOn"`
	Guest      bool            `json:"guest" doc:"Of another unit, seen as the guardian of somebody in yours"`
	Gaps       []string        `json:"gaps" doc:"Why they could not be told something, in words"`
}

func viewAddresses(addresses []roster.Address) []addressView {
	list := make([]addressView, len(addresses))
	for i, a := range addresses {
		list[i] = addressView{Address: a, Shown: phone.Display(a.Value)}
	}
	return list
}

func viewPerson(r *roster.Roster, i int) PersonView {
	p := r.At(i)
	v := PersonView{
		ID: p.ID, ExternalID: p.ExternalID, Name: p.Name(), KnownAs: p.KnownAs, Roles: p.Roles, Unit: r.UnitPath(p.Unit),
		Language: p.Language, Speaks: roster.LanguageName(p.Language), Status: p.Status, AwayUntil: p.AwayUntil,
		Groups: []string{}, Addresses: viewAddresses(p.Addresses), ReachedOn: p.ReachedOn, Guest: r.Guest(p.ID),
		Gaps: []string{},
	}
	for _, id := range r.GroupsOf(i) {
		v.Groups = append(v.Groups, r.GroupName(id))
	}
	for _, g := range roster.Gaps {
		if r.Has(g, i) {
			v.Gaps = append(v.Gaps, g.Words())
		}
	}
	return v
}

type peopleView struct {
	People   []PersonView      `json:"people"`
	Matching int               `json:"matching"`
	All      int               `json:"all"`
	Filters  []view.FilterView `json:"filters" doc:"The filters asked for, in words"`
}

type unitChoice struct {
	ID   roster.UnitID `json:"id"`
	Path string        `json:"path"`
}

type subjectChoice struct {
	On    roster.Subject `json:"on"`
	Tests []roster.Test  `json:"tests" doc:"The ways of asking"`
}

type attributeChoice struct {
	roster.Attribute
	Tests []roster.Test `json:"tests" doc:"The ways of asking a filter for it"`
}

type choicesView struct {
	Roles      []roster.Role     `json:"roles"`
	Units      []unitChoice      `json:"units"`
	Languages  []view.Choice     `json:"languages" doc:"Those of the organisation, and all that people here read"`
	Attributes []attributeChoice `json:"attributes"`
	Subjects   []subjectChoice   `json:"subjects" doc:"What a filter can look at besides attributes"`
	Gaps       []view.Choice     `json:"gaps"`
	Devices    []string          `json:"devices" doc:"Kinds of push devices"`
}

var seesPeople = []access.Right{access.SeePeople, access.EditPeople, access.Write}

func (s *Area) peopleRoutes(api huma.API) {
	route.Get(api, "/people", "people", "Search the roster by words", s.people, seesPeople...)
	route.Post(
		api, "/people/search", "search-people", "Search the roster by words and filters",
		s.searchPeople, seesPeople...,
	)
	route.Post(api, "/people/ids", "people-ids", "Everybody whom a search matches", s.peopleIDs, seesPeople...)
	route.Get(api, "/people/{id}", "person", "One person", s.person, seesPeople...)
	route.Get(api, "/choices", "choices", "What people, filters and groups can be set to", s.choices, seesPeople...)
	route.Get(api, "/find", "find", "Find groups, roles, people and messages by name", s.find, seesPeople...)
	route.Get(api, "/filters", "filters", "Stacks of filters with a name", s.filters, seesPeople...)
	route.Post(api, "/filters", "keep-filter", "Keep a stack of filters", s.keepFilter, access.EditPeople)
	route.Del(api, "/filters/{id}", "drop-filter", "Forget a stack of filters", s.dropFilter, access.EditPeople)
}

func (s *Area) people(ctx context.Context, in *struct {
	route.Page
	Search string `query:"search" maxLength:"200"`
}) (*route.Body[peopleView], error) {
	return s.listPeople(ctx, in.Page, roster.Query{Search: in.Search})
}

func (s *Area) searchPeople(ctx context.Context, in *struct {
	route.Page
	Body roster.Query
}) (*route.Body[peopleView], error) {
	return s.listPeople(ctx, in.Page, in.Body)
}

func (s *Area) listPeople(ctx context.Context, page route.Page, q roster.Query) (*route.Body[peopleView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	people, leaves := r.Find(q)
	out := peopleView{People: []PersonView{}, Matching: len(people), All: r.Len(), Filters: []view.FilterView{}}
	for _, i := range route.Window(people, page) {
		out.People = append(out.People, viewPerson(r, i))
	}
	for i, c := range q.Rule {
		out.Filters = append(out.Filters, view.FilterView{Words: r.Words(c), Leaves: leaves[i]})
	}
	return route.Answer(out), nil
}

type idsView struct {
	IDs   []roster.PersonID `json:"ids"`
	Words string            `json:"words" doc:"Who they are, as a sentence goes on"`
}

func (s *Area) peopleIDs(ctx context.Context, in *route.Body[roster.Query]) (*route.Body[idsView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	people, _ := r.Find(in.Body)
	out := idsView{IDs: make([]roster.PersonID, len(people))}
	for n, i := range people {
		out.IDs[n] = r.At(i).ID
	}
	var words []string
	if in.Body.Search != "" {
		words = append(words, "“"+in.Body.Search+"”")
	}
	out.Words = strings.Join(append(words, r.RuleWords(in.Body.Rule)...), ", ")
	return route.Answer(out), nil
}

type tieView struct {
	ID       roster.PersonID `json:"id"`
	Name     string          `json:"name"`
	Guardian bool            `json:"guardian" doc:"They are the guardian, not the dependent"`
	Receives bool            `json:"receives"`
	Barred   bool            `json:"barred"`
	Reached  bool            `json:"reached" doc:"They have an address that works"`
}

type membershipView struct {
	ID     roster.GroupID `json:"id"`
	Name   string         `json:"name"`
	Kind   roster.Kind    `json:"kind"`
	Why    string         `json:"why" doc:"Picked, or the rule in words"`
	Within []string       `json:"within" doc:"Groups that it is nested in"`
}

type gotView struct {
	Message int64          `json:"message" doc:"0 for one that the account may not see"`
	Title   string         `json:"title"`
	Channel roster.Channel `json:"channel"`
	Address string         `json:"address"`
	State   delivery.State `json:"state"`
	Reached bool           `json:"reached" doc:"It got to its address"`
	At      time.Time      `json:"at"`
}

type historyView struct {
	Edit    int64           `json:"edit"`
	Kind    roster.EditKind `json:"kind"`
	People  int             `json:"people" doc:"How many it changed, so many would be undone"`
	Said    string          `json:"said"`
	By      string          `json:"by" doc:"Empty for the program and for the person themselves"`
	At      time.Time       `json:"at"`
	Undone  bool            `json:"undone"`
	Changes []roster.Change `json:"changes"`
}

type personDetailView struct {
	PersonView
	Sheet    roster.Sheet     `json:"sheet" doc:"What can be edited"`
	Ties     []tieView        `json:"ties"`
	In       []membershipView `json:"in"`
	Got      []gotView        `json:"got" doc:"Deliveries of the last 30 days"`
	History  []historyView    `json:"history"`
	Editable bool             `json:"editable"`
}

func (s *Area) person(ctx context.Context, in *struct {
	ID roster.PersonID `path:"id"`
}) (*route.Body[personDetailView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	i, ok := r.Position(in.ID)
	if !ok {
		return nil, s.Problem(ctx, store.ErrNotFound)
	}
	out := personDetailView{
		PersonView: viewPerson(r, i), Sheet: *r.Sheet(in.ID), Ties: viewTies(r, i), In: viewMemberships(r, i),
		Got: []gotView{}, History: []historyView{},
		Editable: route.By(ctx).May(access.EditPeople) && !r.Guest(in.ID),
	}
	got, err := s.Messages.Got(ctx, route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	for _, g := range got {
		out.Got = append(out.Got, gotView{
			Message: g.Message,
			Title:   g.Title,
			Channel: g.Channel,
			Address: phone.Display(g.Address),
			State:   g.State,
			Reached: g.State.Reached(),
			At:      g.At,
		})
	}
	history, err := s.Store.History(ctx, in.ID)
	out.History = viewHistory(history)
	return route.Answer(out), s.Problem(ctx, err)
}

func viewHistory(history []store.PersonEdit) []historyView {
	list := make([]historyView, len(history))
	for i, e := range history {
		list[i] = historyView{
			Edit:    e.ID,
			Kind:    e.Kind,
			People:  e.People,
			Said:    e.Said,
			By:      e.By,
			At:      e.At,
			Undone:  e.Undone,
			Changes: append([]roster.Change{}, e.Changes...),
		}
	}
	return list
}

func viewTies(r *roster.Roster, i int) []tieView {
	list := []tieView{}
	for _, t := range slices.Concat(r.Guardians(i), r.Dependents(i)) {
		other := r.Person(t.Other(r.At(i).ID))
		list = append(list, tieView{
			ID:       other.ID,
			Name:     other.Name(),
			Guardian: t.Guardian == other.ID,
			Receives: t.Receives,
			Barred:   t.Barred,
			Reached:  other.Reaches(""),
		})
	}
	return list
}

func viewMemberships(r *roster.Roster, i int) []membershipView {
	list := []membershipView{}
	for _, id := range r.GroupsOf(i) {
		g, _ := r.Group(id)
		v := membershipView{ID: id, Name: g.Name, Kind: g.Kind, Why: "picked", Within: []string{}}
		if g.Kind == roster.ByRule {
			v.Why = "rule: " + strings.Join(r.RuleWords(g.Rule), ", ")
		}
		for _, outer := range r.Groups() {
			if slices.Contains(outer.Inside, id) {
				v.Within = append(v.Within, outer.Name)
			}
		}
		list = append(list, v)
	}
	return list
}

func (s *Area) choices(ctx context.Context, _ *struct{}) (*route.Body[choicesView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := choicesView{
		Roles: o.AllRoles(), Units: []unitChoice{}, Languages: []view.Choice{},
		Attributes: []attributeChoice{}, Subjects: []subjectChoice{},
		Gaps: []view.Choice{}, Devices: roster.DeviceKinds,
	}
	for _, u := range r.Units {
		out.Units = append(out.Units, unitChoice{ID: u.ID, Path: r.UnitPath(u.ID)})
	}
	slices.SortFunc(out.Units, func(a, b unitChoice) int { return strings.Compare(a.Path, b.Path) })
	for _, tag := range r.Languages(append([]string{o.Language}, o.Languages...)) {
		out.Languages = append(out.Languages, view.Choice{Value: tag, Words: roster.LanguageName(tag)})
	}
	for _, a := range r.Attributes {
		out.Attributes = append(out.Attributes, attributeChoice{Attribute: a, Tests: a.Tests()})
	}
	for _, on := range roster.Subjects {
		if tests := on.Tests(); len(tests) > 0 {
			out.Subjects = append(out.Subjects, subjectChoice{On: on, Tests: tests})
		}
	}
	for _, g := range roster.Gaps {
		out.Gaps = append(out.Gaps, view.Choice{Value: string(g), Words: g.Words()})
	}
	return route.Answer(out), nil
}

type foundView struct {
	Groups   []foundGroup   `json:"groups"`
	Units    []foundUnit    `json:"units"`
	Roles    []foundRole    `json:"roles"`
	People   []foundPerson  `json:"people"`
	Messages []foundMessage `json:"messages"`
}

type foundPerson struct {
	view.NamedPerson
	Unit   *route.Named  `json:"unit,omitempty" doc:"That they belong to, with the units above it; absent while there is none"`
	Groups []route.Named `json:"groups" doc:"That they are in"`
}

type foundGroup struct {
	ID     roster.GroupID `json:"id"`
	Name   string         `json:"name"`
	People int            `json:"people"`
}

type foundUnit struct {
	ID     roster.UnitID `json:"id"`
	Name   string        `json:"name" doc:"With the units above it"`
	People int           `json:"people" doc:"With those of the units inside it"`
}

type foundRole struct {
	Role   roster.Role `json:"role"`
	People int         `json:"people"`
}

type foundMessage struct {
	ID    int64              `json:"id"`
	Title string             `json:"title"`
	State store.MessageState `json:"state"`
}

const foundAtMost = 8

// find offers what a sender may name. Without anything typed it offers every
// group, unit and role, and nobody by name.
func (s *Area) find(ctx context.Context, in *struct {
	Search string `query:"search" maxLength:"200"`
}) (*route.Body[foundView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	search := roster.Fold(in.Search)
	out := foundView{
		Groups: []foundGroup{}, Units: []foundUnit{}, Roles: findRoles(r, o.AllRoles(), search), People: []foundPerson{},
		Messages: []foundMessage{},
	}
	for _, g := range r.Groups() {
		if !g.Archived && g.Closed == nil && strings.Contains(roster.Fold(g.Name), search) {
			out.Groups = append(out.Groups, foundGroup{ID: g.ID, Name: g.Name, People: len(r.In(g.ID))})
		}
	}
	for _, u := range r.Units {
		if strings.Contains(roster.Fold(u.Name), search) {
			people, _ := r.Select(roster.Rule{{On: roster.OnUnit, Test: roster.Is, ID: int64(u.ID)}})
			out.Units = append(out.Units, foundUnit{ID: u.ID, Name: r.UnitPath(u.ID), People: len(people)})
		}
	}
	if strings.TrimSpace(in.Search) == "" {
		return route.Answer(out), nil
	}
	people, _ := r.Find(roster.Query{Search: in.Search})
	for _, i := range people[:min(len(people), foundAtMost)] {
		out.People = append(out.People, viewFound(r, i))
	}
	titles, err := s.Messages.Titled(ctx, route.By(ctx), in.Search, foundAtMost)
	for _, m := range titles {
		out.Messages = append(out.Messages, foundMessage{ID: m.ID, Title: m.Title, State: m.State})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func viewFound(r *roster.Roster, i int) foundPerson {
	p := r.At(i)
	v := foundPerson{NamedPerson: view.Name(p), Groups: []route.Named{}}
	if p.Unit != 0 {
		v.Unit = &route.Named{ID: int64(p.Unit), Name: r.UnitPath(p.Unit)}
	}
	for _, id := range r.GroupsOf(i) {
		v.Groups = append(v.Groups, route.Named{ID: int64(id), Name: r.GroupName(id)})
	}
	return v
}

func findRoles(r *roster.Roster, roles []roster.Role, search string) []foundRole {
	list := []foundRole{}
	for _, c := range r.CountRoles(roles) {
		if strings.Contains(roster.Fold(string(c.Role)), search) {
			list = append(list, foundRole{Role: c.Role, People: c.People})
		}
	}
	return list
}

type keptFilterView struct {
	ID    int64       `json:"id"`
	Name  string      `json:"name"`
	Rule  roster.Rule `json:"rule"`
	Words string      `json:"words"`
}

func (s *Area) filters(ctx context.Context, _ *struct{}) (*route.Body[[]keptFilterView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	kept, err := s.Store.KeptFilters(ctx)
	out := []keptFilterView{}
	for _, k := range kept {
		out = append(
			out,
			keptFilterView{ID: k.ID, Name: k.Name, Rule: k.Rule, Words: strings.Join(r.RuleWords(k.Rule), ", ")},
		)
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) keepFilter(ctx context.Context, in *struct {
	Body struct {
		Name string      `json:"name" minLength:"1" maxLength:"100"`
		Rule roster.Rule `json:"rule" minItems:"1" maxItems:"20"`
	}
}) (*route.Body[[]keptFilterView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	if err := r.Check(in.Body.Rule); err != nil {
		return nil, huma.Error422UnprocessableEntity("The filters were not kept: " + err.Error() + ".")
	}
	if _, err := s.Editor.KeepFilter(ctx, route.By(ctx), in.Body.Name, in.Body.Rule); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.filters(ctx, nil)
}

func (s *Area) dropFilter(ctx context.Context, in *struct {
	ID int64 `path:"id"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.DropFilter(ctx, route.By(ctx), in.ID))
}
