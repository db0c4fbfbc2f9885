package e2e_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/testkit"
)

// A report is run, narrowed, leads to its messages, is kept and mailed, and saved as a
// file.
func TestAReportIsRunKeptAndSaved(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.sent(`{"kind":"group","group":4}`, "Low water at the lock")
	v.sent(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Term dates")
	v.goes("/outgoing")
	v.sees("td", "Term dates")
	v.clicks("nav a", "Reports")
	v.sees(named("Messages by month"), "Together\\s*2\\s*2")
	v.clicks(named("Reports")+" button", "Messages by group")
	table := named("Messages by group")
	v.sees(table+" tbody", "Coaches\\s*1\\s*1[^]*no group\\s*1\\s*1")
	v.until(`document.querySelector("figure canvas").width > 300`)

	v.clicks("button", "Only some messages")
	v.chooses("What the condition looks at", "Channel")
	v.chooses("Which", "text")
	v.clicks("main button", "^Add$")
	v.sees(table+" tfoot", "Together\\s*0")
	v.element(named("Take away: by text")).MustClick()
	v.sees(table+" tfoot", "Together\\s*2")
	v.chooses("Which days", "this month")

	v.clicks("button", "Keep and mail")
	v.type_(named("Name of the report"), "Groups of the month")
	v.clicks("aside label", "Hugo Farrowby")
	v.clicks("aside button", "Keep it")
	v.sees(named("Reports"), "Groups of the month\\s*mailed to 1 each month")
	v.clicks(named("Reports")+" button", "Deliveries by channel")
	v.sees(named("Deliveries by channel")+" tbody", "email\\s*2\\s*3")
	v.clicks(named("Reports")+" button", "Groups of the month")
	v.sees(table+" tfoot", "Together\\s*2")

	saved := v.saves()
	v.clicks("button", "Save as")
	v.clicks(named("Save as a file")+" button", "CSV")
	assert.True(t, bytes.Contains(saved(), []byte("Coaches,1,1")))
	v.clicks(table+" a", "Coaches")
	v.sees(named("Find messages"), "to the group Coaches alone[^]*1 message[^]*Low water at the lock")
}

// A record is saved as a workbook, and what is found as a page.
func TestRecordsAndMessagesAreSaved(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.sent(`{"kind":"group","group":4}`, "Low water at the lock")
	v.goes("/outgoing/1")
	v.sees("h1", "Low water")
	saved := v.saves()
	v.clicks("button", "Save as")
	v.clicks(named("Save as a file")+" button", "XLSX")
	assert.True(t, bytes.HasPrefix(saved(), []byte("PK")))
	v.goes("/outgoing")
	saved = v.saves()
	v.clicks("button", "Save the list as")
	v.clicks(named("Save as a file")+" button", "HTML")
	assert.True(t, bytes.Contains(saved(), []byte("Low water at the lock")))
}

// The weather of the stand-ins is set on the Bench, and so is what is wrong with an
// address: the next message runs into it.
func TestTheWeatherOnTheBench(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.goes("/bench")
	v.clicks(named("Which weather")+" button", "Storm")
	v.sees(named("What it means"), "One phone in ten is off")
	v.clicks(named("Which weather")+" button", "Calm")
	v.sees(named("What it means"), "Everybody is there")
	v.chooses("For how long", "for 15 minutes")
	v.clicks(named("Weather")+" button", "Take down\\s*the Push service")
	v.sees(named("Weather"), "Push service: down until \\d\\d:\\d\\d")
	v.picks("Name", "Rania Haddad")
	v.chooses("What is wrong with rania@example.org", "no such mailbox")
	v.sent(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Term dates")
	v.goes("/outgoing/1")
	v.sees("main [role=group]", "1\\s*not reached")
}
