package exchange

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/copies"
)

// ErrGlossary is a file that cannot be read as a glossary.
var ErrGlossary = errors.New("the file cannot be read as a glossary")

var glossaryHeadings = []string{"term", "language", "says", "note"}

// WriteGlossary writes a glossary as CSV (RFC 4180).
func WriteGlossary(terms []copies.Term) ([]byte, error) {
	rows := make([][]string, len(terms))
	for i, t := range terms {
		rows[i] = []string{t.Term, t.Language, t.Says, t.Note}
	}
	return Write(CSV, "Glossary", glossaryHeadings, rows)
}

// ReadGlossary reads a glossary: CSV with the headings term, language, says and note,
// or TBX. Skipped says which rows are no terms.
func ReadGlossary(content []byte, from string) (terms []copies.Term, skipped []string, err error) {
	if bytes.HasPrefix(bytes.TrimLeft(bytes.TrimPrefix(content, utf8BOM), " \r\n\t"), []byte("<")) {
		return readTBX(content, from)
	}
	table, err := ReadCSV(content)
	if err != nil {
		return nil, nil, err
	}
	at := func(heading string) int {
		return slices.IndexFunc(table.Header, func(h string) bool { return strings.EqualFold(strings.TrimSpace(h), heading) })
	}
	term, language, says, note := at("term"), at("language"), at("says"), at("note")
	if term < 0 || language < 0 || says < 0 {
		return nil, nil, fmt.Errorf("%w: its first line names the columns term, language and says", ErrGlossary)
	}
	for _, row := range table.Rows {
		cell := func(i int) string {
			if i < 0 || i >= len(row.Cells) {
				return ""
			}
			return unguard(strings.TrimSpace(row.Cells[i]))
		}
		t := copies.Term{Term: cell(term), Language: cell(language), Says: cell(says), Note: cell(note)}
		if kept, ok := t.Tidied(); ok {
			terms = append(terms, kept)
		} else {
			skipped = append(skipped, fmt.Sprintf("line %d: “%s” in “%s”", row.Line, t.Term, t.Language))
		}
	}
	return terms, skipped, nil
}

// WriteTBX writes a glossary as TBX-Basic in the DCT style (ISO 30042:2019), a concept
// for each term.
func WriteTBX(terms []copies.Term, from string) []byte {
	var b strings.Builder
	b.WriteString(xml.Header)
	fmt.Fprintf(&b, `<tbx style="dct" type="TBX-Basic" xml:lang="%s" xmlns="urn:iso:std:iso:30042:ed-2">`+"\n", escaped(from))
	b.WriteString("<tbxHeader><fileDesc><sourceDesc><p>Upper Lantern</p></sourceDesc></fileDesc></tbxHeader>\n<text><body>\n")
	for i := 0; i < len(terms); {
		end := i
		for end < len(terms) && terms[end].Term == terms[i].Term {
			end++
		}
		fmt.Fprintf(
			&b, `<conceptEntry id="c%d"><langSec xml:lang="%s"><termSec><term>%s</term></termSec></langSec>`, i+1, escaped(from),
			escaped(terms[i].Term),
		)
		for _, t := range terms[i:end] {
			fmt.Fprintf(&b, `<langSec xml:lang="%s"><termSec><term>%s</term>`, escaped(t.Language), escaped(t.Says))
			if t.Note != "" {
				fmt.Fprintf(&b, "<note>%s</note>", escaped(t.Note))
			}
			b.WriteString("</termSec></langSec>")
		}
		b.WriteString("</conceptEntry>\n")
		i = end
	}
	b.WriteString("</body></text>\n</tbx>\n")
	return []byte(b.String())
}

// readTBX reads TBX-Basic of either edition (ISO 30042:2008 and :2019).
func readTBX(content []byte, from string) (terms []copies.Term, skipped []string, err error) {
	if len(content) > LargestTranslations {
		return nil, nil, ErrTooMuch
	}
	r := newReader(content, ErrGlossary)
	var entry []copies.Term // each in its own language
	seen := false
	for {
		token, err := r.next()
		switch {
		case err != nil:
			return nil, nil, err
		case token == nil && !seen:
			return nil, nil, fmt.Errorf("%w: it is no TBX", ErrGlossary)
		case token == nil:
			return terms, skipped, nil
		}
		switch t := token.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "tbx", "martif":
				seen = true
			case "conceptEntry", "termEntry":
				entry = nil
			case "langSec", "langSet":
				entry = append(entry, copies.Term{Language: attribute(t, "lang")})
			case "term", "note":
				words, err := r.words()
				if err != nil {
					return nil, nil, err
				}
				if last := len(entry) - 1; last >= 0 && t.Name.Local == "term" {
					entry[last].Says = words
				} else if last >= 0 {
					entry[last].Note = words
				}
			}
		case xml.EndElement:
			if t.Name.Local != "conceptEntry" && t.Name.Local != "termEntry" {
				continue
			}
			some, not := termsOf(entry, from)
			if terms, skipped = append(terms, some...), append(skipped, not...); len(terms) > mostUnits {
				return nil, nil, fmt.Errorf("%w: it has more than %d terms", ErrTooMuch, mostUnits)
			}
		}
	}
}

// termsOf are the terms of a concept: how that of the own language is said in others.
func termsOf(entry []copies.Term, from string) (terms []copies.Term, skipped []string) {
	own := slices.IndexFunc(entry, func(t copies.Term) bool { return copies.SameLanguage(t.Language, from) })
	if own < 0 {
		if len(entry) > 0 {
			skipped = append(skipped, "“"+entry[0].Says+"” has no term in the language of the organisation")
		}
		return nil, skipped
	}
	for i, t := range entry {
		if i == own {
			continue
		}
		t.Term = entry[own].Says
		if kept, ok := t.Tidied(); ok {
			terms = append(terms, kept)
		} else {
			skipped = append(skipped, fmt.Sprintf("“%s” in “%s”", t.Term, t.Language))
		}
	}
	return terms, skipped
}
