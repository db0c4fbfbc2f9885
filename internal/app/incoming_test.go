package app_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/desk"
	outcomes "upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// gatewayPosts posts a text as a gateway does, again and again until it is taken.
func gatewayPosts(t *testing.T, url string, item carrier.GatewayItem) {
	body, err := json.Marshal(item)
	if !assert.NoError(t, err) {
		return
	}
	for deadline := time.Now().Add(testkit.Patience); time.Now().Before(deadline); time.Sleep(20 * time.Millisecond) {
		req, err := http.NewRequest(http.MethodPost, url+"/carrier/incoming", bytes.NewReader(body))
		if !assert.NoError(t, err) {
			return
		}
		carrier.Sign(req.Header, "secret", item.Key, time.Now(), body)
		resp, err := http.DefaultClient.Do(req)
		if err != nil {
			continue // it is down
		}
		_ = resp.Body.Close()
		if resp.StatusCode == http.StatusNoContent {
			return
		}
	}
	assert.Fail(t, "it was never taken", item.Key)
}

// The program is killed while answers come in: each is kept once, and every stop is
// confirmed once.
func TestKillingTheProgramWhileAnswersComeIn(t *testing.T) {
	const people, texts, kills = 60, 600, 6
	folder := fleet(t, people)
	kept, err := store.Open(folder)
	require.NoError(t, err)
	_, err = kept.PutDesk(t.Context(), desk.Desk{Name: "Club office", Members: []int64{1}})
	require.NoError(t, err)
	require.NoError(t, kept.Close())
	s := newSite(t, folder)
	p := s.serve(t)
	defer func() { p.kill() }()
	var taken atomic.Int64
	var all sync.WaitGroup
	work := make(chan int)
	for range 8 {
		all.Go(func() {
			for n := range work {
				item := carrier.GatewayItem{
					Key: fmt.Sprintf("K%d", n), Channel: roster.Text, From: fmt.Sprintf("+447700900%03d", n%people),
					Text: fmt.Sprintf("Answer %d", n), At: time.Now(),
				}
				if n < people/2 {
					item.Text = "STOP"
				}
				gatewayPosts(t, p.url, item)
				taken.Add(1)
			}
		})
	}
	all.Go(func() {
		defer close(work)
		for n := range texts {
			work <- n
		}
	})
	for n := range kills {
		at := int64((n + 1) * texts / (kills + 1))
		testkit.Eventually(t, "some came in", func() bool { return taken.Load() >= at })
		p.kill()
		p = s.serve(t)
	}
	all.Wait()
	require.Len(t, counted(t, folder), texts, "each is kept, once")
	confirmed := func() (n int) {
		for _, item := range s.carriersLog(t) {
			assert.Contains(t, item.Body, "START")
			n++
		}
		return n
	}
	testkit.Eventually(t, "every stop is confirmed", func() bool { return confirmed() == people/2 })
}

// The program is killed while a question is answered, and while the others are told that
// enough have: each answer counts once, and each of the others is told once.
func TestKillingTheProgramWhileAQuestionIsAnswered(t *testing.T) {
	const people, answers, needed, kills = 60, 45, 40, 4
	s := newSite(t, fleet(t, people))
	p := s.serve(t)
	defer func() { p.kill() }()
	id := send(testkit.SignedIn(t, p.url), fmt.Sprintf(`{"urgency":"routine","audience":{"parts":[{"kind":"group","group":1}],"receivers":"guardians"},
		"subject":"Sandbags","email":"Can you come?","ownText":false,"text":"","firstOnly":false,"steps":[["text"]],
		"question":{"choices":[{"words":"Yes","means":"counts"},{"words":"No"}],"needed":%d,"filled":"We are enough now."}}`, needed))
	kept, err := store.Open(s.folder)
	require.NoError(t, err)
	defer kept.Close() //nolint:errcheck // only read
	counts := func(id int64) outcomes.Figures {
		f, err := kept.Figures(t.Context(), id)
		require.NoError(t, err)
		return f
	}
	testkit.Eventually(t, "everybody was asked", func() bool { return counts(id).Reached == people })
	var taken atomic.Int64
	var all sync.WaitGroup
	work := make(chan int, answers)
	for n := range answers {
		work <- n
	}
	close(work)
	for range 4 {
		all.Go(func() {
			for n := range work {
				gatewayPosts(t, p.url, carrier.GatewayItem{
					Key: fmt.Sprintf("K%d", n), Channel: roster.Text, From: fmt.Sprintf("+447700900%03d", n), Text: "1", At: time.Now(),
				})
				taken.Add(1)
			}
		})
	}
	for n := range kills {
		at := int64((n + 1) * answers / kills)
		testkit.Eventually(t, "some answered", func() bool { return taken.Load() >= at })
		p.kill()
		p = s.serve(t)
	}
	all.Wait()
	b, err := kept.Board(t.Context(), id)
	require.NoError(t, err)
	require.False(t, b.Filled.IsZero())
	require.Equal(t, answers, counts(id).Answered)
	var told []store.Follower
	testkit.Eventually(t, "the others are told", func() bool {
		var err error
		told, err = kept.Followers(t.Context(), id)
		require.NoError(t, err)
		return len(told) == 1 && told[0].State == store.Sent && counts(told[0].ID).Waiting == 0
	})
	f := counts(told[0].ID)
	require.GreaterOrEqual(t, f.Reached, people-answers)
	require.LessOrEqual(t, f.Reached, people-needed)
	for _, item := range s.carriersLog(t) { // in which each stands once
		require.LessOrEqual(t, strings.Count(item.Body, "We are enough"), 1)
	}
}

// counted are the entries that came in, by their words and address.
func counted(t *testing.T, folder string) map[string]int {
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer s.Close() //nolint:errcheck // only read
	threads, all, err := s.Threads(t.Context(), store.ThreadsWanted{Desk: 1, Count: 500})
	require.NoError(t, err)
	require.Len(t, threads, all)
	list := map[string]int{}
	for _, thread := range threads {
		entries, err := s.Entries(t.Context(), thread.ID, 500)
		require.NoError(t, err)
		for _, e := range entries {
			if e.Kind != store.EntryOut {
				list[e.Said+" from "+e.Address]++
			}
		}
	}
	for what, n := range list {
		require.Equal(t, 1, n, what)
	}
	return list
}

// The program is killed while all in a thread see what is said: what each of them writes is
// passed on to each of the others once.
func TestKillingTheProgramWhileThingsArePassedOn(t *testing.T) {
	const people, kills = 20, 5
	folder := fleet(t, people)
	kept, err := store.Open(folder)
	require.NoError(t, err)
	_, err = kept.PutDesk(t.Context(), desk.Desk{Name: "Club office", Members: []int64{1}})
	require.NoError(t, err)
	require.NoError(t, kept.Close())
	s := newSite(t, folder)
	p := s.serve(t)
	defer func() { p.kill() }()
	c := testkit.SignedIn(t, p.url)
	var made struct{ ID int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/desks/1/many", `{"with":"group","group":1}`, &made)
	c.Want(http.StatusNoContent, http.MethodPost, fmt.Sprintf("/api/threads/%d/share", made.ID), `{"shared":true}`, nil)
	texts := func() (list []standin.Item) { // they get pushes, too
		for _, item := range s.carriersLog(t) {
			if item.Channel == roster.Text {
				list = append(list, item)
			}
		}
		return list
	}
	testkit.Eventually(t, "all are told", func() bool { return len(texts()) == people })
	var taken atomic.Int64
	var all sync.WaitGroup
	work := make(chan int, people)
	for n := range people {
		work <- n
	}
	close(work)
	for range 3 {
		all.Go(func() {
			for n := range work {
				gatewayPosts(t, p.url, carrier.GatewayItem{
					Key: fmt.Sprintf("K%d", n), Channel: roster.Text, From: fmt.Sprintf("+447700900%03d", n),
					Text: fmt.Sprintf("Word %02d", n), At: time.Now(),
				})
				taken.Add(1)
			}
		})
	}
	for n := range kills {
		at := int64((n + 1) * people / (kills + 1))
		testkit.Eventually(t, "some came in", func() bool { return taken.Load() >= at })
		p.kill()
		p = s.serve(t)
	}
	all.Wait()
	testkit.Eventually(t, "all of it was passed on", func() bool {
		return len(texts()) >= people+people*(people-1)
	})
	passed := map[string]int{}
	for _, item := range texts() {
		if at := strings.Index(item.Body, "Word "); at >= 0 {
			passed[item.Body[at:]]++
			assert.NotContains(t, item.Body, "900", "by name, never by number")
		}
	}
	require.Len(t, passed, people)
	for word, n := range passed {
		assert.Equal(t, people-1, n, word)
	}
}
