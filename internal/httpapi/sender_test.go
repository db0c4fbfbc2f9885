package httpapi_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
		return strings.Replace(draftOf(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Come"), `"subject"`, more+`"subject"`, 1)
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

	for _, borrowed := range []string{`"from":{"name":"The Mayor"},`, `"from":{"number":"+447700900999"},`, `"replyTo":"mayor@example.org",`} {
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
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/preview?index=0", strings.Replace(draftOf(`{"kind":"unit","unit":2}`, "Come"), `"subject":""`, `"subject":"Outing"`, 1), &p)
	require.NotEmpty(t, p.Deliveries)
	assert.Equal(t, "Come\n\nRowing desk", p.Deliveries[0].Body, "what the unit does not say, the one around it does")
	assert.True(t, strings.HasPrefix(p.Deliveries[0].Subject, "[Juniors]"), p.Deliveries[0].Subject)
}
