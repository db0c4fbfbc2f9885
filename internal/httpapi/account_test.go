package httpapi_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

type accountOf struct {
	Login    string
	Sessions []struct {
		ID, Browser, Network string
		Begun                time.Time
		Here                 bool
	}
}

const nextPassword = "otter gravel teapot"

func change(now, next string) map[string]string { return map[string]string{"now": now, "next": next} }

// Whoever changes their password stays signed in where they are, and nowhere else.
func TestChangingOnesOwnPassword(t *testing.T) {
	i, c := start(t)
	elsewhere := testkit.SignedIn(t, i.URL)
	c.Want(http.StatusNoContent, http.MethodPost, "/api/session/password", change(testkit.Password, nextPassword), nil)
	c.Want(http.StatusOK, http.MethodGet, "/api/session", nil, nil)
	elsewhere.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
	var account accountOf
	c.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &account)
	assert.Len(t, account.Sessions, 1, "those that ended are not listed")
	again := testkit.Stranger(t, i.URL)
	again.Want(http.StatusUnauthorized, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)
	again.Want(http.StatusOK, http.MethodPost, "/api/sign-in", credentials(nextPassword), nil)
}

func TestAPasswordThatCannotBeChanged(t *testing.T) {
	i, c := start(t)
	for says, body := range map[string]map[string]string{
		"present password is wrong": change("something else", nextPassword),
		"needs at least 10":         change(testkit.Password, "short"),
		"tried first":               change(testkit.Password, "hugofarrowby"),
		"the present one":           change(testkit.Password, testkit.Password),
	} {
		assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/session/password", body), says)
	}
	testkit.Stranger(t, i.URL).Want(http.StatusUnauthorized, http.MethodPost, "/api/session/password", change("a", "b"), nil)
	testkit.SignedIn(t, i.URL)
	refused := 0
	for range 10 {
		status, _ := c.Do(http.MethodPost, "/api/session/password", change("something else", nextPassword))
		if status == http.StatusTooManyRequests {
			refused++
		}
	}
	assert.Positive(t, refused, "nobody tries many at somebody else's open screen")
}

func TestOnesOwnSessions(t *testing.T) {
	i, c := start(t)
	other := testkit.SignedIn(t, i.URL)
	var account accountOf
	c.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &account)
	assert.Equal(t, testkit.Login, account.Login)
	require.Len(t, account.Sessions, 2)
	var here, there string
	for _, s := range account.Sessions {
		assert.Contains(t, s.Browser, "Go-http-client")
		assert.Equal(t, "127.0.0.0/24", s.Network)
		assert.WithinDuration(t, time.Now(), s.Begun, time.Minute)
		if s.Here {
			here = s.ID
		} else {
			there = s.ID
		}
	}
	c.Want(http.StatusConflict, http.MethodDelete, "/api/session/others/"+here, nil, nil)
	c.Want(http.StatusNotFound, http.MethodDelete, "/api/session/others/another", nil, nil)
	c.Want(http.StatusNoContent, http.MethodDelete, "/api/session/others/"+there, nil, nil)
	other.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
	c.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &account)
	assert.Len(t, account.Sessions, 1)
}

// Nobody sees or ends the sessions of another account.
func TestSessionsOfOthers(t *testing.T) {
	_, whole, unit := startUnits(t, "Rowing", "change-settings")
	var mine, theirs accountOf
	whole.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &mine)
	unit.Want(http.StatusOK, http.MethodGet, "/api/session/account", nil, &theirs)
	require.Len(t, mine.Sessions, 1)
	require.Len(t, theirs.Sessions, 1)
	whole.Want(http.StatusNotFound, http.MethodDelete, "/api/session/others/"+theirs.Sessions[0].ID, nil, nil)
	unit.Want(http.StatusOK, http.MethodGet, "/api/session", nil, nil)
}
