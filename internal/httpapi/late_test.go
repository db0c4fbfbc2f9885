package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

type stripOf struct {
	Held, Late, Next, Sending []struct{ ID, People int64 }
}

// scheduled sends a message that leaves at an instant.
func scheduled(t *testing.T, c *testkit.Client, at time.Time, urgency string) int64 {
	draft := strings.Replace(
		toRania(fmt.Sprintf(`"sendAt":%q,"reason":"Flood",`, at.Format(time.RFC3339))), "routine", urgency, 1,
	)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	c.Want(http.StatusOK, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d,"typed":1}`, m.Revision), nil)
	return m.ID
}

// A message whose time passed by more than the limit while the program was down
// waits for a yes, an emergency too; one that is a little late leaves.
func TestALateMessageWaitsForAYes(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name    string
		urgency string
		down    time.Duration // until how long after its time the program was down
		late    bool
	}{
		{"a little late", "routine", 50 * time.Minute, false},
		{"days late", "routine", 50 * time.Hour, true},
		{"an emergency", "emergency", 2 * time.Hour, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			clock := testkit.NewClock(noon)
			folder := testkit.Folder(t, testkit.Roster, nil)
			config := func(a *app.Config) { a.Now = clock.Now }
			i, err := app.Start(t.Context(), testkit.Config(folder, config))
			require.NoError(t, err)
			id := scheduled(t, testkit.SignedIn(t, i.URL), noon.Add(time.Hour), c.urgency)
			require.NoError(t, i.Close())

			clock.Pass(time.Hour + c.down)
			i = testkit.Start(t, folder, config)
			client := testkit.SignedIn(t, i.URL)
			if !c.late {
				received(t, i.Box, 1)
				return
			}
			var strip stripOf
			client.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
			require.Len(t, strip.Late, 1)
			assert.Equal(t, id, strip.Late[0].ID)
			var m struct {
				State string
				Late  bool
			}
			client.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d", id), nil, &m)
			assert.True(t, m.Late)
			assert.Equal(t, "held", m.State)
			released, err := i.Store.Release(t.Context(), clock.Now())
			require.NoError(t, err)
			assert.Empty(t, released, "nothing leaves unasked")

			client.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/late", id), nil, &m)
			assert.False(t, m.Late)
			received(t, i.Box, len(channelsOf[c.urgency]))
			client.Want(http.StatusConflict, http.MethodPost, fmt.Sprintf("/api/messages/%d/late", id), nil, nil)
		})
	}
}

// channelsOf are those by which Rania gets a message of an urgency.
var channelsOf = map[string][]roster.Channel{
	"routine": {roster.Email}, "emergency": {roster.Email, roster.Text, roster.Voice},
}

// What was queued for a time that passed while the program was down waits too.
func TestTheRestOfALateMessageWaits(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	clock := testkit.NewClock(noon)
	folder := testkit.Folder(t, testkit.Roster, nil)
	config := func(a *app.Config) { a.Now = clock.Now }
	i, err := app.Start(t.Context(), testkit.Config(folder, config))
	require.NoError(t, err)
	both := fmt.Sprintf(`"steps":[["email","text"]],"times":{"text":%q},`, noon.Add(time.Hour).Format(time.RFC3339))
	c := testkit.SignedIn(t, i.URL)
	id := sendDraft(t, c, toRania(both))
	received(t, i.Box, 1)
	require.NoError(t, i.Close())

	clock.Pass(30 * time.Hour)
	i = testkit.Start(t, folder, config)
	c = testkit.SignedIn(t, i.URL)
	var strip stripOf
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	require.Len(t, strip.Late, 1)
	assert.Len(t, received(t, i.Box, 1), 1, "the text has not left")
	var stopped struct{ Stopped int }
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/stop", id), nil, &stopped)
	assert.Equal(t, 1, stopped.Stopped)
	m, err := i.Store.Message(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, store.Stopped, m.State)
	assert.False(t, m.Late)
}

// Moving on goes by who sent, also after their account has ended, and one message
// that fails does not keep others from moving on.
func TestMovingOnGoesByWhoSent(t *testing.T) {
	clock := testkit.NewClock(time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC))
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(c *app.Config) { c.Now = clock.Now })
	office := testkit.SignedIn(t, i.URL)
	account := `{"login":"naya@quillmere.example","name":"Naya Osei","duty":"","active":true,"password":"a password for tests","scope":{"whole":true,"units":[]},"rights":["write"]}`
	office.Want(http.StatusOK, http.MethodPost, "/api/accounts", account, nil)
	naya := testkit.Stranger(t, i.URL)
	naya.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "naya@quillmere.example", "password": testkit.Password}, nil,
	)
	var m struct{ ID, Revision int64 }
	office.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := strings.Replace(
		toRania(`"moveOn":{"minutes":30,"answered":true},`), "Dear {{first name}}", "From {{sender}}", 1,
	)
	office.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	// Hugo wrote it and Naya sends it.
	naya.Want(http.StatusOK, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d}`, m.Revision), nil)
	first := received(t, i.Box, 1)
	assert.Equal(t, "From Naya Osei", first[0].Body)
	off := strings.NewReplacer(`{"login"`, `{"id":2,"login"`, `"active":true`, `"active":false`).Replace(account)
	office.Want(http.StatusOK, http.MethodPost, "/api/accounts", off, nil)
	sendDraft(t, office, strings.Replace(
		toRania(`"moveOn":{"minutes":30,"answered":true},`), "Dear {{first name}}", "Another", 1,
	))
	received(t, i.Box, 2)

	clock.Pass(31 * time.Minute)
	require.NoError(t, i.Sending.MoveOn(t.Context()))
	bodies := map[string]int{}
	for _, one := range received(t, i.Box, 4) {
		bodies[string(one.Channel)+" "+one.Body]++
	}
	assert.Equal(
		t, map[string]int{"email From Naya Osei": 1, "text From Naya Osei": 1, "email Another": 1, "text Another": 1}, bodies,
	)
}
