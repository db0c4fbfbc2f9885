package rich_test

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/field"
	"upperlantern/internal/core/rich"
)

func text(s string, marks ...string) rich.Node {
	n := rich.Node{Type: rich.Text, Text: s}
	for _, m := range marks {
		if strings.Contains(m, ":") {
			n.Marks = append(n.Marks, rich.Mark{Type: rich.Link, Attrs: &rich.Attrs{Href: m}})
			continue
		}
		n.Marks = append(n.Marks, rich.Mark{Type: m})
	}
	return n
}

func line(content ...rich.Node) rich.Node { return rich.Node{Type: rich.Paragraph, Content: content} }

func item(content ...rich.Node) rich.Node { return rich.Node{Type: rich.ListItem, Content: content} }

func heading(s string) rich.Node {
	return rich.Node{Type: rich.Heading, Attrs: &rich.Attrs{Level: 2}, Content: []rich.Node{text(s)}}
}

func list(kind string, items ...rich.Node) rich.Node { return rich.Node{Type: kind, Content: items} }

var picture = rich.Node{
	Type: rich.Image, Attrs: &rich.Attrs{Src: "file:" + strings.Repeat("0a", 32), Alt: `the "lock"`},
}

func TestPlain(t *testing.T) {
	for _, c := range []struct {
		name string
		doc  []rich.Node
		want string
	}{
		{"lines", []rich.Node{line(text("Dear you,")), line(), line(text("come"))}, "Dear you,\n\ncome"},
		{"a heading stands apart", []rich.Node{line(text("a")), heading("When"), line(text("b"))}, "a\n\nWhen\nb"},
		{"lists", []rich.Node{list(rich.BulletList, item(line(text("towel"))), item(line(text("bag")), list(rich.OrderedList, item(line(text("wet"))), item(line(text("dry"))))))},
			"- towel\n- bag\n  1. wet\n  2. dry"},
		{"a link says where it leads", []rich.Node{line(text("see "), text("the map", "https://map.example/a"))}, "see the map (https://map.example/a)"},
		{"unless its words do", []rich.Node{line(text("office@quillmere.example", "mailto:office@quillmere.example"))}, "office@quillmere.example"},
		{"a link in two weights is one", []rich.Node{line(text("the ", "https://a.example"), text("map", "bold", "https://a.example"))}, "the map (https://a.example)"},
		{"a picture is its words", []rich.Node{picture}, `[the "lock"]`},
		{"a broken line", []rich.Node{line(text("a"), rich.Node{Type: rich.Break}, text("b"))}, "a\nb"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := rich.Doc{Content: c.doc}
			require.NoError(t, d.Validate())
			assert.Equal(t, c.want, d.Plain())
		})
	}
}

func TestHTMLEscapesAndKeepsFieldsWhole(t *testing.T) {
	d := rich.Doc{Content: []rich.Node{
		line(text("Dear {{first "), text("name, else <you>}}!", rich.Bold), text(" & co")), line(),
		heading("<b>"), list(rich.BulletList, item(line(text("x", rich.Italic, "https://a.example/?a=1&b=\"")))), picture,
	}}
	html := d.HTML(func(hash string) string { return "cid:" + hash[:4] })
	assert.Contains(t, html, `Dear {{first name, else &lt;you&gt;}}<strong>!</strong> &amp; co</p>`)
	assert.Contains(t, html, `<p dir="auto" style="margin:0">&nbsp;</p>`)
	assert.Contains(t, html, `<em><a href="https://a.example/?a=1&amp;b=&#34;">x</a></em>`)
	assert.Contains(t, html, `<img src="cid:0a0a" alt="the &#34;lock&#34;"`)
	assert.NotContains(t, html, "<b>")
}

func TestJSONIsAStringUntilThereIsFormatting(t *testing.T) {
	for name, c := range map[string]struct{ in, out string }{
		"lines":       {`"a\n\nb"`, `"a\n\nb"`},
		"other lines": {`"a\r\nb"`, `"a\nb"`},
		"nothing":     {`""`, `""`},
		"a plain doc": {`{"type":"doc","content":[{"type":"paragraph","content":[{"type":"text","text":"a"}]}]}`, `"a"`},
		"bold": {`{"type":"doc","content":[{"type":"paragraph","content":[{"type":"text","text":"a","marks":[{"type":"bold"}]}]}]}`,
			`{"type":"doc","content":[{"type":"paragraph","content":[{"type":"text","text":"a","marks":[{"type":"bold"}]}]}]}`},
	} {
		t.Run(name, func(t *testing.T) {
			var d rich.Doc
			require.NoError(t, json.Unmarshal([]byte(c.in), &d))
			out, err := json.Marshal(d)
			require.NoError(t, err)
			assert.JSONEq(t, c.out, string(out))
		})
	}
}

func TestWhatCannotBe(t *testing.T) {
	deep := line(text("x"))
	for range 6 {
		deep = list(rich.BulletList, item(deep))
	}
	many := make([]rich.Node, 20_001)
	for i := range many {
		many[i] = line()
	}
	for name, c := range map[string]struct {
		doc  []rich.Node
		want string
	}{
		"a script":          {[]rich.Node{{Type: "script"}}, `a "script" cannot stand by itself`},
		"text by itself":    {[]rich.Node{text("x")}, "cannot stand by itself"},
		"a script in it":    {[]rich.Node{line(text("x", "javascript:alert(1)"))}, "is no link that can be sent"},
		"an unknown mark":   {[]rich.Node{line(text("x", "blink"))}, "is no formatting"},
		"a foreign picture": {[]rich.Node{{Type: rich.Image, Attrs: &rich.Attrs{Src: "https://track.example/p.gif"}}}, "not among the files"},
		"a huge heading":    {[]rich.Node{{Type: rich.Heading, Attrs: &rich.Attrs{Level: 1}}}, "level 2 or 3"},
		"no item":           {[]rich.Node{list(rich.BulletList, line(text("x")))}, "without an item"},
		"a heading in it":   {[]rich.Node{list(rich.BulletList, item(heading("x")))}, "cannot stand in an item"},
		"lists too deep":    {[]rich.Node{deep}, "nested more than 4 deep"},
		"too many pieces":   {many, "more pieces"},
	} {
		t.Run(name, func(t *testing.T) { assert.ErrorContains(t, rich.Doc{Content: c.doc}.Validate(), c.want) })
	}
}

func TestLinkTo(t *testing.T) {
	for href, want := range map[string]bool{
		"https://a.example": true, "HTTP://a.example/x": true, "mailto:a@example.org": true, "tel:+447700900123": true,
		"javascript:alert(1)": false, "data:text/html,x": false, "//a.example": false, "https:": false, "": false,
		"a b": false, "file:///etc": false,
	} {
		assert.Equal(t, want, rich.LinkTo(href), href)
	}
}

// Lines of text come back as they were, and whatever is typed, no tag but ours
// reaches the HTML, before and after fields are filled.
func TestProperties(t *testing.T) {
	ours := regexp.MustCompile(`</?(p|h2|h3|ul|ol|li|strong|em|a|br|img)( (dir|style|href|src|alt)="[^"<>]*")*>`)
	word := rapid.StringOfN(rapid.SampledFrom([]rune("ab<>&\"'{}łع ")), 1, 12, -1)
	rapid.Check(t, func(t *rapid.T) {
		plain := rapid.StringOf(rapid.SampledFrom([]rune("ab {}\nł"))).Draw(t, "lines")
		require.Equal(t, plain, rich.Lines(plain).Plain())

		var d rich.Doc
		for range rapid.IntRange(1, 5).Draw(t, "blocks") {
			marks := rapid.SliceOfNDistinct(
				rapid.SampledFrom([]string{rich.Bold, rich.Italic, "https://a.example"}), 0, 2, rapid.ID,
			).Draw(t, "marks")
			inline := []rich.Node{text(word.Draw(t, "a"), marks...), text(word.Draw(t, "b"))}
			d.Content = append(d.Content, rapid.SampledFrom(
				[]rich.Node{line(inline...), list(rich.OrderedList, item(line(inline...)))}).Draw(t, "block"))
		}
		require.NoError(t, d.Validate())
		html := d.HTML(func(string) string { return "" })
		require.NotContains(t, ours.ReplaceAllString(html, ""), "<", html)
		filled, _ := field.Parse(html).Fill(func(field.Field) string { return "&lt;x&gt;" })
		require.NotContains(t, ours.ReplaceAllString(filled, ""), "<x", filled)
	})
}

func ExampleDoc_Plain() {
	d := rich.Doc{Content: []rich.Node{
		{Type: rich.Paragraph, Content: []rich.Node{{Type: rich.Text, Text: "Bring:"}}},
		{Type: rich.BulletList, Content: []rich.Node{{Type: rich.ListItem, Content: []rich.Node{{Type: rich.Paragraph, Content: []rich.Node{{Type: rich.Text, Text: "a towel"}}}}}}},
	}}
	fmt.Println(d.Plain())
	// Output:
	// Bring:
	// - a towel
}
