package e2e_test

import (
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"upperlantern/internal/testkit"
)

// A copy is drafted, checked by the keyboard alone, becomes stale, is mended, and
// reaches the phone of whoever reads it.
func TestACopyByTheKeyboard(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.writes("", "Training is cancelled today.")
	v.sees(named("Copies")+" li", `Polish[\s\S]*nothing translated yet[\s\S]*they get the original`)
	v.sees("[role=status]", "Draft kept")
	v.clicks(named("Copies")+" button", "Draft all missing lines")
	v.sees("[role=status]", "lines? filled")
	v.sees(named("Copies")+" li", `Polish[\s\S]*nobody has read it`)

	v.clicks(named("Copies")+" a", "Polish")
	v.sees("h2", "^Polish$")
	v.sees(named("Line 1"), "Training is cancelled today")
	field := named("Line 1 in this language")
	v.until(`document.activeElement.ariaLabel === "Line 1 in this language"`)
	assert.Equal(t, "Dzisiejszy trening jest odwołany.", v.value(field))
	v.page.KeyActions().Press(input.AltLeft).Type('b').Release(input.AltLeft).MustDo()
	v.sees(named("Help with line 1"), "Training is cancelled today")
	v.page.KeyActions().Press(input.ControlLeft).Type(input.Enter).Release(input.ControlLeft).MustDo()
	v.sees(named("Line 1"), "checked by Hugo Farrowby")
	v.sees("nav a", `Polish[\s\S]*checked by Hugo Farrowby`)

	v.clicks("a", "Back to writing")
	v.sees(named("Copies")+" li", `Polish[\s\S]*they get it`)
	v.sees(named("Reach"), `1 person gets a copy: Polish 1`)
	v.element(email).MustClick()
	v.page.KeyActions().Press(input.ControlLeft).Type('a').Release(input.ControlLeft).MustDo()
	v.page.MustInsertText("Training is cancelled tomorrow.")
	v.sees(named("Copies")+" li", `Polish[\s\S]*1 line missing|Polish[\s\S]*nothing translated`)
	v.sees("[role=status]", "Draft kept just now")
	v.clicks(named("Copies")+" a", "Polish")
	v.sees(named("Line 1"), `today\.tomorrow\.[\s\S]*the original changed`)
	v.clicks(named("Help with line 1")+" button", "Begin with it")
	v.element(field).MustSelectAllText().MustInput("Jutrzejszy trening jest odwołany.")
	v.page.KeyActions().Press(input.ControlLeft).Type(input.Enter).Release(input.ControlLeft).MustDo()
	v.sees(named("Line 1"), "checked by Hugo Farrowby")

	v.clicks("a", "Back to writing")
	v.sees(named("Copies")+" li", `Polish[\s\S]*they get it`)
	v.clicks("button", "Send to 4 people…")
	v.sees(finalCheck+" li", "1 person gets the Polish copy, checked by Hugo Farrowby")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Figures"), `4\s*recipients`)
	testkit.Eventually(t, "the copy is on the phone", func() bool {
		received, err := v.instance.Box.Received(t.Context(), []string{"+447700900418"})
		return err == nil && len(received) == 1 && received[0].Body == "Jutrzejszy trening jest odwołany."
	})
	v.sees("aside", `Polish[\s\S]*their copy`)
	v.clicks("aside button", "Write to them")
	v.sees(named("Parts")+" li", "1 person chosen one by one")
}

// What another window writes into a line is not overwritten.
func TestTwoWindowsAtTheSameCopy(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("", "Training is cancelled today.")
	v.sees("[role=status]", "Draft kept")
	copyPath := v.path() + "/copies/pl"
	v.goes(copyPath)
	field := named("Line 1 in this language")
	v.element(field)
	other := v.another(v.instance.URL, 1280, 800)
	other.signsIn(testkit.Login, testkit.Password)
	other.goes(copyPath)
	other.type_(field, "Treningu dziś nie ma.")
	v.type_(field, "Trening odwołany.")
	other.clicks("button", "It is right")
	other.sees(named("Line 1"), "checked by Hugo Farrowby")
	v.sees(named("Line 1")+" [role=status]", "wrote “Treningu dziś nie ma.” here meanwhile")
	assert.Equal(t, "Trening odwołany.", v.value(field), "what was typed stays")
	v.clicks(named("Line 1")+" button", "^Take it$")
	v.until(`document.querySelector('[aria-label="Line 1 in this language"]').value === "Treningu dziś nie ma."`)
}

// What was checked is found in the memory, corrected, and taken back; a term of the
// glossary is asked for beside the line.
func TestTheMemoryAndTheGlossary(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.goes("/shelf/glossary")
	v.type_("aside input", "Harrow Lock")
	v.chooses("Language", "Polish")
	v.clicks("aside button", "Keep it")
	v.sees(named("Harrow Lock"), `Polish[\s\S]*stays as it is`)

	v.writes("", "Meet at Harrow Lock.")
	v.sees("[role=status]", "Draft kept")
	v.goes(v.path() + "/copies/pl")
	v.type_(named("Line 1 in this language"), "Spotkanie przy śluzie.")
	v.clicks("h2", "Polish")
	v.clicks(named("Line 1")+" button", "It is right")
	v.sees(named("Line 1"), "checked by Hugo Farrowby")
	v.sees(named("Help with line 1"), `Harrow Lock[\s\S]*stays as it is`)

	v.goes("/shelf/memory")
	v.sees("td", "Meet at Harrow Lock")
	v.clicks("td button", "Correct")
	v.element(named("How it is said")).MustSelectAllText().MustInput("Spotkanie przy Harrow Lock.")
	v.clicks("td button", "^Correct$")
	v.sees("[role=status]", "still says it as it was")
	v.sees("td", "Spotkanie przy Harrow Lock")
	v.clicks("[role=status] button", "Undo")
	v.sees("td", "Spotkanie przy śluzie")
}
