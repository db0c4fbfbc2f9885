package httpapi_test

import (
	"fmt"
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/testkit"
)

type awaiting struct {
	State  string
	Awaits *struct {
		Until  time.Time
		Failed string
	}
}

func (b *begun) standing() (a awaiting) {
	b.t.Helper()
	b.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d", b.id), nil, &a)
	return a
}

// await lets the message wait for its readings, as it was checked.
func (b *begun) await(until time.Time) {
	b.t.Helper()
	b.c.Want(http.StatusNoContent, http.MethodPost, fmt.Sprintf("/api/messages/%d/await", b.id), map[string]any{
		"revision": b.revision, "recipients": b.plan().Recipients, "copies": b.plan().CopiesSeen, "until": until,
	}, nil)
}

// waiting is a message that waits until noon for Piotr to read its Polish copy.
func waiting(t *testing.T, clock *testkit.Clock) (*app.Instance, *begun, reader, string) {
	folder := testkit.Folder(t, testkit.Roster, nil)
	i := testkit.Start(t, folder, func(a *app.Config) { a.Now = clock.Now })
	b := begin(t, testkit.SignedIn(t, i.URL), twoLines)
	b.drafted("pl")
	r := readerOf(t, i, b.ask(clock.Now().Add(24*time.Hour), zielony)[0])
	received(t, i.Box, 1)
	b.await(clock.Now().Add(3 * time.Hour))
	require.NotNil(t, b.standing().Awaits)
	return i, b, r, folder
}

var nine = time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)

func gone(b *begun) func() bool { return func() bool { return b.standing().State != "draft" } }

// Rule “Readings” 7.
func TestAMessageLeavesWhenItsReadingsAreOver(t *testing.T) {
	i, b, r, _ := waiting(t, testkit.NewClock(nine))
	require.NoError(t, i.Sending.SendAwaited(t.Context()))
	assert.Equal(t, "draft", b.standing().State, "it waits")
	v := r.visit()
	r.say(true, "", sayingOf{v.Lines[0].Key, "", v.Lines[0].Target}, sayingOf{v.Lines[1].Key, "", v.Lines[1].Target})
	testkit.Eventually(t, "it leaves by itself", gone(b))
	phone, err := i.Box.Received(t.Context(), []string{"+447700900418"})
	require.NoError(t, err)
	testkit.Eventually(t, "Piotr gets the copy that he read", func() bool {
		phone, err = i.Box.Received(t.Context(), []string{"+447700900418"})
		return err == nil && len(phone) == 2
	})
	assert.Contains(t, phone[0].Body+phone[1].Body, "Dzisiejszy trening jest odwołany.")
	assert.Nil(t, b.standing().Awaits)
	b.c.Want(http.StatusNotFound, http.MethodDelete, fmt.Sprintf("/api/messages/%d/await", b.id), nil, nil)
}

func TestAMessageLeavesAtItsTimeUnread(t *testing.T) {
	clock := testkit.NewClock(nine)
	_, b, _, _ := waiting(t, clock)
	clock.Pass(3 * time.Hour)
	testkit.Eventually(t, "it leaves by itself", gone(b))
}

// A message that waited while the program was down leaves when it runs again, once.
func TestTheWaitOutlivesTheProgram(t *testing.T) {
	clock := testkit.NewClock(nine)
	folder := testkit.Folder(t, testkit.Roster, nil)
	config := func(a *app.Config) { a.Now = clock.Now }
	i, err := app.Start(t.Context(), testkit.Config(folder, config))
	require.NoError(t, err)
	b := begin(t, testkit.SignedIn(t, i.URL), twoLines)
	b.ask(clock.Now().Add(24*time.Hour), zielony)
	b.await(clock.Now().Add(3 * time.Hour))
	require.NoError(t, i.Close())
	clock.Pass(4 * time.Hour)
	i = testkit.Start(t, folder, config)
	b.c = testkit.SignedIn(t, i.URL)
	testkit.Eventually(t, "it leaves by itself", gone(b))
}

func TestAWaitThatEndsOtherwise(t *testing.T) {
	for _, c := range []struct {
		name string
		do   func(t *testing.T, b *begun)
		want func(t *testing.T, a awaiting)
	}{
		{"the draft is changed", func(_ *testing.T, b *begun) { b.says("Training is tomorrow.") }, func(t *testing.T, a awaiting) {
			assert.Nil(t, a.Awaits, "a change ends the wait")
		}},
		{"it is taken back", func(_ *testing.T, b *begun) {
			b.c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/messages/%d/await", b.id), nil, nil)
		}, func(t *testing.T, a awaiting) { assert.Nil(t, a.Awaits) }},
		{"it would go to others", func(_ *testing.T, b *begun) {
			b.c.Want(http.StatusOK, http.MethodPost, "/api/people/remove", `{"people":[7]}`, nil)
		}, func(t *testing.T, a awaiting) {
			require.NotNil(t, a.Awaits)
			assert.Contains(t, a.Awaits.Failed, "was to go to 4 people and now goes to 3 people")
		}},
		{"its time passed long ago", func(*testing.T, *begun) {}, func(t *testing.T, a awaiting) {
			require.NotNil(t, a.Awaits)
			assert.Contains(t, a.Awaits.Failed, "while the program was down")
		}},
	} {
		t.Run(c.name, func(t *testing.T) {
			clock := testkit.NewClock(nine)
			i, b, _, _ := waiting(t, clock)
			c.do(t, b)
			passes := 3*time.Hour + time.Minute
			if c.name == "its time passed long ago" {
				passes += 2 * time.Hour
			}
			clock.Pass(passes)
			require.NoError(t, i.Sending.SendAwaited(t.Context()))
			a := b.standing()
			assert.Equal(t, "draft", a.State, "it did not leave")
			c.want(t, a)
			var strip struct{ Unsent []struct{ ID int64 } }
			b.c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
			var list struct{ Messages []awaiting }
			b.c.Want(http.StatusOK, http.MethodGet, "/api/messages", nil, &list)
			shown := slices.ContainsFunc(list.Messages, func(m awaiting) bool { return m.Awaits != nil && m.Awaits.Failed != "" })
			assert.Equal(t, a.Awaits != nil, shown, "the list says so")
			assert.Equal(t, a.Awaits != nil, len(strip.Unsent) == 1, "and the strip")
		})
	}
}

// What was stopped within its hold does not leave again by itself.
func TestStopEndsTheWait(t *testing.T) {
	clock := testkit.NewClock(nine)
	i, b, _, _ := waiting(t, clock)
	o, err := i.Store.Organisation(t.Context())
	require.NoError(t, err)
	o.Hold = time.Hour
	require.NoError(t, i.Store.PutOrganisation(t.Context(), o))
	clock.Pass(3 * time.Hour)
	testkit.Eventually(t, "it is on hold", func() bool { return b.standing().State == "held" })
	b.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/stop", b.id), nil, nil)
	require.NoError(t, i.Sending.SendAwaited(t.Context()))
	assert.Equal(t, "draft", b.standing().State)
	assert.Nil(t, b.standing().Awaits)
}

func TestWhatCannotWait(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, twoLines)
	path := fmt.Sprintf("/api/messages/%d/await", b.id)
	body := func(until time.Time) map[string]any { return map[string]any{"revision": b.revision, "until": until} }
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path, body(tomorrow())), "no reading to wait for")
	b.ask(tomorrow(), zielony)
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path, body(time.Now().Add(-time.Hour))), "within the next 30 days")
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path, body(time.Now().AddDate(1, 0, 0))), "within the next 30 days")
	c.Want(http.StatusConflict, http.MethodPost, path, map[string]any{"revision": b.revision - 1, "until": tomorrow()}, nil)
	c.Want(http.StatusConflict, http.MethodPost, path, map[string]any{"revision": b.revision, "recipients": 1, "until": tomorrow()}, nil)
	assert.Nil(t, b.standing().Awaits)
}
