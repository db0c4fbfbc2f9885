// Package office is the routes of the organisation's settings and of its accounts.
package office

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/backup"
	"upperlantern/internal/carriers"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/passes"
	"upperlantern/internal/store"
)

// Sessions are who is signed in.
type Sessions interface {
	// Hash makes the hash of a new password.
	Hash(ctx context.Context, password string) (string, error)
	// Begin makes the session at hand one of an account.
	Begin(ctx context.Context, account store.Account) error
	// Ended tells that sessions may have ended.
	Ended()
}

// Area is what these routes work with.
type Area struct {
	route.Kit
	Editor   *editing.Editor
	Sessions Sessions
	Backups  *backup.Service // nil when none are made
	Carriers *carriers.Service
	Passes   *passes.Service
	Started
	Conditions
}

// Routes registers the routes.
func (s *Area) Routes(api huma.API) {
	s.settingRoutes(api)
	s.officeRoutes(api)
	s.backupRoutes(api)
	s.carrierRoutes(api)
	s.passRoutes(api)
}
