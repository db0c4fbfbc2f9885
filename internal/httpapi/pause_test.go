package httpapi_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// standingOf is where a message stands.
type standingOf struct {
	Message struct {
		State, PausedBy string
		Figures         struct{ Recipients, Reached, Answered, Waiting, NotReached, Stopped, Here int }
	}
	Recipients []struct {
		Deliveries []struct{ Channel, State, Detail string }
	}
}

// quietTexts is a program at night, whose texts wait until seven, with a message to the
// guardians of whom one is to get a text.
func quietTexts(t *testing.T, more string) (*app.Instance, *testkit.Client, *testkit.Clock, int64) {
	clock := testkit.NewClock(time.Date(2026, 11, 25, 23, 0, 0, 0, time.UTC))
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(a *app.Config) { a.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending",
		`{"holdSeconds":0,"steps":{},"rules":{"quiet":{"text":{"from":"21:00","to":"07:00"}}}}`, nil)
	d := fmt.Sprintf(`{"urgency":"routine",%s"audience":{"parts":[{"kind":"role","role":"guardian"}],"receivers":"guardians"},`+
		`"subject":"Outing","email":"Hello","ownText":false,"text":"","firstOnly":false}`, more)
	return i, c, clock, sendDraft(t, c, d)
}

// A paused message lets nothing more leave, however long, and goes on where it was.
func TestAPausedMessageWaits(t *testing.T) {
	i, c, clock, id := quietTexts(t, "")
	received(t, i.Box, 2)
	path := fmt.Sprintf("/api/messages/%d", id)
	c.Want(http.StatusOK, http.MethodPost, path+"/pause", nil, nil)
	c.Problem(http.StatusConflict, http.MethodPost, path+"/pause", nil)
	clock.Pass(9 * time.Hour)
	i.Sending.Held(id)
	leaving, err := i.Store.Lease(t.Context(), 99, "text", store.Room{Most: 9, Others: 9}, 0, clock.Now(), clock.Now().Add(time.Minute))
	require.NoError(t, err)
	assert.Empty(t, leaving, "nothing of it may be leased")
	var s standingOf
	c.Record(id, &s)
	assert.Equal(t, "Hugo Farrowby", s.Message.PausedBy)
	c.Want(http.StatusOK, http.MethodPost, path+"/resume", nil, nil)
	received(t, i.Box, 3)
	c.Problem(http.StatusConflict, http.MethodPost, path+"/resume", nil)
}

// What has not left when the message's time is over expires, and is not tried again.
func TestAMessageWhoseTimeIsOver(t *testing.T) {
	i, c, clock, id := quietTexts(t, `"until":"2026-11-25T23:30:00Z","moveOn":{"failed":true},`)
	received(t, i.Box, 2)
	clock.Pass(31 * time.Minute)
	i.Sending.Held(id)
	var s standingOf
	testkit.Eventually(t, "the text expires", func() bool {
		c.Record(id, &s)
		return s.Message.Figures.Here == 0
	})
	assert.Equal(t, "sent", s.Message.State)
	assert.Equal(t, 1, s.Message.Figures.NotReached)
	expired := s.Recipients[1].Deliveries[0]
	assert.Equal(t, "expired", expired.State)
	assert.Equal(t, "it was not to leave any more", expired.Detail)
	testkit.Eventually(t, "nobody is tried on another step", func() bool {
		ids, err := i.Store.MovingOn(t.Context())
		return err == nil && len(ids) == 0
	})
	clock.Pass(9 * time.Hour)
	received(t, i.Box, 2)
	t.Run("what could never leave is not sent", func(t *testing.T) {
		var m struct{ ID, Revision int64 }
		c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
		path := fmt.Sprintf("/api/messages/%d", m.ID)
		c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":{"urgency":"routine",`+
			`"until":"2026-11-25T23:30:00Z","audience":{"parts":[{"kind":"role","role":"guardian"}],"receivers":"guardians"},`+
			`"subject":"Outing","email":"Hello","ownText":false,"text":"","firstOnly":false}}`, m.Revision), &m)
		assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/send",
			fmt.Sprintf(`{"revision":%d}`, m.Revision)), "Nothing is free to leave before")
	})
}
