package copies

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"upperlantern/internal/core/lines"
)

// mostNameWords is of how many words a name is at most that is put in another's place.
const mostNameWords = 4

// AdaptName says a line as a remembered one was said that differs from it in one name
// only; false when it differs otherwise, or the target does not hold the name as it is.
// Languages that inflect names seldom do, and are then left alone.
func AdaptName(m Remembered, line lines.Line, from string) (string, bool) {
	if !sameKinds(m.Original.Places, line.Places) {
		return "", false
	}
	was, is := between(m.Original.Text, line.Text)
	if !isName(was, from) || !isName(is, from) {
		return "", false
	}
	if times(m.Original.Text, was) != 1 || times(m.Text, was) != 1 {
		return "", false
	}
	return strings.Replace(m.Text, was, is, 1), true
}

// between are the words in which two texts differ, if that is in one place.
func between(before, now string) (was, is string) {
	start := 0
	for i, r := range before {
		n, _ := utf8.DecodeRuneInString(now[min(i, len(now)):])
		if n != r {
			break
		}
		if !wordly(r) {
			start = i + utf8.RuneLen(r)
		}
	}
	end := 0 // of what both end with
	for b, n := before[start:], now[start:]; b != "" && n != ""; {
		r, size := utf8.DecodeLastRuneInString(b)
		other, _ := utf8.DecodeLastRuneInString(n)
		if r != other {
			break
		}
		b, n = b[:len(b)-size], n[:len(n)-size]
		if !wordly(r) {
			end = len(before) - start - len(b)
		}
	}
	return before[start : len(before)-end], now[start : len(now)-end]
}

func wordly(r rune) bool {
	return unicode.IsLetter(r) || unicode.IsMark(r) || r == '-' || r == '’' || r == '\''
}

// isName reports whether words are a name: each begins with a capital letter, and none
// is a day, a month, a number or a place.
func isName(text, tag string) bool {
	words := strings.Fields(text)
	if len(words) == 0 || len(words) > mostNameWords || len(figures(text, tag)) > 0 {
		return false
	}
	for _, w := range words {
		for i, r := range w {
			if i == 0 && !unicode.IsUpper(r) || !wordly(r) {
				return false
			}
		}
	}
	return true
}

// times is how often words stand in a text as words of their own.
func times(text, words string) int {
	n, at := 0, 0
	for {
		i := strings.Index(text[at:], words)
		if i < 0 {
			return n
		}
		before, _ := utf8.DecodeLastRuneInString(text[:at+i])
		at += i + len(words)
		after, _ := utf8.DecodeRuneInString(text[at:])
		if wordly(before) || wordly(after) {
			return -1 // a part of another word: it is inflected, or something else
		}
		n++
	}
}
