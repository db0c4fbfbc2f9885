// Package clipboard cleans what is pasted into a message: of HTML it keeps the
// few kinds of formatting that an email can show, and says what it dropped.
package clipboard

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"upperlantern/internal/core/rich"
)

// Cleaned is what is kept of something that was pasted, and what is not.
type Cleaned struct {
	Doc     rich.Doc
	Dropped []string // in words, such as “2 scripts”
}

// HTML cleans pasted HTML.
func HTML(text string) (Cleaned, error) {
	root, err := html.Parse(strings.NewReader(text))
	if err != nil {
		return Cleaned{}, fmt.Errorf("what was pasted cannot be read: %w", err)
	}
	c := cleaner{dropped: map[string]int{}}
	c.blocks(root, nil)
	c.end()
	return Cleaned{rich.Doc{Content: trim(c.out)}, c.words()}, nil
}

// Text cleans pasted text: characters that cannot be seen are dropped.
func Text(text string) Cleaned {
	c := cleaner{dropped: map[string]int{}}
	return Cleaned{rich.Lines(c.visible(strings.ReplaceAll(text, "\r\n", "\n"))), c.words()}
}

type cleaner struct {
	out     []rich.Node // finished blocks
	line    []rich.Node // the paragraph that is being put together
	heading int
	dropped map[string]int
	depth   int // of lists
}

// What is dropped, in the order in which it is told.
const (
	scripts   = "script"
	forms     = "form field"
	trackers  = "tracking picture"
	pictures  = "picture"
	tables    = "table (its text is kept)"
	embedded  = "embedded page"
	links     = "link that leads nowhere safe"
	styles    = "colour, font or size"
	invisible = "invisible character"
)

var told = []struct{ one, many string }{
	{scripts, "scripts"}, {trackers, "tracking pictures"}, {pictures, "pictures (add them as files)"},
	{embedded, "embedded pages"},
	{forms, "form fields"}, {tables, "tables (their text is kept)"}, {links, "links that lead nowhere safe"},
	{styles, "colours, fonts and sizes"},
	{invisible, "invisible characters"},
}

func (c *cleaner) words() []string {
	words := []string{}
	for _, t := range told {
		switch n := c.dropped[t.one]; n {
		case 0:
		case 1:
			words = append(words, "1 "+t.one)
		default:
			words = append(words, fmt.Sprintf("%d %s", n, t.many))
		}
	}
	return words
}

// visible drops characters that have no width and control characters, apart
// from those that join or direct letters.
func (c *cleaner) visible(text string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t':
			return r
		case r == '\u200c' || r == '\u200d' || r == '\u200e' || r == '\u200f' || r >= '\u2066' && r <= '\u2069':
			return r // joiners of letters and emoji, and marks of direction
		case r == '\u00a0':
			return ' '
		case unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || r == unicode.ReplacementChar:
			c.dropped[invisible]++
			return -1
		}
		return r
	}, text)
}

var gone = map[atom.Atom]string{
	atom.Script: scripts, atom.Noscript: "", atom.Style: "", atom.Title: "", atom.Template: "",
	atom.Iframe: embedded, atom.Object: embedded, atom.Embed: embedded, atom.Video: embedded, atom.Audio: embedded,
	atom.Svg: pictures, atom.Canvas: pictures,
	atom.Input: forms, atom.Select: forms, atom.Textarea: forms, atom.Button: forms,
}

// separate are elements that begin a line of their own.
var separate = []atom.Atom{
	atom.P, atom.Div, atom.Section, atom.Article, atom.Blockquote, atom.Tr, atom.Table, atom.Pre, atom.Dt, atom.Dd,
	atom.Header, atom.Footer, atom.Hr,
	atom.H1, atom.H2, atom.H3, atom.H4, atom.H5, atom.H6, atom.Ul, atom.Ol, atom.Li, atom.Figure, atom.Form,
}

func (c *cleaner) blocks(n *html.Node, marks []rich.Mark) {
	if n.Type == html.TextNode {
		c.text(n, marks)
		return
	}
	if n.Type == html.ElementNode {
		if what, drop := gone[n.DataAtom]; drop {
			if what != "" {
				c.dropped[what]++
			}
			return
		}
		c.styles(n)
	}
	switch n.DataAtom {
	case atom.Br:
		c.paragraph()
		return
	case atom.Img:
		c.picture(n)
		return
	case atom.Ul, atom.Ol:
		c.list(n, marks)
		return
	case atom.Table:
		c.dropped[tables]++
	case atom.Td, atom.Th:
		if len(c.line) > 0 {
			c.add(" ", nil)
		}
	}
	own := slices.Contains(separate, n.DataAtom)
	if own {
		c.end()
	}
	if level := headingLevel(n.DataAtom); level > 0 {
		c.heading = level
	}
	marks = c.marks(n, marks)
	for child := n.FirstChild; child != nil; child = child.NextSibling {
		c.blocks(child, marks)
	}
	if own {
		c.end()
	}
}

func headingLevel(a atom.Atom) int {
	switch a {
	case atom.H1, atom.H2:
		return 2
	case atom.H3, atom.H4, atom.H5, atom.H6:
		return 3
	}
	return 0
}

func (c *cleaner) styles(n *html.Node) {
	for _, a := range n.Attr {
		if a.Key == "style" || a.Key == "color" || a.Key == "face" || a.Key == "bgcolor" {
			c.dropped[styles]++
			return
		}
	}
}

// marks adds what an element says about the text in it.
func (c *cleaner) marks(n *html.Node, marks []rich.Mark) []rich.Mark {
	add := func(m rich.Mark) []rich.Mark {
		if slices.ContainsFunc(marks, func(o rich.Mark) bool { return o.Type == m.Type }) {
			return marks
		}
		return append(slices.Clone(marks), m)
	}
	switch n.DataAtom {
	case atom.B, atom.Strong:
		return add(rich.Mark{Type: rich.Bold})
	case atom.I, atom.Em:
		return add(rich.Mark{Type: rich.Italic})
	case atom.A:
		href := strings.TrimSpace(attribute(n, "href"))
		if rich.LinkTo(href) {
			return add(rich.Mark{Type: rich.Link, Attrs: &rich.Attrs{Href: href}})
		}
		if href != "" {
			c.dropped[links]++
		}
	}
	return marks
}

func attribute(n *html.Node, key string) string {
	for _, a := range n.Attr {
		if a.Key == key {
			return a.Val
		}
	}
	return ""
}

// picture counts one that is not kept: it would be fetched from elsewhere,
// which tells its owner who reads the message.
func (c *cleaner) picture(n *html.Node) {
	tiny := func(s string) bool { return s == "0" || s == "1" || s == "0px" || s == "1px" }
	if tiny(attribute(n, "width")) || tiny(attribute(n, "height")) {
		c.dropped[trackers]++
		return
	}
	c.dropped[pictures]++
}

func (c *cleaner) text(n *html.Node, marks []rich.Mark) {
	text := c.visible(n.Data)
	if !within(n, atom.Pre) {
		text = collapse(text)
	}
	for i, line := range strings.Split(text, "\n") {
		if i > 0 {
			c.paragraph()
		}
		c.add(line, marks)
	}
}

func within(n *html.Node, a atom.Atom) bool {
	for p := n.Parent; p != nil; p = p.Parent {
		if p.DataAtom == a {
			return true
		}
	}
	return false
}

// collapse makes one space of several, as HTML is shown.
func collapse(text string) string {
	var b strings.Builder
	space := false
	for _, r := range text {
		if unicode.IsSpace(r) {
			space = true
			continue
		}
		if space {
			b.WriteByte(' ')
			space = false
		}
		b.WriteRune(r)
	}
	if space {
		b.WriteByte(' ')
	}
	return b.String()
}

func (c *cleaner) add(text string, marks []rich.Mark) {
	if len(c.line) == 0 {
		text = strings.TrimLeft(text, " ")
	}
	if text == "" {
		return
	}
	if last := len(c.line) - 1; last >= 0 && slices.EqualFunc(c.line[last].Marks, marks, sameMark) {
		if strings.HasSuffix(c.line[last].Text, " ") {
			text = strings.TrimLeft(text, " ")
		}
		c.line[last].Text += text
		return
	}
	c.line = append(c.line, rich.Node{Type: rich.Text, Text: text, Marks: marks})
}

func sameMark(a, b rich.Mark) bool {
	return a.Type == b.Type && (a.Attrs == nil) == (b.Attrs == nil) && (a.Attrs == nil || *a.Attrs == *b.Attrs)
}

// end finishes a line that has something in it.
func (c *cleaner) end() {
	if len(c.line) > 0 {
		c.paragraph()
	}
	c.heading = 0
}

// paragraph finishes a line, empty or not.
func (c *cleaner) paragraph() {
	if last := len(c.line) - 1; last >= 0 {
		c.line[last].Text = strings.TrimRight(c.line[last].Text, " ")
		if c.line[last].Text == "" {
			c.line = c.line[:last]
		}
	}
	n := rich.Node{Type: rich.Paragraph, Content: c.line}
	if c.heading > 0 && c.depth == 0 && len(c.line) > 0 {
		n.Type, n.Attrs = rich.Heading, &rich.Attrs{Level: c.heading}
	}
	c.out, c.line = append(c.out, n), nil
}

const deepest = 4

// list gathers the items of a list; what is nested too deeply becomes lines.
func (c *cleaner) list(n *html.Node, marks []rich.Mark) {
	c.end()
	if c.depth == deepest {
		for child := n.FirstChild; child != nil; child = child.NextSibling {
			c.blocks(child, marks)
			c.end()
		}
		return
	}
	before := c.out
	list := rich.Node{Type: rich.BulletList}
	if n.DataAtom == atom.Ol {
		list.Type = rich.OrderedList
	}
	c.depth++
	for child := n.FirstChild; child != nil; child = child.NextSibling {
		c.out = nil
		c.blocks(child, marks)
		c.end()
		if content := trim(c.out); len(content) > 0 {
			list.Content = append(list.Content, rich.Node{Type: rich.ListItem, Content: content})
		}
	}
	c.depth--
	c.out = before
	if len(list.Content) > 0 {
		c.out = append(c.out, list)
	}
}

// trim drops empty lines at both ends, and of several in a row all but one.
func trim(blocks []rich.Node) []rich.Node {
	empty := func(n rich.Node) bool { return n.Type == rich.Paragraph && len(n.Content) == 0 }
	var out []rich.Node
	for _, n := range blocks {
		if empty(n) && (len(out) == 0 || empty(out[len(out)-1])) {
			continue
		}
		out = append(out, n)
	}
	for len(out) > 0 && empty(out[len(out)-1]) {
		out = out[:len(out)-1]
	}
	return out
}
