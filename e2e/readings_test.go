package e2e_test

import (
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

// Somebody outside the desk reads a copy on their phone, the desk sees it live and
// decides where two say different things, and the message leaves by itself when the
// last of them is done.
func TestReadersOutsideTheDesk(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.writes("", "Training is cancelled today.")
	v.sees("[role=status]", "Draft kept")
	v.clicks(named("Copies")+" button", "Draft all missing lines")
	v.sees("[role=status]", "lines? filled")
	draft := v.path()
	v.clicks(named("Copies")+" a", "Polish")
	v.clicks("button", "Ask for a reading")
	v.picks("Find somebody on the roster", "Piotr")
	v.sees(named("Who is asked")+" li", "Piotr")
	v.element(`input[aria-label="Find somebody on the roster"]`).MustSelectAllText()
	v.picks("Find somebody on the roster", "Lena")
	v.clicks("button", "Ask 2 readers")
	v.sees("[role=dialog]", "The request to Lena Achterberg did not leave") // she takes no texts
	v.clicks("[role=dialog] button", "Close")
	readers := named("Readers of the Polish copy")
	v.sees(readers+" li", `Lena Achterberg[\s\S]*no request left: give them their link`)
	byHand := v.page.MustEval(`async () => (await (await fetch("/api/messages/1/readings")).json())
		.find((r) => r.name.startsWith("Lena")).path`).Str()

	piotr := v.another(v.instance.URL+linkOf(v, "+447700900418"), 360, 740)
	piotr.sees("h1", "Dzień dobry, Piotr Zielony")
	v.sees(readers+" li", `Piotr Zielony[\s\S]*0 of 1 line`)
	piotr.sees("li", `Training is cancelled today[\s\S]*Dzisiejszy trening jest odwołany`)
	assert.LessOrEqual(t, piotr.page.MustEval(`() => document.documentElement.scrollWidth`).Int(), 360, "nothing is cut at 360 px")
	piotr.clicks("li button", "Popraw")
	piotr.element("li textarea").MustSelectAllText().MustInput("Dziś nie ma treningu.")
	piotr.clicks("li button", "Zachowaj moje słowa")
	piotr.sees("li", "Twoje słowa są zachowane")
	v.until(`document.querySelector('[aria-label="Line 1 in this language"]').value === "Dziś nie ma treningu."`)
	v.sees(readers+" li", `Piotr Zielony[\s\S]*1 of 1 line`)
	v.sees(named("Line 1"), "checked by Piotr Zielony")

	lena := v.another(v.instance.URL+byHand, 1024, 768)
	lena.clicks("li button", "Correct it")
	lena.element("li textarea").MustSelectAllText().MustInput("Trening odwołany.")
	lena.clicks("button", "I am done") // what is being typed counts
	lena.sees("[role=status]", "Thank you")
	v.sees(named("Line 1"), `readers say it differently[\s\S]*Lena Achterberg says[\s\S]*Trening odwołany`)
	v.clicks(named("Line 1")+" button", "^Take it$")
	v.sees(named("Line 1"), "checked by Hugo Farrowby")

	v.goes(draft)
	v.clicks("button", "Send to 4 people…")
	v.sees(finalCheck+" "+named("Readings"), "Still reading: Piotr Zielony")
	v.clicks(finalCheck+" "+named("Readings")+" label", "Wait for them")
	v.clicks(finalCheck+" button", "Wait, then send to 4 people")
	v.sees("main", `It waits for Piotr Zielony \(Polish\)`)
	piotr.clicks("button", "Gotowe")
	piotr.sees("[role=status]", "Dziękujemy")
	v.sees(named("Figures"), `4\s*recipients`)
	piotr.page.MustReload()
	piotr.sees("[role=status]", "została już wysłana")
}

// linkOf is the path of the reading to which a phone was asked by text.
func linkOf(v *visit, number string) string {
	v.t.Helper()
	var path string
	testkit.Eventually(v.t, "the request arrives", func() bool {
		items, err := v.instance.Box.Received(v.t.Context(), []string{number})
		require.NoError(v.t, err)
		for _, item := range items {
			path = regexp.MustCompile(`/reading/\S+`).FindString(item.Body)
		}
		return path != ""
	})
	return path
}

// A line that its reader may not see any more: the link was taken back.
func TestAReadingIsTakenBack(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("", "Training is cancelled today.")
	v.sees("[role=status]", "Draft kept")
	v.clicks(named("Copies")+" a", "Polish")
	v.clicks("button", "Ask for a reading")
	v.picks("Find somebody on the roster", "Piotr")
	v.clicks("button", "Ask 1 reader")
	v.sees(named("Readers of the Polish copy")+" li", "asked, not opened yet")
	link := v.page.MustEval(`async () => (await (await fetch('/api/messages/1/readings')).json())[0].path`).Str()
	v.clicks(named("Readers of the Polish copy")+" button", "Take it back")
	v.sees(named("Readers of the Polish copy")+" li", "taken back")
	piotr := v.another(v.instance.URL+link, 360, 740)
	piotr.sees("h1", "This link no longer works")
}
