package e2e_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// sent sends a message by the API and returns its number.
func (v *visit) sent(audience, subject string) int64 {
	v.t.Helper()
	c := testkit.SignedIn(v.t, v.instance.URL)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := fmt.Sprintf(`{"urgency":"routine","audience":{"parts":[%s],"receivers":"guardians"},"subject":%q,`+
		`"email":"Hello {{first name}}, no rowing today.","ownText":false,"text":"","firstOnly":false}`, audience, subject)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	c.Want(http.StatusOK, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d}`, m.Revision), nil)
	return m.ID
}

// shuts closes the drawer that is open.
func (v *visit) shuts() {
	v.t.Helper()
	v.must(v.element("[role=dialog] [aria-label=Close]").Click("left", 1), "closing the drawer")
	v.until(`!document.querySelector("[role=dialog]")`)
}

// Whoever a message did not reach is looked after from its record: by the next channel,
// by a corrected address and the same again, or by a tick.
func TestWhatWasNotReachedIsMended(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	require.NoError(t, v.instance.Box.SetFault(t.Context(), "rania@example.org", standin.Gone))
	id := v.sent(`{"kind":"role","role":"guardian"},{"kind":"group","group":4}`, "Low water")
	v.goes(fmt.Sprintf("/outgoing/%d", id))
	v.sees("main [role=group]", "0\\s*still waiting")

	v.clicks("button.todo", "Another channel may reach them")
	v.clicks("[role=dialog] button", "Try the next channel for 1 person")
	v.sees("[role=dialog] [role=status]", "1 person tried on the next step now")
	v.shuts()
	v.sees("main [role=group]", "0\\s*not reached")

	v.clicks("td button", "Rania Haddad")
	v.sees("[role=dialog] li", "There is no such mailbox")
	v.sees("[role=dialog]", "Hello Rania, no rowing today")
	v.sees("[role=dialog] header", "Text to \\+44 7700 900417")
	v.shuts()

	v.clicks("button.todo", "They declined every channel")
	v.sees("[role=dialog] li", "Tuan Vo")
	v.clicks("[role=dialog] button", "Tick off")
	v.sees("[role=dialog] li", "ticked off by Hugo Farrowby")
	v.shuts()
	v.sees("button.todo", "They declined every channel\\s*all 1 person done")

	v.clicks("button.todo", "Nothing on file reaches them")
	v.clicks("[role=dialog] button", "Di Venn")
	v.clicks("[role=dialog] button", "^Edit$")
	v.clicks("aside button", "Add a mail address")
	v.type_(`aside [aria-label="Mail address"]`, "di@example.org")
	v.clicks("aside button", "^Save$")
	v.sees("[role=status]", "Changed Di Venn")
	v.goes(fmt.Sprintf("/outgoing/%d", id))
	v.clicks("button.todo", "Worth another try")
	v.clicks("[role=dialog] button", "Send it again to 1 person")
	v.sees(named("What it follows"), "The same again[^]*Only 1 person chosen there")
	v.clicks("button", "Send to 1 person…")
	v.clicks(finalCheck+" button", "Send to 1 person")
	v.sees(named("About this message"), "the first of them\\s*Low water")
	v.clicks(".chain a", "Low water")
	v.sees("button.todo", "Worth another try\\s*all 1 person done")
}

// The all-clear goes to exactly those who got the message.
func TestAnAllClearIsGiven(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	id := v.sent(`{"kind":"group","group":4}`, "The wall is shut")
	v.goes(fmt.Sprintf("/outgoing/%d", id))
	v.sees("main [role=group]", "1\\s*reached")
	v.clicks("button", "Follow it up…")
	v.clicks("[role=menuitem]", "Give the all-clear")
	v.sees(named("What it follows"), "The all-clear, to exactly those who got it")
	v.type_(`input[aria-label="Subject"]`, "All clear")
	v.type_(email, "The wall is open again.")
	v.sees(named("Reach"), "worked out just now")
	v.clicks("button", "Send to 1 person…")
	v.clicks(finalCheck+" button", "Send to 1 person")
	v.sees("h1", "All clear")
	v.sees(named("About this message"), "the first of them\\s*The wall is shut")
}

// Any message is found by its words and by conditions, which stand in the address and
// are kept by a name.
func TestAnyMessageIsFound(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.sent(`{"kind":"group","group":4}`, "Low water at the lock")
	v.sent(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Term dates")
	v.goes("/outgoing")
	v.sees("td", "Term dates")
	v.type_(named("Words in a subject or a text"), "LÓCK")
	v.sees(named("Find messages"), "1 message[^]*Low water at the lock")
	v.clicks("button", "Show everything")
	v.clicks("button", "Add a condition")
	v.chooses("What the condition looks at", "To a number or mailbox")
	v.type_(named("Number or mailbox"), "rania@example.org")
	v.clicks(named("Find messages")+" button", "^Add$")
	v.sees(named("Conditions"), "to rania@example.org")
	v.sees(named("Find messages"), "1 message[^]*Term dates")
	v.clicks("button", "Keep this search")
	v.type_(named("Name of the search"), "To Rania")
	v.clicks(named("Find messages")+" button", "^Keep$")
	v.sees(".kept button", "To Rania")
	v.goes("/outgoing")
	v.clicks(".kept button", "To Rania")
	v.sees(named("Find messages"), "1 message[^]*Term dates")
	require.Contains(t, v.path(), "find=")
	v.goes(`/outgoing?find={"conditions":[{"on":"group","id":99}]}`)
	v.sees(named("Find messages"), "no longer there[^]*No message is found")
}

// When the roster changed more than may go without a yes, a scheduled message waits for
// one and says what changed.
func TestAMessageWhosePeopleChangedIsAskedAbout(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	v := opens(t, testkit.Folder(t, testkit.Roster, func(o *store.Organisation) { o.Sending.MayChange = 1 }), clock.Now)
	c := testkit.SignedIn(t, v.instance.URL)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":{"urgency":"routine","sendAt":%q,`+
		`"audience":{"parts":[{"kind":"role","role":"guardian"}],"receivers":"guardians"},"subject":"Term dates",`+
		`"email":"Hello","ownText":false,"text":"","firstOnly":false}}`,
		m.Revision, clock.Now().Add(time.Hour).Format(time.RFC3339)), &m)
	c.Want(http.StatusOK, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d}`, m.Revision), nil)
	for id := 1; id <= 2; id++ {
		var who struct{ Sheet map[string]any }
		person := fmt.Sprintf("/api/people/%d", id)
		c.Want(http.StatusOK, http.MethodGet, person, nil, &who)
		who.Sheet["status"] = "left"
		c.Want(http.StatusOK, http.MethodPut, person, who.Sheet, nil)
	}
	clock.Pass(time.Hour)
	v.signsIn(testkit.Login, testkit.Password)
	v.sees(".strip", "Waits for a yes:[^]*Term dates")
	v.clicks(".strip a", "Term dates")
	v.sees("main [role=status]", "the roster changed for 2 people[^]*Rania Haddad gets nothing now[^]*Piotr Zielony")
	v.clicks("main button", "Send them now")
	v.sees("main [role=status]", "It was planned again")
	v.sees("main [role=group]", "1\\s*recipients?")
}

// A message is paused and goes on; what it is not to be sent after is typed where its
// time is.
func TestAMessageIsPausedAndGoesOn(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	id := v.sent(`{"kind":"group","group":4}`, "Low water")
	v.goes(fmt.Sprintf("/outgoing/%d", id))
	v.clicks("button", "^Pause$")
	v.sees("main [role=status]", "Hugo Farrowby paused this[^]*2 of its deliveries wait")
	v.goes("/outgoing")
	v.sees("td", "paused by Hugo Farrowby")
	v.clicks("td a", "Low water")
	v.clicks("main button", "Let it go on")
	v.sees("button", "^Pause$")
	v.clicks("button", "Stop: back to a draft")
	v.sees(named("Reach"), "worked out just now")
	v.clicks(named("When it leaves")+" button", "^More$")
	v.type_(named("After when nothing leaves any more"), "1 Jan 2020 18:00\t")
	v.sees("body", "Nothing is free to leave before")
}
