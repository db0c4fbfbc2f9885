package office

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/office"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
)

type officeView struct {
	Now office.Profile `json:"now"`
	view.Places
}

func (s *Area) officeRoutes(api huma.API) {
	route.Get(api, "/settings/organisation", "office", "What the organisation is", s.office, access.ChangeSettings)
	route.Put(
		api, "/settings/organisation", "save-office", "Change what the organisation is and how it appears",
		s.saveOffice, access.ChangeSettings,
	)
}

func (s *Area) office(ctx context.Context, _ *struct{}) (*route.Body[officeView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(officeView{Now: editing.ProfileOf(o), Places: view.AllPlaces()}), nil
}

func (s *Area) saveOffice(ctx context.Context, in *route.Body[office.Profile]) (*route.Body[officeView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	err := s.Editor.SaveOffice(ctx, route.By(ctx), in.Body)
	if err == nil { // its mailboxes, number and clocks are the carriers' too
		err = s.Carriers.Changed(ctx)
	}
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.office(ctx, nil)
}
