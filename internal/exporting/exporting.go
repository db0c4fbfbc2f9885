// Package exporting writes reports, messages and records to files, in the background,
// and keeps these files until they were fetched or nobody came for them.
package exporting

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/exchange"
	"upperlantern/internal/messages"
	"upperlantern/internal/reporting"
	"upperlantern/internal/store"
	"upperlantern/internal/typeset"
)

// Service writes files for accounts.
type Service struct {
	Store     *store.Store
	Messages  *messages.Service
	Reporting *reporting.Service
	Fonts     func() (*typeset.Fonts, error)
	Folder    string // where files are written; what is in it when the program starts is removed
	Now       func() time.Time
	Log       *slog.Logger

	mu      sync.Mutex
	jobs    map[string]*job
	writing sync.WaitGroup
}

// What is written.
type What struct {
	Report  *report.Ask  `json:"report,omitempty" doc:"A report"`
	Search  *seek.Search `json:"search,omitempty" doc:"Messages that are looked for"`
	Message int64        `json:"message,omitempty" doc:"The record of a message"`
}

// Limits of what is written at once, and for how long files are kept.
const (
	mostAtOnce = 2                // of an account
	mostRows   = 1_000_000        // of a file
	keptFor    = 15 * time.Minute // after it was last asked for
)

// Errors of starting a file.
var (
	ErrUnfit  = errors.New("nothing is written")
	ErrRight  = errors.New("your account may not see this")
	ErrAtOnce = errors.New("two files are being written for you already; wait for one of them, or give it up")
)

// State is how far a file is.
type State struct {
	ID     string          `json:"id"`
	Name   string          `json:"name" doc:"Of the file"`
	Format exchange.Format `json:"format"`
	Rows   int             `json:"rows" doc:"Written so far"`
	All    int             `json:"all" doc:"To be written"`
	Done   bool            `json:"done"`
	Failed string          `json:"failed" doc:"Why it came to nothing; empty when it did not"`
}

type job struct {
	State
	account int64
	path    string
	stop    context.CancelFunc
	asked   time.Time // when somebody last asked for it
	running bool
}

// list is what a file says, and how its rows are read.
type list struct {
	exchange.List
	name string // of the file
	rows int
	each func(ctx context.Context, row func(cells []exchange.ListCell, total bool) error) error
}

// Start begins to write a file for somebody. What they may not see is refused at once.
func (s *Service) Start(
	ctx context.Context, by access.Principal, what What, format exchange.Format,
) (State, error) {
	l, err := s.list(ctx, by, what)
	if err != nil {
		return State{}, err
	}
	if l.rows > mostRows {
		return State{}, fmt.Errorf("%w: it would have %d rows, and a file has a million at most; narrow it", ErrUnfit, l.rows)
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return State{}, err
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return State{}, err
	}
	now := s.Now().In(zone)
	l.Made = o.Name + ", made on " + now.Format("2 January 2006 at 15:04") + " by " + by.Name
	if err := os.MkdirAll(s.Folder, 0o700); err != nil {
		return State{}, fmt.Errorf("making room for files: %w", err)
	}
	j, running, err := s.add(by, l, fileName(l.name, now, format), format)
	if err != nil {
		return State{}, err
	}
	s.writing.Go(func() { s.run(running, j, l, format) })
	return s.of(j), nil
}

func (s *Service) add(by access.Principal, l list, name string, format exchange.Format) (*job, context.Context, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.forgetOld()
	busy := 0
	for _, j := range s.jobs {
		if j.account == by.ID && j.running {
			busy++
		}
	}
	if busy >= mostAtOnce {
		return nil, nil, ErrAtOnce
	}
	running, stop := context.WithCancel(context.Background())
	id := rand.Text()
	j := &job{
		State:   State{ID: id, Name: name, Format: format, All: l.rows},
		account: by.ID, path: filepath.Join(s.Folder, id), stop: stop, asked: s.Now(), running: true,
	}
	if s.jobs == nil {
		s.jobs = map[string]*job{}
	}
	s.jobs[id] = j
	return j, running, nil
}

// fileName is a name that any system takes.
func fileName(name string, now time.Time, format exchange.Format) string {
	plain := strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
			return ' '
		}
		return r
	}, name)
	runes := []rune(strings.Join(strings.Fields(plain), " "))
	return strings.TrimSpace(string(runes[:min(len(runes), 60)])) + " " + now.Format(time.DateOnly) + "." + string(format)
}

// forgetOld removes files that nobody asked for in a while.
func (s *Service) forgetOld() {
	for id, j := range s.jobs {
		if s.Now().Sub(j.asked) > keptFor {
			s.forget(id, j)
		}
	}
}

func (s *Service) forget(id string, j *job) {
	j.stop()
	delete(s.jobs, id)
	if j.running {
		return // whoever writes it removes it
	}
	if err := os.Remove(j.path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		s.Log.Warn("a file that was exported could not be removed", "error", err)
	}
}

// run writes a file to its end.
func (s *Service) run(ctx context.Context, j *job, l list, format exchange.Format) {
	err := s.write(ctx, j, l, format)
	s.mu.Lock()
	defer s.mu.Unlock()
	j.running, j.Done = false, err == nil
	if err == nil && s.jobs[j.ID] == j {
		return
	}
	_ = os.Remove(j.path)
	if err != nil && ctx.Err() == nil {
		s.Log.Error("exporting", "file", j.Name, "error", err)
		j.Failed = "It could not be written: " + reason(err) + "."
	}
}

// reason is what a person is told of an error.
func reason(err error) string {
	switch {
	case errors.Is(err, syscall.ENOSPC):
		return "the disk is full"
	case errors.Is(err, typeset.ErrNoFonts):
		return "the fonts of the interface are not here"
	}
	return "the program’s log says why"
}

func (s *Service) write(ctx context.Context, j *job, l list, format exchange.Format) (err error) {
	file, err := os.OpenFile(j.path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, file.Close()) }()
	w, err := exchange.NewListWriter(format, file, l.List, s.Fonts)
	if err != nil {
		return err
	}
	err = l.each(ctx, func(cells []exchange.ListCell, total bool) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		if !total {
			s.mu.Lock()
			j.Rows++
			s.mu.Unlock()
		}
		return w.Row(cells, total)
	})
	return errors.Join(err, w.Close())
}

// State is how far somebody's file is.
func (s *Service) State(by access.Principal, id string) (State, error) {
	j, err := s.find(by, id)
	if err != nil {
		return State{}, err
	}
	return s.of(j), nil
}

func (s *Service) of(j *job) State {
	s.mu.Lock()
	defer s.mu.Unlock()
	return j.State
}

func (s *Service) find(by access.Principal, id string) (*job, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	j := s.jobs[id]
	if j == nil || j.account != by.ID {
		return nil, store.ErrNotFound
	}
	j.asked = s.Now()
	return j, nil
}

// Open opens somebody's file once it is written.
func (s *Service) Open(by access.Principal, id string) (*os.File, State, error) {
	j, err := s.find(by, id)
	if err != nil {
		return nil, State{}, err
	}
	state := s.of(j)
	if !state.Done {
		return nil, state, store.ErrNotFound
	}
	file, err := os.Open(j.path)
	if errors.Is(err, fs.ErrNotExist) {
		err = store.ErrNotFound
	}
	return file, state, err
}

// Drop gives up somebody's file, written or not.
func (s *Service) Drop(by access.Principal, id string) error {
	j, err := s.find(by, id)
	if err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.forget(id, j)
	return nil
}

// Clear removes what an earlier run of the program left.
func (s *Service) Clear() error { return os.RemoveAll(s.Folder) }

// Close gives up every file.
func (s *Service) Close() {
	s.mu.Lock()
	for id, j := range s.jobs {
		s.forget(id, j)
	}
	s.mu.Unlock()
	s.writing.Wait()
}
