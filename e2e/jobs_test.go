package e2e_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

const oneDesk = `{"id":0,"name":"Club office","units":[],"groups":[],"members":[1],"hours":[],"outside":""}`

// A job is begun, gets its people by part, asks who is coming, is talked in by all, and is
// closed; another one begins like it.
func TestAJobFromBeginningToEnd(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", oneDesk, nil)
	v.clicks("nav a", "^Jobs$")
	v.sees("h2,h3", "No job yet|Open")
	v.clicks("button", "New job…")
	v.type_(named("A new job")+" input", "Pump at the mill")
	v.clicks("form button", "Begin the job")
	v.sees("h2", "Pump at the mill")
	v.clicks(named("Do it")+" button", "^Add…$")
	v.type_(named("Do it")+" input", "Piotr")
	v.clicks("[role=option]", "Piotr Zielony")
	v.sees(named("Do it")+" li", "Piotr Zielony")
	v.type_(named("Do it")+" input", "Rania")
	v.clicks("[role=option]", "Rania Haddad")
	v.sees(named("Do it")+" li", "Rania Haddad")
	v.clicks(named("Move Rania Haddad"), "Move")
	v.chooses("Part of Rania Haddad", "Watch over it")
	v.sees(named("Watch over it")+" li", "Rania Haddad")
	v.sees(named("Open"), "Pump at the mill[^]*1 do it · 1 watch over it")

	v.clicks("button", "Write to its 2 people…")
	v.sees("h2", "Pump at the mill")
	v.type_(named("What you write to all"), "The pump is on its way")
	v.sees(named("To all in this thread"), "To 2 people")
	v.clicks("button", "Send to all")
	v.sees(".ledger", "The pump is on its way[^]*Take it back")
	v.clicks(".ledger button", "Take it back")
	v.sees(".ledger", "Nothing was said yet")
	v.clicks("button", "Let all see it…")
	v.clicks("button", "Tell them, and let all see it")
	v.sees(".ledger", "LEAVE[^]*2 of 2 have it")
	post := textFrom("+447700900418", "K1", "It is here")
	require.NoError(t, v.instance.Box.Post(t.Context(), post))
	v.sees(".ledger", "Piotr Zielony[^]*It is here[^]*passed on to[^]*1 person")
	v.clicks(".ledger button", "^1 person$")
	v.sees(named("Whom it reached"), "Rania Haddad has it")

	v.clicks("a", "Open the job")
	v.clicks("button", "Ask who is coming…")
	v.sees("h1", "Pump at the mill: who is coming\\?")
	v.sees(named("Answers to choose from"), "Whoever comes is in the job")
	v.clicks("nav a", "^Jobs$")
	v.clicks("button", "Close the job…")
	v.clicks("form button", "^Close the job$")
	v.sees(named("Closed"), "Pump at the mill")
	v.clicks("a", "Open it at Club office")
	v.sees(".thread", "This thread has ended")
	v.clicks("nav a", "^Jobs$")
	v.clicks("button", "Another like it…")
	v.type_(named("A new job")+" input", "Pump once more")
	v.clicks("form button", "Begin the job")
	v.sees("h2", "Pump once more")
	v.sees(named("Watch over it")+" li", "Rania Haddad")
	v.clicks("nav a", "^Today$")
	v.sees(named("Jobs"), "Pump once more[^]*1 do it")
}

// Several people are chosen for a thread by typing; what they answer is in it, and one of
// them is answered alone.
func TestAThreadWithSeveral(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", oneDesk, nil)
	v.goes("/desks")
	v.clicks("button", "New thread…")
	for _, name := range []string{"Piotr Zielony", "Rania Haddad"} {
		v.type_(named("New thread")+" input", name)
		v.clicks("[role=option]", name)
		v.sees(named("New thread"), name)
	}
	v.clicks("button", "Begin with 2 people")
	v.sees("h2", "Piotr Zielony and Rania Haddad")
	v.clicks("button", "Give it a name…")
	v.type_(named("What it is called"), "Gauge watch")
	v.clicks("button", "Keep the name")
	v.sees("h2", "^Gauge watch$")
	v.type_(named("What you write to all"), "Yes, he can. Thank you.")
	v.sees(named("To all in this thread"), "2 people read 2 other languages")
	v.clicks("summary", "other languages")
	v.sees(named("To all in this thread"), "Arabic[^]*نعم، يمكنه ذلك")
	v.clicks("button", "Send to all")
	v.sees(".ledger", "2 of 2 have it")
	post := textFrom("+447700900418", "K1", "Good")
	require.NoError(t, v.instance.Box.Post(t.Context(), post))
	v.sees(".ledger", "Piotr Zielony[^]*Good")
	v.clicks(".ledger button", "Answer alone")
	v.sees("h2", "^Piotr Zielony$")
	v.type_(named("Find threads"), "Gauge")
	v.clicks(named("Found")+" button", "Gauge watch")
	v.sees("h2", "^Gauge watch$")
	v.clicks("button", "Delete…")
	v.clicks("button", "Delete the thread")
	v.sees("[role=status], h2, h3", "wait|Nothing")
	v.goes("/desks")
	v.type_(named("Find threads"), "Junior")
	v.clicks(named("On the roster")+" button", "Junior squads")
	v.sees("h2", "^Junior squads$")
	v.sees(named("Beside it"), "Follows the roster")

	// A group is found with everybody in it, and somebody with the groups that they are in.
	v.goes("/desks")
	v.type_(named("Find threads"), "Coach")
	v.clicks(named("On the roster")+" button", "Everybody in it")
	v.clicks(named("On the roster")+" li li button", "Naya")
	v.sees("h2", "^Naya")
	v.goes("/desks")
	v.type_(named("Find threads"), "Naya")
	v.clicks(named("On the roster")+" .among button", "^Coaches$")
	v.sees("h2", "^Coaches$")
}
