package httpapi

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

func (s *server) editRoutes(api huma.API) {
	add(api, post("/people", "add-person", "Put somebody on the roster", access.EditPeople), s.addPerson)
	add(api, put("/people/{id}", "save-person", "Keep the changes of a person", access.EditPeople), s.savePerson)
	add(api, post("/people/check", "check-person", "What would be wrong with a person", access.EditPeople), s.checkPerson)
	add(
		api, post("/people/alter", "alter-people", "Do one thing to many people", access.EditPeople).takes(mostPeople),
		s.alterPeople,
	)
	add(
		api, post("/people/removal", "removal", "What removing people would take along", access.EditPeople).takes(mostPeople),
		s.removal,
	)
	add(
		api, post("/people/remove", "remove-people", "Take people off the roster", access.EditPeople).takes(mostPeople),
		s.removePeople,
	)
	add(api, post("/people/merge", "merge-people", "Make one of people who are one", access.EditPeople), s.mergePeople)
	add(api, get("/edits", "edits", "What was done to the roster", access.SeePeople, access.EditPeople), s.edits)
	add(api, post("/edits/{id}/undo", "undo", "Take an edit back", access.EditPeople), s.undo)
	add(api, get("/twins", "twins", "People who are likely on the roster twice", access.EditPeople), s.twins)
	add(api, post("/twins/apart", "apart", "Say that two people are two", access.EditPeople), s.apart)
}

func viewDone(d editing.Done) *body[doneView] {
	return &body[doneView]{doneView{d.Edit, d.Said, d.People, d.Person, append([]entry.Remark{}, d.Issues...)}}
}

// personProblem is a problem of one person's sheet, with what is wrong or what
// somebody else changed, field by field.
func (s *server) personProblem(ctx context.Context, err error) error {
	var refused *editing.Refused
	var overtaken *editing.Overtaken
	switch {
	case errors.As(err, &refused):
		model := huma.ErrorModel{
			Title: http.StatusText(http.StatusUnprocessableEntity), Status: http.StatusUnprocessableEntity,
			Detail: "Nothing was saved: " + sentence(err), Errors: []*huma.ErrorDetail{},
		}
		for _, i := range refused.Remarks {
			if i.Refused {
				model.Errors = append(model.Errors, &huma.ErrorDetail{Location: i.Field, Message: i.Reason, Value: i.Value})
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
				model.Errors = append(model.Errors, &huma.ErrorDetail{Location: c.What, Message: changed(e.By, c), Value: c.To})
			}
		}
		return &model
	}
	return s.problem(ctx, err)
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

func (s *server) addPerson(ctx context.Context, in *body[roster.Sheet]) (*body[doneView], error) {
	done, err := s.Editor.Add(ctx, accountOf(ctx), &in.Body)
	return viewDone(done), s.personProblem(ctx, err)
}

func (s *server) savePerson(ctx context.Context, in *struct {
	PersonID
	Body roster.Sheet
}) (*body[doneView], error) {
	in.Body.ID = in.ID
	done, err := s.Editor.Save(ctx, accountOf(ctx), &in.Body)
	return viewDone(done), s.personProblem(ctx, err)
}

func (s *server) checkPerson(ctx context.Context, in *body[roster.Sheet]) (*body[[]entry.Remark], error) {
	issues, err := s.Editor.Check(ctx, accountOf(ctx), &in.Body)
	return &body[[]entry.Remark]{append([]entry.Remark{}, issues...)}, s.problem(ctx, err)
}

func (s *server) alterPeople(ctx context.Context, in *struct {
	Body struct {
		Chosen
		Alteration entry.Alteration `json:"alteration"`
	}
}) (*body[doneView], error) {
	done, err := s.Editor.Alter(ctx, accountOf(ctx), in.Body.People, in.Body.Alteration)
	return viewDone(done), s.problem(ctx, err)
}

type removalView struct {
	People      int         `json:"people"`
	Addresses   int         `json:"addresses"`
	Memberships int         `json:"memberships"`
	Ties        int         `json:"ties"`
	Alone       namedPeople `json:"alone" doc:"Dependents for whom nobody would receive any more"`
}

func (s *server) removal(ctx context.Context, in *body[Chosen]) (*body[removalView], error) {
	taken, err := s.Editor.Removal(ctx, accountOf(ctx), in.Body.People)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[removalView]{
		removalView{taken.People, taken.Addresses, taken.Memberships, taken.Ties, namePeople(r, taken.Alone)},
	}, nil
}

func (s *server) removePeople(ctx context.Context, in *body[Chosen]) (*body[doneView], error) {
	done, err := s.Editor.Remove(ctx, accountOf(ctx), in.Body.People)
	return viewDone(done), s.problem(ctx, err)
}

func (s *server) mergePeople(ctx context.Context, in *struct {
	Body struct {
		Keep   roster.PersonID   `json:"keep"`
		Others []roster.PersonID `json:"others" minItems:"1" maxItems:"20"`
	}
}) (*body[doneView], error) {
	done, err := s.Editor.Merge(ctx, accountOf(ctx), in.Body.Keep, in.Body.Others)
	return viewDone(done), s.problem(ctx, err)
}

type editView struct {
	ID     int64     `json:"id"`
	Kind   string    `json:"kind" enum:"edit,add,remove,merge,import,undo,update"`
	Said   string    `json:"said"`
	By     string    `json:"by"`
	People int       `json:"people"`
	At     time.Time `json:"at"`
	Undone bool      `json:"undone"`
	Mine   bool      `json:"mine"`
}

// edits lists what was done; an account that does not reach the whole
// organisation sees what it did itself.
func (s *server) edits(ctx context.Context, in *Page) (*body[[]editView], error) {
	account := accountOf(ctx)
	own := account.ID
	if account.Scope.Whole {
		own = 0
	}
	list, err := s.Store.Edits(ctx, own, in.First, in.Count)
	out := []editView{}
	for _, e := range list {
		out = append(out, editView{e.ID, e.Kind, e.Said, e.By, e.People, e.At, e.Undone, e.Owner == account.ID})
	}
	return &body[[]editView]{out}, s.problem(ctx, err)
}

type undoneView struct {
	Said string            `json:"said"`
	Edit int64             `json:"edit"`
	Kept []roster.PersonID `json:"kept" doc:"Who was changed since and stays as they are"`
}

func (s *server) undo(ctx context.Context, in *struct {
	ID int64 `path:"id"`
}) (*body[undoneView], error) {
	undone, said, err := s.Editor.Undo(ctx, accountOf(ctx), in.ID)
	if errors.Is(err, store.ErrConflict) {
		return nil, huma.Error409Conflict(
			"This was undone already, or somebody is changing the same people. Nothing was changed.",
		)
	}
	return &body[undoneView]{
		undoneView{said, undone.Edit, append([]roster.PersonID{}, undone.Kept...)},
	}, s.problem(ctx, err)
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

func (s *server) twins(ctx context.Context, in *Page) (*body[twinsView], error) {
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	apart, err := s.Store.Apart(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	pairs := twins.Find(r, func(a, b roster.PersonID) bool { return apart[[2]roster.PersonID{min(a, b), max(a, b)}] })
	out := twinsView{Pairs: []twinView{}, All: len(pairs)}
	for _, p := range window(pairs, *in) {
		side := func(i int) twinSide { return twinSide{viewPerson(r, i), r.At(i).BornOn, viewTies(r, i)} }
		out.Pairs = append(out.Pairs, twinView{side(p.A), side(p.B), p.Reasons, p.Likely})
	}
	return &body[twinsView]{out}, nil
}

func (s *server) apart(ctx context.Context, in *struct {
	Body struct {
		A roster.PersonID `json:"a"`
		B roster.PersonID `json:"b"`
	}
}) (*struct{}, error) {
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	if r.Person(in.Body.A) == nil || r.Person(in.Body.B) == nil {
		return nil, s.problem(ctx, store.ErrNotFound)
	}
	return nil, s.problem(ctx, s.Store.SetApart(ctx, in.Body.A, in.Body.B))
}
