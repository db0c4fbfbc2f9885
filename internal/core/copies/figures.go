package copies

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// figure is something in a text that must be the same in every language: a number, a
// time, a part of a date, a telephone number, a link or a mail address.
type figure struct {
	from, to int // in bytes of the text
	kind     kind
	is       string // the same for the same thing, however a language writes it
	name     int    // the number of a month, or of a weekday from 0 for Sunday
}

type kind int

const (
	number kind = iota
	clock
	month
	weekday
	perhapsWeekday // a word that may mean something else
	phoneNumber
	target // a link or a mail address
)

// marks of figures, the first that fits counts.
var figureMarks = regexp.MustCompile(strings.Join([]string{
	`(?P<place>\{/?\d{1,3}\})`,
	`(?P<link>https?://\S+|www\.\S+|[\w.+-]+@[\w-]+(?:\.[\w-]+)+)`,
	`(?P<date>\b\d{4}-\d{2}-\d{2}\b|\b\d{1,2}[./]\d{1,2}[./]\d{2,4}\b)`,
	`(?P<phone>\+\d[\d ()/-]{5,}\d|\b0\d[\d ()/-]{5,}\d)`,
	`(?P<clock>\b\d{1,2}[:.h]\d{2}\b|\b\d{1,2} ?h\b)`,
	`(?P<number>\d{1,3}(?:[.,'\x{00a0}\x{202f} ]\d{3})+\b(?:[.,]\d+)?|\d+(?:[.,]\d+)?)`,
}, "|"))

// figures finds those of a text in a language, in order.
func figures(text, tag string) []figure {
	plain, at := plainDigits(text)
	l := wordsOf(tag)
	var list []figure
	add := func(from, to int, k kind, is string) {
		list = append(list, figure{from: at[from], to: at[to], kind: k, is: is})
	}
	for _, m := range figureMarks.FindAllStringSubmatchIndex(plain, -1) {
		said := plain[m[0]:m[1]]
		group := 1
		for ; m[2*group] < 0; group++ {
		}
		switch figureMarks.SubexpNames()[group] {
		case "place":
		case "link":
			said = strings.TrimRight(said, ".,;:!?)…。，")
			add(m[0], m[0]+len(said), target, strings.ToLower(said))
		case "phone":
			add(m[0], m[1], phoneNumber, onlyDigits(said))
		case "date":
			for _, part := range digits.FindAllStringIndex(said, -1) {
				add(m[0]+part[0], m[0]+part[1], number, whole(said[part[0]:part[1]]))
			}
		case "clock":
			add(m[0], m[1], clock, l.time(plain, m[0], m[1]))
		default:
			k, is := number, quantity(said)
			if half := l.half(plain, m[0], m[1]); half != "" {
				k, is = clock, l.time(plain, m[0], m[1])
			}
			add(m[0], m[1], k, is)
		}
	}
	named := l.named(plain, at, list)
	list = slices.DeleteFunc(list, func(f figure) bool { // the number in “thứ 6” is a Friday
		return slices.ContainsFunc(named, func(n figure) bool {
			return n.kind == weekday && f.from >= n.from && f.to <= n.to
		})
	})
	list = append(list, named...)
	slices.SortFunc(list, func(a, b figure) int { return a.from - b.from })
	return list
}

var digits = regexp.MustCompile(`\d+`)

// plainDigits writes digits of every script as ASCII ones; at says where each byte of
// it stands in the text.
func plainDigits(text string) (plain string, at []int) {
	var b strings.Builder
	for i, r := range text {
		if r >= utf8.RuneSelf && unicode.IsDigit(r) {
			r = '0' + digit(r)
		}
		if r == '٫' { // the Arabic decimal mark
			r = ','
		}
		for range utf8.RuneLen(r) {
			at = append(at, i)
		}
		b.WriteRune(r)
	}
	return b.String(), append(at, len(text))
}

// digit is the value of a decimal digit; those of a script follow one another.
func digit(r rune) rune {
	zero := r
	for unicode.IsDigit(zero-1) && r-zero < 9 {
		zero--
	}
	return r - zero
}

func onlyDigits(text string) string {
	return strings.Map(func(r rune) rune {
		if r < '0' || r > '9' {
			return -1
		}
		return r
	}, text)
}

func whole(text string) string {
	n, err := strconv.Atoi(text)
	if err != nil {
		return text
	}
	return strconv.Itoa(n)
}

var grouped = regexp.MustCompile(`[.,'\x{00a0}\x{202f} ](\d{3})\b`)

// quantity is a number without the marks between its thousands, and with | for the
// decimal mark: 4.50, 4,50 and 4:50 are the same.
func quantity(text string) string {
	text = grouped.ReplaceAllString(text, "$1")
	if at := strings.IndexAny(text, ".,"); at >= 0 {
		return pair(text[:at], text[at+1:])
	}
	return whole(text)
}

func pair(before, after string) string {
	if strings.Trim(after, "0") == "" {
		return whole(before)
	}
	return whole(before) + "|" + after
}
