package httpapi_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

type needsOf struct {
	Open       int
	Colleagues []struct{ ID int64 }
	Groups     []struct {
		Way    string
		Open   int
		People []struct {
			Recipient, Person         int64
			Name, What, Given, DoneBy string
			Done, Reached             bool
		}
	}
}

// group is the group of a way.
func (n needsOf) names(way string) []string {
	names := []string{}
	for _, g := range n.Groups {
		for _, p := range g.People {
			if g.Way == way && !p.Done {
				names = append(names, p.Name)
			}
		}
	}
	return names
}

// person is the first one of a way.
func (n needsOf) person(way string) int64 {
	for _, g := range n.Groups {
		if g.Way == way {
			return g.People[0].Person
		}
	}
	return 0
}

// missing sends a message that reaches some of the test roster: Rania's mailbox is
// gone, Piotr's number too, Lena does not pick up, Tuan declined, Naya gets it.
func missing(t *testing.T, i *app.Instance, c *testkit.Client) int64 {
	for address, fault := range map[string]standin.Fault{
		"rania@example.org": standin.Gone, "+447700900418": standin.Gone, "+447700900188": standin.NoAnswer,
	} {
		require.NoError(t, i.Box.SetFault(t.Context(), address, fault))
	}
	id := sendDraft(t, c, draftOf(`{"kind":"role","role":"guardian"},{"kind":"group","group":4}`, "Hello {{first name}}"))
	var rec struct {
		Message struct {
			Figures struct{ Waiting, NotReached, Reached int }
		}
	}
	testkit.Eventually(t, "everything was reported", func() bool {
		c.Record(id, &rec)
		return rec.Message.Figures.Waiting == 0 && rec.Message.Figures.NotReached == 3
	})
	return id
}

func needs(c *testkit.Client, id int64) (n needsOf) {
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/needs", id), nil, &n)
	return n
}

func TestWhatNeedsAHand(t *testing.T) {
	i, c := start(t)
	id := missing(t, i, c)
	edits(c, "Naya Osei", func(sheet map[string]any) { sheet["givenName"] = "Naya Ann" }) // what was learnt is seen
	n := needs(c, id)
	assert.Equal(t, []string{"Rania Haddad", "Piotr Zielony"}, n.names("next-channel"), "a text, a call")
	assert.Equal(t, []string{"Lena Achterberg"}, n.names("again"), "that nobody picks up says nothing of a number")
	assert.Equal(t, []string{"Di Venn"}, n.names("details"))
	assert.Equal(t, []string{"Tuan Vo"}, n.names("paper"))
	assert.Equal(t, 5, n.Open)
	assert.Equal(t, "no such mailbox", n.Groups[0].People[0].What)
	path := fmt.Sprintf("/api/messages/%d", id)

	t.Run("the next channel, for one", func(t *testing.T) {
		var tried struct{ Tried int }
		body := fmt.Sprintf(`{"recipients":[%d]}`, n.Groups[0].People[0].Recipient)
		c.Want(http.StatusOK, http.MethodPost, path+"/next", body, &tried)
		assert.Equal(t, 1, tried.Tried)
		testkit.Eventually(t, "she is reached", func() bool { return needs(c, id).Open == 4 })
		assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/next", body), "needs a hand")
		var story storyOf
		c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("%s/recipients/%d", path, n.Groups[0].People[0].Recipient), nil, &story)
		require.Len(t, story.Sent, 2)
		assert.Equal(t, "text", story.Sent[1].Channel)
	})
	t.Run("ticked off, and not after all", func(t *testing.T) {
		di := n.person("details")
		tick := func(done bool) {
			c.Want(http.StatusNoContent, http.MethodPost, path+"/needs", fmt.Sprintf(`{"people":[%d],"done":%v}`, di, done), nil)
		}
		tick(true)
		now := needs(c, id)
		assert.Equal(t, 3, now.Open)
		assert.Empty(t, now.names("details"))
		tick(false)
		assert.Equal(t, 4, needs(c, id).Open)
		assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/needs", `{"people":[1],"done":true}`), "needs a hand")
	})
	t.Run("given to a colleague, who sees it in the strip", func(t *testing.T) {
		var accounts []struct{ ID int64 }
		c.Want(http.StatusOK, http.MethodPost, "/api/accounts", `{"login":"naya@quillmere.example","name":"Naya","duty":"","active":true,`+
			`"password":"a password for tests","scope":{"whole":true,"units":[]},"rights":["write","read-records"]}`, &accounts)
		di := n.person("details")
		c.Want(http.StatusNoContent, http.MethodPost, path+"/needs",
			fmt.Sprintf(`{"people":[%d],"givenTo":%d}`, di, accounts[1].ID), nil)
		naya := testkit.Stranger(t, i.URL)
		naya.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
			map[string]string{"login": "naya@quillmere.example", "password": "a password for tests"}, nil)
		var strip struct{ Hands []struct{ ID, People int64 } }
		naya.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
		require.Len(t, strip.Hands, 1)
		assert.Equal(t, id, strip.Hands[0].ID)
		naya.Want(http.StatusNoContent, http.MethodPost, path+"/needs", fmt.Sprintf(`{"people":[%d],"done":true}`, di), nil)
		naya.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
		assert.Empty(t, strip.Hands)
		c.Problem(http.StatusNotFound, http.MethodPost, path+"/needs", fmt.Sprintf(`{"people":[%d],"givenTo":999}`, di))
	})
}

// An address that was corrected gets the same again, and nobody else does.
func TestSendingAgainToACorrectedAddress(t *testing.T) {
	i, c := start(t)
	id := missing(t, i, c)
	var who struct{ Sheet map[string]any }
	di := needs(c, id).person("details")
	person := fmt.Sprintf("/api/people/%d", di)
	c.Want(http.StatusOK, http.MethodGet, person, nil, &who)
	who.Sheet["addresses"] = []map[string]any{{"channel": "email", "value": "di@example.org", "label": ""}}
	c.Want(http.StatusOK, http.MethodPut, person, who.Sheet, nil)
	assert.Equal(t, []string{"Lena Achterberg", "Di Venn"}, needs(c, id).names("again"))
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/follow", id),
		fmt.Sprintf(`{"as":"again","people":[%d]}`, di), &m)
	before, err := i.Box.All(t.Context())
	require.NoError(t, err)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", m.ID), fmt.Sprintf(`{"revision":%d}`, m.Revision), nil)
	items := received(t, i.Box, len(before)+1)
	assert.True(t, slices.ContainsFunc(items, func(item standin.Item) bool { return strings.TrimSpace(item.Body) == "Hello Di" }))
	testkit.Eventually(t, "she is done", func() bool { return len(needs(c, id).names("again")) == 1 })
	var rec struct {
		Chain []struct {
			ID int64
			As string
		}
	}
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/record", id), nil, &rec)
	require.Len(t, rec.Chain, 1)
	assert.Equal(t, "again", rec.Chain[0].As)
}

// An all-clear goes to exactly those who got the message, by what reached them.
func TestAnAllClear(t *testing.T) {
	i, c := start(t)
	id := missing(t, i, c)
	var m struct {
		ID, Revision int64
		Draft        map[string]any
	}
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/follow", id), `{"as":"all-clear"}`, &m)
	m.Draft["email"] = "All is well"
	c.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/messages/%d", m.ID), map[string]any{"revision": m.Revision, "draft": m.Draft}, &m)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", m.ID), fmt.Sprintf(`{"revision":%d}`, m.Revision), nil)
	testkit.Eventually(t, "it was sent", func() bool {
		list, err := i.Box.All(t.Context())
		require.NoError(t, err)
		var clear []string
		for _, item := range list {
			if strings.Contains(item.Body, "All is well") {
				clear = append(clear, item.Address)
			}
		}
		return len(clear) == 2 // both of Naya's mailboxes
	})

	t.Run("of what was not sent", func(t *testing.T) {
		c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
		assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost,
			fmt.Sprintf("/api/messages/%d/follow", m.ID), `{"as":"all-clear"}`), "not sent yet")
	})
}

// The same to further people has the words, and passes over whoever got it.
func TestTheSameToFurtherPeople(t *testing.T) {
	i, c := start(t)
	id := missing(t, i, c)
	var m struct {
		ID, Revision int64
		Draft        map[string]any
	}
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/follow", id), `{"as":"further"}`, &m)
	assert.Equal(t, "Hello {{first name}}", m.Draft["email"])
	audience := m.Draft["audience"].(map[string]any)
	assert.Empty(t, audience["parts"], "they are still to be named")
	audience["parts"] = []map[string]any{{"kind": "role", "role": "staff"}, {"kind": "role", "role": "guardian"}}
	var p plan
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", m.Draft, &p)
	assert.Equal(t, 3, p.Recipients, "Rania, Piotr and Lena; Naya got it")
}
