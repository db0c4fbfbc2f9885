package exchange

import (
	"encoding/xml"
	"fmt"
	"strings"

	"upperlantern/internal/core/lines"
)

// Limits of files of translations.
const (
	LargestTranslations = 64 << 20 // bytes
	mostUnits           = 200_000
	deepestElement      = 64
)

// reader reads an XML file element by element. It knows no entities but those of XML
// itself, and refuses a document type that brings its own.
type reader struct {
	*xml.Decoder
	depth int
	fails error // what a file that cannot be read is
}

func newReader(content []byte, fails error) *reader {
	d := xml.NewDecoder(strings.NewReader(string(content)))
	return &reader{Decoder: d, fails: fails}
}

// next is the next token; nil at the end.
func (r *reader) next() (xml.Token, error) {
	token, err := r.Token()
	if err != nil {
		if err.Error() == "EOF" {
			return nil, nil
		}
		return nil, fmt.Errorf("%w: %w", r.fails, err)
	}
	switch t := token.(type) {
	case xml.Directive:
		if strings.Contains(string(t), "[") {
			return nil, fmt.Errorf("%w: it brings its own entities, which are not read", r.fails)
		}
	case xml.StartElement:
		if r.depth++; r.depth > deepestElement {
			return nil, fmt.Errorf("%w: it is nested more than %d deep", r.fails, deepestElement)
		}
	case xml.EndElement:
		r.depth--
	}
	return token, nil
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// words reads the plain text of an element to its end.
func (r *reader) words() (string, error) {
	var b strings.Builder
	for depth := 1; depth > 0; {
		token, err := r.next()
		if err != nil || token == nil {
			return b.String(), err
		}
		switch t := token.(type) {
		case xml.StartElement:
			depth++
		case xml.EndElement:
			depth--
		case xml.CharData:
			b.Write(t)
		}
	}
	return strings.TrimSpace(b.String()), nil
}

// inline writes the text of a line with its places as elements: whole for a field, and
// open and close around what is formatted. Where formatting crosses, both stand alone.
type inline struct {
	whole       func(n int, p lines.Placeholder) string
	open, close func(n int, p lines.Placeholder) string
}

func (f inline) write(text string, places []lines.Placeholder) string {
	var b strings.Builder
	for _, t := range lines.Pieces(text) {
		known := t.Number > 0 && t.Number <= len(places)
		switch {
		case !known:
			_ = xml.EscapeText(&b, []byte(t.Text)) // a builder takes everything
		case !places[t.Number-1].Kind.Encloses():
			b.WriteString(f.whole(t.Number, places[t.Number-1]))
		case t.Ends:
			b.WriteString(f.close(t.Number, places[t.Number-1]))
		default:
			b.WriteString(f.open(t.Number, places[t.Number-1]))
		}
	}
	return b.String()
}

func escaped(text string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(text))
	return b.String()
}
