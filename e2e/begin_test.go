package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
)

// An office is set up from an empty folder: what was typed is there again after the
// page was left, a weak password is refused, and the roster is loaded next.
func TestAnOfficeIsSetUp(t *testing.T) {
	v := runs(t, t.TempDir(), func(c *app.Config) {
		c.Begins, c.Carriers.StandIns, c.Backups = true, false, t.TempDir()
	})
	v.sees("h1", "Nothing is set up here yet")

	v.must(v.patient().Navigate(v.instance.BeginURL), "opening the set-up")
	v.type_("form label:nth-of-type(1) input", "Harrow Lock School")
	country := v.sees("label", "Country")
	require.NoError(t, country.Click("left", 1))
	v.page.MustInsertText("united king")
	v.clicks("[role=option]", "United Kingdom")
	v.sees("label small", `read as \+44`)
	v.sees("label", `Time zone`)
	v.sees("[role=status]", "Kept")
	v.page.MustReload()
	v.until(`document.querySelector("form input").value === "Harrow Lock School"`)
	v.sees("label small", `read as \+44`)
	assert.Equal(t, "Europe/London", v.sees("label", "Time zone").MustElement("input").MustProperty("value").Str())

	v.isAccessible(t)
	v.type_("input[autocomplete=name]", "Ottilie Venn")
	v.type_("input[type=email]", "ottilie@harrowlock.example")
	v.type_("input[type=password]", "password123")
	v.clicks("label", "By your own carriers")
	v.clicks("button", "Set it up")
	v.sees("[role=alert]", "among those that are tried first")
	v.element("input[type=password]").MustSelectAllText().MustInput("otter gravel teapot")
	v.clicks("button", "Set it up")
	v.sees("h1", "Welcome, Ottilie Venn")
	v.sees("a", "Set up how messages leave")
	v.clicks("a", "Load your roster file")
	v.sees("header", "Harrow Lock School")
	v.element("input[type=file]")

	v.goes("/settings?of=organisation")
	v.clicks(named("What texts cost")+" button", "Add a price")
	v.type_(named("Beginning 1 of texts"), "+44")
	v.type_(named("Price 1 of texts"), "a lot")
	v.clicks("button", "Save the organisation")
	v.sees("[role=alert]", `"a lot" cannot be read as a sum`)
	v.element(named("Price 1 of texts")).MustSelectAllText().MustInput("0,038")
	v.clicks("button", "Save the organisation")
	v.sees("[role=status]", "Saved")
	v.until(`document.querySelector('[aria-label="Price 1 of texts"]').value === "0.038"`)
	v.goes("/people/changes")
	v.sees("td", `settings: rates of texts: none → \+44 0\.038`)

	v.element("button.me").MustClick()
	v.clicks("[role=menuitem]", "Your account")
	v.sees(named("Where you are signed in")+" td", "here")
	for label, typed := range map[string]string{
		"Present password": "otter gravel teapot", "New password": "kettle barn swim", "New password again": "kettle barn swim",
	} {
		v.must(v.sees("form label", "^"+label).MustElement("input").Input(typed), "typing the "+label)
	}
	v.clicks("button", "Change the password")
	v.sees("[role=status]", "Your password is changed")
	v.goes("/people/changes")
	v.clicks("td a", "Settings")
	v.clicks("[role=tab]", "Backups")
	v.sees("p", "The last good one was made on")
	v.clicks("button", "Make one now")
	v.sees("td", `lantern-.*\.tar\.zst`)
}
