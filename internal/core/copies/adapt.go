package copies

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"upperlantern/internal/core/lines"
)

// Remembered is a line that somebody checked.
type Remembered struct {
	Original lines.Line
	Language string // of the target, BCP 47
	Text     string
}

// Shape is a line without its numbers, times and dates, in lower case: lines of the
// same shape can be adapted to one another.
func Shape(text, tag string) string {
	var b strings.Builder
	at := 0
	for _, f := range figures(text, tag) {
		if f.from < at || f.kind == perhapsWeekday {
			continue
		}
		b.WriteString(text[at:f.from])
		b.WriteString(shapes[f.kind])
		at = f.to
	}
	b.WriteString(text[at:])
	return strings.ToLower(b.String())
}

// shapes stand for figures: what could be another of its kind.
var shapes = map[kind]string{number: "#", clock: "#:", month: "#m", weekday: "#w", phoneNumber: "#p", target: "#@"}

// Adapt says a line as a remembered one of the same shape was said, with its own
// numbers, times and dates; false when it cannot be told where they belong.
func Adapt(m Remembered, line lines.Line, from string) (string, bool) {
	if Shape(m.Original.Text, from) != Shape(line.Text, from) || !sameKinds(m.Original.Places, line.Places) {
		return "", false
	}
	before, now, said := figures(m.Original.Text, from), figures(line.Text, from), figures(m.Text, m.Language)
	if len(before) != len(now) {
		return "", false
	}
	type change struct {
		figure
		text string
	}
	var changes []change
	for i, was := range before {
		is := now[i]
		if was.is == is.is {
			continue
		}
		another := func(o figure) bool { return o.is == was.is && o.kind == was.kind && o.from != was.from }
		if slices.ContainsFunc(before, another) {
			return "", false // which of the two it is cannot be told
		}
		at, found := only(said, was)
		if !found {
			return "", false
		}
		text, ok := as(m.Text[said[at].from:said[at].to], said[at], is, line.Text[is.from:is.to], m.Language)
		if !ok {
			return "", false
		}
		changes = append(changes, change{said[at], text})
	}
	slices.SortFunc(changes, func(a, b change) int { return b.from - a.from })
	out := m.Text
	for _, c := range changes {
		out = out[:c.from] + c.text + out[c.to:]
	}
	return out, true
}

// only finds the one figure of a target that means the same as one of the original.
func only(said []figure, was figure) (int, bool) {
	same := func(exactly bool) (at, times int) {
		for i, f := range said {
			if f.is == was.is && (!exactly || f.kind == was.kind) {
				at, times = i, times+1
			}
		}
		return at, times
	}
	at, times := same(true)
	if times == 0 {
		at, times = same(false)
	}
	return at, times == 1
}

func sameKinds(a, b []lines.Placeholder) bool {
	return slices.EqualFunc(a, b, func(x, y lines.Placeholder) bool { return x.Kind == y.Kind })
}

// as writes a figure the way another one was written in a target; typed is how the
// original writes it.
func as(was string, of figure, is figure, typed, tag string) (string, bool) {
	switch of.kind {
	case month, weekday:
		names := wordsOf(tag)
		if is.kind != of.kind || len(names.months) == 0 {
			return "", false
		}
		old, text := names.name(of.kind, of.name), names.name(is.kind, is.name)
		if !strings.EqualFold(old, was) {
			return "", false // inflected: the other one would be too
		}
		if was != old {
			text = strings.ToUpper(text[:1]) + text[1:]
		}
		return text, true
	case target, phoneNumber:
		return typed, is.kind == of.kind
	case perhapsWeekday:
		return "", false
	}
	if is.kind == month { // “28.11.” for “28 November”
		return digitsAs(was, strconv.Itoa(is.name)), digits.FindString(was) != ""
	}
	if is.kind != number && is.kind != clock {
		return "", false
	}
	return timeAs(was, of, is, typed)
}

func (l local) name(k kind, n int) string {
	if k == month {
		return l.months[n-1]
	}
	return l.weekdays[n][0]
}

// timeAs writes a number or a time with the marks and digits of another one.
func timeAs(was string, of, is figure, typed string) (string, bool) {
	plain, _ := plainDigits(was)
	parts := digits.FindAllString(plain, -1)
	if is.kind == number {
		if of.kind != number {
			return "", false
		}
		return digitsAs(was, strings.TrimSpace(typed)), len(parts) == 1 && !strings.ContainsAny(typed, ".,") || plain == typed
	}
	hour, minutes, _ := strings.Cut(is.is, "|")
	if before, _, _ := strings.Cut(of.is, "|"); parts[0] != before && strings.TrimLeft(parts[0], "0") != before {
		return "", false // on 12 hours, with words that say which half of the day
	}
	if minutes == "" {
		minutes = "00"
	}
	if len(parts[0]) == 2 && len(hour) == 1 && parts[0][0] == '0' {
		hour = "0" + hour
	}
	if len(parts) == 1 {
		return digitsAs(was, strings.Replace(plain, parts[0], hour, 1)), minutes == "00" // “18h” keeps its h
	}
	at := strings.Index(plain, parts[0]) + len(parts[0])
	mark := plain[at : strings.Index(plain[at:], parts[1])+at]
	return digitsAs(was, hour+mark+minutes), true
}

// digitsAs writes digits in the script in which others were written.
func digitsAs(was, text string) string {
	for _, r := range was {
		if r >= utf8.RuneSelf && unicode.IsDigit(r) {
			zero := r - digit(r)
			return strings.Map(func(d rune) rune {
				if d >= '0' && d <= '9' {
					return zero + d - '0'
				}
				return d
			}, text)
		}
	}
	return text
}
