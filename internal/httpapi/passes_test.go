package httpapi_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/testkit"
)

var passLink = regexp.MustCompile(`(https?://\S+)/pass/(\w+)`)

// mails are the bodies of the emails that a mailbox got, the latest first.
func mails(t *testing.T, i *app.Instance, mailbox string) []string {
	items, err := i.Box.Received(t.Context(), []string{mailbox})
	require.NoError(t, err)
	list := make([]string, len(items))
	for at, one := range items {
		list[at] = one.Body
	}
	return list
}

const unasAccount = `{"login":"una@quillmere.example","name":"Una","duty":"","active":true,"scope":{"whole":true,"units":[]},"rights":["write"]}`

func unas(password string) string {
	return fmt.Sprintf(`{"login":"una@quillmere.example","password":%q}`, password)
}

type invitation struct {
	Link, Problem string
	Mailed        bool
}

func TestAnAccountIsInvited(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts", unasAccount, nil)
	una := testkit.Stranger(t, i.URL)
	una.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", unas(""), nil)
	var first, second invitation
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts/2/invitation", nil, &first)
	assert.True(t, first.Mailed)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts/2/invitation", nil, &second)
	assert.Contains(t, mails(t, i, "una@quillmere.example")[0], second.Link)
	path := func(v invitation) string { return "/api/pass/" + passLink.FindStringSubmatch(v.Link)[2] }
	assert.Contains(t, una.Problem(http.StatusNotFound, http.MethodGet, path(first), nil), "another one was sent")

	var pass struct {
		Name, Organisation string
		Invites, Signed    bool
	}
	una.Want(http.StatusOK, http.MethodGet, path(second), nil, &pass)
	assert.Equal(t, "Una", pass.Name)
	assert.True(t, pass.Invites)
	assert.Contains(t, una.Problem(http.StatusUnprocessableEntity, http.MethodPost, path(second), `{"password":"short"}`), "at least 10")
	una.Want(http.StatusOK, http.MethodPost, path(second), `{"password":"otter gravel teapot"}`, &pass)
	assert.True(t, pass.Signed)
	una.Want(http.StatusOK, http.MethodGet, "/api/session", nil, nil)
	una.Want(http.StatusNotFound, http.MethodPost, path(second), `{"password":"kettle barn swim"}`, nil)
	testkit.Stranger(t, i.URL).Want(http.StatusOK, http.MethodPost, "/api/sign-in", unas("otter gravel teapot"), nil)
}

func TestAnInvitationThatEnded(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts", unasAccount, nil)
	var v invitation
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts/2/invitation", nil, &v)
	path := "/api/pass/" + passLink.FindStringSubmatch(v.Link)[2]
	clock.Pass(7*24*time.Hour - time.Second)
	una := testkit.Stranger(t, i.URL)
	una.Want(http.StatusOK, http.MethodGet, path, nil, nil)
	clock.Pass(time.Second)
	una.Want(http.StatusNotFound, http.MethodGet, path, nil, nil)
	una.Want(http.StatusNotFound, http.MethodPost, path, `{"password":"otter gravel teapot"}`, nil)
}

// A link that several use at once sets the password of one.
func TestALinkCountsOnce(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts", unasAccount, nil)
	var v invitation
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts/2/invitation", nil, &v)
	path := "/api/pass/" + passLink.FindStringSubmatch(v.Link)[2]
	var tries sync.WaitGroup
	var mu sync.Mutex
	set := 0
	for n := range 4 {
		tries.Go(func() {
			status, _ := testkit.Stranger(t, i.URL).Do(
				http.MethodPost, path, fmt.Sprintf(`{"password":"otter gravel teapot %d"}`, n),
			)
			mu.Lock()
			defer mu.Unlock()
			if status == http.StatusOK {
				set++
			}
		})
	}
	tries.Wait()
	assert.Equal(t, 1, set)
}

// Without a carrier for emails the link is passed on by hand.
func TestAnInvitationThatNothingCarries(t *testing.T) {
	_, c := alone(t, testkit.Folder(t, testkit.Roster, nil), nil)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts", unasAccount, nil)
	var v invitation
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts/2/invitation", nil, &v)
	assert.False(t, v.Mailed)
	assert.Contains(t, v.Problem, "nothing takes it now")
	assert.Contains(t, v.Link, c.URL+"/pass/")
}

func TestAForgottenPassword(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	door := testkit.Stranger(t, i.URL)
	door.Want(http.StatusNoContent, http.MethodPost, "/api/forgotten", `{"login":"nobody@example.org"}`, nil)
	door.Want(http.StatusNoContent, http.MethodPost, "/api/forgotten", `{"login":" `+testkit.Login+`"}`, nil)
	testkit.Eventually(t, "the link is mailed", func() bool { return len(mails(t, i, testkit.Login)) == 1 })
	link := passLink.FindStringSubmatch(mails(t, i, testkit.Login)[0])
	require.NotNil(t, link)
	assert.Equal(t, i.URL, link[1])
	path := "/api/pass/" + link[2]
	door.Want(http.StatusOK, http.MethodPost, path, `{"password":"otter gravel teapot"}`, nil)
	c.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil) // every session has ended
	door.Want(http.StatusNotFound, http.MethodPost, path, `{"password":"kettle barn swim"}`, nil)
	assert.Empty(t, mails(t, i, "nobody@example.org"))
}

// Who asks in the name of another page does not lead anybody there.
func TestALinkLeadsNowhereElse(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, _ := clocked(t, clock)
	req := must(http.NewRequest(http.MethodPost, i.URL+"/api/forgotten", strings.NewReader(`{"login":"`+testkit.Login+`"}`)))
	req.Host = "evil.example"
	req.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	require.Equal(t, http.StatusNoContent, resp.StatusCode)
	testkit.Eventually(t, "the link is mailed", func() bool { return len(mails(t, i, testkit.Login)) == 1 })
	assert.NotContains(t, mails(t, i, testkit.Login)[0], "evil")
}

func TestLinksAreNotAskedForWithoutEnd(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, _ := clocked(t, clock)
	door := testkit.Stranger(t, i.URL)
	for range 3 {
		door.Want(http.StatusNoContent, http.MethodPost, "/api/forgotten", `{"login":"`+testkit.Login+`"}`, nil)
	}
	door.Want(http.StatusTooManyRequests, http.MethodPost, "/api/forgotten", `{"login":"`+testkit.Login+`"}`, nil)
}

// An account is told once an hour that somebody tries to sign in as it.
func TestAnAccountIsToldOfWrongTries(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	door := testkit.Stranger(t, i.URL)
	for range 5 {
		door.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", credentials("guess"), nil)
	}
	testkit.Eventually(t, "the account is told", func() bool { return len(mails(t, i, testkit.Login)) == 1 })
	assert.Contains(t, mails(t, i, testkit.Login)[0], "127.0.0.0/24")
	var account struct {
		SlowedAt   *time.Time
		SlowedFrom string
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &account)
	require.NotNil(t, account.SlowedAt)
	assert.Equal(t, "127.0.0.0/24", account.SlowedFrom)
	clock.Pass(time.Minute)
	door.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", credentials("guess"), nil)
	clock.Pass(time.Hour)
	for range 5 {
		door.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", credentials("guess"), nil)
	}
	testkit.Eventually(t, "the account is told again", func() bool { return len(mails(t, i, testkit.Login)) == 2 })
}

// Units are part of the settings: who loads files only does not make any.
func TestUnitsOfAFileAreMadeByWhoMay(t *testing.T) {
	_, whole, unit := startUnits(t, "Rowing", "edit-people", "change-settings")
	give := func(c *testkit.Client) string {
		var v struct {
			ID    int64
			Units []string
		}
		status, content := c.Do(http.MethodPost, "/api/imports?name=a.csv", []byte("Name,School\nBo Venn,Upper School\n"))
		require.Equal(t, http.StatusOK, status)
		require.NoError(t, json.Unmarshal(content, &v))
		assert.Equal(t, []string{"Upper School"}, v.Units)
		return fmt.Sprintf("/api/imports/%d/units", v.ID)
	}
	path := give(unit)
	unit.Want(http.StatusForbidden, http.MethodPost, path, nil, nil)
	testkit.Stranger(t, whole.URL).Want(http.StatusUnauthorized, http.MethodPost, path, nil, nil)
	var v struct{ Units []string }
	whole.Want(http.StatusOK, http.MethodPost, give(whole), nil, &v)
	assert.Empty(t, v.Units)
	whole.Want(http.StatusNotFound, http.MethodPost, "/api/imports/999/units", nil, nil)
}
