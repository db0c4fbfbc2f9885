package httpapi_test

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/own"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// pushed connects a device of Piotr’s, pushes a message to him, and returns the page of
// that push.
func (o deskOffice) pushed(more string) (message int64, page string) {
	o.Helper()
	sheet := person(o.c, 2).Sheet
	sheet.Addresses = []roster.Address{{Channel: roster.Push, Value: "Piotr’s phone", Label: "phone"}}
	save(o.T, o.c, sheet)
	d := standin.Device("Piotr’s phone")
	require.NoError(o.T, o.i.Store.Connect(o.Context(), []store.Device{{
		Name: "Piotr’s phone", Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth,
	}}, o.clock.Now()))
	draft := draftOf(`{"kind":"person","person":2}`, "Outing at six")
	message = sendDraft(o.T, o.c, strings.Replace(draft, `"subject"`, more+`"subject"`, 1))
	page = o.got("Piotr’s phone", 1).Answer
	require.NotEmpty(o.T, page)
	return message, page
}

var nonceOf = regexp.MustCompile(`name="nonce" value="([^"]+)"`)

// What is pushed to somebody who keeps no page is answered on the page of that push.
func TestWhatIsPushedIsAnsweredOnItsPage(t *testing.T) {
	o := atDesk(t, "")
	id, page := o.pushed("")
	shown := o.page(http.StatusOK, http.MethodGet, page, nil)
	assert.Contains(t, shown, "Outing at six")
	assert.Contains(t, shown, "Write back", "in the language of what was pushed")
	assert.NotContains(t, shown, `name="know"`, "nobody asks to confirm")
	nonce := nonceOf.FindStringSubmatch(shown)
	require.NotNil(t, nonce)

	words := url.Values{"text": {"STOP"}, "nonce": {nonce[1]}}
	o.page(http.StatusOK, http.MethodPost, page, words)
	assert.Contains(t, o.page(http.StatusOK, http.MethodPost, page, words), "STOP")
	thread := o.only()
	assert.Equal(t, "us", thread.Thread.Waits, "stop words mean nothing there")
	require.Len(t, thread.Entries, 1, "what comes twice counts once")
	assert.Equal(t, "Piotr Zielony", thread.Entries[0].Name)
	assert.Equal(t, "Outing", thread.Title)
	testkit.Eventually(t, "he has answered", func() bool {
		var s standingOf
		o.c.Record(id, &s)
		return s.Message.Figures.Answered == 1
	})

	for name, form := range map[string]url.Values{
		"nothing":         {"text": {" \n "}, "nonce": {"n1"}},
		"no key":          {"text": {"Kept words"}},
		"too long a key":  {"text": {"Kept words"}, "nonce": {strings.Repeat("n", 41)}},
		"somebody else":   {"text": {"Kept words"}, "nonce": {"n2"}, "who": {"1"}},
		"an answer to it": {"say": {"1"}},
		"a confirmation":  {"know": {"1"}},
	} {
		t.Run(name, func(t *testing.T) {
			shown := o.page(http.StatusUnprocessableEntity, http.MethodPost, page, form)
			if form.Get("text") == "Kept words" {
				assert.Contains(t, shown, "Kept words</textarea>", "nothing that was typed is lost")
			}
		})
	}
	o.page(http.StatusNotFound, http.MethodPost, page+"A", words)
	for n := range own.MostWrites - 1 {
		o.page(http.StatusOK, http.MethodPost, page, url.Values{"text": {"Again"}, "nonce": {fmt.Sprint("more", n)}})
	}
	refused := o.page(http.StatusTooManyRequests, http.MethodPost, page, url.Values{"text": {"One too many"}, "nonce": {"last"}})
	assert.Contains(t, refused, "One too many</textarea>")
	o.clock.Pass(own.WritesIn)
	o.page(http.StatusOK, http.MethodPost, page, url.Values{"text": {"Later"}, "nonce": {"later"}})
}

// Where only an answer confirms that somebody knows, the page of a push has a button for it.
func TestAPushIsConfirmedOnItsPage(t *testing.T) {
	o := atDesk(t, "")
	id, page := o.pushed(`"moveOn":{"answered":true,"minutes":30},`)
	assert.Contains(t, o.page(http.StatusOK, http.MethodGet, page, nil), `name="know"`)
	shown := o.page(http.StatusOK, http.MethodPost, page, url.Values{"know": {"1"}})
	assert.NotContains(t, shown, `name="know"`)
	assert.Contains(t, shown, `role="status"`)
	testkit.Eventually(t, "he has confirmed", func() bool {
		var s standingOf
		o.c.Record(id, &s)
		return s.Message.Figures.Answered == 1
	})
	// An email that asks nothing has no such page.
	sendDraft(t, o.c, draftOf(`{"kind":"person","person":1}`, "Hello"))
	assert.Empty(t, o.got("rania@example.org", 1).Answer)
}
