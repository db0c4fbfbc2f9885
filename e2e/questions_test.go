package e2e_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

// A question is written, answered on its page, by a key of a call and by hand, seen on the
// board as it happens, and asked again of those who said nothing.
func TestAQuestionAndItsBoard(t *testing.T) {
	v := signedIn(t, testkit.Roster, 0)
	v.writes("Sandbags", "Can you come to Fen Row at six?")
	v.clicks(named("Answers to choose from")+" button", "Are you coming\\?")
	v.element(named("Answer 3")).MustSelectAllText().MustInput("Not today")
	v.sees("[role=status]", "Draft kept just now")
	v.sees(named("Preview")+" article", "Press 3 for: Not today")
	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Answers"), "0 of 4 have answered")
	v.clicks("a", "Open the board")
	v.sees(named("To call")+" li", "Lena Achterberg[^]*\\+44 7700 900188")

	var link string
	testkit.Eventually(t, "Rania has the question", func() bool {
		got, err := v.instance.Box.Received(t.Context(), []string{"rania@example.org"})
		require.NoError(t, err)
		if len(got) == 1 {
			link = got[0].Answer
		}
		return link != ""
	})
	page := v.another(link+"?say=1", 390, 800)
	page.clicks("button", "Yes, send it")
	page.sees("[role=status]", "We have your answer: I am coming")
	v.sees(named("Answers")+" button", "^1\\s+1\\s*I am coming$")
	v.sees(named("Answers as they come"), "Rania Haddad")

	v.clicks(named("To call")+" li", "Piotr Zielony")
	v.page.Keyboard.MustType(input.Key('3'))
	v.sees(named("Answers")+" button", "^1\\s+3\\s*Not today$")
	v.sees(named("Answers as they come"), "Piotr Zielony[^]*by hand")

	board := v.path()
	v.goes("/bench")
	v.clicks("aside button", "Lena Achterberg")
	v.clicks(".phone button", "Press\\s*2")
	v.until(`!document.querySelector(".phone .choices")`) // it was pressed
	v.goes(board)
	v.sees(named("Answers")+" button", "^1\\s+2\\s*I am coming later$")
	v.chooses("Arranged", "by group")
	v.sees(named("Coaches")+" h4", "0 of 1")
	v.clicks("button", "Ask the 1 again…")
	v.sees(named("What it follows"), "The same, to those who have not answered")
	v.sees(named("Reach"), "worked out just now")
	v.sees("button", "Send to 1 person…")
}
