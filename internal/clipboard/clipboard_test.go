package clipboard_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/clipboard"
)

func TestHTML(t *testing.T) {
	for _, c := range []struct {
		name, html, plain string
		dropped           []string
	}{
		{"paragraphs", "<p>Dear all,</p><p>come  at\n eight</p>", "Dear all,\ncome at eight", nil},
		{"headings and lists", "<h1>Bring</h1><ul><li>towel<li>bag <ol><li>wet</ol></ul>", "Bring\n- towel\n- bag\n  1. wet", nil},
		{"links", `see <a href="https://a.example">this</a> or <a href="javascript:x()">that</a>`, "see this (https://a.example) or that",
			[]string{"1 link that leads nowhere safe"}},
		{"scripts, styles and a tracker", `<style>p{}</style><script>x()</script><script>y()</script><p style="color:red">Hi</p><img src="https://t.example/p.gif" width="1" height="1">`,
			"Hi", []string{"2 scripts", "1 tracking picture", "1 colour, font or size"}},
		{"a table keeps its text", "<table><tr><td>Mon</td><td>8:00</td></tr><tr><td>Tue</td><td>9:00</td></tr></table>", "Mon 8:00\nTue 9:00",
			[]string{"1 table (its text is kept)"}},
		{"a word processor's paragraph", `<p class=MsoNormal><span lang=EN-GB style='font-family:"Calibri"'>Bring <b>wet</b> kit<o:p></o:p></span></p>`, "Bring wet kit",
			[]string{"1 colour, font or size"}},
		{"forms and frames", `<input value=x><iframe src="https://x.example"></iframe>a`, "a", []string{"1 embedded page", "1 form field"}},
		{"what cannot be seen", "a\u200bb\u00adc\u200e", "abc\u200e", []string{"2 invisible characters"}},
		{"lines", "<div>a<br>b</div>", "a\nb", nil},
		{"right to left", `<p dir="rtl">مرحبا</p>`, "مرحبا", nil},
		{"nothing", "", "", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := clipboard.HTML(c.html)
			require.NoError(t, err)
			require.NoError(t, got.Doc.Validate())
			assert.Equal(t, c.plain, got.Doc.Plain())
			assert.ElementsMatch(t, c.dropped, got.Dropped)
		})
	}
}

func TestMarksAreKept(t *testing.T) {
	got, err := clipboard.HTML(`<p>a <strong>b <em>c</em></strong> <a href="https://a.example"><b>d</b></a></p>`)
	require.NoError(t, err)
	html := got.Doc.HTML(func(string) string { return "" })
	assert.Contains(
		t, html, `a <strong>b </strong><strong><em>c</em></strong> <a href="https://a.example"><strong>d</strong></a>`,
	)
}

func TestText(t *testing.T) {
	got := clipboard.Text("a\u200bb\r\n\u0007👩‍👧 ok\ufeff")
	assert.Equal(t, "ab\n👩‍👧 ok", got.Doc.Plain(), "what joins an emoji stays")
	assert.Equal(t, []string{"3 invisible characters"}, got.Dropped)
}

func TestListsThatAreNestedTooDeeplyBecomeLines(t *testing.T) {
	got, err := clipboard.HTML(strings.Repeat("<ul><li>x", 7) + "end")
	require.NoError(t, err)
	require.NoError(t, got.Doc.Validate())
	assert.Contains(t, got.Doc.Plain(), "end")
}

// Whatever is pasted, what is kept can be sent.
func FuzzHTML(f *testing.F) {
	for _, s := range []string{
		"<p>a", "<ul><ul><li>", "<b><a href='https://x.example'>y", "<table><td>", "<svg><script>x</script>",
		"<li><h1>x</h1>",
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		got, err := clipboard.HTML(text)
		if err != nil {
			return
		}
		if err := got.Doc.Validate(); err != nil && !strings.Contains(err.Error(), "more pieces") {
			t.Fatalf("%q: %v", text, err)
		}
	})
}
