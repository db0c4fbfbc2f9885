package e2e_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"

	"upperlantern/internal/testkit"
)

// A register with a title, guardians beside each child, dates and a status that the file
// does not tell: what is asked is answered once, and then it loads.
func TestARegisterThatDoesNotTellEverything(t *testing.T) {
	v := signedIn(t, "", time.Hour)
	v.goes("/people/import")
	file, err := charmap.Windows1250.NewEncoder().String(
		"Harrow Lock School\n\nPupil,DOB,Status,Mother,Mother's mobile\n" +
			"Łucja Święch,3/4/2012,resting,\"Święch, Żaneta\",07700 900827\n" +
			"Ed Święch,5/6/2012,active,\"Święch, Żaneta\",07700 900827\n",
	)
	require.NoError(t, err)
	path := testkit.Write(t, "register.csv", []byte(file))
	v.element("input[type=file]").MustSetFiles(path)
	v.sees("td", "Łucja Święch")
	v.sees("section", `headings in line 3`)
	asked := named("What the file does not tell")
	v.sees(asked, `3/4/2012 is 3 April[\s\S]*3/4/2012 is 4 March[\s\S]*resting[\s\S]*1 row`)
	v.isAccessible(t)
	v.until(`[...document.querySelectorAll("button")].find(b => b.innerText.startsWith("Load "))?.disabled`)
	v.clicks(asked+" label", "the month first")
	v.until(`!document.querySelector('[aria-label="What the file does not tell"]').innerText.includes("DOB")`)
	v.chooses("What resting means", "left: gets nothing")
	v.sees(asked+" h2", "What you said about the file")

	v.chooses("If letters look wrong, it is in", "Windows-1252")
	v.sees("td", "£ucja Œwiêch")
	v.chooses("If letters look wrong, it is in", "Windows-1250")
	v.sees("td", "Łucja Święch")
	v.clicks("button", "Load 3 people")
	v.sees("h2", "People: 3 added")
	v.goes("/people")
	v.clicks("td .link", "Łucja")
	v.sees("aside", `4 Mar(ch)? 2012`)
	v.sees("aside", `Żaneta Święch`)
}
