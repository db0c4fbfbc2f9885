package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/office"
	"upperlantern/internal/testkit"
)

const officePath = "/api/settings/organisation"

type officeOf struct {
	Now       office.Profile
	Countries []office.Country
}

func TestTheOrganisationIsChangedAndChangedBack(t *testing.T) {
	_, c := start(t)
	var before, after officeOf
	c.Want(http.StatusOK, http.MethodGet, officePath, nil, &before)
	assert.Equal(t, "Europe/London", before.Now.TimeZone)
	assert.NotEmpty(t, before.Countries)

	to := before.Now
	to.Name, to.TimeZone, to.NumberFrom = "Harrow Lock School", "Europe/Dublin", "07700 900101"
	to.TextRates = []office.Price{{Prefix: "+353", Price: "0,05"}}
	c.Want(http.StatusOK, http.MethodPut, officePath, to, &after)
	assert.Equal(t, "+447700900101", after.Now.NumberFrom)
	assert.Equal(t, []office.Price{{Prefix: "+353", Price: "0.05"}}, after.Now.TextRates)
	var session struct{ Organisation, TimeZone string }
	c.Want(http.StatusOK, http.MethodGet, "/api/session", nil, &session)
	assert.Equal(t, "Harrow Lock School", session.Organisation)
	assert.Equal(t, "Europe/Dublin", session.TimeZone)

	c.Want(http.StatusOK, http.MethodPut, officePath, after.Now, nil) // nothing changes
	var edits []struct {
		ID             int64
		Kind, Said, By string
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/edits", nil, &edits)
	require.Equal(t, "set", edits[0].Kind)
	assert.Equal(t, "Hugo Farrowby", edits[0].By)
	assert.Contains(t, edits[0].Said, "time zone: Europe/London → Europe/Dublin")
	assert.NotEqual(t, "set", edits[1].Kind, "what changes nothing is not listed")
	assert.Contains(t, c.Problem(
		http.StatusUnprocessableEntity, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", edits[0].ID), nil,
	), "in Settings")
	c.Want(http.StatusOK, http.MethodPut, officePath, before.Now, &after)
	assert.Equal(t, before.Now, after.Now)
}

func TestAnOrganisationThatDoesNotFit(t *testing.T) {
	_, c := start(t)
	var o officeOf
	c.Want(http.StatusOK, http.MethodGet, officePath, nil, &o)
	for says, change := range map[string]func(*office.Profile){
		"no time zone":      func(s *office.Profile) { s.TimeZone = "Mars/Olympus" },
		"no currency":       func(s *office.Profile) { s.Currency = "QQQ" },
		"emails come from":  func(s *office.Profile) { s.MailFrom = "nobody" },
		"what a text costs": func(s *office.Profile) { s.TextRates = []office.Price{{Prefix: "+44", Price: "-1"}} },
	} {
		t.Run(says, func(t *testing.T) {
			to := o.Now
			change(&to)
			assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPut, officePath, to), says)
		})
	}
	long := o.Now
	long.Name = strings.Repeat("x", 201)
	c.Want(http.StatusUnprocessableEntity, http.MethodPut, officePath, long, nil)
	var same officeOf
	c.Want(http.StatusOK, http.MethodGet, officePath, nil, &same)
	assert.Equal(t, o.Now, same.Now, "nothing was kept of it")
}

// An account of a unit changes nothing of the whole organisation.
func TestTheOrganisationIsNotAUnits(t *testing.T) {
	_, whole, unit := startUnits(t, "Rowing", "change-settings")
	var o officeOf
	whole.Want(http.StatusOK, http.MethodGet, officePath, nil, &o)
	unit.Want(http.StatusForbidden, http.MethodGet, officePath, nil, nil)
	unit.Want(http.StatusForbidden, http.MethodPut, officePath, o.Now, nil)
	testkit.Stranger(t, whole.URL).Want(http.StatusUnauthorized, http.MethodGet, officePath, nil, nil)
}
