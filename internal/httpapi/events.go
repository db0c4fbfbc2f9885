package httpapi

import (
	"context"
	"net/http"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"
)

// Events tells every open page what changed, so that it asks again. Changes
// of the same thing that come close together are told once.
type Events struct {
	mu        sync.Mutex
	listeners map[*listener]bool
}

type listener struct {
	messages map[int64]bool
	imports  map[int64]bool
	roster   bool
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

func (e *Events) tell(mark func(*listener)) {
	e.mu.Lock()
	defer e.mu.Unlock()
	for l := range e.listeners {
		mark(l)
		select {
		case l.ready <- struct{}{}:
		default:
		}
	}
}

func (e *Events) listen() *listener {
	l := &listener{messages: map[int64]bool{}, imports: map[int64]bool{}, ready: make(chan struct{}, 1)}
	e.mu.Lock()
	defer e.mu.Unlock()
	e.listeners[l] = true
	return l
}

func (e *Events) leave(l *listener) {
	e.mu.Lock()
	defer e.mu.Unlock()
	delete(e.listeners, l)
}

// take empties what a listener has not been told yet.
func (e *Events) take(l *listener) (messages, imports []int64, roster bool) {
	e.mu.Lock()
	defer e.mu.Unlock()
	for id := range l.messages {
		messages = append(messages, id)
	}
	for id := range l.imports {
		imports = append(imports, id)
	}
	clear(l.messages)
	clear(l.imports)
	roster, l.roster = l.roster, false
	return messages, imports, roster
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

type stillHere struct {
	At time.Time `json:"at"`
}

const (
	heartbeat = 20 * time.Second
	// together is how long changes are gathered before they are told.
	together = 200 * time.Millisecond
)

func (s *server) eventRoutes(api huma.API) {
	sse.Register(api, huma.Operation{OperationID: "events", Method: http.MethodGet, Path: "/events", Summary: "What changes, as it changes"},
		map[string]any{"message-moved": messageMoved{}, "import-moved": importMoved{}, "roster-moved": rosterMoved{}, "still-here": stillHere{}},
		func(ctx context.Context, _ *struct{}, send sse.Sender) { s.stream(ctx, send) })
}

func (s *server) stream(ctx context.Context, send sse.Sender) {
	l := s.Events.listen()
	defer s.Events.leave(l)
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	err := send.Data(stillHere{s.Now()})
	for err == nil {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
			err = send.Data(stillHere{s.Now()})
		case <-l.ready:
			err = s.tellAll(ctx, l, send)
		}
	}
}

func (s *server) tellAll(ctx context.Context, l *listener, send sse.Sender) error {
	messages, imports, roster := s.Events.take(l)
	for _, id := range messages {
		if err := send.Data(messageMoved{id}); err != nil {
			return err
		}
	}
	for _, id := range imports {
		if err := send.Data(importMoved{id}); err != nil {
			return err
		}
	}
	if roster {
		if err := send.Data(rosterMoved{s.Now()}); err != nil {
			return err
		}
	}
	select { // what comes meanwhile is gathered
	case <-ctx.Done():
	case <-time.After(together):
	}
	return nil
}
