package e2e_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// barred is a family in which one guardian is never to be written to.
const barred = `Id,Name,Role,Mobile,Guardians,Barred guardians
G1,Rania Haddad,guardian,07700 900417,,
G2,Karim Haddad,guardian,07700 900418,,
J1,Sami Haddad,junior,,G1,G2
`

// No file makes a barred guardian one who is written to; a person can, with a
// reason that is kept.
func TestABarIsLiftedWithAReasonOnly(t *testing.T) {
	v := signedIn(t, barred, time.Hour)
	v.goes("/people/import")
	file := testkit.Write(t, "family.csv", []byte("Id,Name,Role,Mobile,Guardians\nJ1,Sami Haddad,junior,,G1;G2\n"))
	v.element("input[type=file]").MustSetFiles(file)
	v.sees("main", "1 guardian as receiving whose contact is barred:\\s*that stays so")

	v.goes("/people")
	v.clicks("td .link", "Sami Haddad")
	v.clicks("[role=dialog] button", "^Edit$")
	v.sees("aside li.barred", "Karim Haddad").MustElementR("label", "contact barred").MustClick()
	v.clicks("aside button", "^Save$")
	v.sees("aside [role=alert]", "Nothing was saved")
	v.sees("aside label", "Why is contact allowed again").MustElement("input").MustInput("Court order of 9 November")
	v.clicks("aside button", "^Save$")
	v.sees("[role=status]", "Changed Sami Haddad")
	v.sees("[role=dialog] .history", "Court order of 9 November")
}

// What should have left while the program was not running waits for a yes.
func TestALateMessageIsAskedAbout(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	folder := testkit.Folder(t, testkit.Roster, nil)
	first, err := app.Start(t.Context(), testkit.Config(folder, func(c *app.Config) { c.Now = clock.Now }))
	require.NoError(t, err)
	c := testkit.SignedIn(t, first.URL)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := fmt.Sprintf(`{"urgency":"routine","audience":{"parts":[{"kind":"addresses","addresses":["rania@example.org"]}],"receivers":"guardians"},"sendAt":%q,"subject":"Low water","email":"No rowing today.","ownText":false,"text":"","firstOnly":false}`,
		clock.Now().Add(time.Hour).Format(time.RFC3339))
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	c.Want(http.StatusOK, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d,"typed":1}`, m.Revision), nil)
	require.NoError(t, first.Close())
	clock.Pass(50 * time.Hour)

	v := opens(t, folder, clock.Now)
	v.signsIn(testkit.Login, testkit.Password)
	v.sees("footer.strip", `Late:[\s\S]*Low water[\s\S]*was due`)
	v.clicks("footer.strip a", "Low water")
	v.sees("main", "the program was not running then")
	all, err := v.instance.Box.All(t.Context())
	require.NoError(t, err)
	assert.Empty(t, all, "nothing left unasked")
	v.clicks("footer.strip button", "Send it now")
	v.sees(named("Figures"), `1\s*reached`)
	v.until(`!document.querySelector("footer.strip").innerText.includes("Late:")`)
}

// A carrier that is in trouble is said on every screen, and is tried at once
// when somebody asks.
func TestACarriersTroubleIsSaidAndTriedAgain(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	require.NoError(t, v.instance.Box.SetDown(t.Context(), roster.Email, standin.Forever))
	v.writes("Outing moved", "Dear {{first name}}, meet at Harrow Lock.")
	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees("footer.strip [role=alert]", `Emails wait:[\s\S]*tried again`)
	v.clicks("nav a", "People")
	v.sees("h1", "^People$")
	v.sees("footer.strip [role=alert]", "Emails wait:")
	require.NoError(t, v.instance.Box.SetDown(t.Context(), roster.Email, time.Time{}))
	v.clicks("footer.strip button", "Try now")
	v.until(`!document.querySelector("footer.strip").innerText.includes("Emails wait")`)
	v.clicks("nav a", "Outgoing")
	v.clicks("td a", "Outing moved")
	v.sees(named("Figures"), `4\s*reached`)
}

// What was being handed over when the program ended is shown, and sent again when
// somebody says so; Stop says what it did.
func TestWhatNobodyCanTellOfIsDecided(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	ctx := t.Context()
	require.NoError(t, v.instance.Box.SetDown(t.Context(), roster.Email, standin.Forever))
	v.writes("Outing moved", "Dear {{first name}}, meet at Harrow Lock.")
	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Figures"), `2\s*still waiting`)
	v.sees("footer.strip [role=alert]", "Emails wait:")

	// Another life of the program leased the emails and ended.
	kept, now := v.instance.Store, time.Now()
	run, err := kept.BeginRun(ctx, now)
	require.NoError(t, err)
	leased, err := kept.Lease(ctx, run, roster.Email, store.Room{Most: 9, Others: 9}, 0, now, now)
	require.NoError(t, err)
	require.Len(t, leased, 3)
	_, err = kept.RunOut(ctx, run, nil, false, now.Add(time.Second))
	require.NoError(t, err)
	v.page.MustReload()
	v.sees("[role=status], [role=alert], section", "Nobody can tell whether 3 emails left")
	v.sees("td", "not known whether it left")

	require.NoError(t, v.instance.Box.SetDown(t.Context(), roster.Email, time.Time{}))
	v.clicks("footer.strip button", "Try now")
	v.clicks("button", "^\\s*Send again\\s*$")
	v.sees(named("Figures"), `4\s*reached`)
	v.until(`!document.body.innerText.includes("Nobody can tell")`)
}
