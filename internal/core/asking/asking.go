// Package asking reads answers to a question, and counts them.
package asking

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"upperlantern/internal/core/message"
)

// Given is an answer that somebody gave; the zero value is none.
type Given struct {
	Number  int    // of the answer, from 1
	Minutes int    // after which they come, if they said so
	Remark  string // what else they wrote
}

// MostMinutes is a day.
const MostMinutes = 24 * 60

// mostRead is how much of a text is looked at, in bytes.
const mostRead = 2000

// Read finds the answer in a reply. Words are the answers in every language in which the
// question went out, by number from 1. A reply that only begins like an answer is none.
func Read(q *message.Question, words [][]string, reply string) (Given, bool) {
	if !q.Asks() || len(reply) > mostRead {
		return Given{}, false
	}
	reply = strings.TrimSpace(norm.NFKC.String(reply))
	for i, said := range words {
		for _, w := range said {
			if bare(w) != "" && bare(reply) == bare(w) {
				return Given{Number: i + 1}, i < len(q.Choices)
			}
		}
	}
	number, rest := leading(strings.TrimLeft(reply, "#( "))
	choice, ok := q.Choice(number)
	if !ok {
		return Given{}, false
	}
	g := Given{Number: number}
	unspaced := strings.TrimLeft(rest, " ")
	marked := strings.TrimLeft(unspaced, ".,;:)!-–—،。、")
	g.Remark = strings.TrimSpace(marked)
	if g.Remark == "" {
		return g, true
	}
	if number-1 < len(words) {
		for _, w := range words[number-1] {
			if bare(g.Remark) == bare(w) {
				g.Remark = ""
				return g, true
			}
		}
	}
	if minutes, after, is := minutesIn(g.Remark); is && choice.Means == message.Minutes {
		g.Minutes, g.Remark = minutes, after
		return g, true
	}
	apart := marked != unspaced || strings.HasPrefix(unspaced, "\n")
	return g, apart
}

// minutesIn is a number of minutes at the beginning of a text, and what stands after it
// and after the word that names them.
func minutesIn(text string) (minutes int, after string, ok bool) {
	minutes, rest := leading(text)
	if minutes < 1 || minutes > MostMinutes {
		return 0, "", false
	}
	rest = strings.TrimSpace(strings.TrimLeft(rest, "'′."))
	unit, after, _ := strings.Cut(rest, " ")
	if strings.IndexFunc(unit, unicode.IsDigit) >= 0 {
		return 0, "", false // two numbers of which nobody knows what they mean
	}
	for _, known := range units {
		if strings.HasPrefix(strings.ToLower(unit), known) {
			return minutes, strings.TrimSpace(after), true
		}
	}
	return minutes, rest, true
}

// units are how words for minutes begin in the languages of the program.
var units = []string{"min", "хв", "دق", "phút", "分", "daq"}

// leading is the number that a text begins with, in digits of any script, and what
// follows it; 0 for none, and for more than four digits.
func leading(text string) (number int, rest string) {
	digits := 0
	for i, r := range text {
		value, is := digit(r)
		if !is {
			rest = text[i:]
			break
		}
		number, digits = number*10+value, digits+1
		if digits > 4 {
			return 0, ""
		}
	}
	if digits == 0 {
		return 0, ""
	}
	if r, _ := firstRune(rest); unicode.IsLetter(r) && !unicode.Is(unicode.Han, r) {
		return 0, "" // such as 2nd
	}
	return number, rest
}

func firstRune(s string) (rune, bool) {
	for _, r := range s {
		return r, true
	}
	return 0, false
}

// digit is the value of a decimal digit: those of a script stand in order, zero first
// (Unicode Standard §4.6).
func digit(r rune) (int, bool) {
	if !unicode.Is(unicode.Nd, r) {
		return 0, false
	}
	zero := r
	for zero > 0 && r-zero < 9 && unicode.Is(unicode.Nd, zero-1) {
		zero--
	}
	return int(r-zero) % 10, true
}

// bare are the letters and digits of a text, without case, in one form (Unicode UAX #15,
// NFKC), with a space between words.
func bare(text string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(norm.NFKC.String(text)) {
		switch {
		case unicode.IsLetter(r), unicode.IsDigit(r), unicode.IsMark(r):
			b.WriteRune(r)
		case unicode.IsSpace(r), r == '-':
			b.WriteRune(' ')
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}
