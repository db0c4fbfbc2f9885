package e2e_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/e2e/browser"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

func TestSigningInAndOut(t *testing.T) {
	v := begin(t, "", 0)
	v.goes("/people")
	v.sees("h1", "Sign in")
	v.type_("#login", testkit.Login)
	v.type_("#password", "not this")
	v.clicks("button", "^Sign in$")
	v.sees("[role=alert]", "The login or the password is wrong")
	assert.Equal(t, testkit.Login, v.value("#login"), "what was typed stays")
	v.element("#password").MustSelectAllText().MustInput(testkit.Password)
	v.page.Keyboard.MustType(input.Enter)
	v.sees("h1", "^People$")
	v.sees("h2", "Nobody is on the roster yet")
	v.element("button.me").MustClick()
	v.clicks("[role=menuitem]", "Sign out")
	v.sees("h1", "Sign in")
}

func TestLoadingARosterFile(t *testing.T) {
	v := signedIn(t, "", 0)
	v.goes("/people/import")
	file := filepath.Join(t.TempDir(), "club.csv")
	content := "Nr;Vn;Surname;Type;Mobile;E-mail;Team\n" +
		"1;Rania;Haddad;member;07700 900417;rania@example.org;Rowers > Fours\n" +
		"2;Bo;;member;ask Hugo;;\n3;;;member;;;\n"
	require.NoError(t, os.WriteFile(file, []byte(content), 0o600))
	v.element("input[type=file]").MustSetFiles(file)
	v.sees("h2", "How the columns were understood")
	v.sees(named("What loading would do"), "1 added")
	v.sees("td", "there is no name")
	v.chooses("Meaning of column Vn", "given name")
	v.sees(named("What loading would do"), "2 added")
	v.sees("td", "cannot be read as a telephone number")
	v.sees("button", "Load 2 people").MustClick()
	v.sees("h2", "2 added. 2 new groups. 1 row was not loaded")
	v.clicks("a.v-btn", "See people")
	v.sees("td", "Rania Haddad")
	v.sees("td", "44 7700 900417")

	v.goes("/people/import")
	v.element("input[type=file]").MustSetFiles(file)
	v.chooses("Meaning of column Vn", "given name")
	v.sees("[role=status]", "Loading it would change nothing")

	v.goes("/people/import")
	broken := filepath.Join(t.TempDir(), "photo.csv")
	require.NoError(t, os.WriteFile(broken, []byte("\x89PNG\x00\x01"), 0o600))
	v.element("input[type=file]").MustSetFiles(broken)
	v.sees("[role=alert]", "This is no roster file")
}

func TestWritingShowsTheConsequencesAndLosesNothing(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.goes("/write/new")
	v.sees("[role=status], [role=alert]", "Nobody is chosen yet")
	v.sees("button", "^Send…$")

	v.writes("Outing moved", "Dear {{first name}}, meet at Harrow Lock – 8:30")
	v.sees(named("Who"), "6 people after these parts")
	v.sees("button", "Send to 4 people…")
	v.sees(named("Step 1"), "Email")
	v.sees(named("Step 3"), "Voice")
	v.sees(named("Left out"), "2 people get nothing")
	v.sees(named("Left out"), "asked not to get such messages")
	v.sees(named("Preview"), "As .* gets it")

	v.sees(named("Characters that cost more"), "need.* the long alphabet")
	v.clicks(named("Characters that cost more")+" button", "Swap")
	v.sees("[role=status]", "short alphabet")
	assert.Equal(t, "Dear {{first name}}, meet at Harrow Lock - 8:30", v.value(text))
	assert.Contains(t, v.value(email), "–", "the email keeps its dash")

	v.clicks(named("Left out")+" button", "get nothing")
	v.sees("[role=dialog] li", "Di Venn")
	v.page.Keyboard.MustType(input.Escape)
	v.until(`!document.querySelector("aside.drawer")`)

	v.clicks("button", "Change steps")
	v.element(`[data-channel="text"]`).MustFocus()
	v.page.Keyboard.MustType(input.ArrowUp)
	v.sees(named("Step 1"), `Email[\s\S]*Text`)
	v.sees(named("Steps"), "differs from the default")

	v.sees("[role=status]", "Draft kept")
	written := v.path()
	v.clicks("nav a", "People")
	v.sees("h1", "^People$")
	v.goes(written)
	v.until(`document.querySelector('[role=textbox][aria-label="Email"]').innerText.includes("Harrow Lock")`)
	assert.Equal(t, "Outing moved", v.value(`input[aria-label="Subject"]`))
	v.sees(named("Parts")+" li", "Junior squads")
	v.sees(named("Steps"), "differs from the default")
}

func TestAnEmergencyIsConfirmedByItsNumber(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("River", "Leave the boathouse on Friday 26 November 2026. The map is attached.")
	v.clicks(named("Urgency")+" button", "mergency")
	v.sees(named("Emergency"), "1 person who declined other messages get it|1 person .* get it")
	v.clicks("[role=status] button, [role=alert] button", "Say why it is an emergency")
	v.until(`document.activeElement.getAttribute("aria-label") === "Why it is an emergency"`)
	v.type_(`input[aria-label="Why it is an emergency"]`, "Flood warning 14")
	v.clicks("button", "Send to 5 people…")
	v.sees(finalCheck+" li", "5 people get this message")
	v.sees(named("To look at again")+" li", "It says “attached”, but no file goes with it")
	v.sees(named("To look at again")+" li", "“Friday 26 November 2026” is a Thursday")
	require.True(t, v.sees(finalCheck+" button", "Send to 5 people").MustProperty("disabled").Bool())
	v.type_(`input[aria-label="The number of people"]`, "5")
	v.clicks(finalCheck+" button", "Send to 5 people")
	v.sees(named("Held and going out"), `Held[\s\S]*River`)

	v.writes("Rota", "Come on Thursday")
	v.sees("[role=status] button, [role=alert] button", "“River” goes to 4 of these people too")
	v.clicks(named("When it leaves")+" button", "More")
	v.element(`input[aria-label="Spread over minutes"]`).MustInput("2").MustBlur()
	v.sees(named("When it leaves"), "about 3 a minute")
	v.clicks("button", "Send to 4 people…")
	v.clicks(named("To look at again")+" li:nth-child(2) button", "Look at it")
	v.until(`!document.querySelector("[role=dialog][aria-label='Final check']") && document.activeElement.ariaLabel === "When it leaves"`)
}

func TestSomebodyElseSaysYes(t *testing.T) {
	v := signedIn(t, testkit.Roster, 10*time.Minute)
	v.goes("/settings?of=sending")
	v.chooses("How a big audience is confirmed", "somebody else must say yes")
	v.element(`input[aria-label="Big audience from"]`).MustSelectAllText().MustInput("3")
	v.clicks("form button", "^Save how")
	v.sees("form", "Saved")
	office, err := v.instance.Store.AccountByLogin(t.Context(), testkit.Login)
	require.NoError(t, err)
	_, err = v.instance.Store.PutAccount(t.Context(), store.Account{
		Login: "naya@quillmere.example", Name: "Naya Osei", PasswordHash: office.PasswordHash, Active: true,
		Grant: access.Program.Grant,
	})
	require.NoError(t, err)

	v.writes("Boathouse keys", "Bring them back, please.")
	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Ask for a second yes")
	v.sees("[role=status], [role=alert]", "waits for somebody else’s yes")
	v.goes("/outgoing")
	v.sees("td", "waits for somebody’s yes")

	other := v.another(v.instance.URL, 1280, 800)
	other.signsIn("naya@quillmere.example", testkit.Password)
	other.clicks("footer.strip a", "Boathouse keys")
	other.clicks("[role=status] button, [role=alert] button", "Look at it and say yes")
	other.sees(finalCheck+" h2", "Hugo Farrowby asks for your yes")
	other.clicks(finalCheck+" button", "Say yes and send to 4 people")
	other.sees("main", "Hugo Farrowby")
	other.sees(named("Held and going out"), `Held[\s\S]*Boathouse keys`)
}

func TestTheAudienceIsSeenThrough(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("Outing", "Dear {{first name, else friend}}, come")
	v.clicks("button.name", "Junior squads")
	v.sees("[role=dialog] li", "Kinga Zielony")
	v.clicks("[role=dialog] li button", "^Leave out$")
	v.sees("[role=dialog] li.gone", "Zielony|Haddad")
	v.page.Keyboard.MustType(input.Escape)
	v.sees(named("Parts")+" li", "leave out: 1 person chosen one by one")
	v.picks("A name to look up", "Piotr Zielony")
	v.sees(named("Why"), "Piotr Zielony.*(Guardian of Kinga|left out)")

	v.clicks(named("Who")+" button", "From a list or file")
	v.element(`textarea[aria-label="The list"]`).MustInput("new@example.org; 07700 900418; nobody at all")
	v.clicks("[role=dialog] button", "Look it through")
	v.sees("[role=dialog]", "2 addresses: 1 on the roster, 1 not")
	v.sees("[role=dialog] li", "nobody at all")
	v.clicks("[role=dialog] button", "Add 2 people and addresses")
	v.sees(named("Parts")+" li", "2 addresses from a list")

	v.clicks(named("Who")+" button", "By a rule")
	v.clicks("[role=dialog] button", "Add a filter")
	v.chooses("What with", "staff")
	v.clicks("[role=dialog] .edit button", "^Add$")
	v.sees("[role=dialog] li", "Naya Osei")
	v.page.Keyboard.MustType(input.Escape)
	v.sees(named("Parts")+" li", "Already included in Coaches")
}

func TestAFormattedEmailIsWrittenAndSeen(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("Outing", "Dear {{first name}}, bring a {{shoe size}}")
	v.sees(".filled.unknown", "shoe size")
	v.element(email).MustFocus()
	v.page.KeyActions().Press(input.ControlLeft).Type(input.KeyA).MustDo()
	v.page.KeyActions().Press(input.ControlLeft).Type(input.KeyB).MustDo()
	v.sees(email+" strong", "Dear")
	file := testkit.Write(t, "map.pdf", []byte("%PDF-1.7 a map"))
	v.element(`input[aria-label="Add files"]`).MustSetFiles(file)
	v.sees(named("Files"), "map.pdf")
	wrong := testkit.Write(t, "photo.png", []byte("%PDF-1.7 a map"))
	v.element(`input[aria-label="Add files"]`).MustSetFiles(wrong)
	v.sees("[role=status], [role=alert]", "photo.png is named like a png file, but its content is that of a pdf file")

	v.element(email).MustFocus()
	v.page.Keyboard.MustType(input.End)
	v.page.MustEval(`() => {
		const data = new DataTransfer()
		data.setData("text/html", "<p>and <i>water</i></p><script>x()</script><img src='https://track.example/p.gif' width=1>")
		document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }))
	}`)
	v.sees("[role=status]", "Pasted without 1 script, 1 tracking picture")
	v.sees(email+" em", "water")
	v.clicks(named("Fields")+" button", "More fields")
	v.type_(`input[placeholder="other words"]`, "friend")
	v.clicks(named("Fields")+" form button", "^Insert$")
	v.sees(email+" .filled", "first name, else friend")
}

func TestAnUnknownFieldKeepsAMessageFromBeingSent(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("Outing", "Your {{shoe size}}")
	v.sees("[role=status], [role=alert]", "There is no field “shoe size”")
	require.True(t, v.sees("header button", "Send").MustProperty("disabled").Bool())
}

func TestStoppingDuringTheHold(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("Boathouse keys", "Bring them back, please.")
	v.clicks("button", "Send to 4 people…")
	v.sees(finalCheck+" li", "4 people get this message: 2 by email, 1 by text, 1 by call")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Held and going out"), `Held[\s\S]*Boathouse keys[\s\S]*to 4 people`)
	v.clicks("nav a", "People")
	v.sees("h1", "^People$")
	v.clicks(named("Held and going out")+" button", "Stop")
	v.sees(named("Held and going out"), "Stopped before anything left")
	v.clicks("nav a", "Outgoing")
	v.sees("section", "Drafts[\\s\\S]*Boathouse keys")
	all, err := v.instance.Box.All(context.Background())
	require.NoError(t, err)
	assert.Empty(t, all)

	// Stopped in the strip while its record is looked at, it is written on.
	v.clicks("section a", "Boathouse keys")
	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Figures"), `4\s*recipients`)
	v.clicks(named("Held and going out")+" button", "Stop")
	v.until(`location.pathname.startsWith("/write/")`)
}

func TestSendingWatchingAndTheBench(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	require.NoError(t, v.instance.Box.SetDown(t.Context(), roster.Text, standin.Forever))
	v.writes("Outing moved", "Dear {{first name}}, meet at Harrow Lock.")
	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Figures"), `4\s*recipients`)
	v.sees(named("Figures"), `3\s*reached`)
	v.sees(named("Needs a hand"), "gateway is down for now")
	v.sees("td", "tried 1 time")
	require.NoError(t, v.instance.Box.SetDown(t.Context(), roster.Text, time.Time{}))
	v.sees(named("Figures"), `4\s*reached`) // by itself: events tell the page
	v.until(`document.querySelectorAll('[aria-label="Marks"] svg').length === 4`)
	v.sees("td", "picked up and heard")

	v.clicks(named("Show only")+" button", "^not reached$")
	v.sees("p", "Nobody here")
	v.clicks("button", "See who, and why")
	v.sees("[role=dialog] li", "Tuan Vo")

	v.goes("/bench")
	v.picks("Name", "Rania Haddad")
	v.sees("section.mailbox", "Dear Rania, meet at Harrow Lock")
	v.picks("Name", "Lena Achterberg")
	v.sees("section.phone", "Call, read aloud[\\s\\S]*Dear Lena")
}

func TestTheKeyboardIsEnough(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.goes("/write/new")
	v.element(`input[aria-label="` + who + `"]`).MustFocus()
	v.page.MustInsertText("coach")
	v.sees("li[role=option]", "Coaches")
	v.page.Keyboard.MustType(input.Enter)
	v.sees(named("Parts")+" li", "Coaches")
	v.page.MustInsertText("Di Venn")
	v.sees("li[role=option]", "Di Venn")
	v.page.KeyActions().Press(input.ShiftLeft).Type(input.Enter).MustDo()
	v.sees(named("Parts")+" li", "leave out: Di Venn")
	v.element(email).MustFocus()
	v.page.MustInsertText("Keys, please")
	v.sees("button:not([disabled])", "Send to 1 person…")
	v.page.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
	v.sees("h2", "Before it leaves")
	v.page.Keyboard.MustType(input.Escape)
	v.until(`!document.querySelector("[role=dialog][aria-label='Final check']")`)
	v.page.KeyActions().Press(input.ControlLeft).Type(input.KeyK).MustDo()
	v.page.MustInsertText("Rania")
	v.sees("li[role=option]", "Rania Haddad")
	v.page.Keyboard.MustType(input.Enter)
	v.sees("[role=dialog]", "rania@example.org")
}

func TestATemplateChangesTheWordsAndNotThePeople(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("Outing on {{ask: day}}", "Dear {{first name}}, we meet on {{ask: day}}.")
	v.sees("[role=status]", "Draft kept")
	v.sees("[role=status], [role=alert]", "The template asks for “day”")
	v.clicks("button", "^Templates$")
	v.element(`input[aria-label="Name of the template"]`).MustSelectAllText().MustInput("Outing")
	v.clicks("[role=dialog] button", "^Save$")
	v.sees("[role=dialog] li", "Outing")

	v.goes("/write/new")
	v.picks(who, "Coaches")
	v.sees("[role=status]", "Draft kept")
	v.clicks("button", "^Templates$")
	v.clicks("[role=dialog] li button", "^Outing$")
	v.element(`[role=dialog] input[aria-label="day"]`).MustInput("Monday")
	v.clicks("[role=dialog] button", "^Use it$")
	v.until(`document.querySelector('input[aria-label="Subject"]').value === "Outing on Monday"`)
	v.sees(named("Parts")+" li", "Coaches")
	v.sees("button", "Send to 1 person…")
	v.sees("[role=status]", "Draft kept")
	v.clicks("button", "^History$")
	v.sees("[role=dialog] li", "as it is now")
	v.page.Keyboard.MustType(input.Escape)

	v.goes("/shelf")
	v.clicks("button.item", "Outing")
	v.sees(".filled.blank", "ask: day")
	v.type_(`input[aria-label="Subject"], .edit form input[maxlength="300"]`, "!")
	v.clicks("button", "Save a new version")
	v.clicks("button.item", "Outing")
	v.sees("h2", "Earlier versions")
}

func TestTwoWindowsAreJoinedWhereTheyCanBe(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.goes("/write/new")
	v.type_(email, "First")
	v.until(`/\/write\/\d+/.test(location.pathname)`)
	v.sees("[role=status]", "Draft kept")
	other := v.page.Browser().MustPage(v.instance.URL + v.path())
	defer other.MustClose()
	patient := other.Timeout(browser.Patience)
	patient.MustElement(`input[aria-label="Subject"]`).MustInput("From there")
	patient.MustElementR("[role=status]", "Draft kept just now")

	v.type_(email, " and second")
	v.sees("[role=status], [role=alert]", "what both wrote is kept")
	assert.Equal(t, "From there", v.value(`input[aria-label="Subject"]`))
	assert.Contains(t, v.value(email), "and second")
}

func TestTwoWindowsDoNotOverwriteEachOther(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.goes("/write/new")
	v.type_(email, "First")
	v.until(`/\/write\/\d+/.test(location.pathname)`)
	v.sees("[role=status]", "Draft kept")

	other := v.page.Browser().MustPage(v.instance.URL + v.path())
	defer other.MustClose()
	patient := other.Timeout(browser.Patience)
	patient.MustElement(email).MustInput(" and second")
	patient.MustElementR("[role=status]", "Draft kept just now")
	patient.MustWait(`() => document.querySelector('[role=textbox][aria-label="Email"]').innerText.includes("second")`)

	v.type_(email, " and third")
	v.sees("[role=alert]", "changed in another window[\\s\\S]*Both changed the email")
	assert.Contains(t, v.value(email), "third", "what was typed stays on the screen")
	v.clicks("[role=alert] button", "Load the newer one")
	v.until(`document.querySelector('[role=textbox][aria-label="Email"]').innerText.includes("second")`)
}

func TestLettersForThoseWhomNothingReaches(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.writes("Boathouse keys", "Dear {{first name}}, bring them back.")
	v.clicks("a", "Print letters")
	v.sees("article", `Di Venn[\s\S]*Boathouse keys[\s\S]*Dear Di`)
	saved := v.saves()
	v.clicks("button", "Save as PDF")
	file := saved()
	require.Equal(t, "%PDF-1.7", string(file[:8]))
	v.clicks("button", "Choose people")
	v.picks("Who gets a letter", "Naya Osei")
	v.sees("article", `Naya Osei[\s\S]*Dear Naya`)
	v.sees(named("For whom"), "Back to those whom no channel reaches")
}

// A time is typed as people write it, or chosen from a month that shows what else leaves.
func TestATimeIsTypedOrChosen(t *testing.T) {
	at := time.Date(2026, 11, 26, 15, 0, 0, 0, time.UTC)
	v := opens(t, testkit.Folder(t, testkit.Roster, nil), testkit.NewClock(at).Now)
	v.signsIn(testkit.Login, testkit.Password)
	v.writes("Outing", "Come to the lock")
	v.clicks(named("Reach")+" button", "At another time")
	field := `[aria-label="When it leaves, Europe/London"]`
	v.type_(field, "tomorrow 7.30")
	v.page.Keyboard.MustType(input.Enter)
	v.until(`document.querySelector('` + field + `').value === "Fri, 27 Nov 2026, 07:30"`)
	v.element(`[aria-label="Choose from a month"]`).MustClick()
	v.clicks(named("Month")+" button", "Monday 07:30")
	v.until(`document.querySelector('` + field + `').value === "Mon, 30 Nov 2026, 07:30"`)
	v.element(`[aria-label="Choose from a month"]`).MustClick()
	v.element(named("The month after")).MustClick()
	v.sees(named("Month"), "25 Christmas Day")
	v.clicks(named("Month")+" button[aria-label^='2026-12-24']", "24")
	v.until(`document.querySelector('` + field + `').value === "Thu, 24 Dec 2026, 07:30"`)

	v.element(field).MustSelectAllText().MustInput("soon")
	v.page.Keyboard.MustType(input.Enter)
	v.sees(named("Reach")+" [role=alert]", "this is no day or time")
	assert.Equal(t, "soon", v.value(field), "what was typed stays")
}

// The list of Chinese faces, which is long, loads once such text is shown.
func TestChineseFacesLoadWhenTheyAreShown(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("Outing", "Come to the lock")
	chinese := `[...document.fonts].some((face) => face.family.includes("Noto Sans SC"))`
	require.False(t, v.page.MustEval("() => "+chinese).Bool())
	v.element(email).MustFocus()
	v.page.MustInsertText("请到船闸")
	v.until(chinese)
}
