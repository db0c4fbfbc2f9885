// Package rich holds formatted text: the body of an email. It knows a few
// kinds of blocks and marks and nothing else, so that whatever is rendered
// from it is safe to show.
package rich

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
)

// Kinds of nodes.
const (
	Paragraph   = "paragraph" // one line of text, or an empty one
	Heading     = "heading"
	BulletList  = "bulletList"
	OrderedList = "orderedList"
	ListItem    = "listItem"
	Image       = "image"
	Text        = "text"
	Break       = "hardBreak"
)

// Kinds of marks on a text.
const (
	Bold   = "bold"
	Italic = "italic"
	Link   = "link"
)

// Doc is a formatted text. The zero value is empty. In JSON one without any
// formatting is a string of lines.
type Doc struct {
	Content []Node
}

// Node is a block, or something in a line. Only paragraphs, headings, lists
// and images stand in a document itself.
type Node struct {
	Type    string `json:"type" enum:"paragraph,heading,bulletList,orderedList,listItem,image,text,hardBreak"`
	Text    string `json:"text,omitempty"`
	Marks   []Mark `json:"marks,omitempty" maxItems:"3"`
	Attrs   *Attrs `json:"attrs,omitempty"`
	Content []Node `json:"content,omitempty" maxItems:"5000"`
}

// Mark formats a text.
type Mark struct {
	Type  string `json:"type" enum:"bold,italic,link"`
	Attrs *Attrs `json:"attrs,omitempty"`
}

// Attrs are what a heading, an image or a link needs besides its content.
type Attrs struct {
	Level int    `json:"level,omitempty" doc:"Of a heading: 2, or 3 for a smaller one"`
	Href  string `json:"href,omitempty" doc:"Of a link: http, https, mailto or tel"`
	Src   string `json:"src,omitempty" doc:"Of an image: file: and the hash of a file"`
	Alt   string `json:"alt,omitempty" doc:"Of an image: what it shows, in words"`
}

// lineEnds writes every line end as one character; a lone carriage return is one.
var lineEnds = strings.NewReplacer("\r\n", "\n", "\r", "\n")

// Lines makes a document of text without formatting, a paragraph for each line.
func Lines(text string) Doc {
	if text == "" {
		return Doc{}
	}
	var d Doc
	for line := range strings.SplitSeq(lineEnds.Replace(text), "\n") {
		p := Node{Type: Paragraph}
		if line != "" {
			p.Content = []Node{{Type: Text, Text: line}}
		}
		d.Content = append(d.Content, p)
	}
	return d
}

type document struct {
	Type    string `json:"type"`
	Content []Node `json:"content"`
}

// MarshalJSON writes a string for text without formatting.
func (d Doc) MarshalJSON() ([]byte, error) {
	if !d.Formatted() {
		return json.Marshal(d.Plain())
	}
	return json.Marshal(document{"doc", d.Content})
}

// UnmarshalJSON reads a document, or a string of lines.
func (d *Doc) UnmarshalJSON(text []byte) error {
	if len(text) > 0 && text[0] == '"' {
		var lines string
		err := json.Unmarshal(text, &lines)
		*d = Lines(lines)
		return err
	}
	var doc document
	err := json.Unmarshal(text, &doc)
	d.Content = doc.Content
	joinLineEnds(d.Content)
	return err
}

func joinLineEnds(nodes []Node) {
	for i := range nodes {
		nodes[i].Text = lineEnds.Replace(nodes[i].Text)
		joinLineEnds(nodes[i].Content)
	}
}

// Formatted reports whether there is more to it than lines of text.
func (d Doc) Formatted() bool {
	return slices.ContainsFunc(d.Content, func(n Node) bool {
		formatted := func(in Node) bool { return in.Type != Text || len(in.Marks) > 0 }
		return n.Type != Paragraph || slices.ContainsFunc(n.Content, formatted)
	})
}

// Empty reports whether nothing is written in it.
func (d Doc) Empty() bool { return strings.TrimSpace(d.Plain()) == "" && len(d.Images()) == 0 }

// Images are the hashes of the files that it shows, in order, each once.
func (d Doc) Images() []string {
	var hashes []string
	for _, n := range d.Content {
		if n.Type != Image || n.Attrs == nil {
			continue
		}
		if hash := strings.TrimPrefix(n.Attrs.Src, filePrefix); !slices.Contains(hashes, hash) {
			hashes = append(hashes, hash)
		}
	}
	return hashes
}

const (
	filePrefix   = "file:"
	mostNodes    = 20_000
	deepestLists = 4
)

var (
	hash    = regexp.MustCompile(`^file:[0-9a-f]{64}$`)
	schemes = []string{"http", "https", "mailto", "tel"}
)

// Validate refuses what is not built as the package says, or too large.
func (d Doc) Validate() error {
	left := mostNodes
	for _, n := range d.Content {
		if err := n.block(&left, 0); err != nil {
			return err
		}
	}
	return nil
}

func (n Node) block(left *int, depth int) error {
	if *left--; *left < 0 {
		return errors.New("it has more pieces than can be sent")
	}
	switch n.Type {
	case Paragraph:
		return n.inline(left)
	case Heading:
		if n.Attrs == nil || n.Attrs.Level != 2 && n.Attrs.Level != 3 {
			return errors.New("a heading is of level 2 or 3")
		}
		return n.inline(left)
	case BulletList, OrderedList:
		return n.list(left, depth+1)
	case Image:
		if n.Attrs == nil || !hash.MatchString(n.Attrs.Src) {
			return errors.New("an image is not among the files")
		}
		return nil
	}
	return fmt.Errorf("a %q cannot stand by itself", n.Type)
}

func (n Node) list(left *int, depth int) error {
	if depth > deepestLists {
		return fmt.Errorf("lists are nested more than %d deep", deepestLists)
	}
	for _, item := range n.Content {
		if item.Type != ListItem {
			return fmt.Errorf("a %q stands in a list without an item around it", item.Type)
		}
		for _, in := range item.Content {
			if in.Type != Paragraph && in.Type != BulletList && in.Type != OrderedList {
				return fmt.Errorf("a %q cannot stand in an item of a list", in.Type)
			}
			if err := in.block(left, depth); err != nil {
				return err
			}
		}
	}
	return nil
}

func (n Node) inline(left *int) error {
	for _, in := range n.Content {
		if *left--; *left < 0 {
			return errors.New("it has more pieces than can be sent")
		}
		if in.Type != Text && in.Type != Break {
			return fmt.Errorf("a %q cannot stand in a line", in.Type)
		}
		for _, m := range in.Marks {
			if m.Type == Link && !LinkTo(m.href()) {
				return fmt.Errorf("%q is no link that can be sent", m.href())
			}
			if !slices.Contains([]string{Bold, Italic, Link}, m.Type) {
				return fmt.Errorf("%q is no formatting that can be sent", m.Type)
			}
		}
	}
	return nil
}

func (m Mark) href() string {
	if m.Attrs == nil {
		return ""
	}
	return m.Attrs.Href
}

// To is where a link leads; "" for other formatting.
func (m Mark) To() string { return m.href() }

// LinkTo reports whether a link may lead there: web pages, mailboxes, numbers.
func LinkTo(href string) bool {
	u, err := url.Parse(href)
	return err == nil && slices.Contains(schemes, strings.ToLower(u.Scheme)) && (u.Host != "" || u.Opaque != "")
}
