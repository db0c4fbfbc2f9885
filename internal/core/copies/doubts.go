package copies

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/language"

	"upperlantern/internal/core/lines"
)

// Code says what is suspicious about a target.
type Code string

// What can be suspicious, the heaviest first.
const (
	PlacesDiffer  Code = "places"  // a field or formatting is lost, doubled, unknown or crossed
	FiguresDiffer Code = "figures" // numbers, times, dates, amounts
	PhonesDiffer  Code = "phones"
	LinksDiffer   Code = "links" // and mail addresses
	TermMissed    Code = "term"  // of the glossary
	StillOriginal Code = "still-original"
	OtherScript   Code = "script"
	OddLength     Code = "length"
	Unbalanced    Code = "unbalanced" // brackets or quotation marks
)

// Codes lists them all.
var Codes = []Code{
	PlacesDiffer, FiguresDiffer, PhonesDiffer, LinksDiffer, TermMissed, StillOriginal, OtherScript, OddLength, Unbalanced,
}

// Doubt is something suspicious about a target. Missing is in the original only, added
// in the target only.
type Doubt struct {
	Code    Code     `json:"code"`
	Missing []string `json:"missing"`
	Added   []string `json:"added"`
}

// Examiner examines targets beside their originals.
type Examiner struct {
	From  string // the language of the originals, BCP 47
	Terms []Term
}

// Doubtful reports whether anything is suspicious about a target in a language.
func (e Examiner) Doubtful(l lines.Line, said, tag string) bool {
	return len(e.Doubts(l, said, tag)) > 0
}

// Doubts are what is suspicious about a target in a language, the heaviest first.
func (e Examiner) Doubts(l lines.Line, said, tag string) []Doubt {
	var list []Doubt
	if d, bad := placesOf(l, said); bad {
		list = append(list, d)
	}
	list = append(list, e.figures(l.Text, said, tag)...)
	if missed := e.missed(l.Text, said, tag); len(missed) > 0 {
		list = append(list, Doubt{Code: TermMissed, Missing: missed})
	}
	original, target := lines.Words(l.Text), lines.Words(said)
	ownOriginal, ownTarget := withoutCommon(original, target)
	for _, c := range []struct {
		code  Code
		holds bool
	}{
		{StillOriginal, e.still(original, target, tag)},
		{OtherScript, otherScript(original, ownTarget, tag)},
		{OddLength, oddLength(ownOriginal, ownTarget, e.From, tag)},
		{Unbalanced, unbalanced(target) && !unbalanced(original)},
	} {
		if c.holds {
			list = append(list, Doubt{Code: c.code})
		}
	}
	return list
}

// placesOf compares the places of a line with those of its target.
func placesOf(l lines.Line, said string) (Doubt, bool) {
	want, has := lines.Used(l.Text), lines.Used(said)
	missing, added := compare(want, has)
	crossed := len(missing) == 0 && len(added) == 0 && !nested(has, l.Places)
	d := Doubt{Code: PlacesDiffer, Missing: placeNames(missing), Added: placeNames(added)}
	return d, crossed || len(missing)+len(added) > 0
}

// compare says what of a is not in b, and what of b is not in a.
func compare[T comparable](a, b []T) (missing, added []T) {
	added = slices.Clone(b)
	for _, x := range a {
		if i := slices.Index(added, x); i >= 0 {
			added = slices.Delete(added, i, i+1)
		} else {
			missing = append(missing, x)
		}
	}
	return missing, added
}

// nested reports whether whatever is opened is closed after it, inside what is around it.
func nested(used []int, places []lines.Placeholder) bool {
	var open []int
	for _, n := range used {
		switch {
		case n < 0:
			if len(open) == 0 || open[len(open)-1] != -n {
				return false
			}
			open = open[:len(open)-1]
		case n <= len(places) && places[n-1].Kind.Encloses():
			open = append(open, n)
		}
	}
	return len(open) == 0
}

func placeNames(numbers []int) []string {
	var list []string
	for _, n := range numbers {
		name := "{" + strconv.Itoa(n) + "}"
		if n < 0 {
			name = "{/" + strconv.Itoa(-n) + "}"
		}
		list = append(list, name)
	}
	return list
}

// figures compares what must be the same in every language.
func (e Examiner) figures(original, said, tag string) []Doubt {
	want, has := figures(original, e.From), figures(said, tag)
	optional := numberWords(original, e.From)
	var list []Doubt
	for _, c := range []struct {
		code  Code
		kinds []kind
	}{
		{FiguresDiffer, []kind{number, clock, month, weekday, perhapsWeekday}},
		{PhonesDiffer, []kind{phoneNumber}}, {LinksDiffer, []kind{target}},
	} {
		missing := without(want, has, c.kinds, original, nil)
		added := without(has, want, c.kinds, said, optional)
		if len(missing)+len(added) > 0 {
			list = append(list, Doubt{Code: c.code, Missing: missing, Added: added})
		}
	}
	return list
}

// without lists the figures of some kinds in a text that have no equal among others.
func without(of, others []figure, kinds []kind, text string, optional []string) []string {
	left := make([]string, 0, len(others)+len(optional))
	for _, f := range others {
		left = append(left, f.is)
	}
	left = append(left, optional...)
	var list []string
	for _, f := range of {
		if i := slices.Index(left, f.is); i >= 0 {
			left = slices.Delete(left, i, i+1)
			continue
		}
		if f.kind != perhapsWeekday && slices.Contains(kinds, f.kind) {
			list = append(list, text[f.from:f.to])
		}
	}
	return list
}

// small are numbers that one language writes as a word and another in digits.
var small = map[string][]string{
	"en": {"one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"},
	"es": {"uno", "dos", "tres", "cuatro", "cinco", "seis", "siete", "ocho", "nueve", "diez", "once", "doce"},
	"pt": {"um", "dois", "três", "quatro", "cinco", "seis", "sete", "oito", "nove", "dez", "onze", "doze"},
	"pl": {"jeden", "dwa", "trzy", "cztery", "pięć", "sześć", "siedem", "osiem", "dziewięć", "dziesięć", "jedenaście", "dwanaście"},
}

// numberWords are the numbers that a text writes as words.
func numberWords(text, tag string) []string {
	base, _ := language.Make(tag).Base()
	names := small[base.String()]
	var list []string
	for word := range strings.FieldsFuncSeq(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) }) {
		if i := slices.Index(names, word); i >= 0 {
			list = append(list, strconv.Itoa(i+1))
		}
	}
	return list
}

// missed are the terms of the glossary in a line that its target does not say.
func (e Examiner) missed(original, said, tag string) []string {
	var list []string
	for _, t := range e.Applying(original, tag) {
		if !strings.Contains(strings.ToLower(said), stem(strings.ToLower(t.Says))) {
			list = append(list, t.Says)
		}
	}
	return list
}

// Applying are the terms of the glossary for a language that stand in a line.
func (e Examiner) Applying(original, tag string) []Term {
	var list []Term
	plain := strings.ToLower(original)
	for _, t := range e.Terms {
		_, there := Lookup(tag, func(at string) bool { return at == t.Language })
		if there && len(find(plain, strings.ToLower(t.Term))) > 0 {
			list = append(list, t)
		}
	}
	return list
}

// stem is a term without the end that many languages inflect.
func stem(term string) string {
	r := []rune(term)
	if len(r) < 6 || slices.ContainsFunc(r, func(c rune) bool { return unicode.Is(unicode.Han, c) }) {
		return term
	}
	return string(r[:len(r)-2])
}

const fewWords = 3

// still reports whether a target says what the original says.
func (e Examiner) still(original, said, tag string) bool {
	if SameLanguage(e.From, tag) {
		return false
	}
	for _, t := range e.Applying(original, tag) {
		if t.Says == t.Term {
			original, said = strings.ReplaceAll(original, t.Term, ""), strings.ReplaceAll(said, t.Term, "")
		}
	}
	a, b := lowerWords(original), lowerWords(said)
	if len(a) < fewWords {
		return false
	}
	missing, _ := compare(a, b)
	return len(missing)*5 <= len(a) // four of five words are the same
}

// lowerWords are the words of a text that do not begin with a capital letter, which
// names do, and the first one.
func lowerWords(text string) []string {
	var list []string
	between := func(r rune) bool { return !unicode.IsLetter(r) && r != '\'' && r != '’' }
	for i, w := range strings.FieldsFunc(text, between) {
		first, _ := utf8.DecodeRuneInString(w)
		if i == 0 || !unicode.IsUpper(first) {
			list = append(list, strings.ToLower(w))
		}
	}
	return list
}

// withoutCommon takes the words away that both texts have as they are: names.
func withoutCommon(original, said string) (string, string) {
	keep := func(text string, beside []string) string {
		return strings.Join(slices.DeleteFunc(strings.Fields(text), func(w string) bool {
			return strings.ContainsFunc(w, unicode.IsLetter) && slices.Contains(beside, w)
		}), " ")
	}
	return keep(original, strings.Fields(said)), keep(said, strings.Fields(original))
}

// scripts are those of a language, ISO 15924.
var scripts = map[string][]*unicode.RangeTable{
	"Latn": {unicode.Latin}, "Cyrl": {unicode.Cyrillic}, "Arab": {unicode.Arabic}, "Hebr": {unicode.Hebrew},
	"Hans": {unicode.Han}, "Hant": {unicode.Han}, "Jpan": {unicode.Han, unicode.Hiragana, unicode.Katakana},
	"Kore": {unicode.Hangul, unicode.Han}, "Grek": {unicode.Greek}, "Deva": {unicode.Devanagari}, "Beng": {unicode.Bengali},
	"Thai": {unicode.Thai}, "Ethi": {unicode.Ethiopic}, "Geor": {unicode.Georgian}, "Armn": {unicode.Armenian},
}

// otherScript reports whether most of a target is in a script that is not its language's.
func otherScript(original, said, tag string) bool {
	script, _ := language.Make(tag).Script()
	tables := scripts[script.String()]
	if tables == nil || len(lowerWords(original)) == 0 {
		return false
	}
	own, letters := 0, 0
	for _, r := range said {
		if !unicode.IsLetter(r) {
			continue
		}
		letters++
		if unicode.In(r, tables...) {
			own++
		}
	}
	return letters > 0 && own*3 < letters
}

// spans are how long a text of a hundred letters of English is in other languages.
var spans = map[string]int{"ar": 85, "es": 115, "pl": 112, "pt": 112, "so": 115, "uk": 108, "vi": 112, "zh": 35, "ja": 50, "ko": 55}

// What a short line is said with varies more, in characters.
const (
	shortest = 12 // shorter lines are not looked at
	slack    = 10 // by which others may be longer or shorter besides
)

// oddLength reports whether a target is much longer or shorter than is usual.
func oddLength(original, said, from, tag string) bool {
	a, b := utf8.RuneCountInString(original), utf8.RuneCountInString(said)
	if a < shortest {
		return false
	}
	usual := a * spanOf(tag) / spanOf(from)
	return b > 2*usual+slack || 2*(b+slack) < usual
}

func spanOf(tag string) int {
	base, _ := language.Make(tag).Base()
	if n, ok := spans[base.String()]; ok {
		return n
	}
	return 100
}

// unbalanced reports whether a bracket or a quotation mark is left open.
func unbalanced(text string) bool {
	for _, p := range []string{"()", "[]", "«»", "「」", "（）"} {
		r := []rune(p)
		if strings.Count(text, string(r[0])) != strings.Count(text, string(r[1])) {
			return true
		}
	}
	quotes := strings.Count(text, "“") + strings.Count(text, "”") + strings.Count(text, "„")
	return quotes%2 == 1 || strings.Count(text, `"`)%2 == 1
}
