package httpapi

import (
	"context"
	"errors"
	"maps"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/writing"
	"upperlantern/internal/store"
)

// Events tells every open page what changed, so that it asks again. Changes
// of the same thing that come close together are told once.
type Events struct {
	mu        sync.Mutex
	listeners map[*listener]bool
	told      int64 // how many changes were told
}

type listener struct {
	messages map[int64]bool
	imports  map[int64]bool
	roster   bool
	session  bool // some session may have ended
	carriers bool
	desks    map[desk.ID]bool
	ready    chan struct{}
}

// NewEvents makes an empty hub.
func NewEvents() *Events { return &Events{listeners: map[*listener]bool{}} }

// Message tells that a message moved on.
func (e *Events) Message(id int64) { e.tell(func(l *listener) { l.messages[id] = true }) }

// Import tells that an import moved on.
func (e *Events) Import(id int64) { e.tell(func(l *listener) { l.imports[id] = true }) }

// Roster tells that the roster changed.
func (e *Events) Roster() { e.tell(func(l *listener) { l.roster = true }) }

// Carriers tells that a carrier is in trouble, or well again.
func (e *Events) Carriers() { e.tell(func(l *listener) { l.carriers = true }) }

// Desk tells that something moved at a desk.
func (e *Events) Desk(id desk.ID) { e.tell(func(l *listener) { l.desks[id] = true }) }

// Sessions tells that sessions may have ended.
func (e *Events) Sessions() { e.tell(func(l *listener) { l.session = true }) }

func (e *Events) tell(mark func(*listener)) {
	e.mu.Lock()
	defer e.mu.Unlock()
	e.told++
	for l := range e.listeners {
		mark(l)
		select {
		case l.ready <- struct{}{}:
		default:
		}
	}
}

// Told is how many changes were told since the program began.
func (e *Events) Told() int64 {
	e.mu.Lock()
	defer e.mu.Unlock()
	return e.told
}

// listen hears what is told from now on. It reports whether anything was told since
// Told was since, or the program began anew.
func (e *Events) listen(since int64) (l *listener, missed bool) {
	l = &listener{
		messages: map[int64]bool{}, imports: map[int64]bool{}, desks: map[desk.ID]bool{}, ready: make(chan struct{}, 1),
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	e.listeners[l] = true
	return l, e.told != since
}

func (e *Events) leave(l *listener) {
	e.mu.Lock()
	defer e.mu.Unlock()
	delete(e.listeners, l)
}

// moved is what a listener has not been told yet.
type moved struct {
	messages, imports []int64
	desks             []desk.ID
	roster            bool
	carriers          bool
}

// take empties what a listener has not been told yet.
func (e *Events) take(l *listener) (m moved) {
	e.mu.Lock()
	defer e.mu.Unlock()
	m.messages, m.imports = slices.Collect(maps.Keys(l.messages)), slices.Collect(maps.Keys(l.imports))
	m.desks = slices.Collect(maps.Keys(l.desks))
	clear(l.desks)
	clear(l.messages)
	clear(l.imports)
	m.roster, m.carriers = l.roster, l.carriers
	l.roster, l.carriers, l.session = false, false, false
	return m
}

type messageMoved struct {
	Message int64 `json:"message"`
}

type importMoved struct {
	Import int64 `json:"import"`
}

type rosterMoved struct {
	At time.Time `json:"at"`
}

type carrierMoved struct {
	At time.Time `json:"at"`
}

type deskMoved struct {
	Desk desk.ID `json:"desk"`
}

type stillHere struct {
	At     time.Time `json:"at"`
	Missed bool      `json:"missed" doc:"Whether anything may have changed that was not told here"`
}

const (
	heartbeat = 20 * time.Second
	// together is how long changes are gathered before they are told.
	together = 200 * time.Millisecond
)

const eventsPath = "/api/events"

func (s *server) eventRoutes(api huma.API) {
	sse.Register(api, huma.Operation{OperationID: "events", Method: http.MethodGet, Path: "/events", Summary: "What changes, as it changes"},
		map[string]any{
			"message-moved": messageMoved{}, "import-moved": importMoved{}, "roster-moved": rosterMoved{},
			"carrier-moved": carrierMoved{}, "desk-moved": deskMoved{}, "still-here": stillHere{},
		},
		s.stream)
}

type streamAsked struct {
	Since int64 `query:"since" doc:"Which change was the last when the page began, as the session says"`
}

// stream tells what changes until the session ends.
func (s *server) stream(ctx context.Context, in *streamAsked, send sse.Sender) {
	l, missed := s.Events.listen(in.Since)
	defer s.Events.leave(l)
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	err := send.Data(stillHere{At: s.Now(), Missed: missed})
	for err == nil {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
			if _, signedIn := s.stillSignedIn(ctx); !signedIn {
				return
			}
			err = send.Data(stillHere{At: s.Now()})
		case <-l.ready:
			by, signedIn := s.stillSignedIn(ctx)
			if !signedIn {
				return
			}
			err = s.tellAll(ctx, by, s.Events.take(l), send)
		}
	}
}

// stillSignedIn looks the session of a stream up anew: it may have ended, and the
// account may do other things than when it began.
func (s *server) stillSignedIn(ctx context.Context) (access.Principal, bool) {
	_, found, err := s.sessions.Store.Find(s.sessions.Token(ctx))
	if err != nil || !found {
		return access.Principal{}, false
	}
	account, err := s.Store.Account(ctx, route.By(ctx).ID)
	return account.Principal(access.BySession), err == nil && account.Epoch == s.sessions.GetInt64(ctx, "epoch")
}

// tellAll tells what moved, as far as the account may see it.
func (s *server) tellAll(ctx context.Context, by access.Principal, m moved, send sse.Sender) error {
	for _, id := range m.messages {
		answers, err := s.Store.DeskOfAnswer(ctx, id)
		if err != nil {
			return err
		}
		if answers != 0 {
			m.desks = append(m.desks, answers)
			continue
		}
		hears, err := s.hears(ctx, by, id)
		if err != nil {
			return err
		}
		if !hears {
			continue
		}
		if err := send.Data(messageMoved{Message: id}); err != nil {
			return err
		}
	}
	for _, id := range m.imports {
		if _, err := s.Importer.Import(ctx, by, id); err != nil || !by.May(access.EditPeople) {
			continue
		}
		if err := send.Data(importMoved{Import: id}); err != nil {
			return err
		}
	}
	slices.Sort(m.desks)
	for _, id := range slices.Compact(m.desks) {
		_, err := s.Desks.Desk(ctx, id, by)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err == nil {
			err = send.Data(deskMoved{Desk: id})
		}
		if err != nil {
			return err
		}
	}
	if m.roster {
		if err := send.Data(rosterMoved{At: s.Now()}); err != nil {
			return err
		}
	}
	if m.carriers && route.Refusal(by.Grant, writing.FeedRights) == "" {
		if err := send.Data(carrierMoved{At: s.Now()}); err != nil {
			return err
		}
	}
	select { // what comes meanwhile is gathered
	case <-ctx.Done():
	case <-time.After(together):
	}
	return nil
}

// hears reports whether the account may know that a message moved on. Of one that
// is gone, a deleted draft, only those know who could see any.
func (s *server) hears(ctx context.Context, by access.Principal, id int64) (bool, error) {
	if !by.May(access.Write) && !by.May(access.ReadRecords) {
		return false, nil
	}
	_, err := s.Messages.Heading(ctx, by, id)
	if errors.Is(err, store.ErrNotFound) {
		return by.Scope.Whole, nil
	}
	return err == nil, err
}
