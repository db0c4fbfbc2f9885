package e2e_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/testkit"
)

// Somebody of a desk is told by text what comes in, and answers from their own phone.
func TestADeskIsAnsweredFromAPhone(t *testing.T) {
	const phone = "+447700900999"
	v := signedIn(t, testkit.Roster, time.Hour)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", oneDesk, nil)
	v.goes("/desks")
	v.clicks("button", "Tell me by text")
	v.sees("[role=status],[role=alert]", "nobody on the roster has your sign-in as a mailbox")
	var naya struct{ Sheet roster.Sheet }
	c.Want(http.StatusOK, http.MethodGet, "/api/people/7", nil, &naya)
	naya.Sheet.Addresses = append(naya.Sheet.Addresses, roster.Address{Channel: roster.Email, Value: testkit.Login})
	c.Want(http.StatusOK, http.MethodPut, "/api/people/7", naya.Sheet, nil)
	v.clicks("button", "Tell me by text")
	v.sees("[role=switch][aria-checked=true]", "Told at \\+44 7700 900999")

	hears := func(from, key, text string) {
		require.NoError(t, v.instance.Box.Post(t.Context(), textFrom(from, key, text)))
	}
	hears("+447700900418", "K1", "Where do we meet?")
	testkit.Eventually(t, "the phone is told", func() bool {
		got, err := v.instance.Box.Received(t.Context(), []string{phone})
		return err == nil && len(got) == 1
	})
	hears(phone, "P1", "11 At the lower gate")
	v.clicks(named("Waits for them")+" button", "Piotr Zielony")
	v.sees(".ledger", `Where do we meet\?[\s\S]*Hugo Farrowby[\s\S]*At the lower gate`)
	v.clicks("[role=switch]", "Told at")
	v.sees("[role=switch][aria-checked=false]", "Tell me by text")
}
