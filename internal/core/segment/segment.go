// Package segment counts and cuts text messages the way networks carry them.
//
// Source: 3GPP TS 23.038 §6.1.2 (alphabets and message lengths) and §6.2.1
// (GSM 7 bit default alphabet and its extension table); 3GPP TS 23.040
// §9.2.3.24.1 (the six octets that a concatenated message spends per part).
package segment

import (
	"unicode/utf16"
	"unicode/utf8"
)

// Alphabet is the encoding that a text needs.
type Alphabet string

const (
	// GSM7 is the GSM 7 bit default alphabet with its extension table.
	GSM7 Alphabet = "gsm7"
	// UCS2 is 16 bit encoding, here UTF-16.
	UCS2 Alphabet = "ucs2"
)

// Capacity of one part, in units: septets for GSM7, UTF-16 code units for UCS2.
const (
	gsmAlone, gsmJoined = 160, 153
	ucsAlone, ucsJoined = 70, 67
)

const basic = "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?" +
	"¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà"

const extension = "\f^{}\\[~]|€"

var septetTable = buildTable()

func buildTable() map[rune]int {
	t := make(map[rune]int, 137)
	for _, r := range basic {
		t[r] = 1
	}
	for _, r := range extension {
		t[r] = 2
	}
	return t
}

// septets is what r takes in GSM7: 1, 2 with the escape, or 0 if it has no place there.
func septets(r rune) int {
	if 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || r == ' ' {
		return 1
	}
	return septetTable[r]
}

// Count is the size of one text.
type Count struct {
	Alphabet Alphabet
	Units    int // septets or UTF-16 code units
	Parts    int // 0 for an empty text
	Room     int // units left in the last part
}

// Over is how many units less would save a part; 0 when there is just one.
func (c Count) Over() int {
	alone, joined := capacity(c.Alphabet)
	switch c.Parts {
	case 0, 1:
		return 0
	case 2:
		return c.Units - alone
	}
	return joined - c.Room
}

// Measure counts a text as it would be sent.
func Measure(text string) Count {
	t := newTally(alphabetOf(text))
	for _, r := range text {
		t.add(r)
	}
	return t.count()
}

// MeasureReplaced counts what Replace makes of a text.
func MeasureReplaced(text string) Count {
	alphabet := GSM7
	for _, r := range text {
		if septets(r) == 0 && replacements[r] == "" {
			alphabet = UCS2
			break
		}
	}
	t := newTally(alphabet)
	for _, r := range text {
		if septets(r) == 0 && replacements[r] != "" {
			for _, in := range replacements[r] {
				t.add(in)
			}
			continue
		}
		t.add(r)
	}
	return t.count()
}

// tally counts the characters of a text one after the other.
type tally struct {
	alphabet      Alphabet
	alone, joined int
	units, parts  int
	used          int // units in the current part, were the message joined
}

func newTally(a Alphabet) tally {
	alone, joined := capacity(a)
	return tally{alphabet: a, alone: alone, joined: joined}
}

func (t *tally) add(r rune) {
	w := width(t.alphabet, r)
	t.units += w
	if t.parts == 0 || t.used+w > t.joined {
		t.parts, t.used = t.parts+1, 0
	}
	t.used += w
}

func (t *tally) count() Count {
	c := Count{Alphabet: t.alphabet, Units: t.units}
	switch {
	case t.units == 0:
		c.Room = t.alone
	case t.units <= t.alone:
		c.Parts, c.Room = 1, t.alone-t.units
	default:
		c.Parts, c.Room = t.parts, t.joined-t.used
	}
	return c
}

// Split cuts a text into its parts. A surrogate pair or an escape pair is
// never divided.
func Split(text string) []string {
	alphabet := alphabetOf(text)
	if Measure(text).Parts <= 1 {
		if text == "" {
			return nil
		}
		return []string{text}
	}
	_, joined := capacity(alphabet)
	var parts []string
	start, used := 0, 0
	for i, r := range text {
		w := width(alphabet, r)
		if used+w > joined {
			parts = append(parts, text[start:i])
			start, used = i, 0
		}
		used += w
	}
	return append(parts, text[start:])
}

func alphabetOf(text string) Alphabet {
	for _, r := range text {
		if septets(r) == 0 {
			return UCS2
		}
	}
	return GSM7
}

func width(a Alphabet, r rune) int {
	if a == GSM7 {
		return septets(r)
	}
	return max(utf16.RuneLen(r), 1)
}

func capacity(a Alphabet) (alone, joined int) {
	if a == GSM7 {
		return gsmAlone, gsmJoined
	}
	return ucsAlone, ucsJoined
}

// replacements are fair exchanges: the reader sees the same thing. Letters of
// names and words are never changed.
var replacements = map[rune]string{
	'–': "-", '—': "-", '‐': "-", '‑': "-", '−': "-",
	'“': `"`, '”': `"`, '„': `"`, '«': `"`, '»': `"`,
	'‘': "'", '’': "'", '‚': "'", '´': "'", '`': "'",
	'…': "...", '•': "-", '·': "-",
	'\u00a0': " ", '\u202f': " ", '\u2009': " ", '\t': " ",
}

// Forcing is a character that has no place in GSM7.
type Forcing struct {
	Character   string
	Times       int
	Replacement string // "" when there is no fair one
}

// Forces lists the characters that keep a text out of GSM7, in the order of
// their first appearance.
func Forces(text string) []Forcing {
	var list []Forcing
	at := map[rune]int{}
	for _, r := range text {
		if septets(r) > 0 {
			continue
		}
		i, seen := at[r]
		if !seen {
			i = len(list)
			at[r] = i
			list = append(list, Forcing{Character: string(r), Replacement: replacements[r]})
		}
		list[i].Times++
	}
	return list
}

// Replace puts the fair replacement in place of every forcing character that has one.
func Replace(text string) string {
	out := make([]byte, 0, len(text))
	for _, r := range text {
		if septets(r) == 0 {
			if s, fair := replacements[r]; fair {
				out = append(out, s...)
				continue
			}
		}
		out = utf8.AppendRune(out, r)
	}
	return string(out)
}
