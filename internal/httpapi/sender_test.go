package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	rules "upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

func TestUnderWhoseNameItGoesOut(t *testing.T) {
	i, c := startWith(t, func(o *store.Organisation) {
		o.Sending = rules.Sending{Signature: roster.Signature{Footer: "The boathouse\n{{sender}}"}}
		o.MailFrom = "desk@quillmere.example"
	})
	type view struct {
		Sendable bool
		Sender   struct {
			Names, Numbers, InUse []string
			Replies, Own, Footer  string
		}
		Problems []struct{ Code, Sentence string }
	}
	with := func(more string) string {
		return strings.Replace(
			draftOf(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Come"), `"subject"`, more+`"subject"`, 1,
		)
	}
	var v view
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", with(""), &v)
	assert.Equal(t, []string{"Quillmere Rowing Club", "Hugo Farrowby"}, v.Sender.Names)
	assert.Equal(t, "desk@quillmere.example", v.Sender.Replies)
	assert.Equal(t, testkit.Login, v.Sender.Own)
	assert.Equal(t, []string{"Quillmere Rowing Club"}, v.Sender.InUse)

	own := with(`"from":{"name":"Hugo Farrowby"},"replyTo":"` + testkit.Login + `",`)
	sendDraft(t, c, own)
	mail := received(t, i.Box, 1)[0]
	assert.Contains(t, mail.From, "Hugo Farrowby")
	assert.Contains(t, mail.ReplyTo, testkit.Login)
	assert.Equal(t, "Come\n\nThe boathouse\nHugo Farrowby", mail.Body)

	for _, borrowed := range []string{
		`"from":{"name":"The Mayor"},`, `"from":{"number":"+447700900999"},`, `"replyTo":"mayor@example.org",`,
	} {
		var refused view
		c.Want(http.StatusOK, http.MethodPost, "/api/plan", with(borrowed), &refused)
		require.False(t, refused.Sendable)
		assert.Equal(t, "identity", refused.Problems[0].Code)
		assert.Contains(t, refused.Problems[0].Sentence, "Your account may not write as")
	}
}

func TestAUnitSignsWhatItWrites(t *testing.T) {
	_, c := start(t)
	var v struct{ Units []struct{ ID int64 } }
	c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Rowing","footer":"Rowing desk"}`, &v)
	c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Juniors","parent":1,"prefix":"[Juniors]"}`, &v)
	guardian := person(c, rania).Sheet
	guardian.Unit = 2
	save(t, c, guardian)
	var p struct {
		Deliveries []struct{ Subject, Body string }
	}
	c.Want(
		http.StatusOK, http.MethodPost, "/api/plan/preview?index=0",
		strings.Replace(draftOf(`{"kind":"unit","unit":2}`, "Come"), `"subject":""`, `"subject":"Outing"`, 1), &p,
	)
	require.NotEmpty(t, p.Deliveries)
	assert.Equal(t, "Come\n\nRowing desk", p.Deliveries[0].Body, "what the unit does not say, the one around it does")
	assert.True(t, strings.HasPrefix(p.Deliveries[0].Subject, "[Juniors]"), p.Deliveries[0].Subject)
}

// A message to many goes out as the one who asked, once somebody else says yes.
func TestASecondYes(t *testing.T) {
	const flood = "Flood watch"
	i, c, unit := startUnits(t, flood, access.Write)
	o, err := i.Store.Organisation(t.Context())
	require.NoError(t, err)
	o.Sending = rules.Sending{BigFrom: 2, SecondYes: true}
	require.NoError(t, i.Store.PutOrganisation(t.Context(), o))

	type asked struct {
		ID, Revision            int64
		Asker                   string
		Sender, Assenter, Title string
		AsksYou                 bool
	}
	var m, one asked
	unit.Want(http.StatusOK, http.MethodPost, "/api/messages", `{}`, &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := `{"urgency":"routine","audience":{"parts":[{"kind":"role","role":"field"}],"receivers":"guardians"},"subject":"Rota","email":"Come","ownText":false,"text":"","firstOnly":false}`
	unit.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	body := fmt.Sprintf(`{"revision":%d,"recipients":2}`, m.Revision)
	var planned struct {
		Recipients         int
		Confirm, SecondYes bool
	}
	unit.Want(http.StatusOK, http.MethodPost, "/api/plan", draft, &planned)
	assert.True(t, planned.SecondYes && !planned.Confirm)

	assert.Contains(
		t, unit.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/send", body), "somebody else must say yes",
	)
	unit.Want(http.StatusConflict, http.MethodGet, path+"/asked", nil, nil)
	assert.Contains(
		t,
		unit.Problem(http.StatusConflict, http.MethodPost, path+"/ask", fmt.Sprintf(
			`{"revision":%d,"recipients":3}`, m.Revision,
		)),
		"now goes to 2 people",
	)
	unit.Want(http.StatusNoContent, http.MethodPost, path+"/ask", body, nil)
	assert.Contains(
		t, unit.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/send", body), "somebody else must say yes",
		"one's own yes is none",
	)

	unit.Want(
		http.StatusOK, http.MethodPut, path,
		fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, strings.Replace(draft, "Come", "Come soon", 1)), &m,
	)
	c.Want(http.StatusOK, http.MethodGet, path, nil, &one)
	assert.Empty(t, one.Asker, "a change takes the question back")
	body = fmt.Sprintf(`{"revision":%d,"recipients":2}`, m.Revision)
	unit.Want(http.StatusNoContent, http.MethodPost, path+"/ask", body, nil)

	c.Want(http.StatusOK, http.MethodGet, path, nil, &one)
	assert.Equal(t, "Una Unit", one.Asker)
	assert.True(t, one.AsksYou)
	var strip struct{ Asked []struct{ Title string } }
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	require.Len(t, strip.Asked, 1)
	unit.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	assert.Empty(t, strip.Asked)
	c.Want(http.StatusOK, http.MethodGet, path+"/asked", nil, &planned)
	assert.Equal(t, 2, planned.Recipients, "as far as the asker reaches")
	c.Want(http.StatusOK, http.MethodPost, path+"/send", body, &one)
	assert.Equal(t, "Una Unit", one.Sender)
	assert.Equal(t, "Hugo Farrowby", one.Assenter)
}

func TestASecondYesOfTheRightKind(t *testing.T) {
	i, c, unit := startUnits(t, "Rowing", access.Write)
	o, err := i.Store.Organisation(t.Context())
	require.NoError(t, err)
	o.Sending = rules.Sending{SecondYes: true}
	require.NoError(t, i.Store.PutOrganisation(t.Context(), o))
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", `{}`, &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := `{"urgency":"routine","audience":{"parts":[{"kind":"role","role":"field"}],"receivers":"guardians"},"subject":"Rota","email":"Come","ownText":false,"text":"","firstOnly":false}`
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	body := fmt.Sprintf(`{"revision":%d,"recipients":2}`, m.Revision)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/ask", body), "needs nobody else's yes",
	)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision,
		strings.Replace(draft, `"routine"`, `"emergency","reason":"Flood"`, 1)), &m)
	body = fmt.Sprintf(`{"revision":%d,"recipients":2}`, m.Revision)
	c.Want(http.StatusNoContent, http.MethodPost, path+"/ask", body, nil)
	unit.Want(http.StatusNotFound, http.MethodPost, path+"/send", body, nil)

	office, err := i.Store.AccountByLogin(t.Context(), testkit.Login)
	require.NoError(t, err)
	_, err = i.Store.PutAccount(t.Context(), store.Account{
		Login: "second@quillmere.example", Name: "Sam Second", PasswordHash: office.PasswordHash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Whole: true}, Rights: []access.Right{access.Write}},
	})
	require.NoError(t, err)
	second := testkit.Stranger(t, i.URL)
	second.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "second@quillmere.example", "password": testkit.Password}, nil,
	)
	assert.Contains(
		t, second.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/send", body), "may not write emergencies",
	)
}
