package e2e_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

// network is a way to the program that can be cut.
func network(t *testing.T, to string) *httptest.Server {
	t.Helper()
	target, err := url.Parse(to)
	require.NoError(t, err)
	way := httptest.NewServer(httputil.NewSingleHostReverseProxy(target))
	t.Cleanup(way.Close)
	return way
}

// Somebody without an account reads what they got, answers it and writes back, keeps the
// page, and has it without a network.
func TestSomebodysOwnPage(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", oneDesk, nil)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	c.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/messages/%d", m.ID), fmt.Sprintf(
		`{"revision":%d,"draft":{"urgency":"timely","audience":{"parts":[{"kind":"person","person":1}],"receivers":"themselves"},`+
			`"subject":"Low water","email":"Bring the short oars.","ownText":false,"text":"","firstOnly":false,`+
			`"question":{"choices":[{"words":"We bring them","means":"counts"},{"words":"We have none","means":"attend"}]}}}`, m.Revision,
	), &m)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", m.ID), fmt.Sprintf(`{"revision":%d}`, m.Revision), nil)
	var link struct{ Path string }
	c.Want(http.StatusOK, http.MethodPost, "/api/people/1/link", nil, &link)
	var page struct{ Items []struct{} }
	testkit.Eventually(t, "it left", func() bool {
		c.Want(http.StatusOK, http.MethodGet, "/api"+link.Path, nil, &page)
		return len(page.Items) == 1
	})

	way := network(t, v.instance.URL)
	rania := v.another(way.URL+link.Path, 390, 844)
	rania.clicks("article button", "Bring the short oars")
	rania.clicks("article button", "We bring them")
	rania.sees("[aria-pressed=true]", "We bring them")
	rania.type_("article textarea", "وسنصل في الثامنة")
	rania.clicks("article form button", "إرسال")
	rania.sees("article", `كتبت[\s\S]*وسنصل في الثامنة`)
	picture := testkit.Write(t, "gauge.txt", []byte("The gauge reads 2 m"))
	require.NoError(t, rania.element("article input[type=file]").SetFiles([]string{picture}))
	rania.sees("article", `gauge\.txt`)
	v.goes("/desks")
	v.clicks(named("Waits for us")+" button", "Rania Haddad")
	v.sees(".ledger", `Low water[\s\S]*Rania Haddad[\s\S]*وسنصل في الثامنة[\s\S]*written on their page`)
	v.sees(".ledger", `gauge\.txt`)

	rania.clicks("footer button", "احفظ هذه الصفحة")
	rania.sees("footer", "محفوظة على هذا الجهاز")
	rania.must(rania.patient().Wait(rod.Eval(
		`async () => await (await caches.match("/own/"))?.text() === location.pathname`,
	).ByPromise()), "waiting until it is kept")
	way.Close()
	rania.must(rania.patient().Reload(), "opening it without a network")
	rania.sees("[role=status]", "لا توجد شبكة")
	rania.sees("article button", "Bring the short oars")
	rania.type_("main > div > form textarea", "لا تنتظروا")
	rania.clicks("main > div > form button", "إرسال")
	rania.sees(".wrote", `ينتظر على هذا الجهاز[\s\S]*لا تنتظروا`)
}

// A terminal in a vehicle shows its code, is paired with somebody, and fills its screen
// with what interrupts until that is touched.
func TestATerminalInAVehicle(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", oneDesk, nil)
	van := v.another(v.instance.URL+"/terminal", 1024, 600)
	code := van.sees(".code", `\w{4} \w{4}`).MustText()
	v.goes("/people")
	v.clicks("td .link", "Piotr Zielony")
	v.clicks("button", "Pair a terminal…")
	v.type_(named("Pair a terminal")+" input", "none of it")
	v.clicks("button", "Pair it")
	v.sees("[role=status],[role=alert]", "No terminal shows this code")
	v.element(named("Pair a terminal") + " input").MustSelectAllText().MustInput(code)
	v.clicks("button", "Pair it")
	v.sees(named("Their page is kept"), "Piotr Zielony’s vehicle terminal")
	van.sees("main", "Teraz nic nie wymaga uwagi")

	var thread struct{ ID int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/desks/1/threads", `{"person":2}`, &thread)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/answer", thread.ID),
		`{"text":"Turn back","channel":"push","address":"Piotr Zielony’s vehicle terminal","interrupts":true}`, nil)
	van.sees("[role=alert]", "Turn back")
	van.clicks("button", "Zrozumia")
	van.sees("article", "Turn back")
	v.goes(fmt.Sprintf("/desks/1/%d", thread.ID))
	v.sees(".ledger", `Turn back[\s\S]*opened`)
}
