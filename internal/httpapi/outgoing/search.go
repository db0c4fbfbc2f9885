package outgoing

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/httpapi/route"
)

func (s *Area) searchRoutes(api huma.API) {
	route.Add(api, route.New(
		http.MethodPost, "/messages/search", "search-messages", "The messages that are looked for", access.Write, access.ReadRecords,
	).Small(), s.search)
	route.Get(
		api, "/searches", "searches", "Searches that were kept by name", s.searches, access.Write, access.ReadRecords,
	)
	route.Post(
		api, "/searches", "keep-search", "Keep a search, over one with the same name", s.keepSearch,
		access.Write, access.ReadRecords,
	)
	route.Del(
		api, "/searches/{id}", "drop-search", "Forget a kept search", s.dropSearch, access.Write, access.ReadRecords,
	)
}

type searchView struct {
	Messages []MessageView `json:"messages"`
	All      int           `json:"all" doc:"How many are found in all"`
	Words    []string      `json:"words" doc:"The conditions in words"`
	Missing  []int         `json:"missing" doc:"Conditions, by index, that name something that is not there any more; nothing is found by them"`
}

func (s *Area) search(ctx context.Context, in *struct {
	Body struct {
		seek.Search
		First int `json:"first,omitempty" minimum:"0"`
		Count int `json:"count,omitempty" minimum:"0" maximum:"500" doc:"100 unless it is said"`
	}
}) (*route.Body[searchView], error) {
	count := in.Body.Count
	if count == 0 {
		count = 100
	}
	found, err := s.Messages.Find(ctx, route.By(ctx), in.Body.Search, in.Body.First, count)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := searchView{
		Messages: make([]MessageView, len(found.List)), All: found.All,
		Words: append([]string{}, found.Words...), Missing: append([]int{}, found.Missing...),
	}
	for i, m := range found.List {
		v.Messages[i] = viewMessage(ctx, m)
	}
	return route.Answer(v), nil
}

type keptSearch struct {
	ID     int64       `json:"id"`
	Name   string      `json:"name"`
	Own    bool        `json:"own" doc:"The account kept it"`
	Search seek.Search `json:"search"`
}

type searchesView struct {
	Kept    []keptSearch `json:"kept"`
	Senders []colleague  `json:"senders" doc:"Whose messages the account sees"`
}

func (s *Area) searches(ctx context.Context, _ *struct{}) (*route.Body[searchesView], error) {
	kept, err := s.Store.KeptSearches(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	senders, err := s.Messages.Senders(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := searchesView{Kept: make([]keptSearch, len(kept)), Senders: make([]colleague, len(senders))}
	for i, k := range kept {
		v.Kept[i] = keptSearch{k.ID, k.Name, k.Owner == route.By(ctx).ID, k.Search}
	}
	for i, a := range senders {
		v.Senders[i] = colleague{a.ID, a.Name}
	}
	return route.Answer(v), nil
}

func (s *Area) keepSearch(ctx context.Context, in *struct {
	Body struct {
		Name   string      `json:"name" minLength:"1" maxLength:"100"`
		Search seek.Search `json:"search"`
	}
}) (*route.Body[keptSearch], error) {
	k, err := s.Messages.KeepSearch(ctx, route.By(ctx), in.Body.Name, in.Body.Search)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(keptSearch{k.ID, k.Name, true, k.Search}), nil
}

func (s *Area) dropSearch(ctx context.Context, in *struct {
	ID int64 `path:"id"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Messages.DropSearch(ctx, route.By(ctx), in.ID))
}
