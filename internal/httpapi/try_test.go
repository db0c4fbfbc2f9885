package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/testkit"
)

func TestTryingItOnOneself(t *testing.T) {
	i, c := start(t)
	var tried struct{ Sent []string }
	draft := draftOf(juniors, "Dear {{first name}}")
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/try?index=0", draft, &tried)
	assert.Equal(t, []string{"email to " + testkit.Login}, tried.Sent, "nobody on the roster has this mailbox")
	mail := received(t, i.Box, 1)[0]
	assert.Equal(t, testkit.Login, mail.Address)
	assert.True(t, strings.HasPrefix(mail.Body, "TRIAL: Dear "), mail.Body)
	assert.Empty(t, mail.HTML, "it has no formatting")
	bold := strings.Replace(
		draft, `"Dear {{first name}}"`,
		`{"type":"doc","content":[{"type":"paragraph","content":[{"type":"text","text":"Dear all","marks":[{"type":"bold"}]}]}]}`,
		1,
	)
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/try?index=0", bold, &tried)
	assert.Contains(t, received(t, i.Box, 2)[1].HTML, "<strong>TRIAL: </strong>")
	var messages struct{ Messages []any }
	c.Want(http.StatusOK, http.MethodGet, "/api/messages", nil, &messages)
	assert.Empty(t, messages.Messages, "a trial stands in no list")

	naya := person(c, int(coach(c))).Sheet
	naya.Addresses = append(naya.Addresses, roster.Address{Channel: roster.Email, Value: testkit.Login})
	save(t, c, naya)
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/try?index=0", draft, &tried)
	assert.Len(t, tried.Sent, 3, "email, text and call, each once")
	for _, item := range received(t, i.Box, 5)[2:] {
		assert.Contains(t, item.Body, "TRIAL: ")
	}
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan/try?index=99", draft),
		"choose somebody whom it reaches",
	)
	assert.Contains(
		t,
		c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan/try", draftOf(coaches, "About {{dependents}}")),
		"choose somebody whom it reaches",
	)
}

func TestLettersForThoseWhomNothingReaches(t *testing.T) {
	_, c := start(t)
	var v struct {
		All     int
		Letters []struct {
			Names         []string
			Subject, HTML string
		}
	}
	c.Want(
		http.StatusOK, http.MethodPost, "/api/plan/letters", `{"draft":`+draftOf(coaches, "Dear {{first name}}")+`}`, &v,
	)
	assert.Equal(t, 1, v.All)
	assert.Equal(t, []string{"Di Venn"}, v.Letters[0].Names)
	assert.Contains(t, v.Letters[0].HTML, "Dear Di")

	draft := draftOf(coaches, "Dear {{first name}}")
	assert.Contains(
		t, c.Problem(http.StatusServiceUnavailable, http.MethodPost, "/api/plan/letters.pdf", `{"draft":`+draft+`}`), "fonts",
		"this program has no interface",
	)
	assert.Contains(
		t,
		c.Problem(
			http.StatusUnprocessableEntity, http.MethodPost, "/api/plan/letters.pdf", `{"draft":`+draft+`,"people":[1]}`,
		),
		"no letters",
	)
	assert.Contains(
		t,
		c.Problem(
			http.StatusUnprocessableEntity, http.MethodPost, "/api/plan/letters",
			`{"draft":`+draftOf(`{"kind":"group"}`, "x")+`}`,
		),
		"no group is named",
	)
}

// coach is Naya's number.
func coach(c *testkit.Client) roster.PersonID {
	var found struct {
		People []struct {
			ID   roster.PersonID
			Name string
		}
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/people", nil, &found)
	for _, p := range found.People {
		if p.Name == "Naya Osei" {
			return p.ID
		}
	}
	panic(fmt.Sprint("nobody is called Naya Osei: ", found))
}
