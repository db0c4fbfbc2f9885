package httpapi

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
)

type gapCount struct {
	Name   string `json:"name"`
	People int    `json:"people"`
}

type gapView struct {
	Gap    roster.Gap `json:"gap"`
	Words  string     `json:"words"`
	People int        `json:"people"`
	Units  []gapCount `json:"units" doc:"Most first"`
	Roles  []gapCount `json:"roles" doc:"Most first; somebody with two roles counts in both"`
}

type gapsView struct {
	Gaps    []gapView `json:"gaps"`
	All     int       `json:"all" doc:"People on the roster who have not left"`
	Waiting int       `json:"waiting" doc:"Corrections by people themselves that wait for a yes"`
}

func (s *server) gapRoutes(api huma.API) {
	add(api, get("/gaps", "gaps", "Who cannot be reached, and why", seesPeople...), s.gaps)
	add(
		api,
		post(
			"/gaps/sheets", "sheets", "Sheets to print that ask households for their details", access.EditPeople,
		).takes(mostPeople),
		s.sheets,
	)
}

func (s *server) gaps(ctx context.Context, _ *struct{}) (*body[gapsView], error) {
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	waiting, err := s.Editor.Waiting(ctx, accountOf(ctx))
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	out := gapsView{Gaps: []gapView{}, Waiting: len(waiting)}
	for i := range r.Len() {
		if p := r.At(i); p.Status != roster.Left && !r.Guest(p.ID) {
			out.All++
		}
	}
	for _, g := range r.CountGaps() {
		v := gapView{Gap: g.Gap, Words: g.Gap.Words(), People: g.People, Units: []gapCount{}, Roles: []gapCount{}}
		for id, n := range g.Units {
			name := r.UnitPath(id)
			if name == "" {
				name = "in no unit"
			}
			v.Units = append(v.Units, gapCount{name, n})
		}
		for role, n := range g.Roles {
			v.Roles = append(v.Roles, gapCount{string(role), n})
		}
		most := func(a, b gapCount) int {
			if a.People != b.People {
				return b.People - a.People
			}
			return strings.Compare(a.Name, b.Name)
		}
		slices.SortFunc(v.Units, most)
		slices.SortFunc(v.Roles, most)
		out.Gaps = append(out.Gaps, v)
	}
	return &body[gapsView]{out}, nil
}

type sheetPerson struct {
	Name    string          `json:"name"`
	About   []string        `json:"about" doc:"The dependents they get messages about"`
	Details editing.Details `json:"details"`
	Speaks  string          `json:"speaks" doc:"Their language's name in itself"`
	Link    string          `json:"link" doc:"The path of their personal link"`
}

type householdView struct {
	Words  phrase.Words  `json:"words" doc:"The fixed words of the sheet in their language"`
	People []sheetPerson `json:"people"`
	Date   string        `json:"date" doc:"Until when the links hold, ISO 8601"`
}

type sheetsView struct {
	Organisation string          `json:"organisation"`
	Households   []householdView `json:"households"`
}

// mostSheets is how many sheets are printed at once.
const mostSheets = 500

func (s *server) sheets(ctx context.Context, in *body[Chosen]) (*body[sheetsView], error) {
	d, err := s.Editor.View(ctx, accountOf(ctx))
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	var people []int
	for _, id := range in.Body.People {
		if i, ok := d.Roster.Position(id); ok && !d.Roster.Guest(id) {
			people = append(people, i)
		}
	}
	out := sheetsView{Organisation: d.Organisation.Name, Households: []householdView{}}
	households := d.Roster.Households(people)
	for _, h := range households[:min(len(households), mostSheets)] {
		v := householdView{Words: phrase.In(h.Language, d.Organisation.Language), People: []sheetPerson{}}
		for _, i := range h.People {
			one, until, err := s.sheetPerson(ctx, d.Roster, i)
			if err != nil {
				return nil, s.problem(ctx, err)
			}
			v.Date = until.Format(time.DateOnly)
			v.People = append(v.People, one)
		}
		out.Households = append(out.Households, v)
	}
	return &body[sheetsView]{out}, nil
}

func (s *server) sheetPerson(ctx context.Context, r *roster.Roster, i int) (sheetPerson, time.Time, error) {
	p := r.At(i)
	one := sheetPerson{
		Name: p.Name(), About: []string{}, Details: editing.DetailsOf(r.Sheet(p.ID)),
		Speaks: roster.OwnLanguageName(p.Language),
	}
	for _, t := range r.Dependents(i) {
		if t.Receives && !t.Barred {
			one.About = append(one.About, r.PersonName(t.Dependent))
		}
	}
	if r.Guest(p.ID) {
		return one, s.Now(), nil
	}
	token, until, err := s.Editor.Link(ctx, accountOf(ctx), p.ID)
	one.Link = "/update/" + token
	return one, until, err
}
