package httpapi

import (
	"context"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/store"
)

type shelfView struct {
	ID      int64           `json:"id"`
	Kind    string          `json:"kind" enum:"template,quick-text"`
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

type versionView struct {
	ID    int64         `json:"id"`
	By    string        `json:"by"`
	At    time.Time     `json:"at"`
	Title string        `json:"title"`
	Plain string        `json:"plain" doc:"How its email read, without formatting"`
	Draft message.Draft `json:"draft"`
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

func (s *server) shelfRoutes(api huma.API) {
	add(api, get("/shelf", "shelf", "Templates and quick texts", access.Write), s.shelf)
	add(
		api, post("/shelf", "put-on-shelf", "Add a template or a quick text, or keep a new version of one", access.Write),
		s.putOnShelf,
	)
	add(api, del("/shelf/{id}", "drop-from-shelf", "Delete a template or a quick text", access.Write), s.dropFromShelf)
	add(api, get("/shelf/{id}/versions", "shelf-versions", "What a template was", access.Write), s.shelfVersions)
	add(
		api, post("/shelf/{id}/use", "use-template", "What a template says, with its blanks filled", access.Write),
		s.useTemplate,
	)
	add(api, get("/messages/{id}/versions", "draft-versions", "What a draft was", access.Write), s.draftVersions)
	add(
		api, post("/messages/{id}/merge", "merge-draft", "Join what two windows changed, and keep it", access.Write),
		s.mergeDraft,
	)
}

func viewVersions(list []store.Version) *body[[]versionView] {
	out := []versionView{}
	for _, v := range list {
		out = append(out, versionView{v.ID, v.By, v.At, v.Draft.Title(), v.Draft.Email.Plain(), v.Draft})
	}
	return &body[[]versionView]{out}
}

// onShelf lists what the account sees: its own, and what is shared with
// everybody or with a unit that it reaches.
func (s *server) onShelf(ctx context.Context) ([]store.ShelfItem, *roster.Roster, error) {
	r, err := s.roster(ctx)
	if err != nil {
		return nil, nil, err
	}
	all, err := s.Store.Shelf(ctx)
	by := principalOf(ctx)
	var list []store.ShelfItem
	for _, item := range all {
		if by.Sees(item.Shared(), r.Units) {
			list = append(list, item)
		}
	}
	return list, r, err
}

// shelfItem returns one that the account sees, and whether it may change it:
// its own, and what is shared within its reach.
func (s *server) shelfItem(ctx context.Context, id int64) (item store.ShelfItem, mine bool, err error) {
	list, _, err := s.onShelf(ctx)
	if err != nil {
		return item, false, err
	}
	for _, item := range list {
		if item.ID == id {
			return item, principalOf(ctx).MayChange(item.Shared()), nil
		}
	}
	return item, false, store.ErrNotFound
}

func (s *server) shelf(ctx context.Context, _ *struct{}) (*body[[]shelfView], error) {
	list, r, err := s.onShelf(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := []shelfView{}
	for _, item := range list {
		v := shelfView{
			ID: item.ID, Kind: string(item.Kind), Name: item.Name, Own: item.Own, Unit: item.Unit, Shared: "everybody",
			By: item.By, At: item.At, Mine: principalOf(ctx).MayChange(item.Shared()), Content: item.Content,
			Plain: item.Content.Email.Plain(), Blanks: append([]string{}, item.Content.Blanks()...),
		}
		if item.Unit != 0 {
			v.Shared = r.UnitPath(item.Unit)
		}
		if item.Own {
			v.Shared = "only you"
		}
		out = append(out, v)
	}
	return &body[[]shelfView]{out}, nil
}

func (s *server) putOnShelf(ctx context.Context, in *struct {
	Body struct {
		ID      int64           `json:"id,omitempty" doc:"Absent for a new one"`
		Kind    string          `json:"kind" enum:"template,quick-text"`
		Name    string          `json:"name" maxLength:"200"`
		Own     bool            `json:"own"`
		Unit    roster.UnitID   `json:"unit,omitempty"`
		Content message.Content `json:"content"`
	}
}) (*body[[]shelfView], error) {
	b := in.Body
	refuse := func(why string) error {
		return huma.Error422UnprocessableEntity("Nothing was put on the shelf: " + why + ".")
	}
	name := entry.Name(b.Name)
	if name == "" {
		return nil, refuse("it needs a name")
	}
	if err := b.Content.Validate(); err != nil {
		return nil, refuse(err.Error())
	}
	account := accountOf(ctx)
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if b.Unit != 0 && r.UnitPath(b.Unit) == "" {
		return nil, refuse("the unit no longer exists, or is not yours")
	}
	if !b.Own && b.Unit == 0 && !account.Scope.Whole {
		return nil, refuse("share it with one of your units, or keep it for yourself")
	}
	if b.ID != 0 {
		if _, mine, err := s.shelfItem(ctx, b.ID); err != nil || !mine {
			return nil, s.problem(ctx, orNotYours(err))
		}
	}
	item := store.ShelfItem{
		ID: b.ID, Kind: store.ShelfKind(b.Kind), Name: name, Own: b.Own, Unit: b.Unit, Content: b.Content,
	}
	if _, err := s.Store.PutOnShelf(ctx, item, account.ID, s.Now()); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.shelf(ctx, nil)
}

// orNotYours is an error, or that somebody may see something but not change it.
func orNotYours(err error) error {
	if err != nil {
		return err
	}
	return fmt.Errorf("it %w; save it under another name", editing.ErrNotYours)
}

func (s *server) dropFromShelf(ctx context.Context, in *ShelfID) (*struct{}, error) {
	if _, mine, err := s.shelfItem(ctx, in.ID); err != nil || !mine {
		return nil, s.problem(ctx, orNotYours(err))
	}
	return nil, s.problem(ctx, s.Store.DropFromShelf(ctx, in.ID))
}

func (s *server) shelfVersions(ctx context.Context, in *ShelfID) (*body[[]shelfVersionView], error) {
	if _, _, err := s.shelfItem(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	list, err := s.Store.ShelfVersions(ctx, in.ID)
	out := []shelfVersionView{}
	for _, v := range list {
		out = append(out, shelfVersionView{ID: v.ID, By: v.By, At: v.At, Plain: v.Content.Email.Plain(), Content: v.Content})
	}
	return &body[[]shelfVersionView]{out}, s.problem(ctx, err)
}

func (s *server) useTemplate(ctx context.Context, in *struct {
	ShelfID
	Body struct {
		Values map[string]string `json:"values" doc:"By the name of the blank"`
	}
}) (*body[message.Content], error) {
	item, _, err := s.shelfItem(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[message.Content]{item.Content.FillBlanks(in.Body.Values)}, nil
}

func (s *server) draftVersions(ctx context.Context, in *MessageID) (*body[[]versionView], error) {
	if _, err := s.messageOf(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	list, err := s.Store.Versions(ctx, in.ID)
	return viewVersions(list), s.problem(ctx, err)
}

type mergedView struct {
	Revision int64         `json:"revision" doc:"The one that was made, or the newer one when nothing was kept"`
	Draft    message.Draft `json:"draft" doc:"Both joined; where they clash, what this window says"`
	Clash    []string      `json:"clash" doc:"What both changed; nothing was kept then"`
	Labels   []string      `json:"labels"`
}

func (s *server) mergeDraft(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Base  message.Draft `json:"base" doc:"What this window had when it last kept the draft"`
		Draft message.Draft `json:"draft" doc:"What this window has now"`
	}
}) (*body[mergedView], error) {
	if err := in.Body.Draft.Validate(); err != nil {
		return nil, huma.Error422UnprocessableEntity("The draft was not kept: " + err.Error() + ".")
	}
	m, err := s.messageOf(ctx, in.ID)
	if err == nil && m.State != store.Draft {
		err = store.ErrConflict
	}
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	merged, clash, err := message.Merge(in.Body.Base, in.Body.Draft, m.Draft)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := mergedView{Revision: m.Revision, Draft: merged, Clash: append([]string{}, clash...)}
	if len(clash) == 0 {
		if out.Revision, err = s.Store.SaveDraft(ctx, in.ID, m.Revision, accountOf(ctx).ID, merged, s.Now()); err != nil {
			return nil, s.problem(ctx, err)
		}
	}
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if out.Draft.Audience.Parts == nil {
		out.Draft.Audience.Parts = emptyDraft().Audience.Parts
	}
	out.Labels = labels(r, out.Draft.Audience)
	return &body[mergedView]{out}, nil
}
