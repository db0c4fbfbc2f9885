package e2e_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/testkit"
)

// wayside is a gateway of a form of its own.
type wayside struct {
	*httptest.Server
	mu    sync.Mutex
	down  bool
	texts []string
}

func newWayside(t *testing.T) *wayside {
	w := &wayside{}
	w.Server = httptest.NewServer(http.HandlerFunc(func(answer http.ResponseWriter, r *http.Request) {
		w.mu.Lock()
		defer w.mu.Unlock()
		if w.down {
			answer.WriteHeader(http.StatusPaymentRequired)
			_, _ = answer.Write([]byte(`{"error":"no credit left"}`))
			return
		}
		w.texts = append(w.texts, r.PostFormValue("number")+" "+r.PostFormValue("message"))
		_, _ = answer.Write([]byte(`{"reference":"W1"}`))
	}))
	t.Cleanup(w.Close)
	return w
}

func (w *wayside) got() []string {
	w.mu.Lock()
	defer w.mu.Unlock()
	return append([]string(nil), w.texts...)
}

// An office sets its gateways up, tries one with a text to itself, and the second takes
// over while the first is in trouble.
func TestAnOfficesOwnCarriers(t *testing.T) {
	v := runs(t, testkit.Folder(t, testkit.Roster, nil), func(c *app.Config) { c.Carriers = app.Carriers{} })
	first, second := newWayside(t), newWayside(t)
	v.signsIn(testkit.Login, testkit.Password)
	v.goes("/settings?of=carriers")
	v.sees(named("Texts"), "off: nothing carries them")
	add := func(name, url string) {
		v.clicks(named("Texts")+" button", "Add a carrier")
		v.clicks("label", "by a template")
		v.chooses("Begin with an example", "A form, with a user and a password")
		v.until(`document.querySelector("textarea").value.includes("gateway.example.org")`)
		v.sees("label", "What you call it").MustElement("input").MustInput(name)
		template := v.value("textarea")
		v.element("textarea").MustSelectAllText().MustInput(strings.Replace(template, "https://gateway.example.org/send", url, 1))
		v.clicks("button", "Add it")
	}
	add("Wayside", "ftp://wrong")
	v.sees("[role=alert]", "begins with the address of the gateway")
	v.element("textarea").MustSelectAllText().MustInput(
		`{"url":"` + first.URL + `","form":{"number":"{to}","message":"{text}"},"answer":{"id":"/reference","error":"/error"}}`,
	)
	v.clicks("button", "Add it")
	v.sees(named("Texts")+" li", `Wayside[\s\S]*takes the next one`)
	v.isAccessible(t)

	v.type_(named("A trial")+" input", "07700 900100")
	v.clicks("button", "Send a trial")
	v.sees("[role=status]", `The carrier took it`)
	require.Len(t, first.got(), 1)
	assert.Contains(t, first.got()[0], "+447700900100 This is a trial of “Wayside”")

	add("The modem", second.URL)
	v.sees(named("Texts")+" li", `The modem[\s\S]*stands by`)
	first.mu.Lock()
	first.down = true
	first.mu.Unlock()
	v.writes("", "Training is cancelled today.")
	v.sees("[role=status]", "Draft kept")
	v.sees("article", "goes to 3 people")
	v.clicks("button", "Send to 3 people…")
	v.clicks(finalCheck+" button", "Send to 3 people")
	testkit.Eventually(t, "the second took the texts", func() bool { return len(second.got()) > 0 })
	assert.Contains(t, second.got()[0], "Training is cancelled today.")
	v.sees("footer [role=alert]", "Texts go by the next carrier")
	v.goes("/settings?of=carriers")
	v.sees(named("Texts")+" li", `Wayside[\s\S]*no credit left[\s\S]*in trouble`)
	v.sees(named("Texts")+" li", `The modem[\s\S]*takes the next one`)
	v.clicks(named("Texts")+" li button", "Put first")
	v.sees(named("Texts")+" li:first-child", "The modem")
	v.goes("/people/changes")
	v.sees("td", "“The modem” is the first carrier for texts")
}
