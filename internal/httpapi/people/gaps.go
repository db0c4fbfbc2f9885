package people

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
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

func (s *Area) gapRoutes(api huma.API) {
	route.Get(api, "/gaps", "gaps", "Who cannot be reached, and why", s.gaps, seesPeople...)
	route.Add(
		api,
		route.New(http.MethodPost, "/gaps/sheets", "sheets", "Sheets to print that ask households for their details", access.EditPeople).Takes(mostPeople),
		s.sheets,
	)
}

func (s *Area) gaps(ctx context.Context, _ *struct{}) (*route.Body[gapsView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	waiting, err := s.Editor.Waiting(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
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
			v.Units = append(v.Units, gapCount{Name: name, People: n})
		}
		for role, n := range g.Roles {
			v.Roles = append(v.Roles, gapCount{Name: string(role), People: n})
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
	return route.Answer(out), nil
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

func (s *Area) sheets(ctx context.Context, in *route.Body[Chosen]) (*route.Body[sheetsView], error) {
	d, err := s.Editor.View(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
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
				return nil, s.Problem(ctx, err)
			}
			v.Date = until.Format(time.DateOnly)
			v.People = append(v.People, one)
		}
		out.Households = append(out.Households, v)
	}
	return route.Answer(out), nil
}

func (s *Area) sheetPerson(ctx context.Context, r *roster.Roster, i int) (sheetPerson, time.Time, error) {
	p := r.At(i)
	one := sheetPerson{
		Name: p.Name(), About: []string{}, Details: editing.DetailsOf(r.Sheet(p.ID)),
		Speaks: roster.OwnLanguageName(p.Language),
	}
	for _, id := range r.ToldAbout(i) {
		one.About = append(one.About, r.PersonName(id))
	}
	if r.Guest(p.ID) {
		return one, s.Now(), nil
	}
	token, until, err := s.Editor.Link(ctx, route.By(ctx), p.ID)
	one.Link = ownPath + token
	return one, until, err
}
