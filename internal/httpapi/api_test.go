package httpapi_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/httpapi"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

func start(t *testing.T) (*app.Instance, *testkit.Client) { return startWith(t, nil) }

// startWith starts the program for an organisation that was changed.
func startWith(t *testing.T, change func(*store.Organisation)) (*app.Instance, *testkit.Client) {
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, change), nil)
	return i, testkit.SignedIn(t, i.URL)
}

// sendDraft writes a message and sends it.
func sendDraft(t *testing.T, c *testkit.Client, draft string) int64 {
	t.Helper()
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	c.Want(http.StatusOK, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d}`, m.Revision), nil)
	return m.ID
}

func TestEveryRouteRefusesAStranger(t *testing.T) {
	i := testkit.Start(t, testkit.Folder(t, "", nil), nil)
	stranger := testkit.Stranger(t, i.URL)
	_, description := httpapi.New(httpapi.Options{})
	parameter := regexp.MustCompile(`\{[^}]+\}`)
	tried := 0
	for path, item := range description.Paths {
		for method, operation := range map[string]bool{
			http.MethodGet: item.Get != nil, http.MethodPost: item.Post != nil, http.MethodPut: item.Put != nil,
			http.MethodDelete: item.Delete != nil,
		} {
			if !operation || path == "/sign-in" || path == "/forgotten" || strings.HasSuffix(path, "/{token}") ||
				path == "/terminals" || strings.HasPrefix(path, "/own/") {
				continue
			}
			tried++
			status, _ := stranger.Do(method, "/api"+parameter.ReplaceAllString(path, "1"), "{}")
			assert.Equal(t, http.StatusUnauthorized, status, "%s %s", method, path)
		}
	}
	assert.Greater(t, tried, 20)
	for _, path := range []string{"/api/openapi.json", "/api/nothing-here"} {
		status, _ := stranger.Do(http.MethodGet, path, nil)
		assert.Equal(t, http.StatusUnauthorized, status, path)
	}
	status, _ := stranger.Do(http.MethodPost, "/carrier/reports", "{}")
	assert.Equal(t, http.StatusUnauthorized, status)
	status, content := stranger.Do(http.MethodGet, "/healthz", nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "ok\n", string(content))
}

func TestSignIn(t *testing.T) {
	i := testkit.Start(t, testkit.Folder(t, "", nil), nil)
	c := testkit.Stranger(t, i.URL)
	var welcome struct{ Demo []any }
	c.Want(http.StatusOK, http.MethodGet, "/api/sign-in", nil, &welcome)
	assert.Empty(t, welcome.Demo, "accounts are offered in the demo only")

	for _, wrong := range []map[string]string{
		{"login": testkit.Login, "password": "wrong"}, {"login": "nobody@example.org", "password": testkit.Password},
	} {
		assert.Equal(t, "The login or the password is wrong.", c.Problem(
			http.StatusUnauthorized, http.MethodPost, "/api/sign-in", wrong,
		))
	}
	c.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": strings.ToUpper(testkit.Login), "password": testkit.Password}, nil,
	)
	var session struct{ Name, Initials string }
	c.Want(http.StatusOK, http.MethodGet, "/api/session", nil, &session)
	assert.Equal(t, "HF", session.Initials)

	c.Want(http.StatusNoContent, http.MethodDelete, "/api/session", nil, nil)
	c.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
}

func TestRequestsFromOtherSitesAreRefused(t *testing.T) {
	i, c := start(t)
	req, err := http.NewRequest(http.MethodPost, i.URL+"/api/messages", strings.NewReader("{}"))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Origin", "https://elsewhere.example")
	resp, err := c.HTTP.Do(req)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	assert.Equal(t, http.StatusForbidden, resp.StatusCode)
}

func TestPagesAreServedSafely(t *testing.T) {
	i, c := start(t)
	for path, want := range map[string]int{"/": 200, "/outgoing/7": 200, "/assets/a.js": 200, "/assets/b.js": 404} {
		resp, err := c.HTTP.Get(i.URL + path)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, want, resp.StatusCode, path)
		policy := resp.Header.Get("Content-Security-Policy")
		assert.Contains(t, policy, "script-src 'self';")
		assert.Contains(t, policy, "frame-ancestors 'none'")
		assert.Equal(t, "nosniff", resp.Header.Get("X-Content-Type-Options"))
	}
	for _, cookie := range c.HTTP.Jar.Cookies(must(http.NewRequest(http.MethodGet, i.URL, nil)).URL) {
		assert.Equal(t, "lantern_session", cookie.Name)
	}
}

func must(r *http.Request, err error) *http.Request {
	if err != nil {
		panic(err)
	}
	return r
}

func TestTheDescriptionIsServed(t *testing.T) {
	_, c := start(t)
	var description struct {
		OpenAPI string
		Paths   map[string]any
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/openapi.json", nil, &description)
	assert.Equal(t, "3.1.0", description.OpenAPI)
	assert.Contains(t, description.Paths, "/plan")
}

const draft = `{"urgency":"routine","audience":{"parts":[%s],"receivers":"guardians"},"subject":"Outing","email":%q,"ownText":false,"text":"","firstOnly":false}`

func draftOf(parts, email string) string { return fmt.Sprintf(draft, parts, email) }

// Bad input is answered in words, with the right status, and never with 500.
func TestBadInput(t *testing.T) {
	_, c := start(t)
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", nil)
	everybody := `{"kind":"role","role":"guardian"}`
	for _, b := range []struct {
		name, method, path string
		body               any
		status             int
		says               string
	}{
		{"no JSON", http.MethodPost, "/api/plan", "{", 400, ""},
		{"an empty body", http.MethodPost, "/api/plan", "", 400, ""},
		{"an unknown urgency", http.MethodPost, "/api/plan", strings.Replace(draftOf("", ""), "routine", "urgent", 1), 422, ""},
		{"a part that names nobody", http.MethodPost, "/api/plan", draftOf(`{"kind":"group"}`, "Hi"), 422, "part 1: no group is named"},
		{"a channel on two steps", http.MethodPost, "/api/plan", strings.Replace(draftOf(everybody, "Hi"), `"subject"`, `"steps":[["email"],["email"]],"subject"`, 1), 422, "email is on step 1 and again on step 2"},
		{"an unknown channel", http.MethodPost, "/api/plan", strings.Replace(draftOf(everybody, "Hi"), `"subject"`, `"steps":[["pigeon"]],"subject"`, 1), 422, "pigeon"},
		{"a message that does not exist", http.MethodGet, "/api/messages/999", nil, 404, "does not exist"},
		{"a record that does not exist", http.MethodGet, "/api/messages/999/record", nil, 404, "does not exist"},
		{"a person who does not exist", http.MethodGet, "/api/people/999", nil, 404, "does not exist"},
		{"a group that does not exist", http.MethodGet, "/api/groups/999/people", nil, 404, "does not exist"},
		{"an import that does not exist", http.MethodGet, "/api/imports/999", nil, 404, "does not exist"},
		{"no number", http.MethodGet, "/api/people/x", nil, 422, ""},
		{"too many at once", http.MethodGet, "/api/people?count=100000", nil, 422, ""},
		{"sending nothing", http.MethodPost, "/api/messages/1/send", `{"revision":1}`, 422, "Nobody is chosen yet"},
		{"sending another revision", http.MethodPost, "/api/messages/1/send", `{"revision":9}`, 409, "changed"},
		{"sending what does not exist", http.MethodPost, "/api/messages/999/send", `{"revision":1}`, 404, ""},
		{"stopping what does not exist", http.MethodPost, "/api/messages/999/stop", nil, 404, ""},
		{"a yes for what does not exist", http.MethodPost, "/api/messages/999/late", nil, 404, ""},
		{"a yes for what is not late", http.MethodPost, "/api/messages/1/late", nil, 409, ""},
		{"trying a carrier of no channel", http.MethodPost, "/api/carriers/pigeon/try", nil, 422, "email"},
		{"deleting what does not exist", http.MethodDelete, "/api/messages/999", nil, 404, ""},
		{"keeping over a newer draft", http.MethodPut, "/api/messages/1", `{"revision":7,"draft":` + draftOf("", "x") + `}`, 409, "Nothing was overwritten"},
		{"keeping too long a text", http.MethodPut, "/api/messages/1", `{"revision":1,"draft":` + draftOf("", strings.Repeat("x", 20001)) + `}`, 422, "20001 characters"},
		{"an empty file", http.MethodPost, "/api/imports?name=a.csv", []byte(" \n"), 422, "The file is empty."},
		{"a file that is no CSV", http.MethodPost, "/api/imports?name=a.csv", []byte("PK\x05\x06" + strings.Repeat("\x00", 18)), 422, "The zipped file is neither"},
		{"a file that is nothing we know", http.MethodPost, "/api/imports?name=a.csv", []byte("\x89PNG\x00"), 422, "This is no roster file"},
		{"an unknown meaning", http.MethodPut, "/api/imports/1", `{"meanings":["shoe size"],"markLeft":false,"unit":0}`, 422, "shoe size"},
		{"nothing at that address", http.MethodGet, "/api/nothing", nil, 404, "nothing at /api/nothing"},
		{"a stand-in that does not exist", http.MethodPut, "/api/bench/carriers", `{"channel":"pigeon","down":true}`, 422, ""},
	} {
		t.Run(b.name, func(t *testing.T) {
			status, content := c.Do(b.method, b.path, b.body)
			require.Equal(t, b.status, status, "%s", content)
			var problem struct {
				Detail string
				Errors []struct{ Message string }
			}
			require.NoError(t, json.Unmarshal(content, &problem), "%s", content)
			require.NotEmpty(t, problem.Detail)
			require.Contains(t, string(content), b.says)
		})
	}
}

type importView struct {
	ID                                int64
	State, Result, Problem, Read      string
	Added, Changed, Unchanged         int
	RefusedAll, NotedAll, Done, Total int
	Refused, Noted                    []struct {
		Line                  int
		Column, Value, Reason string
	}
	Columns []struct{ Heading, Meaning string }
}

// load loads an import and waits until it is.
func load(t *testing.T, c *testkit.Client, id int64) importView {
	t.Helper()
	path := fmt.Sprintf("/api/imports/%d", id)
	c.Want(http.StatusAccepted, http.MethodPost, path+"/load", nil, nil)
	var v importView
	testkit.Eventually(t, "the import is loaded", func() bool {
		c.Want(http.StatusOK, http.MethodGet, path, nil, &v)
		return v.State == "loaded"
	})
	return v
}

func peopleCount(c *testkit.Client) int {
	var people struct{ All int }
	c.Want(http.StatusOK, http.MethodGet, "/api/people", nil, &people)
	return people.All
}

func TestImportShowsThenLoadsThenChangesNothing(t *testing.T) {
	i := testkit.Start(t, testkit.Folder(t, "", nil), nil)
	c := testkit.SignedIn(t, i.URL)
	file := testkit.Roster + "X1,Bo Venn,member,river,ask Hugo,,,,,\nC1,Naya Osei,coach,,,,,,,\n=1+1,=SUM(A1),member,,,,,,,\n"

	var v importView
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=people.csv", []byte(file), &v)
	assert.Equal(t, 10, v.Added)
	assert.Equal(t, 0, peopleCount(c), "nothing is loaded before it is asked for")
	require.Len(t, v.Refused, 1)
	assert.Equal(t, 11, v.Refused[0].Line)
	assert.Equal(t, "the same person as on line 8", v.Refused[0].Reason)
	require.Len(t, v.Noted, 2)
	assert.Equal(t, "Language", v.Noted[0].Column)

	v = load(t, c, v.ID)
	assert.Equal(t, "People: 10 added. 4 new groups. 1 row was not loaded.", v.Result)
	assert.Equal(t, 10, peopleCount(c))
	var found struct {
		People []struct{ Name, ExternalID string }
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/people?search=SUM", nil, &found)
	assert.Equal(t, "=SUM(A1)", found.People[0].Name, "what looks like a formula is text")

	var again importView
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=people.csv", []byte(file), &again)
	assert.Zero(t, again.Added+again.Changed)
	assert.Equal(
		t, "Nothing changed: everybody in this file is on the roster already, just so.", load(t, c, again.ID).Result,
	)
	assert.Equal(t, 10, peopleCount(c))
	assert.Contains(
		t, c.Problem(http.StatusConflict, http.MethodPost, fmt.Sprintf("/api/imports/%d/load", again.ID), nil), "changed",
	)
}

func TestImportWithoutNamesSaysSoUntilMapped(t *testing.T) {
	i := testkit.Start(t, testkit.Folder(t, "", nil), nil)
	c := testkit.SignedIn(t, i.URL)
	var v importView
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=odd.csv", []byte("Who;Locker\nBo Venn;12\n"), &v)
	assert.Contains(t, v.Problem, "No column holds names")
	path := fmt.Sprintf("/api/imports/%d", v.ID)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/load", nil), "No column holds names",
	)
	c.Want(http.StatusOK, http.MethodPut, path, `{"meanings":["full name",""],"markLeft":false,"unit":0}`, &v)
	assert.Empty(t, v.Problem)
	assert.Equal(t, 1, v.Added)
	assert.Contains(t, v.Read, "semicolons")
}

func TestImportOfTwentyThousandRows(t *testing.T) {
	i := testkit.Start(t, testkit.Folder(t, "", nil), nil)
	c := testkit.SignedIn(t, i.URL)
	var file strings.Builder
	file.WriteString("Id,First name,Last name,Role,Mobile,Email,Group\n")
	for n := range 20_000 {
		fmt.Fprintf(&file, "P%d,Bo%d,Venn,member,07700 900%03d,bo%d@example.org,Crew %d\n", n, n, n%1000, n, n%40)
	}
	var v importView
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=large.csv", []byte(file.String()), &v)
	assert.Equal(t, 20_000, v.Added)
	path := fmt.Sprintf("/api/imports/%d", v.ID)
	c.Want(http.StatusAccepted, http.MethodPost, path+"/load", nil, nil)
	progressed := false
	testkit.Eventually(t, "it is loaded", func() bool {
		c.Want(http.StatusOK, http.MethodGet, path, nil, &v)
		progressed = progressed || v.State == "loading" && v.Done > 0 && v.Done < v.Total
		return v.State == "loaded"
	})
	assert.True(t, progressed, "progress was told")
	assert.Equal(t, 20_000, peopleCount(c))
}

func TestEventsTellWhatMoves(t *testing.T) {
	i, c := start(t)
	resp, err := c.HTTP.Get(i.URL + "/api/events")
	require.NoError(t, err)
	defer resp.Body.Close() //nolint:errcheck // it never ends by itself
	assert.Equal(t, "text/event-stream", resp.Header.Get("Content-Type"))
	heard := make(chan string, 1)
	go func() {
		all, buffer := "", make([]byte, 1024)
		for !strings.Contains(all, "message-moved") {
			n, err := resp.Body.Read(buffer)
			all += string(buffer[:n])
			if err != nil {
				break
			}
		}
		heard <- all
	}()
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", nil)
	select {
	case all := <-heard:
		assert.Contains(t, all, `{"message":1}`)
	case <-time.After(testkit.Patience):
		t.Fatal("no event")
	}
}

// What changes between what a page asked and its listening is not lost: the stream says
// that it missed something.
func TestAStreamSaysWhetherItMissedAnything(t *testing.T) {
	i, c := start(t)
	var session struct{ Told int64 }
	c.Want(http.StatusOK, http.MethodGet, "/api/session", nil, &session)
	path := fmt.Sprintf("/api/events?since=%d", session.Told)
	assert.Contains(t, firstLine(t, c, i.URL+path), `"missed":false`)
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", nil)
	assert.Contains(t, firstLine(t, c, i.URL+path), `"missed":true`)
	c.Problem(http.StatusUnprocessableEntity, http.MethodGet, "/api/events?since=yesterday", nil)
}

// firstLine is what a stream of events says first.
func firstLine(t *testing.T, c *testkit.Client, url string) string {
	resp, err := c.HTTP.Get(url)
	require.NoError(t, err)
	defer resp.Body.Close() //nolint:errcheck // it never ends by itself
	lines := bufio.NewScanner(resp.Body)
	for lines.Scan() {
		if strings.HasPrefix(lines.Text(), "data:") {
			return lines.Text()
		}
	}
	t.Fatal("the stream says nothing")
	return ""
}

func TestPanicsAreContained(t *testing.T) {
	// A server without a store fails wherever it looks something up; the
	// process and the other requests must not.
	handler, _ := httpapi.New(httpapi.Options{})
	w := httptest.NewRecorder()
	handler.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/healthz", nil))
	assert.Equal(t, http.StatusInternalServerError, w.Code)
}
