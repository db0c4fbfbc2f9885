package httpapi

import (
	"context"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/match"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
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

func (s *server) groupRoutes(api huma.API) {
	add(api, get("/groups", "groups", "All groups in their one order", seesPeople...), s.groups)
	add(api, post("/groups", "add-group", "Add a group", access.EditPeople), s.addGroup)
	add(api, put("/groups/{id}", "save-group", "Change a group", access.EditPeople), s.saveGroup)
	add(api, del("/groups/{id}", "drop-group", "Delete a group", access.EditPeople), s.dropGroup)
	add(api, get("/groups/{id}/use", "group-use", "What uses a group", seesPeople...), s.groupUse)
	add(api, get("/groups/{id}/people", "group-people", "Everybody in a group", seesPeople...), s.groupPeople)
	add(api, post("/groups/order", "order-groups", "Put groups into the one order", access.EditPeople), s.orderGroups)
	add(
		api, post("/groups/rule", "preview-rule", "Who would join or leave a group by a rule", seesPeople...), s.previewRule,
	)
	add(
		api, post("/groups/match", "match-people", "Whom a pasted list means", access.EditPeople).takes(mostPeople),
		s.matchPeople,
	)
	add(
		api, post("/groups/match-file", "match-file", "Whom a file means", access.EditPeople).takes(largestFile), s.matchFile,
	)
	add(
		api, post("/groups/{id}/fill", "fill-group", "Change who is picked for a group", access.EditPeople).takes(mostPeople),
		s.fillGroup,
	)
}

func (s *server) groups(ctx context.Context, _ *struct{}) (*body[[]groupView], error) {
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	account := accountOf(ctx)
	may := account.May(access.EditPeople)
	list := groupTree(r)
	for i := range list {
		list[i].Editable = may && (account.Scope.Whole || list[i].Unit != 0)
	}
	return &body[[]groupView]{list}, nil
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

func (s *server) addGroup(ctx context.Context, in *body[roster.Group]) (*body[savedGroup], error) {
	in.Body.ID = 0
	id, err := s.Editor.SaveGroup(ctx, accountOf(ctx), in.Body)
	return &body[savedGroup]{savedGroup{id}}, s.problem(ctx, err)
}

func (s *server) saveGroup(ctx context.Context, in *struct {
	GroupID
	Body roster.Group
}) (*body[savedGroup], error) {
	in.Body.ID = in.ID
	id, err := s.Editor.SaveGroup(ctx, accountOf(ctx), in.Body)
	return &body[savedGroup]{savedGroup{id}}, s.problem(ctx, err)
}

func (s *server) dropGroup(ctx context.Context, in *GroupID) (*struct{}, error) {
	return nil, s.problem(ctx, s.Editor.DropGroup(ctx, accountOf(ctx), in.ID))
}

type useView struct {
	Groups   []string `json:"groups" doc:"Groups that hold it"`
	Rules    []string `json:"rules" doc:"Groups whose rules look at it"`
	Filters  []string `json:"filters" doc:"Kept filters that look at it"`
	Messages []string `json:"messages" doc:"Drafts and scheduled messages that name it"`
	People   int      `json:"people" doc:"Who is picked for it"`
}

func (s *server) groupUse(ctx context.Context, in *GroupID) (*body[useView], error) {
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	g, ok := r.Group(in.ID)
	if !ok {
		return nil, s.problem(ctx, store.ErrNotFound)
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
		return nil, s.problem(ctx, err)
	}
	for _, k := range kept {
		if k.Rule.LooksAt(in.ID) {
			out.Filters = append(out.Filters, k.Name)
		}
	}
	open, err := s.Sending.Open(ctx, accountOf(ctx))
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	messages, err := s.Store.Written(ctx, open)
	for _, m := range messages {
		names := func(p audience.Part) bool { return p.Group == in.ID }
		if (m.State == store.Draft || m.State == store.Held) && slices.ContainsFunc(m.Draft.Audience.Parts, names) {
			out.Messages = append(out.Messages, m.Title)
		}
	}
	return &body[useView]{out}, s.problem(ctx, err)
}

func (s *server) groupPeople(ctx context.Context, in *struct {
	Page
	ID roster.GroupID `path:"id"`
}) (*body[namedPeople], error) {
	r, err := s.roster(ctx)
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

func (s *server) orderGroups(ctx context.Context, in *struct {
	Body struct {
		Groups []roster.GroupID `json:"groups" minItems:"1" maxItems:"10000"`
	}
}) (*struct{}, error) {
	return nil, s.problem(ctx, s.Editor.OrderGroups(ctx, accountOf(ctx), in.Body.Groups))
}

type rulePreview struct {
	People  int          `json:"people"`
	Filters []filterView `json:"filters"`
	Joins   namedPeople  `json:"joins"`
	Leaves  namedPeople  `json:"leaves"`
}

func (s *server) previewRule(ctx context.Context, in *struct {
	Body struct {
		Group roster.GroupID `json:"group,omitempty" doc:"Absent for a new one"`
		Rule  roster.Rule    `json:"rule" maxItems:"20"`
	}
}) (*body[rulePreview], error) {
	p, err := s.Editor.PreviewRule(ctx, accountOf(ctx), in.Body.Group, in.Body.Rule)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := rulePreview{
		People: p.People, Filters: []filterView{}, Joins: namePeople(r, p.Joins), Leaves: namePeople(r, p.Goes),
	}
	for i, words := range p.Words {
		out.Filters = append(out.Filters, filterView{words, p.Leaves[i]})
	}
	return &body[rulePreview]{out}, nil
}

type matchedView struct {
	People  []roster.PersonID `json:"people" doc:"Everybody meant, each once"`
	Names   namedPeople       `json:"names"`
	Unclear []match.Found     `json:"unclear"`
}

func viewMatched(r *roster.Roster, found []match.Found) *body[matchedView] {
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
	out.Names = namePeople(r, out.People)
	return &body[matchedView]{out}
}

func (s *server) matchPeople(ctx context.Context, in *struct {
	Body struct {
		Text string `json:"text" maxLength:"2000000"`
	}
}) (*body[matchedView], error) {
	found, r, err := s.Editor.Match(ctx, accountOf(ctx), in.Body.Text)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return viewMatched(r, found), nil
}

// matchFile matches the first column by which anybody is known of each row.
func (s *server) matchFile(ctx context.Context, in *struct {
	RawBody []byte `contentType:"application/octet-stream"`
}) (*body[matchedView], error) {
	table, err := exchange.Read(in.RawBody)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	found, r, err := s.Editor.MatchTable(ctx, accountOf(ctx), table)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return viewMatched(r, found), nil
}

func (s *server) fillGroup(ctx context.Context, in *struct {
	GroupID
	Body struct {
		Chosen
		Take string         `json:"take" enum:"add,only,remove" doc:"Add them, keep only those who are in both, or take them away"`
		From roster.GroupID `json:"from,omitempty" doc:"Everybody in this group, instead of people"`
	}
}) (*body[doneView], error) {
	people := in.Body.People
	if in.Body.From != 0 {
		r, err := s.roster(ctx)
		if err != nil {
			return nil, s.problem(ctx, err)
		}
		if _, ok := r.Group(in.Body.From); !ok {
			return nil, s.problem(ctx, store.ErrNotFound)
		}
		for _, i := range r.In(in.Body.From) {
			people = append(people, r.At(i).ID)
		}
	}
	done, err := s.Editor.Fill(ctx, accountOf(ctx), in.ID, in.Body.Take, people)
	return viewDone(done), s.problem(ctx, err)
}
