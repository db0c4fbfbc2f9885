package exchange

import (
	"encoding/xml"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"upperlantern/internal/core/lines"
)

// ErrXLIFF is a file that cannot be read as XLIFF 2.
var ErrXLIFF = errors.New("the file cannot be read as XLIFF 2")

// States of a segment (OASIS XLIFF 2.1 §4.3.1.24).
const (
	Initial    = "initial"
	Translated = "translated"
	Reviewed   = "reviewed"
	Final      = "final"
)

// XLIFF is one message in two languages.
type XLIFF struct {
	File     string // names the message
	From, To string // BCP 47
	Units    []XLIFFUnit
}

// XLIFFUnit is a line and its target.
type XLIFFUnit struct {
	ID     string
	Notes  []string
	Source lines.Line
	Target string // with the places of the source as numbers; "" for none
	State  string
}

// xliffNamespace is that of every XLIFF 2 version (OASIS XLIFF 2.1 §4.1).
const xliffNamespace = "urn:oasis:names:tc:xliff:document:2.0"

var xliffInline = inline{
	whole: func(n int, p lines.Placeholder) string {
		return fmt.Sprintf(`<ph id="%d" disp="%s"/>`, n, escaped(p.Name))
	},
	open: func(n int, p lines.Placeholder) string {
		return fmt.Sprintf(`<sc id="%d"%s/>`, n, xliffType(p))
	},
	close: func(n int, _ lines.Placeholder) string { return fmt.Sprintf(`<ec startRef="%d"/>`, n) },
}

func xliffType(p lines.Placeholder) string {
	switch p.Kind {
	case lines.Bold:
		return ` type="fmt" subType="xlf:b"`
	case lines.Italic:
		return ` type="fmt" subType="xlf:i"`
	case lines.Link:
		return fmt.Sprintf(` type="link" disp="%s"`, escaped(p.Name))
	}
	return ""
}

// WriteXLIFF writes XLIFF 2.1 (OASIS standard, 13 February 2018).
func WriteXLIFF(x XLIFF) []byte {
	var b strings.Builder
	b.WriteString(xml.Header)
	fmt.Fprintf(
		&b, `<xliff xmlns="%s" version="2.1" srcLang="%s" trgLang="%s">`+"\n", xliffNamespace, escaped(x.From), escaped(x.To),
	)
	fmt.Fprintf(&b, `<file id="%s">`+"\n", escaped(x.File))
	for _, u := range x.Units {
		fmt.Fprintf(&b, `<unit id="%s">`, escaped(u.ID))
		if len(u.Notes) > 0 {
			b.WriteString("<notes>")
			for _, note := range u.Notes {
				fmt.Fprintf(&b, "<note>%s</note>", escaped(note))
			}
			b.WriteString("</notes>")
		}
		fmt.Fprintf(&b, `<segment state="%s"><source xml:space="preserve">%s</source>`, u.State,
			xliffInline.write(u.Source.Text, u.Source.Places))
		if u.Target != "" {
			fmt.Fprintf(&b, `<target xml:space="preserve">%s</target>`, xliffInline.write(u.Target, u.Source.Places))
		}
		b.WriteString("</segment></unit>\n")
	}
	b.WriteString("</file>\n</xliff>\n")
	return []byte(b.String())
}

// ReadXLIFF reads XLIFF 2.0 and 2.1: one file of one pair of languages. Places come
// back as numbers; what else stands in a line is not kept.
func ReadXLIFF(content []byte) (XLIFF, error) {
	if len(content) > LargestTranslations {
		return XLIFF{}, ErrTooMuch
	}
	r := newReader(content, ErrXLIFF)
	x, seen := XLIFF{}, false
	for {
		token, err := r.next()
		if err != nil {
			return x, err
		}
		if token == nil {
			if !seen {
				return x, fmt.Errorf("%w: it is no XLIFF", ErrXLIFF)
			}
			return x, nil
		}
		e, starts := token.(xml.StartElement)
		if !starts {
			continue
		}
		switch e.Name.Local {
		case "xliff":
			if v := attribute(e, "version"); !strings.HasPrefix(v, "2.") {
				return x, fmt.Errorf("%w: it is of version %q; let the program that made it save version 2.1", ErrXLIFF, v)
			}
			x.From, x.To, seen = attribute(e, "srcLang"), attribute(e, "trgLang"), true
		case "file":
			x.File = attribute(e, "id")
		case "unit":
			u, err := r.unit(attribute(e, "id"))
			if err != nil {
				return x, err
			}
			if x.Units = append(x.Units, u); len(x.Units) > mostUnits {
				return x, fmt.Errorf("%w: it has more than %d lines", ErrTooMuch, mostUnits)
			}
		default:
			if !seen {
				return x, fmt.Errorf("%w: it begins with %q", ErrXLIFF, e.Name.Local)
			}
		}
	}
}

// unit reads a unit to its end; its segments are one line.
func (r *reader) unit(id string) (XLIFFUnit, error) {
	u := XLIFFUnit{ID: id, State: Initial}
	for {
		token, err := r.next()
		if err != nil {
			return u, err
		}
		switch t := token.(type) {
		case nil:
			return u, fmt.Errorf("%w: it breaks off", ErrXLIFF)
		case xml.EndElement:
			if t.Name.Local == "unit" {
				return u, nil
			}
		case xml.StartElement:
			switch t.Name.Local {
			case "segment":
				if state := attribute(t, "state"); state != "" {
					u.State = state
				}
			case "note":
				note, err := r.words()
				if err != nil {
					return u, err
				}
				u.Notes = append(u.Notes, note)
			case "source", "target":
				text, err := r.inlineText(t.Name.Local, id)
				if err != nil {
					return u, err
				}
				if t.Name.Local == "source" {
					u.Source.Text += text
				} else {
					u.Target += text
				}
			}
		}
	}
}

var placeID = regexp.MustCompile(`^[0-9]{1,3}$`)

// inlineText reads a source or a target to its end, places as numbers.
func (r *reader) inlineText(name, unit string) (string, error) {
	var b strings.Builder
	var open []string
	place := func(form, id string) error {
		if !placeID.MatchString(id) {
			return fmt.Errorf("%w: unit %q has a place %q that is not of this program", ErrXLIFF, unit, id)
		}
		fmt.Fprintf(&b, form, id)
		return nil
	}
	for {
		token, err := r.next()
		if err != nil {
			return "", err
		}
		switch t := token.(type) {
		case nil:
			return "", fmt.Errorf("%w: it breaks off", ErrXLIFF)
		case xml.CharData:
			b.Write(t)
		case xml.StartElement:
			id := attribute(t, "id")
			switch t.Name.Local {
			case "ph", "sc":
				err = place("{%s}", id)
			case "pc":
				open = append(open, id)
				err = place("{%s}", id)
			case "ec":
				if start := attribute(t, "startRef"); start != "" {
					id = start
				}
				err = place("{/%s}", id)
			case "cp":
				n, parsed := strconv.ParseUint(attribute(t, "hex"), 16, 32)
				if parsed == nil {
					b.WriteRune(rune(n))
				}
			}
		case xml.EndElement:
			switch {
			case t.Name.Local == name:
				return b.String(), nil
			case t.Name.Local == "pc" && len(open) > 0:
				err = place("{/%s}", open[len(open)-1])
				open = open[:len(open)-1]
			}
		}
		if err != nil {
			return "", err
		}
	}
}
