package httpapi

import (
	"bytes"
	"io"
	"net/http"
	"time"

	"upperlantern/internal/httpapi/route"
)

// How long is waited for a body: for its next bytes, and for all of it. Whoever
// is not signed in has less time.
const (
	nextBytes    = 10 * time.Second
	wholeBody    = 20 * time.Minute
	strangerBody = 15 * time.Second
	strangerFile = 3 * time.Minute
	wholeAnswer  = 10 * time.Minute
)

// Bodies of strangers that are read at the same time, each of a small size.
const (
	bodiesAtOnce = 256
	bodiesOfOne  = 64 // from one network
	itemsAtOnce  = 32 // of what people send to us, which may have pictures
	filesAtOnce  = 16 // that are sent from personal pages
	filesOfOne   = 4
	longestSlot  = 2 * time.Second
)

// patience bounds how slowly a body may come and an answer may be taken. Events
// have a limit of their own for each.
func patience(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		control := http.NewResponseController(w)
		if r.URL.Path != eventsPath {
			_ = control.SetWriteDeadline(time.Now().Add(wholeAnswer)) // a recorder in a test has none
		}
		if r.Body != nil && r.Body != http.NoBody {
			limited := &patientBody{ReadCloser: r.Body, control: control, end: time.Now().Add(wholeBody)}
			limited.extend()
			r.Body = limited
		}
		next.ServeHTTP(w, r)
	})
}

// patientBody gives up when the next bytes do not come in time.
type patientBody struct {
	io.ReadCloser
	control *http.ResponseController
	end     time.Time
}

func (b *patientBody) extend() {
	next := time.Now().Add(nextBytes)
	if next.After(b.end) {
		next = b.end
	}
	_ = b.control.SetReadDeadline(next)
}

func (b *patientBody) Read(p []byte) (int, error) {
	b.extend()
	n, err := b.ReadCloser.Read(p)
	if err == io.EOF { // what watches the connection from now on may wait
		_ = b.control.SetReadDeadline(time.Time{})
	}
	return n, err
}

// strangers bounds the bodies of those who are not signed in: their size, how
// many are read at the same time, in all and from one network, and how long.
func (s *server) strangers(next http.Handler) http.Handler {
	return strangersUpTo(route.LargestOfStrangers, strangerBody, s.bodies)(next)
}

// strangersUpTo bounds such bodies by a size, a time, and the places where they are read.
func strangersUpTo(largest int64, within time.Duration, at *bodies) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler { return stranger{largest, within, at, next} }
}

type stranger struct {
	largest int64
	within  time.Duration
	at      *bodies
	next    http.Handler
}

// ServeHTTP reads the body when there is a place, and goes on.
func (s stranger) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Body == nil || r.Body == http.NoBody || r.ContentLength == 0 {
		s.next.ServeHTTP(w, r)
		return
	}
	network := networkOf(r.Context())
	if !s.at.take(network, longestSlot) {
		w.Header().Set("Retry-After", "5")
		w.Header().Set("Connection", "close") // or the rest of the body would be waited for first
		route.Write(w, http.StatusServiceUnavailable, "Too much comes in at this moment. Send it again in a few seconds.")
		return
	}
	if limited, ok := r.Body.(*patientBody); ok {
		limited.end = time.Now().Add(s.within)
		limited.extend()
	}
	content, err := io.ReadAll(http.MaxBytesReader(w, r.Body, s.largest))
	s.at.give(network)
	if err != nil {
		route.Write(w, http.StatusRequestEntityTooLarge, "This is too large, or comes too slowly.")
		return
	}
	r.Body = io.NopCloser(bytes.NewReader(content))
	s.next.ServeHTTP(w, r)
}
