package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/testkit"
)

type onShelf struct {
	ID                            int64
	Kind, Name, Shared, By, Plain string
	Own, Mine                     bool
	Blanks                        []string
}

func put(kind, name, more, email string) string {
	return fmt.Sprintf(
		`{"kind":%q,"name":%q,%s"content":{"subject":"","email":%q,"ownText":false,"text":""}}`, kind, name, more, email,
	)
}

func TestTheShelf(t *testing.T) {
	_, c := start(t)
	var shelf []onShelf
	c.Want(
		http.StatusOK, http.MethodPost, "/api/shelf",
		put("template", " Outing ", `"own":false,`, "On {{ask: Day}}, {{first name}}"), &shelf,
	)
	c.Want(
		http.StatusOK, http.MethodPost, "/api/shelf", put("quick-text", "Closing", `"own":true,`, "Yours, the desk"), &shelf,
	)
	require.Len(t, shelf, 2)
	assert.Equal(t, "Closing", shelf[0].Name)
	outing := shelf[1]
	assert.Equal(t, []string{"day"}, outing.Blanks)
	assert.Equal(t, "everybody", outing.Shared)
	path := fmt.Sprintf("/api/shelf/%d", outing.ID)

	var used struct{ Email string }
	c.Want(http.StatusOK, http.MethodPost, path+"/use", `{"values":{"day":"Monday"}}`, &used)
	assert.Equal(t, "On Monday, {{first name}}", used.Email)
	people := fmt.Sprintf(`{"kind":"template","name":"x","own":true,"content":%s}`, draftOf(juniors, "x"))
	status, _ := c.Do(http.MethodPost, "/api/shelf", people)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "a template never brings people")

	c.Want(
		http.StatusOK, http.MethodPost, "/api/shelf",
		put("template", "Outing", fmt.Sprintf(`"id":%d,"own":false,`, outing.ID), "Second wording"), &shelf,
	)
	var versions []struct{ Plain, By string }
	c.Want(http.StatusOK, http.MethodGet, path+"/versions", nil, &versions)
	require.Len(t, versions, 2)
	assert.Equal(t, "Second wording", versions[0].Plain)
	assert.Equal(t, "Hugo Farrowby", versions[1].By)

	var p plan
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", draftOf(juniors, "On {{ask: day}}"), &p)
	assert.Contains(t, p.Problems[0].Sentence, "The template asks for “day”")

	for body, want := range map[string]string{
		put("template", " ", `"own":true,`, "x"):                         "needs a name",
		put("template", "x", `"own":true,"unit":99,`, "x"):               "no longer exists, or is not yours",
		put("template", "x", `"own":true,`, strings.Repeat("x", 20_001)): "20001 characters",
	} {
		assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/shelf", body), want)
	}
	c.Want(http.StatusNoContent, http.MethodDelete, path, nil, nil)
	c.Want(http.StatusNotFound, http.MethodGet, path+"/versions", nil, nil)
	c.Want(http.StatusNotFound, http.MethodPost, path+"/use", `{"values":{}}`, nil)
}

func TestTheShelfOfAUnit(t *testing.T) {
	i, c := start(t)
	c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Rowing"}`, nil)
	c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Watch"}`, nil)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts", `{"login":"naya@quillmere.example","name":"Naya","duty":"","active":true,"password":"a password for tests",`+
		`"scope":{"whole":false,"units":[1]},"rights":["write","see-people"]}`, nil)
	for _, item := range []string{
		put("template", "For all", `"own":false,`, "x"), put("template", "For Rowing", `"own":false,"unit":1,`, "x"),
		put("template", "For the Watch", `"own":false,"unit":2,`, "x"), put("template", "For me", `"own":true,`, "x"),
	} {
		c.Want(http.StatusOK, http.MethodPost, "/api/shelf", item, nil)
	}
	naya := testkit.Stranger(t, i.URL)
	naya.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "naya@quillmere.example", "password": "a password for tests"}, nil,
	)
	var shelf []onShelf
	naya.Want(http.StatusOK, http.MethodGet, "/api/shelf", nil, &shelf)
	require.Len(t, shelf, 2)
	assert.Equal(t, []string{"For all", "For Rowing"}, []string{shelf[0].Name, shelf[1].Name})
	assert.Equal(t, []bool{false, true}, []bool{shelf[0].Mine, shelf[1].Mine})
	taken := put("template", "Mine now", fmt.Sprintf(`"id":%d,"own":true,`, shelf[0].ID), "x")
	assert.Contains(
		t, naya.Problem(http.StatusForbidden, http.MethodPost, "/api/shelf", taken), "save it under another name",
	)
	assert.Contains(
		t,
		naya.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/shelf", put(
			"template", "x", `"own":false,`, "x",
		)),
		"share it with one of your units",
	)
	naya.Want(http.StatusForbidden, http.MethodDelete, fmt.Sprintf("/api/shelf/%d", shelf[0].ID), nil, nil)
}

func TestADraftHasAHistory(t *testing.T) {
	clock := testkit.NewClock(time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC))
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(c *app.Config) { c.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	for _, words := range []string{"first", "first, longer"} {
		c.Want(
			http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draftOf(juniors, words)),
			&m,
		)
	}
	clock.Pass(2 * time.Minute)
	c.Want(
		http.StatusOK, http.MethodPut, path,
		fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draftOf(juniors, "second")), &m,
	)
	var versions []struct{ Plain, By string }
	c.Want(http.StatusOK, http.MethodGet, path+"/versions", nil, &versions)
	require.Len(t, versions, 2, "what is written within a minute is one version")
	assert.Equal(t, "second", versions[0].Plain)
	assert.Equal(t, "first, longer", versions[1].Plain)
}

func TestTwoWindowsAreJoined(t *testing.T) {
	_, c := start(t)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	base := draftOf(juniors, "Come")
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, base), &m)
	theirs := strings.Replace(base, `"subject":"Outing"`, `"subject":"Theirs"`, 1)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, theirs), nil)
	c.Want(http.StatusConflict, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, base), nil)

	var merged struct {
		Revision int64
		Draft    struct{ Subject, Email string }
		Clash    []string
	}
	mine := draftOf(juniors, "Mine")
	c.Want(http.StatusOK, http.MethodPost, path+"/merge", fmt.Sprintf(`{"base":%s,"draft":%s}`, base, mine), &merged)
	assert.Equal(t, "Theirs", merged.Draft.Subject)
	assert.Equal(t, "Mine", merged.Draft.Email)
	assert.Empty(t, merged.Clash)
	var kept struct {
		Draft struct{ Subject, Email string }
	}
	c.Want(http.StatusOK, http.MethodGet, path, nil, &kept)
	assert.Equal(t, merged.Draft, kept.Draft)

	c.Want(
		http.StatusOK, http.MethodPost, path+"/merge",
		fmt.Sprintf(`{"base":%s,"draft":%s}`, base, strings.Replace(base, `"subject":"Outing"`, `"subject":"Other"`, 1)),
		&merged,
	)
	assert.Equal(t, []string{"the subject"}, merged.Clash)
	c.Want(http.StatusOK, http.MethodGet, path, nil, &kept)
	assert.Equal(t, "Theirs", kept.Draft.Subject, "nothing is kept while they clash")
}
