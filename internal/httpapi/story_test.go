package httpapi_test

import (
	"fmt"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

type storyOf struct {
	Name, Outcome, Why, Copy string
	Person                   int64
	ReachedAt                string
	Aside                    []struct{ Channel, Address, Why string }
	Sent                     []struct {
		Channel, Address, State, Subject, Body, Mailbox string
		Step                                            int
		Events                                          []struct {
			State, Carrier, Said, Plainly string
			Report                        bool
		}
	}
}

// One recipient's story tells of each try on each step, in order, with the carrier's
// words and what they come to, and holds exactly what was sent.
func TestARecipientsStory(t *testing.T) {
	i, c := start(t)
	require.NoError(t, i.Box.SetFault(t.Context(), "rania@example.org", standin.Gone))
	id := sendDraft(t, c, toRania(`"moveOn":{"failed":true},`))
	var rec struct {
		Recipients []struct {
			ID, Person int64
			Outcome    string
		}
	}
	testkit.Eventually(t, "she is reached by text", func() bool {
		c.Record(id, &rec)
		return rec.Recipients[0].Outcome == "reached"
	})
	path := fmt.Sprintf("/api/messages/%d/recipients/%d", id, rec.Recipients[0].ID)
	var s storyOf
	testkit.Eventually(t, "both hand-overs are written down, which may be after what was handed over arrived", func() bool {
		s = storyOf{}
		c.Want(http.StatusOK, http.MethodGet, path, nil, &s)
		return len(s.Sent) == 2 && len(s.Sent[1].Events) == 2
	})
	assert.Equal(t, "reached", s.Outcome)
	assert.NotEmpty(t, s.ReachedAt)
	assert.Equal(t, "the original", s.Copy)
	email, text := s.Sent[0], s.Sent[1]
	assert.Equal(t, "email", email.Channel)
	assert.Equal(t, "failed", email.State)
	require.NotEmpty(t, email.Events)
	refused := email.Events[len(email.Events)-1]
	assert.Equal(t, "failed", refused.State)
	assert.Equal(t, "stand-in mail server", refused.Carrier)
	assert.Equal(t, "There is no such mailbox.", refused.Plainly)
	assert.Equal(t, "Dear Rania", text.Body, "exactly what she got")
	assert.Equal(t, "carrier", text.Events[0].State)
	assert.Equal(t, "stand-in text gateway", text.Events[0].Carrier)
	assert.Equal(t, "arrived", text.Events[1].State)
	assert.True(t, text.Events[1].Report)

	t.Run("how far everything came over time", func(t *testing.T) {
		var p struct {
			Reached          int
			Half, NineTenths float64
			Points           []struct {
				Free, Left int
				Arrived    map[string]int
			}
		}
		c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/progress", id), nil, &p)
		require.NotEmpty(t, p.Points)
		last := p.Points[len(p.Points)-1]
		assert.Equal(t, 2, last.Free, "the email and the text")
		assert.Equal(t, 1, last.Left)
		assert.Equal(t, map[string]int{"text": 1}, last.Arrived)
		assert.Equal(t, 1, p.Reached)
		assert.LessOrEqual(t, p.Half, p.NineTenths)
	})
	t.Run("of nobody, and of another message", func(t *testing.T) {
		c.Problem(http.StatusNotFound, http.MethodGet, fmt.Sprintf("/api/messages/%d/recipients/999", id), nil)
		other := sendDraft(t, c, toRania(""))
		c.Problem(http.StatusNotFound, http.MethodGet,
			fmt.Sprintf("/api/messages/%d/recipients/%d", other, rec.Recipients[0].ID), nil)
	})
	t.Run("once she was removed from the roster", func(t *testing.T) {
		c.Want(http.StatusOK, http.MethodPost, "/api/people/remove",
			fmt.Sprintf(`{"people":[%d]}`, rec.Recipients[0].Person), nil)
		var s storyOf
		c.Want(http.StatusOK, http.MethodGet, path, nil, &s)
		assert.Equal(t, "Dear Rania", s.Sent[1].Body)
	})
}

// Addresses that could not be used are told with the reason of then.
func TestAStoryTellsWhatWasPutAside(t *testing.T) {
	i, c := start(t)
	require.NoError(t, i.Box.SetFault(t.Context(), "rania@example.org", standin.Gone))
	sendDraft(t, c, toRania(""))
	r, err := i.Store.Roster(t.Context())
	require.NoError(t, err)
	rania := r.At(r.Holders("rania@example.org")[0]).ID
	var rec struct{ Recipients []struct{ ID int64 } }
	var s storyOf
	testkit.Eventually(t, "her mailbox is dead", func() bool {
		id := sendDraft(t, c, draftOf(fmt.Sprintf(`{"kind":"person","person":%d}`, rania), "Hello"))
		c.Record(id, &rec)
		c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/recipients/%d", id, rec.Recipients[0].ID), nil, &s)
		return len(s.Aside) > 0
	})
	assert.Equal(t, "email", s.Aside[0].Channel)
	assert.Equal(t, "it was known to be dead", s.Aside[0].Why)
}
