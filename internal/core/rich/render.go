package rich

import (
	"fmt"
	"html"
	"slices"
	"strings"
)

// Plain writes the document as text: one line for each paragraph, items with
// a dash or a number, links with their target behind them.
func (d Doc) Plain() string {
	var lines []string
	for i, n := range d.Content {
		lines = append(lines, n.lines("", i > 0 && len(lines) > 0 && lines[len(lines)-1] != "")...)
	}
	return strings.Join(lines, "\n")
}

// lines are those of a block; apart asks for an empty line before what is not
// a paragraph.
func (n Node) lines(indent string, apart bool) []string {
	var lines []string
	if apart && n.Type == Heading {
		lines = append(lines, "")
	}
	switch n.Type {
	case Paragraph, Heading:
		return append(lines, indent+n.text())
	case Image:
		if alt := n.alt(); alt != "" {
			return []string{indent + "[" + alt + "]"}
		}
		return nil
	}
	for i, item := range n.Content {
		bullet := "- "
		if n.Type == OrderedList {
			bullet = fmt.Sprintf("%d. ", i+1)
		}
		for j, in := range item.Content {
			inner := in.lines(indent+strings.Repeat(" ", len(bullet)), false)
			if j == 0 && len(inner) > 0 {
				inner[0] = indent + bullet + strings.TrimLeft(inner[0], " ")
			}
			lines = append(lines, inner...)
		}
	}
	return lines
}

func (n Node) alt() string {
	if n.Attrs == nil {
		return ""
	}
	return n.Attrs.Alt
}

// Run is a piece of a line in one format.
type Run struct {
	Text         string // “\n” for a break
	Bold, Italic bool
}

// Runs are a line where nothing can be clicked, such as on paper: links have
// their target behind them, unless they say it themselves.
func (n Node) Runs() []Run {
	var runs []Run
	said := ""
	for i, in := range n.Content {
		run := Run{in.Text, in.has(Bold), in.has(Italic)}
		if in.Type == Break {
			run.Text = "\n"
		}
		runs = append(runs, run)
		said += run.Text
		href := in.href()
		if href == "" || i+1 < len(n.Content) && n.Content[i+1].href() == href {
			continue
		}
		if to := strings.TrimPrefix(strings.TrimPrefix(href, "mailto:"), "tel:"); !strings.HasSuffix(said, to) {
			runs = append(runs, Run{Text: " (" + to + ")"})
		}
	}
	return runs
}

func (n Node) has(mark string) bool {
	return slices.ContainsFunc(n.Marks, func(m Mark) bool { return m.Type == mark })
}

// text is a line without its formatting.
func (n Node) text() string {
	var b strings.Builder
	for _, r := range n.Runs() {
		b.WriteString(r.Text)
	}
	return b.String()
}

// Map changes every text of the document. A field that was formatted in pieces
// is one text.
func (d Doc) Map(change func(string) string) Doc { return Doc{mapNodes(d.Content, change)} }

func mapNodes(nodes []Node, change func(string) string) []Node {
	out := wholeFields(nodes)
	for i := range out {
		out[i].Text = change(out[i].Text)
		out[i].Content = mapNodes(out[i].Content, change)
	}
	return out
}

// MapLines changes what stands in each line of the document: paragraphs, headings,
// what pictures show, and items of lists. A field that was formatted in pieces is one
// text.
func (d Doc) MapLines(change func([]Node) []Node) Doc { return Doc{mapLines(d.Content, change)} }

func mapLines(nodes []Node, change func([]Node) []Node) []Node {
	out := slices.Clone(nodes)
	for i, n := range out {
		switch n.Type {
		case Paragraph, Heading:
			if len(n.Content) > 0 {
				out[i].Content = change(wholeFields(n.Content))
			}
		case Image:
			if n.alt() != "" {
				says := Node{Content: change([]Node{{Type: Text, Text: n.alt()}})}
				out[i].Attrs = &Attrs{Src: n.Attrs.Src, Alt: says.text()}
			}
		default:
			out[i].Content = mapLines(n.Content, change)
		}
	}
	return out
}

// MapLinks changes where every link of the document leads.
func (d Doc) MapLinks(change func(string) string) Doc { return Doc{mapLinks(d.Content, change)} }

func mapLinks(nodes []Node, change func(string) string) []Node {
	out := slices.Clone(nodes)
	for i, n := range out {
		out[i].Content = mapLinks(n.Content, change)
		if n.href() == "" {
			continue
		}
		out[i].Marks = slices.Clone(n.Marks)
		for j, m := range n.Marks {
			if m.Type == Link {
				out[i].Marks[j].Attrs = &Attrs{Href: change(m.href())}
			}
		}
	}
	return out
}

func (n Node) href() string {
	for _, m := range n.Marks {
		if m.Type == Link {
			return m.href()
		}
	}
	return ""
}

// HTML writes the document as HTML for an email. Src gives the source of an
// image by the hash of its file. Fields stand in it as they were written, each
// within one element, so that they can be filled with escaped values.
func (d Doc) HTML(src func(hash string) string) string {
	var b strings.Builder
	for _, n := range d.Content {
		n.html(&b, src)
	}
	return b.String()
}

func (n Node) html(b *strings.Builder, src func(string) string) {
	switch n.Type {
	case Paragraph:
		b.WriteString(`<p dir="auto" style="margin:0">`)
		if len(n.Content) == 0 {
			b.WriteString("&nbsp;")
		}
		n.inlineHTML(b)
		b.WriteString("</p>\n")
	case Heading:
		fmt.Fprintf(b, `<h%d dir="auto" style="margin:14px 0 4px">`, n.Attrs.Level)
		n.inlineHTML(b)
		fmt.Fprintf(b, "</h%d>\n", n.Attrs.Level)
	case Image:
		fmt.Fprintf(b, `<p style="margin:8px 0"><img src="%s" alt="%s" style="max-width:100%%"></p>`+"\n",
			html.EscapeString(src(strings.TrimPrefix(n.Attrs.Src, filePrefix))), html.EscapeString(n.alt()))
	case BulletList, OrderedList:
		tag := map[string]string{BulletList: "ul", OrderedList: "ol"}[n.Type]
		b.WriteString("<" + tag + ` dir="auto" style="margin:6px 0">` + "\n")
		for _, item := range n.Content {
			b.WriteString("<li>")
			for _, in := range item.Content {
				in.html(b, src)
			}
			b.WriteString("</li>\n")
		}
		b.WriteString("</" + tag + ">\n")
	}
}

func (n Node) inlineHTML(b *strings.Builder) {
	for _, in := range wholeFields(n.Content) {
		if in.Type == Break {
			b.WriteString("<br>\n")
			continue
		}
		var after []string
		for _, m := range in.Marks {
			switch m.Type {
			case Bold:
				b.WriteString("<strong>")
				after = append(after, "</strong>")
			case Italic:
				b.WriteString("<em>")
				after = append(after, "</em>")
			case Link:
				b.WriteString(`<a href="` + html.EscapeString(m.href()) + `">`)
				after = append(after, "</a>")
			}
		}
		b.WriteString(html.EscapeString(in.Text))
		for i := len(after) - 1; i >= 0; i-- {
			b.WriteString(after[i])
		}
	}
}

// wholeFields moves a field that was formatted in pieces into the first of them.
func wholeFields(content []Node) []Node {
	var out []Node
	for _, n := range content {
		last := len(out) - 1
		if last < 0 || n.Type != Text || out[last].Type != Text || !opens(out[last].Text) {
			out = append(out, n)
			continue
		}
		if end := strings.Index(n.Text, "}}"); end >= 0 {
			out[last].Text += n.Text[:end+2]
			n.Text = n.Text[end+2:]
		}
		if n.Text != "" {
			out = append(out, n)
		}
	}
	return out
}

// opens reports whether a text ends within a field.
func opens(text string) bool { return strings.LastIndex(text, "{{") > strings.LastIndex(text, "}}") }
