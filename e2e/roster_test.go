package e2e_test

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/testkit"
)

// filters adds a filter by its subject and, unless it is "", what it compares with.
func (v *visit) filters(subject, value string) {
	v.t.Helper()
	v.clicks(named("Filters")+" button", "filter")
	v.chooses("What the filter looks at", subject)
	if value != "" {
		v.chooses("What with", value)
	}
	v.clicks(named("Filters")+" form button", "^Add$")
}

func TestFilteringSelectingAndChangingMany(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/people")
	v.sees("header", "8 people")
	v.sees(named("Selection"), "Nobody is selected")
	v.filters("Role", "guardian")
	v.sees(named("Filters")+" li", `in the role guardian[\s\S]*4`)
	v.filters("Can be reached by", "text")
	v.sees(named("Filters")+" li:nth-child(2)", "2")
	v.sees("header", "2 of 8 people")
	v.clicks(named("Selection")+" button", "all 2 that match")
	v.sees(named("Selection"), "2 people selected")

	// What is shown changes; who is selected does not.
	v.element(`[aria-label^="Take away the filter can be"]`).MustClick()
	v.sees("header", "4 of 8 people")
	v.sees(named("Selection"), "2 people selected")
	v.type_(`input[aria-label="Search people"]`, "Tuan")
	v.sees(named("Selection"), "2 people selected, 0 of them on screen")

	v.clicks(named("Selection")+" button", "Add to a group")
	v.chooses("Group", "Coaches")
	v.clicks("aside button", "Add them")
	v.sees("[role=status]", "2 people added to Coaches")
	v.clicks("[role=status] button", "Undo")
	v.sees("[role=status]", "Undone: 2 people added to Coaches")

	v.clicks(named("Selection")+" button", "Set…")
	v.chooses("What", "status")
	v.clicks("aside button", "Set it for 2 people")
	v.sees("[role=status]", "2 people marked away")

	v.clicks(named("Selection")+" button", "Write to them")
	v.sees(named("Parts")+" li", "2 people chosen one by one")
	v.sees(named("Who"), "0 people after these parts")
}

func TestAFilterStackBecomesAGroup(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/people")
	v.filters("Language", "Polish")
	v.clicks(named("What to do with the filters")+" button", "Make a group by this rule")
	v.type_(`input[aria-label="Name of the group"]`, "Reads Polish")
	v.clicks(named("What to do with the filters")+" button", "Make the group")
	v.sees("aside", `Reads Polish[\s\S]*By rule: reads Polish`)
	v.sees("aside td", "Piotr Zielony")

	// Who would join and leave stands there before the rule is saved.
	v.clicks("aside button", "Change…")
	v.element(`aside [aria-label^="Take away the filter"]`).MustClick()
	v.filters("Role", "staff")
	v.sees("aside [role=status]", "1 person would be in it: 1 person would join, 2 people would leave")
	v.clicks("aside button", "^Save$")
	v.sees("aside td", "Naya Osei")
}

func TestEditingAPerson(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/people")
	v.clicks("td .link", "Rania Haddad")
	v.sees("[role=dialog]", "rania@example.org")
	v.clicks("[role=dialog] button", "^Edit$")
	v.clicks("aside button", "Add a number")
	v.element(`aside li:last-child input[aria-label="Number"]`).MustInput("07700 9")
	v.sees("aside li", "it is too short")
	v.clicks("aside button", "^Save$")
	v.sees("aside [role=alert]", "Nothing was saved")
	assert.Equal(t, "07700 9", v.value(`aside li:last-child input[aria-label="Number"]`), "what was typed stays")
	v.element(`aside li:last-child input[aria-label="Number"]`).MustSelectAllText().MustInput("07700 900600")
	v.sees("aside li", "no network is known to use")
	v.element(`aside li:last-child button[aria-label="Earlier"]`).MustClick()
	v.clicks("aside button", "^Save$")
	v.sees("[role=status]", "Changed Rania Haddad")
	v.sees("[role=dialog] .list li:nth-child(2)", "44 7700 900600")
	v.sees("[role=dialog]", "Hugo Farrowby")
	v.clicks("[role=status] button", "Undo")
	v.until(
		`!document.querySelector("[role=dialog]").innerText.includes("900600") || document.querySelector("[role=dialog]").innerText.includes("undone")`,
	)
}

func TestTheSecondAdministratorIsShownWhatChanged(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/people")
	v.clicks("td .link", "Rania Haddad")
	v.clicks("[role=dialog] button", "^Edit$")
	v.element("aside textarea").MustInput("mine")

	other := testkit.SignedIn(t, v.instance.URL)
	var person struct{ Sheet roster.Sheet }
	other.Want(http.StatusOK, http.MethodGet, "/api/people/1", nil, &person)
	person.Sheet.FamilyName = "Al-Haddad"
	other.Want(http.StatusOK, http.MethodPut, "/api/people/1", person.Sheet, nil)

	v.clicks("aside button", "^Save$")
	v.sees("aside [role=alert]", `somebody else changed this person[\s\S]*Hugo Farrowby changed Haddad to Al-Haddad`)
	assert.Equal(t, "mine", v.value("aside textarea"))
	v.clicks("aside [role=alert] button", "Save mine over it")
	v.clicks("aside button", "^Save$")
	v.sees("[role=status]", "Changed Rania Haddad")
}

func TestAddingAndRemovingAPerson(t *testing.T) {
	v := signedIn(t, "", 0)
	v.goes("/people")
	v.clicks("header button", "Add somebody")
	v.type_("aside input", "نادية")
	v.clicks("aside label", "guardian")
	v.clicks("aside button", "Add to the roster")
	v.sees("[role=dialog] h2", "نادية")
	v.sees("[role=dialog] [role=alert]", "No way to reach them on file")
	v.clicks("aside button", "Remove…")
	v.clicks("aside [role=alert] button", "^Remove")
	v.sees("[role=status]", "Removed نادية")
	v.sees("h2", "Nobody is on the roster yet")
	v.clicks("[role=status] button", "Undo")
	v.sees("td", "نادية")
}

func TestGroupsAreOrderedFilledAndDeleted(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/groups")
	v.clicks("button", "^In order$")
	v.sees("tr:nth-child(4)", "Coaches")
	v.sees("tr .link", "Coaches").MustFocus()
	v.page.KeyActions().Press(input.AltLeft).Type(input.ArrowUp).MustDo()
	v.sees("tr:nth-child(3)", "Coaches")

	v.clicks("header button", "New group")
	v.type_("aside input:not([type=radio])", "Crew > list")
	v.clicks("aside button", "Make the group")
	v.sees("aside [role=alert]", "cannot hold ; > |")
	v.element("aside input:not([type=radio])").MustSelectAllText().MustInput("Crew list")
	v.clicks("aside button", "Make the group")
	v.sees("aside", "Nobody is in it yet")
	v.clicks("aside button", "Fill…")
	v.clicks("aside [role=radio]", "A pasted list")
	v.element("aside textarea").MustInput("07700 900417\nTuan Vo; ask Hugo")
	v.clicks("aside button", "See whom it means")
	v.sees("aside [role=status]", "It means 2 people: Rania Haddad, Tuan Vo")
	v.sees("aside", `1 item means nobody for sure[\s\S]*ask Hugo`)
	v.clicks("aside button", "Add 2 people")
	v.sees("aside td", "Tuan Vo")
	v.clicks("aside button", "Delete…")
	v.sees("aside [role=alert]", "Nothing uses it")
	v.clicks("aside [role=alert] button", "Delete it")
	v.sees("[role=status]", "Crew list was deleted")
}

func TestGapsSheetsAndAPersonalLink(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/people/gaps")
	v.sees("article", `1[\s\S]*no way to reach them on file`)
	v.clicks("article a", "Sheets to print")
	v.sees("article", `Please check how we reach you[\s\S]*Di Venn[\s\S]*nothing on file`)
	link := v.sees("article bdi", "/own/").MustText()

	// Whoever holds the sheet has no account.
	holder := v.another(link, 1024, 768)
	holder.sees("h1", "Hello Di")
	holder.clicks("button", "Add an email address")
	holder.type_("input[type=email]", "di@venn")
	holder.clicks("button", "Send my corrections")
	holder.sees("[role=alert]", "This cannot be right")
	holder.element("input[type=email]").MustSelectAllText().MustInput("di@venn.example")
	holder.clicks("button", "Send my corrections")
	holder.sees("[role=status]", "will be looked at")

	v.goes("/people/gaps")
	v.sees("article", `Di Venn[\s\S]*di@venn.example`)
	v.clicks("article button", "Put it on the roster")
	v.sees("[role=status]", "Di Venn corrected their own details")
	v.until(`![...document.querySelectorAll("h2")].some((h) => h.innerText.includes("no way to reach"))`)
}

func TestTwinsAreMerged(t *testing.T) {
	v := signedIn(t, "Id,Name,Mobile,Email\n1,Łukasz Kłos,07700 900001,k@example.org\n2,Lukasz Klos,,k@example.org\n", 0)
	v.goes("/people/twins")
	v.sees("article", "both have k@example.org, the same name")
	v.clicks("article button", "Merge into this one")
	v.sees("[role=status]", "Merged 2 people into")
	v.sees("h2", "Nobody seems to be here twice")
	v.clicks("[role=status] button", "Undo")
	v.sees("article", "both have")
	v.clicks("article button", "They are two")
	v.sees("h2", "Nobody seems to be here twice")
}

func TestFilesOfEveryKindAndTheWayBack(t *testing.T) {
	v := signedIn(t, "", 0)
	samples := filepath.Join(testkit.Root(), "docs", "samples")
	for name, says := range map[string]string{
		"people.vcf": "vCard", "oneroster.zip": "OneRoster bundle", "people.csv": "commas between cells",
	} {
		v.goes("/people/import")
		v.element("input[type=file]").MustSetFiles(filepath.Join(samples, name))
		v.sees("section", says)
	}
	file := filepath.Join(t.TempDir(), "odd.csv")
	require.NoError(t, os.WriteFile(file, []byte("Wer;Ort\nBo Venn;here\n;there\n"), 0o600))
	v.goes("/people/import")
	v.element("input[type=file]").MustSetFiles(file)
	v.sees("[role=alert]", "No column holds names")
	v.chooses("Meaning of column Wer", "full name")
	v.sees(named("What loading would do"), `1 added[\s\S]*1 not loaded`)
	v.clicks("button", "Keep this for next time")
	v.type_(`input[aria-label="Name of the mapping"]`, "The old program")
	v.clicks("form button", "^Keep$")
	v.sees("section", "as kept under “The old program”")
	v.clicks("button", "Load 1 person")
	v.sees("h2", "1 added")
	v.goes("/people/import")
	v.sees(named("The last file"), "odd.csv")
	v.clicks(named("The last file")+" button", "Undo it as a whole")
	v.sees("[role=status]", "Undone: loaded odd.csv")
	v.goes("/people")
	v.sees("h2", "Nobody is on the roster yet")
}

func TestAnAccountIsMadeAndEnded(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.goes("/settings?of=units")
	v.clicks("button", "Add a unit")
	v.type_("form input", "Flood watch")
	v.clicks("form button", "^Save$")
	v.sees("td", "Flood watch")
	v.clicks("[role=tab]", "Accounts")
	v.clicks("button", "Add an account")
	v.type_("form label:nth-of-type(1) input", "Tamsin Rushmere")
	v.type_("form input[type=email]", "flood@quillmere.example")
	v.clicks("form label", "I set it, and tell them")
	v.type_("form input[type=password]", "otter gravel teapot")
	v.clicks("form label", "Flood watch")
	v.clicks("form button", "^Save$")
	v.sees("td", "flood@quillmere.example")

	other := v.another(v.instance.URL, 1280, 800)
	other.signsIn("flood@quillmere.example", "otter gravel teapot")
	other.goes("/people")
	other.sees("h2", "Nobody is on the roster yet")

	v.clicks("td .link", "Tamsin Rushmere")
	v.clicks("form label", "active: may sign in")
	v.clicks("form button", "^Save$")
	v.sees("td", "not active: cannot sign in")
	other.goes("/people")
	other.sees("h1", "Sign in")
}

// Long lists, long names and names from right to left keep the page in shape.
func TestALongRosterScrolls(t *testing.T) {
	var file strings.Builder
	file.WriteString("Id,Name,Email\n")
	for n := range 5000 {
		fmt.Fprintf(&file, "P%d,Bo A%04d,p%d@example.org\n", n, n, n)
	}
	file.WriteString("X1," + strings.Repeat("Wolfeschlegelstein ", 14) + "Aa,long@example.org\n")
	v := signedIn(t, file.String(), 0)
	v.goes("/people")
	v.sees("header", "5,001 people")
	v.until(`document.querySelectorAll("tbody tr.go").length < 60`)
	v.page.MustEval(`() => { document.querySelector("table").parentElement.scrollTop = 33 * 3000 }`)
	v.sees("td", "Bo A30")
	v.clicks(named("Selection")+" button", "all 5,001")
	v.sees(named("Selection"), "5,001 people selected")
	v.clicks(named("Selection")+" button", "Set…")
	v.chooses("What", "give a role")
	v.chooses("To", "member")
	v.clicks("aside button", "Set it for 5,001 people")
	v.sees("[role=status]", "5,001 people given the role member")
	assert.True(t, v.page.MustEval(`() => document.documentElement.scrollWidth <= window.innerWidth`).Bool())
	r, err := v.instance.Store.Roster(context.Background())
	require.NoError(t, err)
	assert.True(t, r.At(4000).Has(roster.Member))
}
