package people

import (
	"context"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/match"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
	"upperlantern/internal/store"
)

type groupView struct {
	roster.Group
	Own      int      `json:"own" doc:"People picked for the group itself, or by its rule"`
	People   int      `json:"people" doc:"With everybody in the groups inside it, each once"`
	Beyond   int      `json:"beyond" doc:"Others in it whom the account does not reach and would leave out"`
	UnitPath string   `json:"unitPath"`
	Words    []string `json:"words" doc:"The rule, condition by condition"`
	Depth    int      `json:"depth" doc:"How deep it is nested where it is listed"`
	Within   []string `json:"within" doc:"The groups that it is nested in"`
	Rank     int      `json:"rank" doc:"Its place in the one order, from 1"`
	Editable bool     `json:"editable"`
}

type GroupID struct {
	ID roster.GroupID `path:"id"`
}

func (s *Area) groupRoutes(api huma.API) {
	route.Get(api, "/groups", "groups", "All groups in their one order", s.groups, seesPeople...)
	route.Post(api, "/groups", "add-group", "Add a group", s.addGroup, access.EditPeople)
	route.Put(api, "/groups/{id}", "save-group", "Change a group", s.saveGroup, access.EditPeople)
	route.Del(api, "/groups/{id}", "drop-group", "Delete a group", s.dropGroup, access.EditPeople)
	route.Get(api, "/groups/{id}/use", "group-use", "What uses a group", s.groupUse, seesPeople...)
	route.Get(api, "/groups/{id}/people", "group-people", "Everybody in a group", s.groupPeople, seesPeople...)
	route.Post(api, "/groups/order", "order-groups", "Put groups into the one order", s.orderGroups, access.EditPeople)
	route.Post(
		api, "/groups/rule", "preview-rule", "Who would join or leave a group by a rule",
		s.previewRule, seesPeople...,
	)
	route.Add(
		api,
		route.New(http.MethodPost, "/groups/match", "match-people", "Whom a pasted list means", access.EditPeople).Takes(mostPeople),
		s.matchPeople,
	)
	route.Add(
		api,
		route.New(http.MethodPost, "/groups/match-file", "match-file", "Whom a file means", access.EditPeople).Takes(largestFile),
		s.matchFile,
	)
	route.Add(
		api,
		route.New(http.MethodPost, "/groups/{id}/fill", "fill-group", "Change who is picked for a group", access.EditPeople).Takes(mostPeople),
		s.fillGroup,
	)
}

func (s *Area) groups(ctx context.Context, _ *struct{}) (*route.Body[[]groupView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	by := route.By(ctx)
	list := groupTree(r)
	for i := range list {
		list[i].Editable = by.May(access.EditPeople) && by.Scope.MayEdit(&list[i].Group)
	}
	return route.Answer(list), nil
}

// groupTree lists every group under the first group that holds it, in order.
func groupTree(r *roster.Roster) []groupView {
	within := map[roster.GroupID][]string{}
	for _, g := range r.Groups() {
		for _, id := range g.Inside {
			within[id] = append(within[id], g.Name)
		}
	}
	rank := map[roster.GroupID]int{}
	list := []groupView{}
	var add func(g *roster.Group, depth int)
	listed := map[roster.GroupID]bool{}
	add = func(g *roster.Group, depth int) {
		if listed[g.ID] {
			return
		}
		listed[g.ID] = true
		list = append(list, viewGroup(r, g, depth, rank[g.ID], within[g.ID]))
		for _, id := range g.Inside {
			if below, ok := r.Group(id); ok {
				add(below, depth+1)
			}
		}
	}
	for i, g := range r.Groups() {
		rank[g.ID] = i + 1
	}
	for i := range r.Groups() {
		if g := &r.Groups()[i]; within[g.ID] == nil {
			add(g, 0)
		}
	}
	return list
}

func viewGroup(r *roster.Roster, g *roster.Group, depth, rank int, within []string) groupView {
	return groupView{
		Group: *g, Own: r.Own(g), People: len(r.In(g.ID)), Beyond: g.Beyond, UnitPath: r.UnitPath(g.Unit),
		Words: r.RuleWords(g.Rule),
		Depth: depth, Within: append([]string{}, within...), Rank: rank,
	}
}

type savedGroup struct {
	ID roster.GroupID `json:"id"`
}

func (s *Area) addGroup(ctx context.Context, in *route.Body[roster.Group]) (*route.Body[savedGroup], error) {
	in.Body.ID = 0
	id, err := s.Editor.SaveGroup(ctx, route.By(ctx), in.Body)
	return route.Answer(savedGroup{ID: id}), s.Problem(ctx, err)
}

func (s *Area) saveGroup(ctx context.Context, in *struct {
	GroupID
	Body roster.Group
}) (*route.Body[savedGroup], error) {
	in.Body.ID = in.ID
	id, err := s.Editor.SaveGroup(ctx, route.By(ctx), in.Body)
	return route.Answer(savedGroup{ID: id}), s.Problem(ctx, err)
}

func (s *Area) dropGroup(ctx context.Context, in *GroupID) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.DropGroup(ctx, route.By(ctx), in.ID))
}

type useView struct {
	Groups   []string `json:"groups" doc:"Groups that hold it"`
	Rules    []string `json:"rules" doc:"Groups whose rules look at it"`
	Filters  []string `json:"filters" doc:"Kept filters that look at it"`
	Messages []string `json:"messages" doc:"Drafts and scheduled messages that name it"`
	People   int      `json:"people" doc:"Who is picked for it"`
}

func (s *Area) groupUse(ctx context.Context, in *GroupID) (*route.Body[useView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	g, ok := r.Group(in.ID)
	if !ok {
		return nil, s.Problem(ctx, store.ErrNotFound)
	}
	out := useView{Groups: []string{}, Rules: []string{}, Filters: []string{}, Messages: []string{}, People: r.Own(g)}
	for _, other := range r.Groups() {
		if slices.Contains(other.Inside, in.ID) {
			out.Groups = append(out.Groups, other.Name)
		}
		if other.Rule.LooksAt(in.ID) {
			out.Rules = append(out.Rules, other.Name)
		}
	}
	kept, err := s.Store.KeptFilters(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	for _, k := range kept {
		if k.Rule.LooksAt(in.ID) {
			out.Filters = append(out.Filters, k.Name)
		}
	}
	titles, err := s.Messages.Naming(ctx, route.By(ctx), in.ID)
	out.Messages = append(out.Messages, titles...)
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) groupPeople(ctx context.Context, in *struct {
	route.Page
	ID roster.GroupID `path:"id"`
}) (*route.Body[view.NamedPeople], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	if _, ok := r.Group(in.ID); !ok {
		return nil, s.Problem(ctx, store.ErrNotFound)
	}
	members := r.In(in.ID)
	out := view.NamedPeople{People: []view.NamedPerson{}, All: len(members)}
	for _, i := range route.Window(members, in.Page) {
		p := r.At(i)
		out.People = append(
			out.People,
			view.NamedPerson{ID: p.ID, Name: p.Name(), Detail: strings.Join(r.Path(in.ID, p.ID), " › ")},
		)
	}
	return route.Answer(out), nil
}

func (s *Area) orderGroups(ctx context.Context, in *struct {
	Body struct {
		Groups []roster.GroupID `json:"groups" minItems:"1" maxItems:"10000"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.OrderGroups(ctx, route.By(ctx), in.Body.Groups))
}

type rulePreview struct {
	People  int               `json:"people"`
	Filters []view.FilterView `json:"filters"`
	Joins   view.NamedPeople  `json:"joins"`
	Leaves  view.NamedPeople  `json:"leaves"`
}

func (s *Area) previewRule(ctx context.Context, in *struct {
	Body struct {
		Group roster.GroupID `json:"group,omitempty" doc:"Absent for a new one"`
		Rule  roster.Rule    `json:"rule" maxItems:"20"`
	}
}) (*route.Body[rulePreview], error) {
	p, err := s.Editor.PreviewRule(ctx, route.By(ctx), in.Body.Group, in.Body.Rule)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := rulePreview{
		People: p.People, Filters: []view.FilterView{}, Joins: view.NamePeople(r, p.Joins),
		Leaves: view.NamePeople(r, p.Goes),
	}
	for i, words := range p.Words {
		out.Filters = append(out.Filters, view.FilterView{Words: words, Leaves: p.Leaves[i]})
	}
	return route.Answer(out), nil
}

type matchedView struct {
	People  []roster.PersonID `json:"people" doc:"Everybody meant, each once"`
	Names   view.NamedPeople  `json:"names"`
	Unclear []match.Found     `json:"unclear"`
}

func viewMatched(r *roster.Roster, found []match.Found) *route.Body[matchedView] {
	out := matchedView{People: []roster.PersonID{}, Unclear: []match.Found{}}
	seen := map[roster.PersonID]bool{}
	for _, f := range found {
		if f.Problem != "" {
			out.Unclear = append(out.Unclear, f)
		}
		for _, id := range f.People {
			if !seen[id] {
				seen[id] = true
				out.People = append(out.People, id)
			}
		}
	}
	out.Names = view.NamePeople(r, out.People)
	return route.Answer(out)
}

func (s *Area) matchPeople(ctx context.Context, in *struct {
	Body struct {
		Text string `json:"text" maxLength:"2000000"`
	}
}) (*route.Body[matchedView], error) {
	found, r, err := s.Editor.Match(ctx, route.By(ctx), in.Body.Text)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return viewMatched(r, found), nil
}

// matchFile matches the first column by which anybody is known of each row.
func (s *Area) matchFile(ctx context.Context, in *struct {
	RawBody []byte `contentType:"application/octet-stream"`
}) (*route.Body[matchedView], error) {
	table, err := exchange.Read(in.RawBody)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	found, r, err := s.Editor.MatchTable(ctx, route.By(ctx), table)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return viewMatched(r, found), nil
}

func (s *Area) fillGroup(ctx context.Context, in *struct {
	GroupID
	Body struct {
		Chosen
		Take roster.Take    `json:"take" enum:"add,only,remove" doc:"Add them, keep only those who are in both, or take them away"`
		From roster.GroupID `json:"from,omitempty" doc:"Everybody in this group, instead of people"`
	}
}) (*route.Body[doneView], error) {
	people := in.Body.People
	if in.Body.From != 0 {
		r, err := s.Roster(ctx)
		if err != nil {
			return nil, s.Problem(ctx, err)
		}
		if _, ok := r.Group(in.Body.From); !ok {
			return nil, s.Problem(ctx, store.ErrNotFound)
		}
		for _, i := range r.In(in.Body.From) {
			people = append(people, r.At(i).ID)
		}
	}
	done, err := s.Editor.Fill(ctx, route.By(ctx), in.ID, in.Body.Take, people)
	return viewDone(done), s.Problem(ctx, err)
}
