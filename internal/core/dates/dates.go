// Package dates finds the dates that are written in a text, so that one which
// is past, or whose weekday does not fit, is noticed before it is sent. It
// reads English dates, ISO 8601, and day, month and year with dots or slashes.
package dates

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Found is a date in a text.
type Found struct {
	Text string    // as it is written
	Day  time.Time // midnight UTC of the day that is meant
	// Weekday is the one that is written with it; Named says whether there is one.
	Weekday time.Weekday
	Named   bool
}

const (
	weekdays = `(?:(mon|tues?|wed(?:nes)?|thu(?:rs?)?|fri|sat(?:ur)?|sun)(?:day)?,?\s+(?:the\s+)?)?`
	months   = `(jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?)\b\.?`
	day      = `([0-3]?[0-9])(?:st|nd|rd|th)?`
	year     = `(?:,?\s+(20[0-9]{2})\b)?`
)

var forms = []struct {
	pattern                   *regexp.Regexp
	weekday, day, month, year int // which groups hold them; 0 for none
}{
	{regexp.MustCompile(`(?i)\b` + weekdays + day + `\s+(?:of\s+)?` + months + year), 1, 2, 3, 4},
	{regexp.MustCompile(`(?i)\b` + weekdays + months + `\s+` + day + `\b` + year), 1, 3, 2, 4},
	{regexp.MustCompile(`\b(20[0-9]{2})-([01][0-9])-([0-3][0-9])\b`), 0, 3, 2, 1},
	{regexp.MustCompile(`(?i)\b` + weekdays + `([0-3]?[0-9])[./]([01]?[0-9])[./](20[0-9]{2})\b`), 1, 2, 3, 4},
}

var (
	weekdayNames = []string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}
	monthNames   = []string{"jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"}
)

// Find lists the dates in a text, in order. A date without a year is the one
// that is nearest to today.
func Find(text string, today time.Time) []Found {
	type at struct {
		from int
		Found
	}
	var list []at
	for _, form := range forms {
		for _, m := range form.pattern.FindAllStringSubmatchIndex(text, -1) {
			group := func(n int) string {
				if n == 0 || m[2*n] < 0 {
					return ""
				}
				return strings.ToLower(text[m[2*n]:m[2*n+1]])
			}
			f := Found{Text: strings.TrimRight(text[m[0]:m[1]], " .,")}
			var ok bool
			if f.Day, ok = dayOf(group(form.day), group(form.month), group(form.year), today); !ok {
				continue
			}
			if name := group(form.weekday); name != "" {
				f.Named, f.Weekday = true, time.Weekday(slices.Index(weekdayNames, name[:3]))
			}
			list = append(list, at{m[0], f})
		}
	}
	slices.SortStableFunc(list, func(a, b at) int { return a.from - b.from })
	found := make([]Found, len(list))
	for i := range list {
		found[i] = list[i].Found
	}
	return found
}

func dayOf(day, month, year string, today time.Time) (time.Time, bool) {
	d, _ := strconv.Atoi(day)
	m, err := strconv.Atoi(month)
	if err != nil {
		m = slices.Index(monthNames, month[:3]) + 1
	}
	y, err := strconv.Atoi(year)
	if err == nil {
		return real(y, m, d)
	}
	var best time.Time
	for _, y := range []int{today.Year() - 1, today.Year(), today.Year() + 1} {
		one, ok := real(y, m, d)
		if ok && (best.IsZero() || one.Sub(today).Abs() < best.Sub(today).Abs()) {
			best = one
		}
	}
	return best, !best.IsZero()
}

// real is a day that there is: no 30 February.
func real(y, m, d int) (time.Time, bool) {
	t := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	return t, t.Day() == d && int(t.Month()) == m
}

// OddDate is a date of a text with which something is wrong: it is past, or its
// weekday is another one.
type OddDate struct {
	Found
	Past bool
}

// Odd lists the dates of a text with which something is wrong, seen from a day; each
// that is written alike once.
func Odd(text string, today time.Time) []OddDate {
	today = time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, time.UTC)
	var odd []OddDate
	for _, f := range Find(text, today) {
		wrong := f.Named && f.Weekday != f.Day.Weekday()
		said := slices.ContainsFunc(odd, func(o OddDate) bool { return o.Text == f.Text })
		if !said && (wrong || f.Day.Before(today)) {
			odd = append(odd, OddDate{Found: f, Past: !wrong})
		}
	}
	return odd
}
