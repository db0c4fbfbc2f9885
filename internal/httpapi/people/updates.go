package people

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
)

type linkView struct {
	Path  string    `json:"path" doc:"Where they correct their own details"`
	Until time.Time `json:"until"`
}

type visitView struct {
	Organisation string          `json:"organisation"`
	Name         string          `json:"name"`
	Words        phrase.Words    `json:"words" doc:"The page's words in their language"`
	Details      editing.Details `json:"details"`
	Languages    []view.Choice   `json:"languages" doc:"Named in themselves"`
	PushKey      string          `json:"pushKey" doc:"To which a device that is to get messages is connected, base64url"`
	Unconnected  []string        `json:"unconnected" doc:"Their devices on the roster that get no messages yet"`
}

// ownPath is below which the interface has personal pages.
const ownPath = "/own/"

type correctedView struct {
	Waits bool `json:"waits" doc:"It is saved once somebody has looked at it"`
}

type waitingView struct {
	ID      int64           `json:"id"`
	Person  roster.PersonID `json:"person"`
	Name    string          `json:"name"`
	At      time.Time       `json:"at"`
	Changes []roster.Change `json:"changes"`
}

type Token struct {
	Token string `path:"token" maxLength:"100"`
}

func (s *Area) updateRoutes(api huma.API) {
	route.Post(
		api, "/people/{id}/link", "make-link", "A link by which somebody corrects their own details",
		s.makeLink, access.EditPeople,
	)
	route.Get(api, "/own/{token}/details", "visit", "What the roster has of the holder of a page", s.visit)
	route.Add(
		api,
		route.New(http.MethodPut, "/own/{token}/details", "correct", "What the holder of a page corrects").Small(),
		s.correct,
	)
	route.Get(api, "/updates", "updates", "Corrections that wait for a yes", s.updates, access.EditPeople)
	route.Post(api, "/updates/{id}/accept", "accept-update", "Say yes to a correction", s.accept, access.EditPeople)
	route.Post(api, "/updates/{id}/decline", "decline-update", "Leave things as they are", s.decline, access.EditPeople)
}

func (s *Area) makeLink(ctx context.Context, in *PersonID) (*route.Body[linkView], error) {
	token, until, err := s.Editor.Link(ctx, route.By(ctx), in.ID)
	return route.Answer(linkView{Path: ownPath + token, Until: until}), s.Problem(ctx, err)
}

// visitProblem answers a link that does not work with the words that its
// holder may not read; the page says it in theirs.
func (s *Area) visitProblem(ctx context.Context, err error) error {
	if errors.Is(err, link.ErrExpired) || errors.Is(err, link.ErrNotOurs) {
		return huma.Error404NotFound("This link no longer works. Ask for a new one.")
	}
	return s.personProblem(ctx, err)
}

func (s *Area) visit(ctx context.Context, in *Token) (*route.Body[visitView], error) {
	d, err := s.Editor.Visit(ctx, in.Token)
	if err != nil {
		return nil, s.visitProblem(ctx, err)
	}
	sheet := d.Sheet
	out := visitView{
		Organisation: d.Organisation.Name, Name: sheet.First(), Words: phrase.In(sheet.Language, d.Organisation.Language),
		Details: editing.DetailsOf(sheet), Languages: []view.Choice{},
		PushKey: d.Organisation.PushKeys.Public, Unconnected: editing.Unconnected(sheet),
	}
	for _, tag := range d.Roster.Languages(append([]string{d.Organisation.Language}, d.Organisation.Languages...)) {
		out.Languages = append(out.Languages, view.Choice{Value: tag, Words: roster.OwnLanguageName(tag)})
	}
	return route.Answer(out), nil
}

func (s *Area) correct(ctx context.Context, in *struct {
	Token
	Body editing.Details
}) (*route.Body[correctedView], error) {
	if d := in.Body.Device; d != nil {
		if err := carrier.CheckDevice(carrier.Device{Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth}); err != nil {
			return nil, huma.Error422UnprocessableEntity("This device cannot be connected: " + err.Error() + ".")
		}
	}
	waits, err := s.Editor.Correct(ctx, in.Token.Token, in.Body)
	return route.Answer(correctedView{Waits: waits}), s.visitProblem(ctx, err)
}

func (s *Area) updates(ctx context.Context, _ *struct{}) (*route.Body[[]waitingView], error) {
	list, err := s.Editor.Waiting(ctx, route.By(ctx))
	out := []waitingView{}
	for _, w := range list {
		out = append(out, waitingView{
			ID: w.Update.ID, Person: w.Person.ID, Name: w.Person.Name(), At: w.Update.At,
			Changes: append([]roster.Change{}, w.Changes...),
		})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

type UpdateID struct {
	ID int64 `path:"id"`
}

func (s *Area) accept(ctx context.Context, in *UpdateID) (*route.Body[doneView], error) {
	done, err := s.Editor.Decide(ctx, route.By(ctx), in.ID, true)
	return viewDone(done), s.personProblem(ctx, err)
}

func (s *Area) decline(ctx context.Context, in *UpdateID) (*route.Body[doneView], error) {
	done, err := s.Editor.Decide(ctx, route.By(ctx), in.ID, false)
	return viewDone(done), s.personProblem(ctx, err)
}
