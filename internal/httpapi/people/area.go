// Package people is the routes of the roster: people, groups, gaps, what people
// correct themselves, roster files in and out.
package people

import (
	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/importer"
	"upperlantern/internal/messages"
	"upperlantern/internal/personal"
	"upperlantern/internal/sending"
)

// Area is what these routes work with.
type Area struct {
	route.Kit
	Messages *messages.Service
	Editor   *editing.Editor
	Importer *importer.Importer
	Boards   *sending.Service
	Personal *personal.Service
}

// Routes registers the routes.
func (s *Area) Routes(api huma.API) {
	s.peopleRoutes(api)
	s.editRoutes(api)
	s.groupRoutes(api)
	s.jobRoutes(api)
	s.gapRoutes(api)
	s.updateRoutes(api)
	s.ownRoutes(api)
	s.exportRoutes(api)
	s.importRoutes(api)
}
