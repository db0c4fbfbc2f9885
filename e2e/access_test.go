package e2e_test

import (
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

// axe finds nothing serious on any main view (WCAG 2.2 AA), at the usual
// width and at 1024 pixels, where nothing is cut off at the side either.
func TestEveryMainViewIsAccessible(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.writes("Outing moved", "Dear {{first name}}, meet at Harrow Lock – 8:30")
	v.sees("button", "Send to 4 people…")
	v.clicks(named("Answers to choose from")+" button", "Yes or no")
	v.sees("[role=status]", "Draft kept just now")
	v.sees(named("Preview")+" article", "Press 2 for: No")
	draft := v.path()
	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Figures"), `4\s*recipients`)
	record := v.path()
	board := record + "/board"
	v.writes("Rota", "Dear {{first name}}, come")
	v.sees("[role=status]", "Draft kept")
	written := v.path()
	v.goes(written + "/copies/pl")
	v.clicks("button", "Ask for a reading")
	v.picks("Find somebody on the roster", "Piotr")
	v.clicks("button", "Ask 1 reader")
	v.sees(named("Readers of the Polish copy")+" li", "asked")
	reading := v.page.MustEval(
		`async (path) => (await (await fetch("/api" + path.replace("write", "messages") + "/readings")).json())[0].path`, written,
	).Str()

	own := v.page.MustEval(
		`async () => (await (await fetch("/api/people/1/link", {method: "POST"})).json()).path`,
	).Str()
	c := testkit.SignedIn(t, v.instance.URL)
	c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks",
		`{"id":0,"name":"Club office","units":[],"groups":[],"members":[1],"hours":[],"outside":""}`, nil)
	text := textFrom("+447700900417", "K1", "شكراً لكم.")
	require.NoError(t, v.instance.Box.Post(t.Context(), text))

	for _, view := range []struct{ name, path, ready string }{
		{"letters", written + "/letters", "article"},
		{"written", written, named("Preview") + " article"},
		{"copy", written + "/copies/pl", named("Line 1")},
		{"reading", reading, "form li"},
		{"own", own, "article, form"},
		{"shelf", "/shelf", "aside"},
		{"memory", "/shelf/memory", "h1"},
		{"glossary", "/shelf/glossary", "form"},
		{"sending", "/settings?of=sending", "form.cols"},
		{"outgoing", "/outgoing", "h2"},
		{"today", "/today", named("Waits for an answer from us") + " article"},
		{"thread", "/desks/1/1", ".ledger .line"},
		{"desks", "/settings?of=desks", "tbody td"},
		{"board", board, named("To call")},
		{"record", record, named("Marks") + " svg"},
		{"people", "/people", "tbody td"},
		{"groups", "/groups?group=1", "aside tbody td"},
		{"import", "/people/import", "input[type=file]"},
		{"gaps", "/people/gaps", "article"},
		{"twins", "/people/twins", "h1"},
		{"changes", "/people/changes", "tbody td"},
		{"sheets", "/people/sheets?ids=1,2", "article"},
		{"accounts", "/settings", "tbody td"},
		{"units", "/settings?of=units", "section"},
		{"roles and languages", "/settings?of=habits", "section"},
		{"attributes", "/settings?of=attributes", "section"},
		{"write", "/write/new", named("Preview")},
		{"bench", "/bench", "aside"},
		{"organisation", "/settings?of=organisation", "form.cols"},
		{"backups", "/settings?of=backups", "h2"},
		{"account", "/account", "tbody td"},
		{"nowhere", "/nowhere-at-all", "h2"},
	} {
		t.Run(view.name, func(t *testing.T) {
			v.goes(view.path)
			v.element(view.ready)
			if view.name == "written" { // with everything open
				v.page.MustEval(
					`() => document.querySelectorAll('main button[aria-expanded=false]').forEach((b) => b.click())`,
				)
				v.element(`input[aria-label="Page that it opens"]`)
			}
			v.isAccessible(t)
		})
	}
	assert.NotEqual(t, draft, record)
}

// isAccessible checks the page at hand.
func (v *visit) isAccessible(t *testing.T) {
	t.Helper()
	axe, err := os.ReadFile(filepath.Join(testkit.Root(), "web", "node_modules", "axe-core", "axe.min.js"))
	require.NoError(t, err)
	v.until(`document.fonts.status === "loaded"`)
	// Not subject to the page's own policy, which allows no eval.
	_, err = proto.RuntimeEvaluate{Expression: string(axe)}.Call(v.page)
	require.NoError(t, err)
	for _, width := range []int{1280, 1024} {
		v.page.MustSetViewport(width, 768, 1, false)
		found := v.page.MustEval(`async () => {
			const result = await window.axe.run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"] })
			if (result.passes.length < 10) return ["axe checked next to nothing"]
			return result.violations
				.filter((v) => v.impact === "serious" || v.impact === "critical")
				.map((v) => v.id + ": " + v.nodes.map((n) => n.html.slice(0, 160)).join(" | "))
		}`).Arr()
		var said []string
		for _, f := range found {
			said = append(said, f.String())
		}
		assert.Empty(t, said, "at %d pixels", width)
		assert.True(
			t, v.page.MustEval(`() => document.documentElement.scrollWidth <= window.innerWidth`).Bool(), "it fits %d pixels",
			width,
		)
	}
}
