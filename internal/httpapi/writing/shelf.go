package writing

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

type shelfView struct {
	ID      int64           `json:"id"`
	Kind    store.ShelfKind `json:"kind"`
	Name    string          `json:"name"`
	Own     bool            `json:"own" doc:"For its owner only"`
	Unit    roster.UnitID   `json:"unit" doc:"With which it is shared; 0 for everybody"`
	Shared  string          `json:"shared" doc:"With whom it is shared, in words"`
	By      string          `json:"by" doc:"Who changed it last"`
	At      time.Time       `json:"at"`
	Mine    bool            `json:"mine" doc:"The account may change it"`
	Blanks  []string        `json:"blanks" doc:"What is asked for when it is used"`
	Content message.Content `json:"content"`
	Plain   string          `json:"plain" doc:"How its email reads, without formatting"`
}

type shelfVersionView struct {
	ID      int64           `json:"id"`
	By      string          `json:"by"`
	At      time.Time       `json:"at"`
	Plain   string          `json:"plain" doc:"How its email read, without formatting"`
	Content message.Content `json:"content"`
}

type ShelfID struct {
	ID int64 `path:"id"`
}

func (s *Area) shelfRoutes(api huma.API) {
	route.Get(api, "/shelf", "shelf", "Templates and quick texts", s.shelf, access.Write)
	route.Post(
		api, "/shelf", "put-on-shelf", "Add a template or a quick text, or keep a new version of one",
		s.putOnShelf, access.Write,
	)
	route.Del(api, "/shelf/{id}", "drop-from-shelf", "Delete a template or a quick text", s.dropFromShelf, access.Write)
	route.Get(api, "/shelf/{id}/versions", "shelf-versions", "What a template was", s.shelfVersions, access.Write)
	route.Post(
		api, "/shelf/{id}/use", "use-template", "What a template says, with its blanks filled",
		s.useTemplate, access.Write,
	)
}

func (s *Area) shelf(ctx context.Context, _ *struct{}) (*route.Body[[]shelfView], error) {
	list, err := s.Shelf.List(ctx, route.By(ctx))
	out := []shelfView{}
	for _, item := range list {
		out = append(out, shelfView{
			ID: item.ID, Kind: item.Kind, Name: item.Name, Own: item.Own, Unit: item.Unit, Shared: item.With,
			By: item.By, At: item.At, Mine: item.Mine, Content: item.Content, Plain: item.Content.Email.Plain(),
			Blanks: append([]string{}, item.Content.Blanks()...),
		})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) putOnShelf(ctx context.Context, in *struct {
	Body struct {
		ID      int64           `json:"id,omitempty" doc:"Absent for a new one"`
		Kind    store.ShelfKind `json:"kind"`
		Name    string          `json:"name" maxLength:"200"`
		Own     bool            `json:"own"`
		Unit    roster.UnitID   `json:"unit,omitempty"`
		Content message.Content `json:"content"`
	}
}) (*route.Body[[]shelfView], error) {
	b := in.Body
	if err := s.Shelf.Put(ctx, route.By(ctx), store.ShelfItem{
		ID: b.ID, Kind: b.Kind, Name: b.Name, Own: b.Own, Unit: b.Unit, Content: b.Content,
	}); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.shelf(ctx, nil)
}

func (s *Area) dropFromShelf(ctx context.Context, in *ShelfID) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Shelf.Drop(ctx, route.By(ctx), in.ID))
}

func (s *Area) shelfVersions(ctx context.Context, in *ShelfID) (*route.Body[[]shelfVersionView], error) {
	list, err := s.Shelf.Versions(ctx, route.By(ctx), in.ID)
	out := []shelfVersionView{}
	for _, v := range list {
		out = append(out, shelfVersionView{ID: v.ID, By: v.By, At: v.At, Plain: v.Content.Email.Plain(), Content: v.Content})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) useTemplate(ctx context.Context, in *struct {
	ShelfID
	Body struct {
		Values map[string]string `json:"values" doc:"By the name of the blank"`
	}
}) (*route.Body[message.Content], error) {
	content, err := s.Shelf.Use(ctx, route.By(ctx), in.ID, in.Body.Values)
	return route.Answer(content), s.Problem(ctx, err)
}
