package exchange

import (
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/phrase"
)

// ErrTMX is a file that cannot be read as TMX.
var ErrTMX = errors.New("the file cannot be read as TMX 1.4")

// TMXUnit is a line and how it is said in other languages.
type TMXUnit struct {
	From    string // BCP 47
	Source  lines.Line
	Targets []TMXTarget
}

// TMXTarget is how a line is said in a language.
type TMXTarget struct {
	Language string
	Text     string
	By       string
	At       time.Time // zero when the file does not say
}

const tmxTime = "20060102T150405Z" // TMX 1.4b, changedate

var tmxInline = inline{
	whole: func(n int, p lines.Placeholder) string {
		return fmt.Sprintf(`<ph x="%d" type="%s">%s</ph>`, n, p.Kind, escaped(p.Name))
	},
	open: func(n int, p lines.Placeholder) string {
		return fmt.Sprintf(`<bpt i="%d" x="%d" type="%s">%s</bpt>`, n, n, p.Kind, escaped(p.Name))
	},
	close: func(n int, _ lines.Placeholder) string { return fmt.Sprintf(`<ept i="%d"/>`, n) },
}

// TMXWriter writes TMX 1.4b (LISA OSCAR, 26 April 2005) unit by unit.
type TMXWriter struct{ w io.Writer }

// NewTMX begins a file whose originals are in a language.
func NewTMX(w io.Writer, from string) (*TMXWriter, error) {
	_, err := fmt.Fprintf(w, xml.Header+`<tmx version="1.4"><header creationtool="Upper Lantern" creationtoolversion="1" `+
		`segtype="sentence" o-tmf="lines" adminlang="en" srclang="%s" datatype="plaintext"/>`+"\n<body>\n", escaped(from))
	return &TMXWriter{w}, err
}

// placesProp is the property in which the places of a line are kept.
const placesProp = "x-places"

// Add writes a unit.
func (t *TMXWriter) Add(u TMXUnit) error {
	var b strings.Builder
	fmt.Fprintf(&b, `<tu srclang="%s">`, escaped(u.From))
	if len(u.Source.Places) > 0 {
		places, err := json.Marshal(u.Source.Places)
		if err != nil {
			return err
		}
		fmt.Fprintf(&b, `<prop type="%s">%s</prop>`, placesProp, escaped(string(places)))
	}
	fmt.Fprintf(
		&b, `<tuv xml:lang="%s"><seg>%s</seg></tuv>`, escaped(u.From), tmxInline.write(u.Source.Text, u.Source.Places),
	)
	for _, target := range u.Targets {
		fmt.Fprintf(
			&b, `<tuv xml:lang="%s" changedate="%s" changeid="%s"><seg>%s</seg></tuv>`, escaped(target.Language),
			target.At.UTC().Format(tmxTime), escaped(target.By), tmxInline.write(target.Text, u.Source.Places),
		)
	}
	b.WriteString("</tu>\n")
	_, err := io.WriteString(t.w, b.String())
	return err
}

// End ends the file.
func (t *TMXWriter) End() error {
	_, err := io.WriteString(t.w, "</body>\n</tmx>\n")
	return err
}

// ReadTMX reads TMX 1.x and gives its units one by one.
func ReadTMX(content []byte, give func(TMXUnit) error) error {
	if len(content) > LargestTranslations {
		return ErrTooMuch
	}
	r := newReader(content, ErrTMX)
	from, seen, units := "", false, 0
	for {
		token, err := r.next()
		switch {
		case err != nil:
			return err
		case token == nil && !seen:
			return fmt.Errorf("%w: it is no TMX", ErrTMX)
		case token == nil:
			return nil
		}
		e, starts := token.(xml.StartElement)
		if !starts {
			continue
		}
		switch e.Name.Local {
		case "tmx":
			seen = true
		case "header":
			from = attribute(e, "srclang")
		case "tu":
			if units++; units > mostUnits {
				return fmt.Errorf("%w: it has more than %d lines", ErrTooMuch, mostUnits)
			}
			u, err := r.translationUnit(e, from)
			if err == nil && u.Source.Text != "" && len(u.Targets) > 0 {
				err = give(u)
			}
			if err != nil {
				return err
			}
		default:
			if !seen {
				return fmt.Errorf("%w: it begins with %q", ErrTMX, e.Name.Local)
			}
		}
	}
}

// variant is a text of a unit in one language.
type variant struct {
	TMXTarget
	places []lines.Placeholder
}

// translationUnit reads a unit to its end. Its source is the variant in the language of
// the file, or else the first.
func (r *reader) translationUnit(e xml.StartElement, from string) (TMXUnit, error) {
	if own := attribute(e, "srclang"); own != "" {
		from = own
	}
	var u TMXUnit
	var kept []lines.Placeholder
	var variants []variant
	for {
		token, err := r.next()
		if err != nil {
			return u, err
		}
		switch t := token.(type) {
		case nil:
			return u, fmt.Errorf("%w: it breaks off", ErrTMX)
		case xml.EndElement:
			if t.Name.Local == "tu" {
				return unitOf(variants, from, kept), nil
			}
		case xml.StartElement:
			switch {
			case t.Name.Local == "prop" && attribute(t, "type") == placesProp:
				words, err := r.words()
				if err != nil {
					return u, err
				}
				_ = json.Unmarshal([]byte(words), &kept) // places of another program are made anew
			case t.Name.Local == "tuv":
				v, err := r.variant(t)
				if err != nil {
					return u, err
				}
				variants = append(variants, v)
			}
		}
	}
}

func unitOf(variants []variant, from string, kept []lines.Placeholder) TMXUnit {
	var u TMXUnit
	source := -1
	for i, v := range variants {
		if source < 0 && strings.EqualFold(v.Language, from) {
			source = i
		}
	}
	if source < 0 {
		source = 0
	}
	for i, v := range variants {
		if i != source {
			u.Targets = append(u.Targets, v.TMXTarget)
			continue
		}
		u.From, u.Source = v.Language, lines.Line{Text: v.Text, Places: v.places}
		if len(kept) == len(v.places) {
			u.Source.Places = kept
		}
	}
	return u
}

// variant reads a variant to its end.
func (r *reader) variant(e xml.StartElement) (variant, error) {
	v := variant{TMXTarget: TMXTarget{By: attribute(e, "changeid")}}
	tag, ok := phrase.Tag(attribute(e, "lang"))
	if ok {
		v.Language = tag
	}
	if at, err := time.Parse(tmxTime, attribute(e, "changedate")); err == nil {
		v.At = at
	}
	for {
		token, err := r.next()
		if err != nil {
			return v, err
		}
		switch t := token.(type) {
		case nil:
			return v, fmt.Errorf("%w: it breaks off", ErrTMX)
		case xml.EndElement:
			if t.Name.Local == "tuv" {
				v.Text = lines.CleanTarget(v.Text)
				return v, nil
			}
		case xml.StartElement:
			if t.Name.Local == "seg" {
				if err := r.segment(&v); err != nil {
					return v, err
				}
			}
		}
	}
}

// segment reads a segment to its end. Places without a number are numbered in order.
func (r *reader) segment(v *variant) error {
	var b strings.Builder
	byI := map[string]string{}
	number := func(e xml.StartElement, kind lines.Kind) (string, error) {
		name, err := r.words()
		n := attribute(e, "x")
		if !placeID.MatchString(n) {
			n = fmt.Sprint(len(v.places) + 1)
		}
		v.places = append(v.places, lines.Placeholder{Kind: kind, Name: name})
		return n, err
	}
	for {
		token, err := r.next()
		if err != nil {
			return err
		}
		switch t := token.(type) {
		case nil:
			return fmt.Errorf("%w: it breaks off", ErrTMX)
		case xml.CharData:
			b.Write(t)
		case xml.EndElement:
			if t.Name.Local == "seg" {
				v.Text = b.String()
				return nil
			}
		case xml.StartElement:
			switch t.Name.Local {
			case "ph", "it", "ut":
				kind := lines.Field
				if attribute(t, "type") == string(lines.Braces) {
					kind = lines.Braces
				}
				n, err := number(t, kind)
				if err != nil {
					return err
				}
				b.WriteString("{" + n + "}")
			case "bpt":
				kind := lines.Kind(attribute(t, "type"))
				if !kind.Encloses() {
					kind = lines.Bold
				}
				n, err := number(t, kind)
				if err != nil {
					return err
				}
				byI[attribute(t, "i")] = n
				b.WriteString("{" + n + "}")
			case "ept":
				if _, err := r.words(); err != nil {
					return err
				}
				if n := byI[attribute(t, "i")]; n != "" {
					b.WriteString("{/" + n + "}")
				}
			}
		}
	}
}
