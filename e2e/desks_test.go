package e2e_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// A desk is made, somebody answers on the Bench, the shift answers back, and takes back
// what it did not mean to say.
func TestADeskAnswers(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/settings?of=desks")
	v.clicks("button", "Add a desk")
	v.type_(`form input[maxlength="80"]`, "Club office")
	v.clicks("form label", "Hugo Farrowby")
	v.clicks("form button", "^Save$")
	v.sees("td", "everything that no other desk does")
	v.clicks("tr button", "^Change$")
	v.clicks("form label", "^Thursday$")
	v.clicks("form button", "^Save$")
	v.sees("td", "^1 day$")
	v.clicks("tr button", "^Change$")
	v.clicks("form label", "^Thursday$")
	v.clicks("form button", "^Save$")
	v.sees("td", "^always$")
	v.sent(`{"kind":"person","person":1}`, "Outing moved")
	v.goes("/bench")
	v.clicks("aside button", "Rania Haddad")
	v.sees(".mailbox h3", "Outing moved")
	v.clicks(".mailbox button", "Answer…")
	v.type_(named("What they write"), "Which gate do we use?")
	v.clicks(".mailbox button", "Send it to us")
	v.sees(".mailbox [role=status]", "It is with the office")
	v.sees("footer a", "1 thread waits for us")

	v.clicks("nav a", "^Desks$")
	v.clicks(named("Waits for us")+" button", "Rania Haddad[^]*Which gate")
	v.sees(".ledger", "They answer[^]*Outing moved[^]*Which gate do we use\\?")
	v.sees(named("Beside it"), "Reads[^]*Arabic")
	v.type_(named("What you answer"), "The lower gate")
	way := testkit.Write(t, "the way.txt", []byte("Past the boathouse, then left."))
	v.must(v.element(`input[aria-label="Add files to the answer"]`).SetFiles([]string{way}), "adding a file")
	v.sees(".extras", "the way\\.txt")
	v.clicks(named("Answer")+" button", "^Answer$")
	v.clicks(".ledger button", "Take it back")
	v.sees(".extras", "the way\\.txt")
	v.sees(named("Waits for us"), "Rania Haddad")
	v.type_(named("What you answer"), "The upper gate") // instead of what came back
	v.clicks(named("Answer")+" button", "^Answer$")
	v.sees(named("Waits for them"), "Rania Haddad[^]*The upper gate")
	v.sees(".ledger .ours", "The upper gate[^]*the way\\.txt[^]*arrived")

	v.clicks("button", "Note instead")
	v.type_(named("A note that never leaves"), "She comes on Friday")
	v.clicks("button", "Keep the note")
	v.sees(".ledger .note", "Note:[^]*She comes on Friday[^]*stays here")
	v.clicks("button", "Leave for the next shift")
	v.type_(named("A word for the next shift"), "Ask about Friday")
	v.clicks("button", "^Leave it$")
	v.sees(named("Beside it")+" [role=status]", "Left for this shift[^]*Ask about Friday")
	v.goes("/desks/1") // whoever left it looked at it meanwhile
	v.sees(named("Waits for us")+" .unread", "Rania Haddad")
	v.clicks(named("Waits for us")+" button", "Rania Haddad")
	v.clicks("button", "Nothing to say")
	v.sees(named("Quiet"), "Rania Haddad")
	v.chooses("Arranged", "by name")
	v.sees(named("All threads"), "Rania Haddad")
	v.goes(v.path())
	v.sees(named("All threads"), "Rania Haddad") // each as they like it
}

// Two of a desk see each other at the same thread, and the second to answer reads first
// what the other one said; nothing that was written is lost.
func TestTwoOfADeskAtOneThread(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	office, err := v.instance.Store.AccountByLogin(t.Context(), testkit.Login)
	require.NoError(t, err)
	_, err = v.instance.Store.PutAccount(t.Context(), store.Account{
		Login: "nell@quillmere.example", Name: "Nell Night", PasswordHash: office.PasswordHash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Whole: true}},
	})
	require.NoError(t, err)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks",
		`{"id":0,"name":"Club office","units":[],"groups":[],"members":[1,2],"hours":[],"outside":""}`, nil)
	post := textFrom("+447700900418", "K1", "Which gate?")
	require.NoError(t, v.instance.Box.Post(t.Context(), post))
	nell := testkit.Stranger(t, v.instance.URL)
	nell.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "nell@quillmere.example", "password": testkit.Password}, nil)
	v.goes("/desks/1/1")
	v.sees(".ledger", "Which gate")
	nell.Want(http.StatusNoContent, http.MethodPost, "/api/threads/1/here", `{"writing":true}`, nil)
	v.sees(".thread [role=status]", "Nell Night is writing")
	v.type_(named("What you answer"), "The lower gate")
	nell.Want(http.StatusOK, http.MethodPost, "/api/threads/1/answer", `{"text":"The upper gate"}`, nil)
	v.sees(".ledger", "The upper gate")
	v.clicks(named("Answer")+" button", "^Answer$")
	v.sees(named("Answer")+" [role=alert]", "Nell Night answered meanwhile[^]*What you wrote is still here")
	v.clicks(named("Answer")+" button", "^Answer$")
	v.sees(".ledger", "The lower gate")
}

// A number of two people asks who it is; somebody who is not on the roster is found by
// their number.
func TestADeskLearnsWhoWrites(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks",
		`{"id":0,"name":"Club office","units":[],"groups":[],"members":[1],"hours":[],"outside":""}`, nil)
	v.goes("/bench")
	picture := testkit.Write(t, "gauge.png", []byte("\x89PNG\r\n\x1a\n"))
	v.clicks("aside .write button", "Text us…")
	v.type_("aside textarea", "Wrong number?")
	v.must(v.element(`aside input[type=file]`).SetFiles([]string{picture}), "choosing a picture")
	v.clicks("aside button", "Send it to us")
	v.sees("aside [role=status]", "It is with the office")
	v.goes("/desks")
	v.type_(named("Find threads"), "900 872")
	v.clicks(named("Found")+" button", "\\+44 7700 900872")
	v.must(v.element(`.ledger img[alt="gauge.png"]`).WaitVisible(), "the picture stands in the thread")
	v.sees(named("Beside it"), "Nobody on the roster")
	v.type_(named("Beside it")+" input", "Di Venn")
	v.clicks("[role=option]", "Di Venn")
	v.sees("h2", "Di Venn")
	require.NoError(t, v.instance.Box.Post(t.Context(), textFrom("+447700900872", "K2", "It is Di")))
	v.sees(".ledger", "Wrong number[^]*It is Di")
}

// The first page of a shift: what waits, what was not reached, what is worth mending,
// and the day; each is one press away.
func TestAShiftBegins(t *testing.T) {
	v := begin(t, testkit.Roster, 0)
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks",
		`{"id":0,"name":"Club office","units":[],"groups":[],"members":[1],"hours":[],"outside":""}`, nil)
	require.NoError(t, v.instance.Box.SetFault(t.Context(), "rania@example.org", standin.Gone))
	v.sent(`{"kind":"person","person":1}`, "Outing moved")
	post := textFrom("+447700900418", "K1", "Which gate?")
	require.NoError(t, v.instance.Box.Post(t.Context(), post))
	v.signsIn(testkit.Login, testkit.Password)
	v.sees(named("The day")+" a", "Outing moved[^]*1")
	v.sees(named("Worth mending")+" article", "o way to reach them")
	v.sees(named("Not settled yet")+" article", "1 person not reached[^]*Outing moved")
	v.clicks(named("Not settled yet")+" a", "See who")
	v.sees("h1", "Outing moved")
	v.clicks("nav a", "^Today$")
	v.sees(named("Waits for an answer from us"), "1 thread[^]*Piotr Zielony[^]*Which gate")
	v.clicks(named("Waits for an answer from us")+" a", "Answer")
	v.sees(".ledger", "Which gate")
}

func textFrom(from, key, text string) carrier.GatewayItem {
	return carrier.GatewayItem{Key: key, Channel: roster.Text, From: from, To: "+447700900100", Text: text, At: time.Now()}
}
