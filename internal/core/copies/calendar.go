package copies

import (
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/language"

	"upperlantern/internal/core/phrase"
)

// local are the words for times and days of a language.
type local struct {
	months   []string   // January first, in lower case; none when the language is not known
	weekdays [][]string // Sunday first, each in all its forms
	short    [][]string // words that may mean a weekday, or something else
	am, pm   []string
}

// halves are the words for before and after noon, by the base of the language.
var halves = map[string]struct{ am, pm []string }{
	"en": {[]string{"am", "a.m.", "in the morning"}, []string{"pm", "p.m.", "in the evening", "in the afternoon"}},
	"es": {[]string{"a. m.", "a.m.", "am", "de la mañana"}, []string{"p. m.", "p.m.", "pm", "de la tarde", "de la noche"}},
	"pt": {[]string{"da manhã"}, []string{"da tarde", "da noite"}},
	"pl": {[]string{"rano"}, []string{"po południu", "wieczorem"}},
	"uk": {[]string{"ранку", "дп"}, []string{"дня", "вечора", "пп"}},
	"ar": {[]string{"صباحًا", "صباحا", "ص"}, []string{"مساءً", "مساء", "م", "بعد الظهر"}},
	"vi": {[]string{"sáng", "sa"}, []string{"chiều", "tối", "trưa", "ch"}},
	"zh": {[]string{"上午", "早上", "凌晨"}, []string{"下午", "晚上", "中午"}},
	"so": {[]string{"subaxnimo", "gn"}, []string{"galabnimo", "habeennimo", "gd"}},
}

// forms are further forms of the weekdays, Sunday first.
var forms = map[string][][]string{
	"en": {{"sundays"}, {"mondays"}, {"tuesdays"}, {"wednesdays"}, {"thursdays"}, {"fridays"}, {"saturdays"}},
	"es": {{"domingos"}, {}, {}, {}, {}, {}, {"sábados"}},
	"pl": {
		{"niedzielę", "niedzieli", "niedziele"}, {"poniedziałku", "poniedziałki"}, {"wtorku", "wtorki"},
		{"środę", "środy", "środzie"}, {"czwartku", "czwartki"}, {"piątku", "piątki"}, {"sobotę", "soboty", "sobocie"},
	},
	"uk": {
		{"неділю", "неділі"}, {"понеділка", "понеділки"}, {"вівторка", "вівторки"}, {"середу", "середи"},
		{"четверга", "четверги"}, {"п'ятницю", "п'ятниці", "п'ятниця", "п’ятницю", "п’ятниці", "п’ятниця"}, {"суботу", "суботи"},
	},
	"ar": {{}, {"الإثنين", "الاثنين"}, {}, {"الاربعاء"}, {}, {}, {}},
	"zh": {{"周日", "星期天"}, {"周一"}, {"周二"}, {"周三"}, {"周四"}, {"周五"}, {"周六"}},
	"vi": {{}, {"thứ 2"}, {"thứ 3"}, {"thứ 4"}, {"thứ 5"}, {"thứ 6"}, {"thứ 7"}},
}

// shortForms are ordinals as well. Those that end with * are the beginnings of words:
// “sobotni” is “of Saturday”, and “środowisko” is no Wednesday.
var shortForms = map[string][][]string{
	"pt": {{}, {"segunda"}, {"terça"}, {"quarta"}, {"quinta"}, {"sexta"}, {}},
	"pl": {{"niedziel*"}, {"poniedział*"}, {"wtork*"}, {"środ*"}, {"czwartk*"}, {"piątk*"}, {"sobot*"}},
	"uk": {{"неділь*"}, {"понеділ*"}, {"вівтор*"}, {"серед*"}, {"четвер*"}, {"п'ятни*", "п’ятни*"}, {"субот*"}},
	"so": {{"axad*"}, {"isniin*"}, {"talaad*"}, {"arbac*"}, {"khamiis*"}, {"jimc*"}, {"sabti*"}},
}

var known = knownLocals()

func knownLocals() map[string]local {
	list := map[string]local{}
	for _, tag := range phrase.Languages() {
		base, _ := language.Make(tag).Base()
		l := local{short: shortForms[base.String()]}
		l.am, l.pm = halves[base.String()].am, halves[base.String()].pm
		for m := time.January; m <= time.December; m++ {
			l.months = append(l.months, strings.ToLower(phrase.Month(tag, m)))
		}
		for d := time.Sunday; d <= time.Saturday; d++ {
			all := []string{strings.ToLower(phrase.Weekday(tag, d))}
			if own := forms[base.String()]; own != nil {
				all = append(all, own[d]...)
			}
			slices.Sort(all)
			all = slices.Compact(all) // or it would count twice
			l.weekdays = append(l.weekdays, all)
		}
		list[tag] = l
	}
	return list
}

func wordsOf(tag string) local {
	words := phrase.In(tag)
	if SameLanguage(words.Tag, tag) {
		return known[words.Tag]
	}
	return local{}
}

const (
	halfBefore = 16 // bytes before a time in which its half of the day is said
	halfAfter  = 40
)

// half is “am” or “pm” if a time says in which half of the day it is.
func (l local) half(text string, from, to int) string {
	after := strings.TrimLeft(text[to:min(len(text), to+halfAfter)], " \u00a0\u202f")
	before := strings.TrimRight(text[max(0, from-halfBefore):from], " \u00a0\u202f")
	says := func(list []string) bool {
		return slices.ContainsFunc(list, func(w string) bool {
			rest, found := cutFold(after, w)
			next, _ := utf8.DecodeRuneInString(rest)
			return found && !unicode.IsLetter(next) || w[0] >= utf8.RuneSelf && strings.HasSuffix(before, w)
		})
	}
	switch {
	case says(l.pm):
		return "pm"
	case says(l.am):
		return "am"
	}
	return ""
}

func cutFold(text, prefix string) (string, bool) {
	if len(text) < len(prefix) || !strings.EqualFold(text[:len(prefix)], prefix) {
		return "", false
	}
	return text[len(prefix):], true
}

// time is what a time means, on 24 hours if it says in which half of the day it is.
func (l local) time(text string, from, to int) string {
	parts := digits.FindAllString(text[from:to], -1)
	hour, _ := strconv.Atoi(parts[0])
	switch half := l.half(text, from, to); {
	case half == "pm" && hour < 12:
		hour += 12
	case half == "am" && hour == 12:
		hour = 0
	}
	if len(parts) == 1 {
		return strconv.Itoa(hour)
	}
	return pair(strconv.Itoa(hour), parts[1])
}

// named finds months beside a number, and weekdays. A month is the number it has.
func (l local) named(text string, at []int, numbers []figure) []figure {
	var list []figure
	for i, name := range l.months {
		if strings.ContainsAny(name, "0123456789") {
			continue // its number is one already
		}
		for _, place := range find(text, name) {
			from, to := at[place[0]], at[place[1]]
			if besideNumber(from, to, numbers) {
				list = append(list, figure{from: from, to: to, kind: month, is: strconv.Itoa(i + 1), name: i + 1})
			}
		}
	}
	days := func(names [][]string, k kind) {
		for i, forms := range names {
			for _, name := range forms {
				for _, place := range find(text, name) {
					is := "weekday " + strconv.Itoa(i)
					list = append(list, figure{from: at[place[0]], to: at[place[1]], kind: k, is: is, name: i})
				}
			}
		}
	}
	days(l.weekdays, weekday)
	days(l.short, perhapsWeekday)
	return list
}

const besideAtMost = 6 // bytes between a month and its number: “28 de noviembre”, “28th of”

func besideNumber(from, to int, numbers []figure) bool {
	return slices.ContainsFunc(numbers, func(n figure) bool {
		return n.kind == number && (n.from >= to && n.from-to <= besideAtMost || from >= n.to && from-n.to <= besideAtMost)
	})
}

// find lists where a name stands as a word of its own; one that ends with * as the
// beginning of one.
func find(text, name string) [][2]int {
	lower := strings.ToLower(text)
	name, begins := strings.CutSuffix(name, "*")
	if name == "" || len(lower) != len(text) {
		return nil
	}
	first, _ := utf8.DecodeRuneInString(name)
	glued := unicode.Is(unicode.Han, first)              // no spaces between words
	joined := glued || unicode.Is(unicode.Arabic, first) // “and” and “on” stand before it without one
	var list [][2]int
	for from := 0; ; {
		i := strings.Index(lower[from:], name)
		if i < 0 {
			return list
		}
		begin, end := from+i, from+i+len(name)
		from = end
		before, _ := utf8.DecodeLastRuneInString(lower[:begin])
		after, _ := utf8.DecodeRuneInString(lower[end:])
		if (joined || !unicode.IsLetter(before)) && (glued || begins || !unicode.IsLetter(after) && !unicode.IsDigit(after)) {
			list = append(list, [2]int{begin, end})
		}
	}
}
