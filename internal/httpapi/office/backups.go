package office

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/backup"
	"upperlantern/internal/core/access"
	"upperlantern/internal/httpapi/route"
)

type backupView struct {
	Name string    `json:"name"`
	At   time.Time `json:"at"`
	Size int64     `json:"size" doc:"In bytes"`
}

type backupsView struct {
	On        bool         `json:"on" doc:"Backups are made every day"`
	Folder    string       `json:"folder"`
	Encrypted bool         `json:"encrypted"`
	Running   bool         `json:"running" doc:"One is being made"`
	Problem   string       `json:"problem" doc:"Of the last that failed, or empty"`
	Missing   bool         `json:"missing" doc:"There is none that is new enough"`
	List      []backupView `json:"list" doc:"Those that were made and read back, the newest first"`
}

func (s *Area) backupRoutes(api huma.API) {
	route.Get(api, "/backups", "backups", "How backups are", s.backups, access.ChangeSettings)
	route.Add(
		api, route.New(http.MethodPost, "/backups", "make-backup", "Make a backup now", access.ChangeSettings).Small(),
		s.makeBackup,
	)
}

func (s *Area) backups(ctx context.Context, _ *struct{}) (*route.Body[backupsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	out := backupsView{List: []backupView{}}
	if s.Backups == nil {
		return route.Answer(out), nil
	}
	state, err := s.Backups.State()
	if err != nil {
		state.Problem = err.Error()
	}
	out.On, out.Folder, out.Encrypted, out.Running = true, state.Folder, state.Encrypted, state.Running
	out.Problem, out.Missing = state.Problem, s.Backups.Missing()
	for _, m := range state.List {
		out.List = append(out.List, backupView(m))
	}
	return route.Answer(out), nil
}

// makeBackup makes one, however long that takes: it goes on when nobody waits for it.
func (s *Area) makeBackup(ctx context.Context, _ *struct{}) (*route.Body[backupsView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if s.Backups == nil {
		return nil, huma.Error409Conflict("No backups are made here: name a folder for them when the program starts.")
	}
	err := s.Backups.Make(context.WithoutCancel(ctx))
	if errors.Is(err, backup.ErrRunning) {
		return nil, huma.Error409Conflict(route.Sentence(err))
	}
	return s.backups(ctx, nil) // what went wrong stands in it
}
