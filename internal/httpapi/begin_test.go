package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/testkit"
)

// startEmpty runs the program on a folder without an organisation.
func startEmpty(t *testing.T, folder string, change func(*app.Config)) *app.Instance {
	return testkit.Start(t, folder, func(c *app.Config) {
		c.Begins, c.Carriers.StandIns = true, false
		if change != nil {
			change(c)
		}
	})
}

// begins is the path of the set-up in the API.
func begins(i *app.Instance) string { return "/api" + strings.TrimPrefix(i.BeginURL, i.URL) }

// school is what somebody types at the set-up; changes are JSON members that come after.
func school(changes string) string {
	return `{"typed":{"name":"Harrow Lock School","language":"en","region":"GB","timeZone":"Europe/London","currency":"GBP",
		"person":"Ottilie Venn","login":"ottilie@harrowlock.example","standIns":true},"password":"otter gravel teapot"` + changes + `}`
}

func TestFromAnEmptyFolderToAMessage(t *testing.T) {
	folder := t.TempDir()
	i := startEmpty(t, folder, nil)
	require.NotEmpty(t, i.BeginURL)
	c := testkit.Stranger(t, i.URL)
	var welcome struct{ Founded bool }
	c.Want(http.StatusOK, http.MethodGet, "/api/sign-in", nil, &welcome)
	assert.False(t, welcome.Founded)
	c.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
	c.Want(http.StatusNoContent, http.MethodPost, begins(i), school(""), nil)

	var session struct{ Organisation, TimeZone, Login string }
	c.Want(http.StatusOK, http.MethodGet, "/api/session", nil, &session)
	assert.Equal(t, "Harrow Lock School", session.Organisation)
	assert.Equal(t, "ottilie@harrowlock.example", session.Login)
	var v importView
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=staff.csv", []byte("Name,Role,Mobile\nBo Venn,staff,07700 900871\n"), &v)
	path := fmt.Sprintf("/api/imports/%d", v.ID)
	c.Want(http.StatusAccepted, http.MethodPost, path+"/load", nil, nil)
	testkit.Eventually(t, "the roster is loaded", func() bool {
		c.Want(http.StatusOK, http.MethodGet, path, nil, &v)
		return v.State == "loaded"
	})
	c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending", `{"holdSeconds":0,"steps":{},"rules":{}}`, nil)
	sendDraft(t, c, `{"urgency":"timely","audience":{"parts":[{"kind":"role","role":"staff"}],"receivers":"guardians"},
		"subject":"","email":"Come to the lock.","ownText":false,"text":"","firstOnly":false}`)
	assert.Equal(t, "+447700900871", received(t, i.Box, 1)[0].Address)
}

func TestASetUpIsLeftAndTakenUpAgain(t *testing.T) {
	folder := t.TempDir()
	i, err := app.Start(t.Context(), testkit.Config(folder, func(c *app.Config) {
		c.Begins, c.Carriers.StandIns = true, false
	}))
	require.NoError(t, err)
	c := testkit.Stranger(t, i.URL)
	c.Want(http.StatusNoContent, http.MethodPut, begins(i), `{"name":"Harrow","language":"","region":"ZZ","timeZone":"","currency":"","person":"","login":"ott","standIns":false}`, nil)
	path := begins(i)
	require.NoError(t, i.Close())

	again := startEmpty(t, folder, nil)
	assert.Equal(t, path, begins(again), "the address is the same after a restart")
	c = testkit.Stranger(t, again.URL)
	var b struct{ Typed map[string]any }
	c.Want(http.StatusOK, http.MethodGet, path, nil, &b)
	assert.Equal(t, "Harrow", b.Typed["name"], "however little fits yet")
	assert.Equal(t, false, b.Typed["standIns"])
}

func TestASetUpRefusesWhatDoesNotFit(t *testing.T) {
	i := startEmpty(t, t.TempDir(), nil)
	c := testkit.Stranger(t, i.URL)
	for name, bad := range map[string]struct{ from, to, says string }{
		"a zone of nobody":         {"Europe/London", "Europe/Quillmere", "no time zone"},
		"a currency of nobody":     {"GBP", "QQQ", "no currency"},
		"a country of nobody":      {`"GB"`, `"QQ"`, "no country"},
		"a language of nobody":     {`"en"`, `"riverish"`, "no language"},
		"no name":                  {"Harrow Lock School", " ", "needs a name"},
		"nobody":                   {"Ottilie Venn", "", "the first account needs a name"},
		"an address of nobody":     {"ottilie@harrowlock.example", "ottilie", "a mail address"},
		"a password that is found": {"otter gravel teapot", "password1234", "tried first"},
	} {
		t.Run(name, func(t *testing.T) {
			body := strings.Replace(school(""), bad.from, bad.to, 1)
			assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, begins(i), body), bad.says)
		})
	}
	c.Want(http.StatusNotFound, http.MethodGet, "/api/begin/another", nil, nil)
	c.Want(http.StatusNotFound, http.MethodPut, "/api/begin/another", `{"name":"","language":"","region":"","timeZone":"","currency":"","person":"","login":"","standIns":true}`, nil)
	c.Want(http.StatusNotFound, http.MethodPost, "/api/begin/another", school(""), nil)
	c.Want(http.StatusNoContent, http.MethodPost, begins(i), school(""), nil)
	testkit.Stranger(t, i.URL).Want(http.StatusGone, http.MethodPost, begins(i), school(""), nil)
	testkit.Stranger(t, i.URL).Want(http.StatusGone, http.MethodGet, begins(i), nil, nil)
}

// Two windows at the same address make one organisation.
func TestASetUpIsDoneOnce(t *testing.T) {
	i := startEmpty(t, t.TempDir(), nil)
	answers := make([]int, 6)
	var all sync.WaitGroup
	for n := range answers {
		all.Go(func() {
			body := strings.Replace(school(""), "ottilie@", fmt.Sprintf("o%d@", n), 1)
			answers[n], _ = testkit.Stranger(t, i.URL).Do(http.MethodPost, begins(i), body)
		})
	}
	all.Wait()
	made := 0
	for _, status := range answers {
		if status == http.StatusNoContent {
			made++
			continue
		}
		assert.Contains(t, []int{http.StatusNotFound, http.StatusGone}, status)
	}
	assert.Equal(t, 1, made)
	accounts, err := i.Store.Accounts(t.Context())
	require.NoError(t, err)
	assert.Len(t, accounts, 1)
}

// Where the program listens on its own machine only, nobody sets it up through a proxy
// or under another name.
func TestASetUpFromElsewhere(t *testing.T) {
	i := startEmpty(t, t.TempDir(), nil)
	for name, change := range map[string]func(*http.Request){
		"through a proxy":    func(r *http.Request) { r.Header.Set("X-Forwarded-For", "203.0.113.9") },
		"through another":    func(r *http.Request) { r.Header.Set("Forwarded", "for=203.0.113.9") },
		"under another name": func(r *http.Request) { r.Host = "lantern.attacker.example" },
	} {
		t.Run(name, func(t *testing.T) {
			req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, i.URL+begins(i), nil)
			require.NoError(t, err)
			change(req)
			resp, err := http.DefaultClient.Do(req)
			require.NoError(t, err)
			require.NoError(t, resp.Body.Close())
			assert.Equal(t, http.StatusForbidden, resp.StatusCode)
		})
	}
}

// An office that has no carriers yet writes, and is told whom nothing reaches.
func TestAnOfficeWithoutCarriers(t *testing.T) {
	folder := testkit.Folder(t, testkit.Roster, nil)
	i := testkit.Start(t, folder, func(c *app.Config) { c.Carriers.StandIns = false })
	c := testkit.SignedIn(t, i.URL)
	var plan struct {
		Recipients int
		LeftOut    []struct {
			Reason string
			People int
		}
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", `{"urgency":"routine","audience":{"parts":[{"kind":"group","group":1}],"receivers":"guardians"},
		"subject":"Outing","email":"Meet at the lock.","ownText":false,"text":"","firstOnly":false}`, &plan)
	assert.Zero(t, plan.Recipients)
	reasons := map[string]int{}
	for _, l := range plan.LeftOut {
		reasons[l.Reason] = l.People
	}
	assert.Positive(t, reasons["no-carrier"], "%v", reasons)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	assert.Contains(t, c.Problem(
		http.StatusUnprocessableEntity, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", m.ID),
		fmt.Sprintf(`{"revision":%d}`, m.Revision),
	), "Cannot be sent yet")
}
