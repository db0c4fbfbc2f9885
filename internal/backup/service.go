package backup

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"sync"
	"time"

	"filippo.io/age"

	"upperlantern/internal/core/retention"
	"upperlantern/internal/store"
)

// Service makes backups of a folder that is served, and keeps some of them.
type Service struct {
	Store  *store.Store
	Folder string        // where they are kept
	Key    age.Recipient // nil leaves them unencrypted
	Now    func() time.Time
	Log    *slog.Logger

	making  sync.Mutex
	mu      sync.Mutex
	running bool
	problem string // of the last that failed, or ""
}

// Made is a backup that was made and read back.
type Made struct {
	Name string
	At   time.Time
	Size int64
}

// State is how backups are.
type State struct {
	Folder    string
	Encrypted bool
	List      []Made // the newest first
	Running   bool
	Problem   string // of the last that failed, or ""
}

const nameTime = "2006-01-02T150405Z"

var fileName = regexp.MustCompile(`^lantern-(\d{4}-\d{2}-\d{2}T\d{6}Z)\.tar\.zst(\.age)?$`)

// ErrRunning means that a backup is being made already.
var ErrRunning = errors.New("a backup is being made already")

// Make makes a backup now and drops those that are no longer kept.
func (s *Service) Make(ctx context.Context) (err error) {
	if !s.making.TryLock() {
		return ErrRunning
	}
	defer s.making.Unlock()
	s.note(true, nil)
	defer func() { s.note(false, err) }()
	if err := os.MkdirAll(s.Folder, 0o700); err != nil {
		return fmt.Errorf("the folder of the backups cannot be used: %w", err)
	}
	if err := s.clear(); err != nil {
		return err
	}
	now := s.Now()
	name := "lantern-" + now.UTC().Format(nameTime) + ".tar.zst"
	if s.Key != nil {
		name += ".age"
	}
	if err := Write(ctx, s.Store, filepath.Join(s.Folder, name), s.Key, now); err != nil {
		return err
	}
	return s.drop(ctx)
}

func (s *Service) note(running bool, err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.running = running
	if !running {
		s.problem = ""
		if err != nil {
			s.problem = err.Error()
		}
	}
}

// clear removes what an interrupted backup left.
func (s *Service) clear() error {
	for _, pattern := range []string{"lantern-*" + partial, ".copying-*"} {
		left, err := filepath.Glob(filepath.Join(s.Folder, pattern))
		if err != nil {
			return err
		}
		for _, path := range left {
			if err := os.RemoveAll(path); err != nil {
				return fmt.Errorf("removing what an interrupted backup left: %w", err)
			}
		}
	}
	return nil
}

// drop removes the backups that are no longer kept.
func (s *Service) drop(ctx context.Context) error {
	list, err := s.list()
	if err != nil {
		return err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return err
	}
	made := make([]time.Time, len(list))
	for i, m := range list {
		made[i] = m.At
	}
	kept := retention.Usual.Kept(made, zone)
	for _, m := range list {
		if slices.ContainsFunc(kept, m.At.Equal) {
			continue
		}
		if err := removed(filepath.Join(s.Folder, m.Name)); err != nil {
			return fmt.Errorf("removing an old backup: %w", err)
		}
	}
	return nil
}

func (s *Service) list() ([]Made, error) {
	entries, err := os.ReadDir(s.Folder)
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("the folder of the backups cannot be read: %w", err)
	}
	var list []Made
	for _, e := range entries {
		parts := fileName.FindStringSubmatch(e.Name())
		if parts == nil {
			continue
		}
		at, err := time.Parse(nameTime, parts[1])
		info, failed := e.Info()
		if err != nil || failed != nil {
			continue // no name that we give, or gone meanwhile
		}
		list = append(list, Made{Name: e.Name(), At: at, Size: info.Size()})
	}
	slices.SortFunc(list, func(a, b Made) int { return b.At.Compare(a.At) })
	return list, nil
}

// State is how backups are now.
func (s *Service) State() (State, error) {
	list, err := s.list()
	s.mu.Lock()
	defer s.mu.Unlock()
	return State{
		Folder: s.Folder, Encrypted: s.Key != nil, List: list, Running: s.running, Problem: s.problem,
	}, err
}

// Missing reports whether there is no backup that is new enough, and none is being made.
func (s *Service) Missing() bool {
	state, err := s.State()
	return err != nil || !state.Running && retention.Old(state.Last(), s.Now())
}

// Last is when the newest was made; zero when there is none.
func (s State) Last() time.Time {
	if len(s.List) == 0 {
		return time.Time{}
	}
	return s.List[0].At
}

// lookEvery is how often it is looked whether a backup is due.
const lookEvery = 10 * time.Minute

// Run makes backups when they are due, until ctx ends.
func (s *Service) Run(ctx context.Context) {
	for {
		state, err := s.State()
		if err == nil && retention.Due(state.Last(), s.Now()) {
			err = s.Make(ctx)
		}
		if err != nil && !errors.Is(err, ErrRunning) && ctx.Err() == nil {
			s.Log.Error("making a backup", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(lookEvery):
		}
	}
}
