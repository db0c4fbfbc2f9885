package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

type foundOf struct {
	All      int
	Missing  []int
	Messages []struct{ Title string }
}

func (f foundOf) titles() string {
	var list []string
	for _, m := range f.Messages {
		list = append(list, m.Title)
	}
	return strings.Join(list, ", ")
}

func find(c *testkit.Client, conditions string, more string) (f foundOf) {
	c.Want(http.StatusOK, http.MethodPost, "/api/messages/search", `{"conditions":[`+conditions+`]`+more+`}`, &f)
	return f
}

func TestMessagesAreFound(t *testing.T) {
	i, c := start(t)
	draft := func(parts, subject, email string) string {
		return strings.Replace(draftOf(parts, email), `"subject":"Outing"`, fmt.Sprintf(`"subject":%q`, subject), 1)
	}
	require.Contains(t, draft("", "Low water", "x"), "Low water")
	rania := `{"kind":"addresses","addresses":["rania@example.org"]}`
	sendDraft(t, c, draft(rania, "Low water", "No rowing at the flood gate. 明日の練習はありません"))
	sendDraft(t, c, draft(`{"kind":"group","group":4}`, "Coaches meet", "Bring the Łódź papers"))
	sendDraft(t, c, draft(`{"kind":"role","role":"guardian"}`, "Term dates", "The term ends on Friday."))
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	c.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/messages/%d", m.ID),
		fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft("", "Not sent", "A draft of the flood gate")), nil)
	r, err := i.Store.Roster(t.Context())
	require.NoError(t, err)
	person := func(address string) int64 { return int64(r.At(r.Holders(address)[0]).ID) }

	for _, s := range []struct{ name, conditions, more, want string }{
		{"everything, the newest first", "", "", "Not sent, Term dates, Coaches meet, Low water"},
		{"the oldest first", "", `,"order":"oldest"`, "Low water, Coaches meet, Term dates, Not sent"},
		{"by title", "", `,"order":"title"`, "Coaches meet, Low water, Not sent, Term dates"},
		{"most recipients first", "", `,"order":"recipients","count":1`, "Term dates"},
		{"words of the subject", `{"on":"words","value":"low"}`, "", "Low water"},
		{"words of what it says, begun", `{"on":"words","value":"flood ga"}`, "", "Not sent, Low water"},
		{"words without their marks", `{"on":"words","value":"lodz"}`, "", "Coaches meet"},
		{"words of a script without spaces", `{"on":"words","value":"練習"}`, "", "Low water"},
		{"words of a query language", `{"on":"words","value":"low\" OR NEAR("}`, "", ""},
		{"not these words", `{"on":"words","value":"flood","not":true}`, "", "Term dates, Coaches meet"},
		{"by channel", `{"on":"channel","value":"voice"}`, "", "Term dates"},
		{"to a group", `{"on":"group","id":4}`, "", "Coaches meet"},
		{"to a person", fmt.Sprintf(`{"on":"person","id":%d}`, person("rania@example.org")), "", "Term dates, Low water"},
		{"to a number, as it is typed", `{"on":"address","value":"07700 900188"}`, "", "Term dates"},
		{"to a mailbox", `{"on":"address","value":" Rania@example.org"}`, "", "Term dates, Low water"},
		{"in a state", `{"on":"state","value":"draft"}`, "", "Not sent"},
		{"by a sender", `{"on":"sender","id":1}`, "", "Not sent, Term dates, Coaches meet, Low water"},
		{"within the last days", `{"on":"last","days":1}`, "", "Not sent, Term dates, Coaches meet, Low water"},
		{"until a day that is past", `{"on":"days","until":"2020-01-01"}`, "", ""},
		{"by the program", `{"on":"made","value":"program"}`, "", ""},
		{"one on top of the other", `{"on":"words","value":"flood"},{"on":"state","value":"draft","not":true}`, "", "Low water"},
	} {
		t.Run(s.name, func(t *testing.T) {
			assert.Equal(t, s.want, find(c, s.conditions, s.more).titles())
		})
	}
	t.Run("a page of them, with how many there are", func(t *testing.T) {
		f := find(c, "", `,"first":1,"count":2`)
		assert.Equal(t, "Term dates, Coaches meet", f.titles())
		assert.Equal(t, 4, f.All)
	})
	t.Run("by a group that is gone", func(t *testing.T) {
		f := find(c, `{"on":"last","days":1},{"on":"group","id":99}`, "")
		assert.Equal(t, []int{1}, f.Missing)
		assert.Empty(t, f.Messages)
	})
	t.Run("by everything but a group that is gone", func(t *testing.T) {
		assert.Empty(t, find(c, `{"on":"group","id":99,"not":true}`, "").Messages)
	})
	t.Run("what cannot be looked for", func(t *testing.T) {
		said := c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/messages/search",
			`{"conditions":[{"on":"days","from":"2026-02-30"}]}`)
		assert.Contains(t, said, "condition 1: ")
		c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/messages/search", `{"conditions":[{"on":"colour"}]}`)
		c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/messages/search", `{"conditions":[],"count":501}`)
	})
	t.Run("what was changed is found by its new words alone", func(t *testing.T) {
		c.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/messages/%d", m.ID),
			fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision+1, draft("", "Not sent", "About the weir")), nil)
		assert.Equal(t, "Low water", find(c, `{"on":"words","value":"flood"}`, "").titles())
		assert.Equal(t, "Not sent", find(c, `{"on":"words","value":"weir"}`, "").titles())
		c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/messages/%d", m.ID), nil, nil)
		assert.Empty(t, find(c, `{"on":"words","value":"weir"}`, "").Messages)
	})
}

// A search that is kept is everybody's to use, and its owner's to change.
func TestKeptSearches(t *testing.T) {
	i, c := start(t)
	var kept struct{ ID int64 }
	body := `{"name":"Missed","search":{"conditions":[{"on":"missed"}]}}`
	c.Want(http.StatusOK, http.MethodPost, "/api/searches", body, &kept)
	c.Want(http.StatusOK, http.MethodPost, "/api/searches", body, &kept)
	c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/searches", `{"name":"x","search":{"conditions":[{"on":"days"}]}}`)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts", `{"login":"unit@quillmere.example","name":"Other","duty":"","active":true,`+
		`"password":"a password for tests","scope":{"whole":true,"units":[]},"rights":["write"]}`, nil)
	other := testkit.Stranger(t, i.URL)
	other.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "unit@quillmere.example", "password": "a password for tests"}, nil)
	var list struct {
		Kept []struct {
			ID   int64
			Own  bool
			Name string
		}
	}
	other.Want(http.StatusOK, http.MethodGet, "/api/searches", nil, &list)
	require.Len(t, list.Kept, 1)
	assert.False(t, list.Kept[0].Own)
	other.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/searches", body)
	other.Problem(http.StatusForbidden, http.MethodDelete, fmt.Sprintf("/api/searches/%d", kept.ID), nil)
	c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/searches/%d", kept.ID), nil, nil)
	c.Problem(http.StatusNotFound, http.MethodDelete, fmt.Sprintf("/api/searches/%d", kept.ID), nil)
}
