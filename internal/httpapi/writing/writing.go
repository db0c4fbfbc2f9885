// Package writing is the routes of writing a message: working it out, what it holds,
// moments, letters and the shelf.
package writing

import (
	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/calendar"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/letters"
	"upperlantern/internal/reading"
	"upperlantern/internal/sending"
	"upperlantern/internal/shelf"
	"upperlantern/internal/translation"
)

// Area is what these routes work with.
type Area struct {
	route.Kit
	Sending     *sending.Service
	Calendar    *calendar.Service
	Letters     *letters.Service
	Shelf       *shelf.Service
	Editor      *editing.Editor
	Translation *translation.Service
	Reading     *reading.Service
}

// Routes registers the routes.
func (s *Area) Routes(api huma.API) {
	s.planRoutes(api)
	s.copyRoutes(api)
	s.memoryRoutes(api)
	s.readingRoutes(api)
	s.letterRoutes(api)
	s.contentRoutes(api)
	s.shelfRoutes(api)
	s.calendarRoutes(api)
}
