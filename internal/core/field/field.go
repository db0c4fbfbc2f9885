// Package field fills the places in a text that differ per recipient.
//
// A field is written {{name}}, or {{name, else words}} with words to use when
// there is nothing to fill it with.
package field

import (
	"net/url"
	"slices"
	"strings"
)

// Name identifies a field.
type Name string

const (
	FirstName    Name = "first name"
	LastName     Name = "last name"
	FullName     Name = "full name"
	Dependents   Name = "dependents"
	Organisation Name = "organisation"
	Sender       Name = "sender"
	Unit         Name = "unit"
	Group        Name = "group"
)

// Names lists the fields that every organisation has, in the order in which
// they are offered. The attributes that it keeps about people are fields too.
var Names = []Name{FirstName, LastName, FullName, Dependents, Group, Unit, Organisation, Sender}

// Of is the field by which something with a name is used.
func Of(name string) Name { return Name(strings.Join(strings.Fields(strings.ToLower(name)), " ")) }

// Template is a text cut at its fields.
type Template struct {
	pieces []piece
}

type piece struct {
	isField bool
	text    string // the literal text
	field   Field
}

// Field is one place in a text that is filled.
type Field struct {
	Name     Name
	Else     string // words for when there is nothing to fill it with
	Optional bool   // an “else” was written, even an empty one
	InLink   bool   // it is part of a link: what fills it is percent-encoded
}

// linkMark begins a field that stands in a link. No text that is sent has it.
const linkMark = "\x1f"

// InLink marks the fields of a link, such as https://example.org/{{group}}, so
// that what fills them stays within its part of the link.
func InLink(link string) string { return strings.ReplaceAll(link, "{{", "{{"+linkMark) }

// Encode percent-encodes what fills a field in a link (RFC 3986 §2.1).
func Encode(value string) string { return strings.ReplaceAll(url.QueryEscape(value), "+", "%20") }

// Parse cuts a text at its fields. It accepts everything: a brace that opens
// nothing stays as it was typed, and Unknown tells about names nobody knows.
func Parse(text string) Template {
	var t Template
	for {
		open := strings.Index(text, "{{")
		if open < 0 {
			break
		}
		length := strings.Index(text[open+2:], "}}")
		if length < 0 {
			break
		}
		// A doubled brace inside means that the earlier one opened nothing.
		if inner := strings.LastIndex(text[open+2:open+2+length], "{{"); inner >= 0 {
			open += 2 + inner
			length -= 2 + inner
		}
		t.literal(text[:open])
		t.pieces = append(t.pieces, parseField(text[open+2:open+2+length]))
		text = text[open+2+length+2:]
	}
	t.literal(text)
	return t
}

func (t *Template) literal(s string) {
	if s != "" {
		t.pieces = append(t.pieces, piece{text: s})
	}
}

func parseField(inside string) piece {
	inside, inLink := strings.CutPrefix(inside, linkMark)
	name, words, optional := strings.Cut(inside+" ", ", else ")
	return piece{
		isField: true, field: Field{Name: Of(name), Else: strings.TrimSpace(words), Optional: optional, InLink: inLink},
	}
}

// Piece is a part of a text: words, or a field if it has a name.
type Piece struct {
	Text  string
	Field Field
}

// Pieces are the words and fields of a text, in order.
func (t Template) Pieces() []Piece {
	list := make([]Piece, len(t.pieces))
	for i, p := range t.pieces {
		list[i] = Piece{p.text, p.field}
	}
	return list
}

// String is the field as it is written.
func (f Field) String() string {
	if !f.Optional {
		return "{{" + string(f.Name) + "}}"
	}
	return "{{" + string(f.Name) + ", else " + f.Else + "}}"
}

// Unknown lists the names used that are not known, each once.
func (t Template) Unknown(known func(Name) bool) []string {
	var unknown []string
	for _, p := range t.pieces {
		if p.isField && !known(p.field.Name) && !slices.Contains(unknown, string(p.field.Name)) {
			unknown = append(unknown, string(p.field.Name))
		}
	}
	return unknown
}

// Fill puts values in the place of fields. Missing names the first field
// that has neither a value nor words of its own; the text is then incomplete.
func (t Template) Fill(value func(Field) string) (text string, missing Name) {
	if len(t.pieces) == 1 && !t.pieces[0].isField {
		return t.pieces[0].text, ""
	}
	var b strings.Builder
	for _, p := range t.pieces {
		if !p.isField {
			b.WriteString(p.text)
			continue
		}
		v := value(p.field)
		if v == "" {
			v = p.field.words()
		}
		if v == "" && !p.field.Optional && missing == "" {
			missing = p.field.Name
		}
		b.WriteString(v)
	}
	return b.String(), missing
}

func (f Field) words() string {
	if f.InLink {
		return Encode(f.Else)
	}
	return f.Else
}
