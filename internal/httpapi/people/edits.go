package people

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/twins"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
	"upperlantern/internal/store"
)

// mostPeople is how many people one request may be about.
const mostPeople = 4 << 20 // bytes of their identifiers: about half a million

type doneView struct {
	Edit   int64           `json:"edit" doc:"To undo it by; 0 when nothing changed"`
	Said   string          `json:"said"`
	People int             `json:"people"`
	Person roster.PersonID `json:"person" doc:"The one it is about, or 0"`
	Issues []entry.Remark  `json:"issues" doc:"What is unlikely about it"`
}

type PersonID struct {
	ID roster.PersonID `path:"id"`
}

type Chosen struct {
	People []roster.PersonID `json:"people"`
}

func (s *Area) editRoutes(api huma.API) {
	route.Post(api, "/people", "add-person", "Put somebody on the roster", s.addPerson, access.EditPeople)
	route.Put(api, "/people/{id}", "save-person", "Keep the changes of a person", s.savePerson, access.EditPeople)
	route.Post(
		api, "/people/check", "check-person", "What would be wrong with a person",
		s.checkPerson, access.EditPeople,
	)
	route.Add(
		api,
		route.New(http.MethodPost, "/people/alter", "alter-people", "Do one thing to many people", access.EditPeople).Takes(mostPeople),
		s.alterPeople,
	)
	route.Add(
		api,
		route.New(http.MethodPost, "/people/removal", "removal", "What removing people would take along", access.EditPeople).Takes(mostPeople),
		s.removal,
	)
	route.Add(
		api,
		route.New(http.MethodPost, "/people/remove", "remove-people", "Take people off the roster", access.EditPeople).Takes(mostPeople),
		s.removePeople,
	)
	route.Post(api, "/people/merge", "merge-people", "Make one of people who are one", s.mergePeople, access.EditPeople)
	route.Get(api, "/edits", "edits", "What was done to the roster", s.edits, access.SeePeople, access.EditPeople)
	route.Post(api, "/edits/{id}/undo", "undo", "Take an edit back", s.undo, access.EditPeople)
	route.Get(api, "/twins", "twins", "People who are likely on the roster twice", s.twins, access.EditPeople)
	route.Post(api, "/twins/apart", "apart", "Say that two people are two", s.apart, access.EditPeople)
}

func viewDone(d editing.Done) *route.Body[doneView] {
	return route.Answer(
		doneView{
			Edit:   d.Edit,
			Said:   d.Said,
			People: d.People,
			Person: d.Person,
			Issues: append([]entry.Remark{}, d.Issues...),
		},
	)
}

// personProblem is a problem of one person's sheet, with what is wrong or what
// somebody else changed, field by field.
func (s *Area) personProblem(ctx context.Context, err error) error {
	var refused *editing.Refused
	var overtaken *editing.Overtaken
	switch {
	case errors.As(err, &refused):
		model := huma.ErrorModel{
			Title: http.StatusText(http.StatusUnprocessableEntity), Status: http.StatusUnprocessableEntity,
			Detail: "Nothing was saved: " + route.Sentence(err), Errors: []*huma.ErrorDetail{},
		}
		for _, i := range refused.Remarks {
			if i.Refused {
				model.Errors = append(
					model.Errors,
					&huma.ErrorDetail{Location: i.Field, Message: i.Reason, Value: i.Value},
				)
			}
		}
		return &model
	case errors.As(err, &overtaken):
		model := huma.ErrorModel{
			Title: http.StatusText(http.StatusConflict), Status: http.StatusConflict,
			Detail: "Nothing was saved: somebody else changed this person in the meantime.", Errors: []*huma.ErrorDetail{},
		}
		for _, e := range overtaken.Since {
			for _, c := range e.Changes {
				model.Errors = append(
					model.Errors,
					&huma.ErrorDetail{Location: c.What, Message: changed(e.By, c), Value: c.To},
				)
			}
		}
		return &model
	}
	return s.Problem(ctx, err)
}

func changed(by string, c roster.Change) string {
	if by == "" {
		by = "they themselves"
	}
	switch {
	case c.From == "":
		return by + " added " + c.To
	case c.To == "":
		return by + " took away " + c.From
	}
	return by + " changed " + c.From + " to " + c.To
}

func (s *Area) addPerson(ctx context.Context, in *route.Body[roster.Sheet]) (*route.Body[doneView], error) {
	done, err := s.Editor.Add(ctx, route.By(ctx), &in.Body)
	return viewDone(done), s.personProblem(ctx, err)
}

func (s *Area) savePerson(ctx context.Context, in *struct {
	PersonID
	Body roster.Sheet
}) (*route.Body[doneView], error) {
	in.Body.ID = in.ID
	done, err := s.Editor.Save(ctx, route.By(ctx), &in.Body)
	return viewDone(done), s.personProblem(ctx, err)
}

func (s *Area) checkPerson(ctx context.Context, in *route.Body[roster.Sheet]) (*route.Body[[]entry.Remark], error) {
	issues, err := s.Editor.Check(ctx, route.By(ctx), &in.Body)
	return route.Answer(append([]entry.Remark{}, issues...)), s.Problem(ctx, err)
}

func (s *Area) alterPeople(ctx context.Context, in *struct {
	Body struct {
		Chosen
		Alteration entry.Alteration `json:"alteration"`
	}
}) (*route.Body[doneView], error) {
	done, err := s.Editor.Alter(ctx, route.By(ctx), in.Body.People, in.Body.Alteration)
	return viewDone(done), s.Problem(ctx, err)
}

type removalView struct {
	People      int              `json:"people"`
	Addresses   int              `json:"addresses"`
	Memberships int              `json:"memberships"`
	Ties        int              `json:"ties"`
	Alone       view.NamedPeople `json:"alone" doc:"Dependents for whom nobody would receive any more"`
}

func (s *Area) removal(ctx context.Context, in *route.Body[Chosen]) (*route.Body[removalView], error) {
	taken, err := s.Editor.Removal(ctx, route.By(ctx), in.Body.People)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(
		removalView{
			People:      taken.People,
			Addresses:   taken.Addresses,
			Memberships: taken.Memberships,
			Ties:        taken.Ties,
			Alone:       view.NamePeople(r, taken.Alone),
		},
	), nil
}

func (s *Area) removePeople(ctx context.Context, in *route.Body[Chosen]) (*route.Body[doneView], error) {
	done, err := s.Editor.Remove(ctx, route.By(ctx), in.Body.People)
	return viewDone(done), s.Problem(ctx, err)
}

func (s *Area) mergePeople(ctx context.Context, in *struct {
	Body struct {
		Keep   roster.PersonID   `json:"keep"`
		Others []roster.PersonID `json:"others" minItems:"1" maxItems:"20"`
	}
}) (*route.Body[doneView], error) {
	done, err := s.Editor.Merge(ctx, route.By(ctx), in.Body.Keep, in.Body.Others)
	return viewDone(done), s.Problem(ctx, err)
}

type editView struct {
	ID     int64           `json:"id"`
	Kind   roster.EditKind `json:"kind"`
	Said   string          `json:"said"`
	By     string          `json:"by"`
	People int             `json:"people"`
	At     time.Time       `json:"at"`
	Undone bool            `json:"undone"`
	Mine   bool            `json:"mine"`
}

// edits lists what was done; an account that does not reach the whole
// organisation sees what it did itself.
func (s *Area) edits(ctx context.Context, in *route.Page) (*route.Body[[]editView], error) {
	account := route.By(ctx)
	own := account.ID
	if account.Scope.Whole {
		own = 0
	}
	list, err := s.Store.Edits(ctx, own, in.First, in.Count)
	out := []editView{}
	for _, e := range list {
		out = append(out, editView{
			ID:     e.ID,
			Kind:   e.Kind,
			Said:   e.Said,
			By:     e.By,
			People: e.People,
			At:     e.At,
			Undone: e.Undone,
			Mine:   e.Owner == account.ID,
		})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

type undoneView struct {
	Said string            `json:"said"`
	Edit int64             `json:"edit"`
	Kept []roster.PersonID `json:"kept" doc:"Who was changed since and stays as they are"`
}

func (s *Area) undo(ctx context.Context, in *struct {
	ID int64 `path:"id"`
}) (*route.Body[undoneView], error) {
	undone, said, err := s.Editor.Undo(ctx, route.By(ctx), in.ID)
	if errors.Is(err, store.ErrConflict) {
		return nil, huma.Error409Conflict(
			"This was undone already, or somebody is changing the same people. Nothing was changed.",
		)
	}
	return route.Answer(
			undoneView{Said: said, Edit: undone.Edit, Kept: append([]roster.PersonID{}, undone.Kept...)},
		), s.Problem(
			ctx,
			err,
		)
}

type twinView struct {
	A       twinSide `json:"a"`
	B       twinSide `json:"b"`
	Reasons []string `json:"reasons"`
	Likely  bool     `json:"likely" doc:"More than the same name speaks for it"`
}

type twinSide struct {
	PersonView
	BornOn roster.Date `json:"bornOn"`
	Ties   []tieView   `json:"ties"`
}

type twinsView struct {
	Pairs []twinView `json:"pairs"`
	All   int        `json:"all"`
}

func (s *Area) twins(ctx context.Context, in *route.Page) (*route.Body[twinsView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	apart, err := s.Store.Apart(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	pairs := twins.Find(r, func(a, b roster.PersonID) bool { return apart[[2]roster.PersonID{min(a, b), max(a, b)}] })
	out := twinsView{Pairs: []twinView{}, All: len(pairs)}
	for _, p := range route.Window(pairs, *in) {
		side := func(i int) twinSide {
			return twinSide{PersonView: viewPerson(r, i), BornOn: r.At(i).BornOn, Ties: viewTies(r, i)}
		}
		out.Pairs = append(out.Pairs, twinView{A: side(p.A), B: side(p.B), Reasons: p.Reasons, Likely: p.Likely})
	}
	return route.Answer(out), nil
}

func (s *Area) apart(ctx context.Context, in *struct {
	Body struct {
		A roster.PersonID `json:"a"`
		B roster.PersonID `json:"b"`
	}
}) (*struct{}, error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	if r.Person(in.Body.A) == nil || r.Person(in.Body.B) == nil {
		return nil, s.Problem(ctx, store.ErrNotFound)
	}
	return nil, s.Problem(ctx, s.Store.SetApart(ctx, in.Body.A, in.Body.B))
}
