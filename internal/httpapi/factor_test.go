package httpapi_test

import (
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/testkit"
)

const factorPath = "/api/session/factor"

type offered struct{ Secret, URI, Picture string }

// withFactor gives the account of a client a second factor.
func withFactor(t *testing.T, c *testkit.Client, clock *testkit.Clock) (secret string, recovery []string) {
	t.Helper()
	var o offered
	c.Want(http.StatusOK, http.MethodPost, factorPath, map[string]string{"password": testkit.Password}, &o)
	var codes struct{ Codes []string }
	c.Want(http.StatusOK, http.MethodPut, factorPath, map[string]string{"code": codeOf(t, o.Secret, clock)}, &codes)
	return o.Secret, codes.Codes
}

func codeOf(t *testing.T, secret string, clock *testkit.Clock) string {
	code, err := totp.GenerateCode(secret, clock.Now())
	require.NoError(t, err)
	return code
}

func clocked(t *testing.T, clock *testkit.Clock) (string, *app.Instance, *testkit.Client) {
	folder := testkit.Folder(t, testkit.Roster, nil)
	i := testkit.Start(t, folder, func(c *app.Config) { c.Now = clock.Now })
	return folder, i, testkit.SignedIn(t, i.URL)
}

func withCode(code string) map[string]string {
	return map[string]string{"login": testkit.Login, "password": testkit.Password, "code": code}
}

func TestASecondFactor(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	folder, i, c := clocked(t, clock)
	assert.Contains(t, c.Problem(http.StatusConflict, http.MethodPut, factorPath, `{"code":"000000"}`), "Begin to set")
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, factorPath, `{"password":"guess"}`), "wrong")
	var o offered
	c.Want(http.StatusOK, http.MethodPost, factorPath, map[string]string{"password": testkit.Password}, &o)
	assert.Contains(t, o.URI, "secret="+o.Secret)
	assert.True(t, strings.HasPrefix(o.Picture, "data:image/png;base64,"))
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPut, factorPath, `{"code":"12345"}`), "not the code")
	var account struct {
		Factor   bool
		Recovery int
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &account)
	assert.False(t, account.Factor, "it counts once a code of it was typed")

	secret, recovery := withFactor(t, c, clock)
	require.Len(t, recovery, 10)
	c.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &account)
	assert.True(t, account.Factor)
	assert.Equal(t, 10, account.Recovery)
	for _, file := range []string{"lantern.db", "lantern.db-wal"} {
		content, err := os.ReadFile(filepath.Join(folder, file))
		require.NoError(t, err)
		assert.NotContains(t, string(content), secret)
		assert.NotContains(t, string(content), recovery[0])
	}

	door := testkit.Stranger(t, i.URL)
	status, content := door.Do(http.MethodPost, "/api/sign-in", credentials(testkit.Password))
	assert.Equal(t, http.StatusUnauthorized, status)
	assert.Contains(t, string(content), `"location":"body.code"`)
	door.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
	door.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", withCode(codeOf(t, secret, clock)), nil) // it set the factor up
	clock.Pass(30 * time.Second)
	next := codeOf(t, secret, clock)
	door.Want(http.StatusOK, http.MethodPost, "/api/sign-in", withCode(next), nil)
	testkit.Stranger(t, i.URL).Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", withCode(next), nil) // replayed

	other := testkit.Stranger(t, i.URL)
	other.Want(http.StatusOK, http.MethodPost, "/api/sign-in", withCode(strings.ToUpper(recovery[3])), nil)
	testkit.Stranger(t, i.URL).Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", withCode(recovery[3]), nil)
	other.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &account)
	assert.Equal(t, 9, account.Recovery)

	off := factorPath + "/off"
	assert.Contains(t, other.Problem(http.StatusUnprocessableEntity, http.MethodPost, off, `{"password":"guess"}`), "wrong")
	other.Want(http.StatusNoContent, http.MethodPost, off, map[string]string{"password": testkit.Password}, nil)
	testkit.Stranger(t, i.URL).Want(http.StatusOK, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)
}

// A code that two windows type at the same moment lets one of them in.
func TestACodeCountsOnce(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	secret, _ := withFactor(t, c, clock)
	clock.Pass(time.Minute)
	body := withCode(codeOf(t, secret, clock))
	var in, tries sync.WaitGroup
	var mu sync.Mutex
	opened := 0
	in.Add(1)
	for range 4 {
		tries.Go(func() {
			door := testkit.Stranger(t, i.URL)
			in.Wait()
			status, _ := door.Do(http.MethodPost, "/api/sign-in", body)
			mu.Lock()
			defer mu.Unlock()
			if status == http.StatusOK {
				opened++
			}
		})
	}
	in.Done()
	tries.Wait()
	assert.Equal(t, 1, opened)
}

// A right password without a code costs no try; wrong codes are slowed down.
func TestCodesAreNotGuessed(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	withFactor(t, c, clock)
	door := testkit.Stranger(t, i.URL)
	for range 8 {
		door.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)
	}
	for range 5 {
		door.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", withCode("000000"), nil)
	}
	door.Want(http.StatusTooManyRequests, http.MethodPost, "/api/sign-in", withCode("000000"), nil)
}

// Without the key that lies outside the database codes cannot be checked; recovery codes can.
func TestRecoveryCodesOutliveTheKey(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	folder := testkit.Folder(t, testkit.Roster, nil)
	i, err := app.Start(t.Context(), testkit.Config(folder, func(c *app.Config) { c.Now = clock.Now }))
	require.NoError(t, err)
	secret, recovery := withFactor(t, testkit.SignedIn(t, i.URL), clock)
	require.NoError(t, i.Close())
	require.NoError(t, os.Remove(filepath.Join(folder, "secrets.key")))
	i = testkit.Start(t, folder, func(c *app.Config) { c.Now = clock.Now })
	clock.Pass(time.Minute)
	door := testkit.Stranger(t, i.URL)
	door.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", withCode(codeOf(t, secret, clock)), nil)
	door.Want(http.StatusOK, http.MethodPost, "/api/sign-in", withCode(recovery[0]), nil)
}

// A right that needs a second factor is not held without one.
func TestRightsThatNeedASecondFactor(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	_, i, c := clocked(t, clock)
	c.Want(http.StatusOK, http.MethodPost, "/api/accounts", `{"login":"una@quillmere.example","name":"Una","duty":"","active":true,
		"password":"otter gravel teapot","scope":{"whole":true,"units":[]},"rights":["see-people","write","change-settings"]}`, nil)
	una := testkit.Stranger(t, i.URL)
	una.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
		`{"login":"una@quillmere.example","password":"otter gravel teapot"}`, nil)

	needs := `{"rights":["write"]}`
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPut, "/api/settings/factor", needs), "your own second factor")
	una.Want(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan", "{}", nil) // it may
	withFactor(t, c, clock)
	c.Want(http.StatusOK, http.MethodPut, "/api/settings/factor", needs, nil)
	una.Want(http.StatusForbidden, http.MethodPost, "/api/plan", "{}", nil)
	var session struct {
		Rights, Lacks []string
	}
	una.Want(http.StatusOK, http.MethodGet, "/api/session", nil, &session)
	assert.NotContains(t, session.Rights, "write")
	assert.Len(t, session.Lacks, 1)
	c.Want(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan", "{}", nil)

	var o offered
	una.Want(http.StatusOK, http.MethodPost, factorPath, `{"password":"otter gravel teapot"}`, &o)
	una.Want(http.StatusOK, http.MethodPut, factorPath, map[string]string{"code": codeOf(t, o.Secret, clock)}, nil)
	una.Want(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan", "{}", nil) // it may

	// Somebody's lost device is taken away by who looks after the account, and that stands in Changes.
	c.Want(http.StatusNoContent, http.MethodDelete, "/api/accounts/2/factor", nil, nil)
	una.Want(http.StatusForbidden, http.MethodPost, "/api/plan", "{}", nil)
	c.Problem(http.StatusUnprocessableEntity, http.MethodDelete, "/api/accounts/2/factor", nil)
	c.Want(http.StatusNotFound, http.MethodDelete, "/api/accounts/99/factor", nil, nil)
	var edits []struct{ Said string }
	c.Want(http.StatusOK, http.MethodGet, "/api/edits", nil, &edits)
	assert.Equal(t, "settings: the second factor of Una taken away", edits[0].Said)
	assert.Contains(t, edits[1].Said, "a second factor is needed to")
}

func TestFactorsOfOtherUnits(t *testing.T) {
	_, whole, unit := startUnits(t, "Rowing", "change-settings")
	unit.Want(http.StatusNotFound, http.MethodDelete, "/api/accounts/1/factor", nil, nil)
	unit.Want(http.StatusNotFound, http.MethodPost, "/api/accounts/1/invitation", nil, nil)
	unit.Want(http.StatusForbidden, http.MethodPut, "/api/settings/factor", `{"rights":[]}`, nil)
	whole.Want(http.StatusConflict, http.MethodPost, "/api/accounts/1/invitation", nil, nil)
}
