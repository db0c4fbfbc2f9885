package intake

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/unicode/norm"

	"upperlantern/internal/core/roster"
)

// DateOrder says in which order days and months stand where only digits tell.
type DateOrder string

// The orders; the empty one is to be found out.
const (
	DayFirst   DateOrder = "day-first"
	MonthFirst DateOrder = "month-first"
)

// DateOrders are all of them.
var DateOrders = []DateOrder{DayFirst, MonthFirst}

var (
	yearFirst = regexp.MustCompile(`^(\d{4})\s*[-/.年년]\s*(\d{1,2})\s*[-/.月월]\s*(\d{1,2})\s*[日일]?`)
	compact   = regexp.MustCompile(`^(\d{4})(\d{2})(\d{2})$`)
	yearLast  = regexp.MustCompile(`^(\d{1,2})\s*([-/.])\s*(\d{1,2})\s*[-/.]\s*(\d{4}|\d{2})$`)
	dateWord  = regexp.MustCompile(`\d+|[\p{L}\p{M}]+`)
	clockTime = regexp.MustCompile(`[T\s]\s*\d{1,2}:\d{2}(:\d{2})?(\.\d+)?\s*(Z|[AaPp][Mm]|[+-]\d{2}:?\d{2})?$`)
)

// parts of a date of which only digits tell: the first two may be a day and a month in
// either order.
type parts struct{ first, second, year int }

// open takes a date apart whose order only other dates can tell.
func open(cell string) (p parts, ok bool) {
	m := yearLast.FindStringSubmatch(withoutTime(cell))
	if m == nil || m[2] == "." {
		return p, false
	}
	p.first, p.second, p.year = number(m[1]), number(m[3]), number(m[4])
	return p, p.first > 0 && p.second > 0
}

func number(digits string) int {
	n, _ := strconv.Atoi(digits) // it is short, and of digits
	return n
}

func withoutTime(cell string) string {
	return strings.TrimSpace(clockTime.ReplaceAllString(strings.TrimSpace(norm.NFKC.String(cell)), ""))
}

// orderOf finds the order of the dates of a column. It is not certain where none of
// them decides, though some could be read both ways, or where they contradict.
func orderOf(cells []string) (order DateOrder, certain bool, example string) {
	days, months := 0, 0
	for _, cell := range cells {
		p, ok := open(cell)
		switch {
		case !ok:
		case p.first > 12 && p.second <= 12:
			days++
		case p.second > 12 && p.first <= 12:
			months++
		case p.first != p.second && example == "":
			example = strings.TrimSpace(cell)
		}
	}
	switch {
	case days > 0 && months == 0:
		return DayFirst, true, ""
	case months > 0 && days == 0:
		return MonthFirst, true, ""
	case days == 0 && example == "":
		return DayFirst, true, ""
	}
	return "", false, example
}

// readDate reads a day in one of the usual forms; today tells whether a year of two
// digits is of this century.
func readDate(cell string, order DateOrder, today roster.Date) (roster.Date, bool) {
	cell = withoutTime(cell)
	if m := compact.FindStringSubmatch(cell); m != nil {
		return day(number(m[1]), number(m[2]), number(m[3]))
	}
	if m := yearFirst.FindStringSubmatch(cell); m != nil && m[0] == cell {
		return day(number(m[1]), number(m[2]), number(m[3]))
	}
	if m := yearLast.FindStringSubmatch(cell); m != nil {
		d, month := number(m[1]), number(m[3])
		if order == MonthFirst && m[2] != "." {
			d, month = month, d
		}
		return day(century(m[4], today), month, d)
	}
	return written(cell, today)
}

// century completes a year of two digits: the latest that is not after today.
func century(digits string, today roster.Date) int {
	year := number(digits)
	if len(digits) > 2 {
		return year
	}
	if t, err := time.Parse(time.DateOnly, string(today)); err == nil && 2000+year > t.Year() {
		return 1900 + year
	}
	return 2000 + year
}

// written reads a date whose month is a word: a day, a month and a year in any order,
// and little besides.
func written(cell string, today roster.Date) (roster.Date, bool) {
	month, d, year, others := 0, 0, 0, 0
	words := dateWord.FindAllString(strings.ToLower(cell), -1)
	for i, w := range words {
		n, err := strconv.Atoi(w)
		switch {
		case err == nil && month == 0 && i > 0 && words[i-1] == "tháng":
			month = n
		case err == nil && len(w) == 4:
			year = n
		case err == nil && d == 0:
			d = n
		case err == nil && year == 0:
			year = century(w, today)
		case err == nil:
			return "", false
		case monthNames[w] > 0 && month == 0:
			month = monthNames[w]
		case !beside[w]:
			others++
		}
	}
	if others > 1 || month == 0 { // a weekday may stand beside
		return "", false
	}
	return day(year, month, d)
}

func day(year, month, d int) (roster.Date, bool) {
	text := fmt.Sprintf("%04d-%02d-%02d", year, month, d)
	if _, err := time.Parse(time.DateOnly, text); err != nil || year < 1800 {
		return "", false
	}
	return roster.Date(text), true
}

// beside are words that stand between the parts of a date.
var beside = map[string]bool{
	"of": true, "de": true, "del": true, "do": true, "th": true, "st": true, "nd": true, "rd": true, "er": true, "den": true,
	"the": true, "r": true, "року": true, "года": true, "г": true, "р": true, "ngày": true, "tháng": true, "năm": true,
}

// monthNames are the months as dates name them, whole and short, in the languages of
// headings.
var monthNames = months(
	"january jan", "february feb", "march mar", "april apr", "may", "june jun", "july jul", "august aug",
	"september sep sept", "october oct", "november nov", "december dec",
).and(
	"januar jän jänner", "februar feber", "märz mär mrz", "april", "mai", "juni", "juli", "august", "september", "oktober okt",
	"november", "dezember dez",
).and(
	"janvier janv", "février févr fév", "mars", "avril avr", "mai", "juin", "juillet juil", "août", "septembre",
	"octobre", "novembre", "décembre déc",
).and(
	"enero ene", "febrero", "marzo", "abril abr", "mayo", "junio", "julio", "agosto ago", "septiembre setiembre",
	"octubre", "noviembre", "diciembre dic",
).and(
	"janeiro", "fevereiro fev", "março", "abril", "maio", "junho", "julho", "agosto", "setembro set", "outubro out",
	"novembro", "dezembro",
).and(
	"gennaio gen", "febbraio", "marzo", "aprile", "maggio mag", "giugno giu", "luglio lug", "agosto", "settembre",
	"ottobre ott", "novembre", "dicembre",
).and(
	"januari", "februari", "maart mrt", "april", "mei", "juni", "juli", "augustus", "september", "oktober", "november",
	"december",
).and(
	"stycznia styczeń sty", "lutego luty lut", "marca marzec", "kwietnia kwiecień kwi", "maja maj", "czerwca czerwiec cze",
	"lipca lipiec lip", "sierpnia sierpień sie", "września wrzesień wrz", "października październik paź",
	"listopada", "grudnia grudzień gru",
).and(
	"ledna leden", "února únor", "března březen", "dubna duben", "května květen", "června červen", "července červenec",
	"srpna srpen", "září", "října říjen", "listopadu", "prosince prosinec",
).and(
	"січня січень", "лютого лютий", "березня березень", "квітня квітень", "травня травень", "червня червень",
	"липня липень", "серпня серпень", "вересня вересень", "жовтня жовтень", "листопада листопад", "грудня грудень",
).and(
	"января январь", "февраля февраль", "марта март", "апреля апрель", "мая май", "июня июнь", "июля июль",
	"августа август", "сентября сентябрь", "октября октябрь", "ноября ноябрь", "декабря декабрь",
).and(
	"jannaayo", "febraayo", "maarso", "abriil", "maajo mey", "juun", "luulyo", "agoosto", "sebtembar", "oktoobar",
	"nofembar", "desembar diseembar",
).and(
	"يناير", "فبراير", "مارس", "أبريل", "مايو", "يونيو", "يوليو", "أغسطس", "سبتمبر", "أكتوبر", "نوفمبر", "ديسمبر",
)

type monthTable map[string]int

func months(names ...string) monthTable { return monthTable{}.and(names...) }

func (t monthTable) and(names ...string) monthTable {
	for i, forms := range names {
		for _, form := range strings.Fields(forms) {
			t[form] = i + 1
		}
	}
	return t
}
