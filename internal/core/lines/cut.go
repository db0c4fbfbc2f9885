package lines

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/clipperhouse/uax29/v2/sentences"
	"golang.org/x/text/language"

	"upperlantern/internal/core/field"
	"upperlantern/internal/core/rich"
)

// atom is a piece of a line in one format: words, or a place of one.
type atom struct {
	text  string      // words; what stands for a place otherwise
	place Placeholder // its kind is "" for words
	marks []rich.Mark
}

// stands is what a place looks like to whoever looks for the ends of sentences: a name,
// which a sentence may begin with.
const stands = "X"

// atoms cuts a text of the document at its fields.
func atoms(n rich.Node) []atom {
	var list []atom
	for _, p := range field.Parse(n.Text).Pieces() {
		if p.Field.Name == "" && p.Text != "" {
			list = append(list, bracesApart(p.Text, n.Marks)...)
			continue
		}
		place := Placeholder{Kind: Field, Name: string(p.Field.Name), raw: p.Field.String()}
		list = append(list, atom{text: stands, place: place, marks: n.Marks})
	}
	return list
}

// bracesApart makes places of what looks like the number of one.
func bracesApart(text string, marks []rich.Mark) []atom {
	var list []atom
	for {
		at := placeMark.FindStringIndex(text)
		if at == nil {
			break
		}
		if at[0] > 0 {
			list = append(list, atom{text: text[:at[0]], marks: marks})
		}
		typed := text[at[0]:at[1]]
		list = append(list, atom{text: stands, place: Placeholder{Kind: Braces, Name: typed, raw: typed}, marks: marks})
		text = text[at[1]:]
	}
	if text != "" {
		list = append(list, atom{text: text, marks: marks})
	}
	return list
}

func fieldOf(p Placeholder) field.Field {
	pieces := field.Parse(p.raw).Pieces()
	if len(pieces) != 1 {
		return field.Field{}
	}
	return pieces[0].Field
}

func said(pieces []atom) string {
	var b strings.Builder
	for _, a := range pieces {
		b.WriteString(a.text)
	}
	return b.String()
}

// span is a part of a block: a sentence, or the space between two.
type span struct {
	from, to int
	words    bool
}

// split finds the sentences of a block (Unicode UAX #29), without the space around them.
func split(text, tag string) []span {
	var list []span
	add := func(from, to int, words bool) {
		if to > from {
			list = append(list, span{from, to, words})
		}
	}
	from, pos := 0, 0
	for tokens := sentences.FromString(text); tokens.Next(); {
		pos += len(tokens.Value())
		if pos < len(text) && abbreviates(text[from:pos], tag) {
			continue
		}
		sentence := text[from:pos]
		inner := strings.TrimSpace(sentence)
		begins := from + strings.Index(sentence, inner)
		add(from, begins, false)
		add(begins, begins+len(inner), true)
		add(begins+len(inner), pos, false)
		from = pos
	}
	return list
}

// abbreviations end no sentence, by the base of the language.
var abbreviations = map[string][]string{
	"en": {"Mr.", "Mrs.", "Ms.", "Dr.", "St.", "Prof.", "No.", "e.g.", "i.e.", "approx.", "Rd.", "Ave.", "vs."},
	"de": {"Dr.", "Prof.", "Hr.", "Fr.", "z.B.", "Nr.", "Str.", "bzw.", "ca."},
	"es": {"Sr.", "Sra.", "Srta.", "Dr.", "Dra.", "Ud.", "Uds.", "núm.", "Avda."},
	"pt": {"Sr.", "Sra.", "Dr.", "Dra.", "Exmo.", "Exma.", "n.º", "Av."},
	"pl": {"p.", "dr.", "prof.", "ul.", "nr.", "np.", "godz.", "tel."},
	"fr": {"M.", "Mme.", "Dr.", "n°.", "av."},
}

func abbreviates(sentence, tag string) bool {
	base, _ := language.Make(tag).Base()
	words := strings.Fields(sentence)
	return len(words) > 0 && slices.Contains(abbreviations[base.String()], words[len(words)-1])
}

// within are the atoms of a part of a block.
func within(pieces []atom, from, to int) []atom {
	var list []atom
	at := 0
	for _, a := range pieces {
		begin, end := max(from-at, 0), min(to-at, len(a.text))
		at += len(a.text)
		if begin >= end {
			continue
		}
		a.text = a.text[begin:end]
		list = append(list, a)
	}
	return list
}

// lineOf writes a sentence with its places as numbers.
func lineOf(pieces []atom) (Line, []Placeholder) {
	w := writer{places: []Placeholder{}}
	for _, a := range pieces {
		w.format(a.marks)
		if a.place.Kind == "" {
			w.text.WriteString(a.text)
			continue
		}
		w.places = append(w.places, a.place)
		fmt.Fprintf(&w.text, "{%d}", len(w.places))
	}
	w.format(nil)
	return Line{Text: w.text.String(), Places: w.places}, slices.Clone(w.places)
}

type writer struct {
	text   strings.Builder
	places []Placeholder
	open   []int // numbers of the places around what is written now
}

// format ends what no longer formats and begins what does now.
func (w *writer) format(marks []rich.Mark) {
	same := 0
	for same < len(w.open) && same < len(marks) && sameMark(w.places[w.open[same]-1].mark, marks[same]) {
		same++
	}
	for len(w.open) > same {
		last := len(w.open) - 1
		fmt.Fprintf(&w.text, "{/%d}", w.open[last])
		w.open = w.open[:last]
	}
	for _, m := range marks[same:] {
		w.places = append(w.places, Placeholder{Kind: Kind(m.Type), Name: m.To(), mark: m})
		w.open = append(w.open, len(w.places))
		fmt.Fprintf(&w.text, "{%d}", len(w.places))
	}
}

func sameMark(a, b rich.Mark) bool { return a.Type == b.Type && a.To() == b.To() }

// builder puts a line of a document together.
type builder struct{ nodes []rich.Node }

func (b *builder) add(text string, marks []rich.Mark) {
	if text == "" {
		return
	}
	if last := len(b.nodes) - 1; last >= 0 && b.nodes[last].Type == rich.Text &&
		slices.EqualFunc(b.nodes[last].Marks, marks, sameMark) {
		b.nodes[last].Text += text
		return
	}
	b.nodes = append(b.nodes, rich.Node{Type: rich.Text, Text: text, Marks: slices.Clone(marks)})
}

func (b *builder) atoms(pieces []atom) {
	for _, a := range pieces {
		text := a.text
		if a.place.Kind != "" {
			text = a.place.raw
		}
		b.add(text, a.marks)
	}
}

// target puts a line in another language in. A place that is lost is lost; a number
// that stands for nothing is left as it was typed.
func (b *builder) target(text string, places []Placeholder) {
	var open []int
	marks := func() []rich.Mark {
		var list []rich.Mark
		for _, n := range open {
			list = append(list, places[n-1].mark)
		}
		return list
	}
	for _, t := range Pieces(text) {
		known := t.Number > 0 && t.Number <= len(places)
		switch {
		case !known:
			b.add(t.Text, marks())
		case !places[t.Number-1].Kind.Encloses():
			b.add(places[t.Number-1].raw, marks())
		case t.Ends:
			open = slices.DeleteFunc(open, func(n int) bool { return n == t.Number })
		case !slices.Contains(open, t.Number):
			open = append(open, t.Number)
		}
	}
}

// Piece is a part of a line or a target: words, or the number of a place.
type Piece struct {
	Text   string
	Number int // 0 for words
	Ends   bool
}

// Pieces cuts a line or a target at its places.
func Pieces(text string) []Piece {
	var list []Piece
	for {
		at := placeMark.FindStringSubmatchIndex(text)
		if at == nil {
			break
		}
		if at[0] > 0 {
			list = append(list, Piece{Text: text[:at[0]]})
		}
		number, _ := strconv.Atoi(text[at[4]:at[5]])
		list = append(list, Piece{Text: text[at[0]:at[1]], Number: number, Ends: at[3] > at[2]})
		text = text[at[1]:]
	}
	if text != "" {
		list = append(list, Piece{Text: text})
	}
	return list
}

// Words are what a line or a target says, without its places.
func Words(text string) string {
	return strings.Join(strings.Fields(placeMark.ReplaceAllString(text, " ")), " ")
}

// Used lists the numbers of the places in a target, in order, an end as less than 0.
func Used(text string) []int {
	var list []int
	for _, t := range Pieces(text) {
		switch {
		case t.Number == 0:
		case t.Ends:
			list = append(list, -t.Number)
		default:
			list = append(list, t.Number)
		}
	}
	return list
}

// LongestTarget is the most characters of a target.
const LongestTarget = 4000

// CleanTarget is a target as it is kept: one line, without what nobody can see, except
// the joiners and marks of direction that Arabic, Persian and Indic scripts need
// (Unicode Standard §23.2).
func CleanTarget(text string) string {
	var b strings.Builder
	joins := strings.ContainsFunc(text, needsJoiners)
	for _, r := range text {
		switch {
		case r == utf8.RuneError:
		case r == '\u200c' || r == '\u200d' || r == '\u200e' || r == '\u200f':
			if joins {
				b.WriteRune(r)
			}
		case unicode.Is(unicode.Cf, r) || unicode.IsControl(r) && !unicode.IsSpace(r):
		case unicode.IsSpace(r) && r != '\u00a0' && r != '\u202f':
			b.WriteRune(' ')
		default:
			b.WriteRune(r)
		}
	}
	return strings.Trim(b.String(), " ")
}

func needsJoiners(r rune) bool {
	return unicode.In(r, unicode.Arabic, unicode.Hebrew, unicode.Syriac, unicode.Thaana, unicode.Devanagari,
		unicode.Bengali, unicode.Gurmukhi, unicode.Gujarati, unicode.Oriya, unicode.Tamil, unicode.Telugu,
		unicode.Kannada, unicode.Malayalam, unicode.Sinhala)
}
