package httpapi_test

import (
	"bytes"
	"fmt"
	"net/http"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/carrier"
	"upperlantern/internal/testkit"
)

// Ten thousand reports at once, of unknown deliveries, stale, forged and doubled, move
// nothing but what the good ones among them tell, and everybody else is served meanwhile.
func TestAFloodOfReports(t *testing.T) {
	const secret = "a secret for tests"
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(c *app.Config) { c.Carriers.Secret = secret })
	c := testkit.SignedIn(t, i.URL)
	id := sendDraft(t, c, draftOf(`{"kind":"addresses","addresses":["+447700900418"]}`, "Hello"))
	received(t, i.Box, 1)
	sent, err := i.Store.Deliveries(t.Context(), id)
	require.NoError(t, err)

	post := func(n int) int {
		key, at, with := fmt.Sprintf("unknown%d", n), time.Now(), secret
		report := fmt.Sprintf("r%d", n)
		switch n % 4 {
		case 1:
			at = at.AddDate(0, 0, -60)
		case 2:
			key, with = sent[0].Key, "another secret"
		case 3:
			key, report = sent[0].Key, "the same again"
		}
		body := fmt.Appendf(nil, `{"key":%q,"state":"answered","at":%q}`, key, at.Format(time.RFC3339))
		r, err := http.NewRequest(http.MethodPost, i.URL+"/carrier/reports", bytes.NewReader(body))
		if err != nil {
			return 0
		}
		carrier.Sign(r.Header, with, report, at, body)
		answer, err := http.DefaultClient.Do(r)
		if err != nil {
			return 0
		}
		_ = answer.Body.Close()
		return answer.StatusCode
	}
	const reports, senders = 10_000, 50
	var counts sync.Map
	var sending sync.WaitGroup
	next := atomic.Int64{}
	for range senders {
		sending.Go(func() {
			for n := next.Add(1); n <= reports; n = next.Add(1) {
				count, _ := counts.LoadOrStore(post(int(n)), &atomic.Int64{})
				count.(*atomic.Int64).Add(1)
			}
		})
	}
	var strip map[string]any
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	sending.Wait()
	counts.Range(func(status, n any) bool {
		t.Logf("%v: %d", status, n.(*atomic.Int64).Load())
		assert.Contains(t, []int{
			http.StatusNoContent, http.StatusNotFound, http.StatusUnauthorized, http.StatusTooManyRequests,
			http.StatusServiceUnavailable,
		}, status)
		return true
	})
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	var s standingOf
	c.Record(id, &s)
	assert.Equal(t, 1, s.Message.Figures.Reached)
	var story storyOf
	var rec struct{ Recipients []struct{ ID int64 } }
	c.Record(id, &rec)
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/recipients/%d", id, rec.Recipients[0].ID), nil, &story)
	answered := 0
	for _, e := range story.Sent[0].Events {
		if e.State == "answered" {
			answered++
		}
	}
	assert.Equal(t, 1, answered, "the same report counts once")
}
