package standin_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
)

// world is a text and voice gateway, with the reports that it sent.
type world struct {
	t   *testing.T
	box *standin.Box
	url string
	now atomic.Int64 // Unix milliseconds

	confirm string // the key that confirms a call

	mu      sync.Mutex
	reports []carrier.GatewayReport
	ids     []string
}

func newWorld(t *testing.T, folder string) *world {
	w := &world{t: t}
	w.now.Store(time.Now().UnixMilli())
	box, err := standin.Open(folder, standin.Options{
		Token: "t", Secret: "c2VjcmV0", Now: func() time.Time { return time.UnixMilli(w.now.Load()) }, Log: slog.New(slog.DiscardHandler),
		Delay: func() time.Duration { return 0 },
	})
	require.NoError(t, err)
	t.Cleanup(func() { _ = box.Close() })
	gateway := httptest.NewServer(box.Gateway())
	t.Cleanup(gateway.Close)
	w.box, w.url = box, gateway.URL
	return w
}

func (w *world) takes(r http.ResponseWriter, q *http.Request) {
	var report carrier.GatewayReport
	_ = json.NewDecoder(q.Body).Decode(&report)
	w.mu.Lock()
	defer w.mu.Unlock()
	w.reports, w.ids = append(w.reports, report), append(w.ids, q.Header.Get("Webhook-Id"))
	r.WriteHeader(http.StatusNoContent)
}

// hand hands something over to a number and returns what the gateway answered.
func (w *world) hand(path, number, reports string) int {
	w.t.Helper()
	body, err := json.Marshal(carrier.GatewayRequest{To: number, From: "+447700900100", Text: "River", Reports: reports, ConfirmKey: w.confirm})
	require.NoError(w.t, err)
	req, err := http.NewRequest(http.MethodPost, w.url+path, bytes.NewReader(body))
	require.NoError(w.t, err)
	req.Header.Set("Authorization", "Bearer t")
	req.Header.Set("Idempotency-Key", "key-"+path+number)
	resp, err := http.DefaultClient.Do(req)
	require.NoError(w.t, err)
	require.NoError(w.t, resp.Body.Close())
	return resp.StatusCode
}

// patiently hands over again when the gateway asks to wait.
func (w *world) patiently(path, number, reports string) (waited int) {
	for w.hand(path, number, reports) == http.StatusTooManyRequests {
		waited++
		w.now.Add(1000)
	}
	return waited
}

func TestCalmWeatherLetsEverythingArriveAtOnce(t *testing.T) {
	w := newWorld(t, t.TempDir())
	assert.Equal(t, standin.Weather{Kind: standin.Calm, Seed: 1}, w.box.Weather())
	for n := range 60 {
		require.Equal(t, http.StatusAccepted, w.hand("/texts", fmt.Sprintf("+4477009%05d", n), ""))
	}
	items, err := w.box.Received(t.Context(), []string{"+447700900000", "+447700900059"})
	require.NoError(t, err)
	assert.Len(t, items, 2)
}

// The same seed lets the same things happen to the same people, in this run and after
// the program started anew; another seed others.
func TestAStormIsTheSameWithTheSameSeed(t *testing.T) {
	folder := t.TempDir()
	reached := func(w *world) (list []string) {
		for n := range 60 {
			number := fmt.Sprintf("+4477009%05d", n)
			items, err := w.box.Received(t.Context(), []string{number})
			require.NoError(t, err)
			if len(items) > 0 {
				list = append(list, number)
			}
		}
		return list
	}
	storm := func(folder string, seed int64) []string {
		w := newWorld(t, folder)
		require.NoError(t, w.box.SetWeather(t.Context(), standin.Weather{Kind: standin.Storm, Seed: seed}))
		waited := 0
		for n := range 60 {
			waited += w.patiently("/texts", fmt.Sprintf("+4477009%05d", n), "")
		}
		assert.Positive(t, waited, "the gateway asks to wait")
		return reached(w)
	}
	first := storm(folder, 7)
	assert.Less(t, len(first), 60, "some phones are off")
	assert.Greater(t, len(first), 40)
	assert.Equal(t, first, storm(t.TempDir(), 7))
	assert.NotEqual(t, first, storm(t.TempDir(), 8))
	assert.Equal(t, standin.Weather{Kind: standin.Storm, Seed: 7}, newWorld(t, folder).box.Weather(), "kept in the file")
	assert.ErrorIs(t, newWorld(t, folder).box.SetWeather(t.Context(), standin.Weather{Kind: "hail"}), standin.ErrUnknown)
}

// Reports of a storm come twice, out of order and from answering machines; each has an
// id by which it is known again.
func TestReportsOfAStorm(t *testing.T) {
	w := newWorld(t, t.TempDir())
	taken := httptest.NewServer(http.HandlerFunc(w.takes))
	t.Cleanup(taken.Close)
	require.NoError(t, w.box.SetFault(t.Context(), "+447700900000", standin.Machine))
	for n := range 60 { // taken in calm weather, reported at once when the storm has come
		require.Equal(t, http.StatusAccepted, w.hand("/calls", fmt.Sprintf("+4477009%05d", n), taken.URL))
	}
	require.NoError(t, w.box.SetWeather(t.Context(), standin.Weather{Kind: standin.Storm, Seed: 7}))
	go w.box.Run(t.Context())
	require.Eventually(t, func() bool {
		n, err := w.box.Unreported(t.Context())
		return err == nil && n == 0
	}, time.Minute, 5*time.Millisecond)
	w.mu.Lock()
	defer w.mu.Unlock()
	seen, twice, older, machine := map[string]bool{}, 0, 0, 0
	for i, r := range w.reports {
		switch {
		case r.State == delivery.Carrier:
			older++
		case seen[w.ids[i]]:
			twice++
		}
		if r.Detail == "an answering machine picked up" {
			machine++
			assert.Equal(t, delivery.Arrived, r.State, "nobody heard it")
		}
		seen[w.ids[i]] = true
	}
	assert.Positive(t, twice)
	assert.Positive(t, older)
	assert.Equal(t, 60+older, len(seen))
	assert.GreaterOrEqual(t, machine, 1)
}

// Who heard a call in a storm and pressed nothing can press the key later; that is
// reported as well.
func TestAKeyIsPressedLater(t *testing.T) {
	w := newWorld(t, t.TempDir())
	taken := httptest.NewServer(http.HandlerFunc(w.takes))
	t.Cleanup(taken.Close)
	w.confirm = "1"
	require.NoError(t, w.box.SetWeather(t.Context(), standin.Weather{Kind: standin.Storm, Seed: 7}))
	var waits standin.Item
	var number string
	for n := 0; waits.Key == ""; n++ {
		number = fmt.Sprintf("+4477009%05d", n)
		w.patiently("/calls", number, taken.URL)
		items, err := w.box.Received(t.Context(), []string{number})
		require.NoError(t, err)
		if len(items) == 1 && items[0].Confirm == "1" {
			waits = items[0]
		}
	}
	require.ErrorIs(t, w.box.Press(t.Context(), []string{number}, waits.Key, "2"), standin.ErrGone)
	require.ErrorIs(t, w.box.Press(t.Context(), []string{"+447700900999"}, waits.Key, "1"), standin.ErrGone)
	w.now.Add(time.Hour.Milliseconds())
	go w.box.Run(t.Context())
	reported := func() {
		require.Eventually(t, func() bool {
			n, err := w.box.Unreported(t.Context())
			return err == nil && n == 0
		}, time.Minute, 5*time.Millisecond)
	}
	reported()
	require.NoError(t, w.box.Press(t.Context(), []string{number}, waits.Key, "1"))
	reported()
	w.mu.Lock()
	defer w.mu.Unlock()
	last := w.reports[len(w.reports)-1]
	assert.Equal(t, delivery.Answered, last.State)
	assert.Equal(t, waits.Key, last.Key)
	assert.Contains(t, w.ids[len(w.ids)-1], "-pressed")
	require.ErrorIs(t, w.box.Press(t.Context(), []string{number}, waits.Key, "1"), standin.ErrGone, "it was pressed")
}

func TestAnOutageEndsByItself(t *testing.T) {
	folder := t.TempDir()
	w := newWorld(t, folder)
	until := time.Now().Add(time.Hour).Truncate(time.Millisecond)
	require.NoError(t, w.box.SetDown(t.Context(), roster.Text, until))
	assert.Equal(t, http.StatusServiceUnavailable, w.hand("/texts", "+447700900001", ""))
	assert.Equal(t, http.StatusAccepted, w.hand("/calls", "+447700900001", ""))
	assert.Equal(t, until.UnixMilli(), newWorld(t, folder).box.Down(roster.Text).UnixMilli(), "kept in the file")
	require.NoError(t, w.box.SetDown(t.Context(), roster.Text, time.Now().Add(-time.Second)))
	assert.Zero(t, w.box.Down(roster.Text))
	assert.Equal(t, http.StatusAccepted, w.hand("/texts", "+447700900001", ""))
	assert.ErrorIs(t, w.box.SetFault(t.Context(), "+447700900001", "hiccups"), standin.ErrUnknown)
}
