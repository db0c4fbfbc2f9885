// Package outgoing is the routes of messages: drafts as they are kept, what is sent
// and stopped, what became of it, and the strip.
package outgoing

import (
	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/backup"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/dispatch"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/messages"
	"upperlantern/internal/sending"
)

// Carriers are tried again at once when somebody says so.
type Carriers interface {
	TryNow(channel roster.Channel)
	Conditions(channel roster.Channel) map[int64]dispatch.Condition
}

// Area is what these routes work with.
type Area struct {
	route.Kit
	Messages *messages.Service
	Sending  *sending.Service
	Carriers Carriers
	Backups  *backup.Service // nil when none are made
}

// Routes registers the routes.
func (s *Area) Routes(api huma.API) {
	s.messageRoutes(api)
	s.searchRoutes(api)
	s.versionRoutes(api)
	s.recordRoutes(api)
	s.storyRoutes(api)
	s.needRoutes(api)
	s.boardRoutes(api)
	s.stripRoutes(api)
	s.todayRoutes(api)
}
