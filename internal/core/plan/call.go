package plan

import (
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/language"
)

// pace is how long parts of a text take when they are read aloud, in milliseconds.
type pace struct {
	wordsPerMinute int // the speed that the other figures were measured at
	letter         int // of the language's own script
	digit          int // numbers and times are spoken as words
	stop           int // the pause after a sentence
}

// paces are by language: the base, or the base and region where they differ.
// They were measured with espeak-ng over everyday sentences, times, dates and
// telephone numbers; a test holds them to within 15 % of it.
var paces = map[string]pace{
	"en":    {150, 76, 382, 313},
	"es":    {160, 79, 370, 224},
	"pt":    {150, 82, 398, 387},
	"pt-BR": {150, 88, 381, 349},
	"pl":    {130, 108, 600, 270},
	"uk":    {130, 80, 331, 423},
	"ar":    {120, 140, 630, 1107},
	"vi":    {160, 62, 277, 518},
	"zh":    {140, 442, 342, 816},
	"so":    {130, 88, 450, 350}, // espeak-ng does not speak it; as its neighbours
}

var usualPace = pace{140, 85, 400, 350}

// scripts are those whose letters stand for more than a sound; the time of one.
// Letters of any other script are read at the pace of a Latin one.
var scripts = []struct {
	table  *unicode.RangeTable
	letter int
}{
	{unicode.Han, 442}, {unicode.Hangul, 250}, {unicode.Hiragana, 150}, {unicode.Katakana, 150}, {unicode.Arabic, 140},
	{unicode.Hebrew, 140},
	{unicode.Devanagari, 130}, {unicode.Bengali, 130}, {unicode.Ethiopic, 200},
}

const latinLetter = 80

// voice is how a language is read aloud, and the script it is written in, which
// is nil for one that is not told apart.
type voice struct {
	pace
	script *unicode.RangeTable
	latin  int // of an ASCII letter, which most are
}

func voiceOf(tag string) voice {
	parsed := language.Make(tag)
	base, _ := parsed.Base()
	region, _ := parsed.Region()
	found, known := paces[base.String()+"-"+region.String()]
	if !known {
		found, known = paces[base.String()]
	}
	if !known {
		found = usualPace
	}
	script, _ := parsed.Script()
	v := voice{pace: found, script: map[string]*unicode.RangeTable{
		"Arab": unicode.Arabic, "Cyrl": unicode.Cyrillic, "Hans": unicode.Han, "Hant": unicode.Han, "Latn": unicode.Latin,
	}[script.String()]}
	v.latin = v.letterTime('a')
	return v
}

// WordsPerMinute is how fast a message in a language (BCP 47) is read aloud.
func WordsPerMinute(tag string) int { return voiceOf(tag).wordsPerMinute }

// CallSeconds estimates how long a text in a language (BCP 47) takes when it is
// read aloud, in started seconds.
func CallSeconds(text, tag string) int { return voiceOf(tag).seconds(text) }

func (v voice) seconds(text string) int {
	total := 0 // milliseconds
	for i, c := range text {
		switch {
		case unicode.IsDigit(c):
			total += v.digit
		case c < utf8.RuneSelf && unicode.IsLetter(c):
			total += v.latin
		case unicode.IsLetter(c):
			total += v.letterTime(c)
		case ends(c) && stops(c, text[i+utf8.RuneLen(c):]):
			total += v.stop
		}
	}
	return (total + 999) / 1000
}

// stops reports whether the mark of an end is followed by a pause: the dot
// of a number is not.
func stops(mark rune, rest string) bool {
	next, _ := utf8.DecodeRuneInString(rest)
	return rest == "" || unicode.IsSpace(next) || mark > unicode.MaxLatin1
}

func (v voice) letterTime(c rune) int {
	if v.script != nil && unicode.Is(v.script, c) {
		return v.letter
	}
	for _, s := range scripts {
		if unicode.Is(s.table, c) {
			return s.letter
		}
	}
	if v.script == nil {
		return v.letter
	}
	return latinLetter
}

// ends reports whether a sentence ends with a character.
func ends(c rune) bool {
	switch c {
	case '.', '!', '?', '…', '\n', '。', '！', '？', '؟', '۔', '।':
		return true
	}
	return false
}

// callSeconds is the length of the recording, or how long the words take to read.
func (r *renderer) callSeconds(body string) int {
	if r.written.Voice.Recording != nil {
		return r.written.Voice.Seconds
	}
	return r.voice.seconds(body)
}
