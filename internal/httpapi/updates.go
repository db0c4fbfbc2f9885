package httpapi

import (
	"context"
	"errors"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
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
	Languages    []choice        `json:"languages" doc:"Named in themselves"`
	PushKey      string          `json:"pushKey" doc:"To which a device that is to get messages is connected, base64url"`
	Unconnected  []string        `json:"unconnected" doc:"Their devices on the roster that get no messages yet"`
	Until        string          `json:"until" doc:"The last day, ISO 8601"`
}

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

func (s *server) updateRoutes(api huma.API) {
	add(
		api, post("/people/{id}/link", "make-link", "A link by which somebody corrects their own details", access.EditPeople),
		s.makeLink,
	)
	add(api, get("/update/{token}", "visit", "What the holder of a link sees"), s.visit)
	add(api, put("/update/{token}", "correct", "What the holder of a link corrects").small(), s.correct)
	add(api, get("/updates", "updates", "Corrections that wait for a yes", access.EditPeople), s.updates)
	add(api, post("/updates/{id}/accept", "accept-update", "Say yes to a correction", access.EditPeople), s.accept)
	add(api, post("/updates/{id}/decline", "decline-update", "Leave things as they are", access.EditPeople), s.decline)
}

func (s *server) makeLink(ctx context.Context, in *PersonID) (*body[linkView], error) {
	token, until, err := s.Editor.Link(ctx, accountOf(ctx), in.ID)
	return &body[linkView]{linkView{"/update/" + token, until}}, s.problem(ctx, err)
}

// visitProblem answers a link that does not work with the words that its
// holder may not read; the page says it in theirs.
func (s *server) visitProblem(ctx context.Context, err error) error {
	if errors.Is(err, link.ErrExpired) || errors.Is(err, link.ErrNotOurs) {
		return huma.Error404NotFound("This link no longer works. Ask for a new one.")
	}
	return s.personProblem(ctx, err)
}

func (s *server) visit(ctx context.Context, in *Token) (*body[visitView], error) {
	d, sheet, until, err := s.Editor.Visit(ctx, in.Token)
	if err != nil {
		return nil, s.visitProblem(ctx, err)
	}
	out := visitView{
		Organisation: d.Organisation.Name, Name: sheet.First(), Words: phrase.In(sheet.Language, d.Organisation.Language),
		Details: editing.DetailsOf(sheet), Languages: []choice{}, Until: until.Format(time.DateOnly),
		PushKey: d.Organisation.PushKeys.Public, Unconnected: editing.Unconnected(sheet),
	}
	for _, tag := range d.Roster.Languages(append([]string{d.Organisation.Language}, d.Organisation.Languages...)) {
		out.Languages = append(out.Languages, choice{tag, roster.OwnLanguageName(tag)})
	}
	return &body[visitView]{out}, nil
}

func (s *server) correct(ctx context.Context, in *struct {
	Token
	Body editing.Details
}) (*body[correctedView], error) {
	if d := in.Body.Device; d != nil {
		if err := carrier.CheckDevice(carrier.Device{Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth}); err != nil {
			return nil, huma.Error422UnprocessableEntity("This device cannot be connected: " + err.Error() + ".")
		}
	}
	waits, err := s.Editor.Correct(ctx, in.Token.Token, in.Body)
	return &body[correctedView]{correctedView{waits}}, s.visitProblem(ctx, err)
}

func (s *server) updates(ctx context.Context, _ *struct{}) (*body[[]waitingView], error) {
	list, err := s.Editor.Waiting(ctx, accountOf(ctx))
	out := []waitingView{}
	for _, w := range list {
		out = append(out, waitingView{
			w.Update.ID, w.Person.ID, w.Person.Name(), w.Update.At, append([]roster.Change{}, w.Changes...),
		})
	}
	return &body[[]waitingView]{out}, s.problem(ctx, err)
}

type UpdateID struct {
	ID int64 `path:"id"`
}

func (s *server) accept(ctx context.Context, in *UpdateID) (*body[doneView], error) {
	done, err := s.Editor.Decide(ctx, accountOf(ctx), in.ID, true)
	return viewDone(done), s.personProblem(ctx, err)
}

func (s *server) decline(ctx context.Context, in *UpdateID) (*body[doneView], error) {
	done, err := s.Editor.Decide(ctx, accountOf(ctx), in.ID, false)
	return viewDone(done), s.personProblem(ctx, err)
}
