package dates

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Typed is a day and a time as somebody typed them.
type Typed struct {
	Day    time.Time // midnight UTC; the zero time if none was typed
	Minute int       // of the day
	Timed  bool      // whether a time was typed
}

// ErrUnread means that what was typed is neither a day nor a time.
var ErrUnread = errors.New("this is no day or time; write it like 28 Nov 2026, 18:00, or tomorrow 7:30")

var (
	clockTime = regexp.MustCompile(`(?i)(?:^|[\s,T])(?:at\s+)?([01]?[0-9]|2[0-3])(?:[:.h]([0-5][0-9]))?\s*(am|pm)?$`)
	clockLead = regexp.MustCompile(`(?i)^([01]?[0-9]|2[0-3])(?:[:.h]([0-5][0-9])\s*(am|pm)?|\s*(am|pm))[\s,]+`)
	isoDay    = regexp.MustCompile(`^([0-9]{4})-([0-9]{1,2})-([0-9]{1,2})$`)
	numberDay = regexp.MustCompile(`^([0-9]{1,2})\s*[./-]\s*([0-9]{1,2})(?:\s*[./-]\s*([0-9]{4})?)?$`)
	nameDay   = regexp.MustCompile(`(?i)^` + weekdays + day + `\s+(?:of\s+)?` + months + `(?:,?\s+([0-9]{4}))?$`)
	dayName   = regexp.MustCompile(`(?i)^` + weekdays + months + `\s+` + day + `(?:,?\s+([0-9]{4}))?$`)
	onWeekday = regexp.MustCompile(`(?i)^(?:on\s+|next\s+)?(mon|tues?|wed(?:nes)?|thu(?:rs?)?|fri|sat(?:ur)?|sun)(?:day)?$`)
)

// longestTyped is more than any day and time take.
const longestTyped = 60

const minutesOfHour = 60

// Read reads a day, a time, or both. Today is the day on which it is typed, at
// midnight UTC. A day without a year is the next one; in numbers the month
// comes first only if monthFirst. ErrUnread is for everything else.
func Read(text string, today time.Time, monthFirst bool) (Typed, error) {
	text = strings.Join(strings.Fields(text), " ")
	if text == "" || len(text) > longestTyped {
		return Typed{}, ErrUnread
	}
	t, rest, err := cutTime(text)
	if err != nil {
		return Typed{}, err
	}
	if rest == "" {
		return t, nil
	}
	if t.Day, err = readDay(rest, today, monthFirst); err != nil {
		return Typed{}, err
	}
	return t, nil
}

// cutTime takes a time from the end or the start of a text. A number alone at
// the end is a time only if nothing else could be meant by it.
func cutTime(text string) (Typed, string, error) {
	if m := clockLead.FindStringSubmatch(text); m != nil {
		t, err := timeOf(m[1], m[2], m[3]+m[4])
		return t, strings.TrimSpace(text[len(m[0]):]), err
	}
	m := clockTime.FindStringSubmatchIndex(text)
	if m == nil {
		return Typed{}, text, nil
	}
	group := func(n int) string {
		if m[2*n] < 0 {
			return ""
		}
		return text[m[2*n]:m[2*n+1]]
	}
	rest := strings.Trim(text[:m[0]], " ,")
	if strings.HasSuffix(strings.ToLower(rest), " at") {
		rest = rest[:len(rest)-len(" at")]
	}
	bare := group(2) == "" && group(3) == ""
	dotted := strings.Contains(text[m[2]:m[1]], ".") && group(3) == "" // 28.11 is a day
	if bare || dotted && rest == "" && !plainTime(group(2)) {
		return Typed{}, text, nil
	}
	t, err := timeOf(group(1), group(2), group(3))
	return t, rest, err
}

// plainTime tells 18.00 from 28.11: the second number is no month.
func plainTime(minute string) bool {
	n, err := strconv.Atoi(minute)
	return err == nil && (n == 0 || n > int(time.December))
}

func timeOf(hour, minute, half string) (Typed, error) {
	h, _ := strconv.Atoi(hour)
	m, _ := strconv.Atoi(minute)
	if half != "" {
		if h < 1 || h > 12 {
			return Typed{}, ErrUnread
		}
		h %= 12
		if strings.EqualFold(half, "pm") {
			h += 12
		}
	}
	return Typed{Minute: h*minutesOfHour + m, Timed: true}, nil
}

func readDay(text string, today time.Time, monthFirst bool) (time.Time, error) {
	switch strings.ToLower(text) {
	case "today":
		return today, nil
	case "tomorrow":
		return today.AddDate(0, 0, 1), nil
	}
	if m := onWeekday.FindStringSubmatch(text); m != nil {
		wanted := slices.Index(weekdayNames, strings.ToLower(m[1][:3]))
		ahead := (wanted-int(today.Weekday())+7-1)%7 + 1 // the next one, never today
		return today.AddDate(0, 0, ahead), nil
	}
	if m := isoDay.FindStringSubmatch(text); m != nil {
		return dayFrom(text, m[3], m[2], m[1], "", today)
	}
	if m := numberDay.FindStringSubmatch(text); m != nil {
		if monthFirst {
			m[1], m[2] = m[2], m[1]
		}
		return dayFrom(text, m[1], m[2], m[3], "", today)
	}
	if m := nameDay.FindStringSubmatch(text); m != nil {
		return dayFrom(text, m[2], m[3], m[4], m[1], today)
	}
	if m := dayName.FindStringSubmatch(text); m != nil {
		return dayFrom(text, m[3], m[2], m[4], m[1], today)
	}
	return time.Time{}, ErrUnread
}

// dayFrom is a day that there is. Without a year it is the next one from today on.
func dayFrom(text, day, month, year, weekday string, today time.Time) (time.Time, error) {
	d, _ := strconv.Atoi(day)
	m, err := strconv.Atoi(month)
	if err != nil {
		m = slices.Index(monthNames, strings.ToLower(month)[:3]) + 1
	}
	years := []int{today.Year(), today.Year() + 1, today.Year() + 2, today.Year() + 3, today.Year() + 4}
	if y, err := strconv.Atoi(year); err == nil {
		years = []int{y}
	}
	for _, y := range years {
		t, ok := real(y, m, d)
		if !ok || year == "" && t.Before(today) {
			continue
		}
		if name := strings.ToLower(weekday); name != "" && year != "" && weekdayNames[t.Weekday()] != name[:3] {
			return time.Time{}, fmt.Errorf("%s is a %s", t.Format("2 January 2006"), t.Weekday())
		}
		return t, nil
	}
	return time.Time{}, fmt.Errorf("there is no day %s", text)
}

// Usual are moments that are often meant, seen from a moment on the
// organisation's clocks. Each is written so that Read understands it.
func Usual(now time.Time) []string {
	const evening, lastChance = 18, 17
	var list []string
	if now.Hour() < lastChance {
		list = append(list, fmt.Sprintf("today %d:00", evening))
	}
	list = append(list, "tomorrow 07:30", fmt.Sprintf("tomorrow %d:00", evening))
	if now.AddDate(0, 0, 1).Weekday() != time.Monday {
		list = append(list, "Monday 07:30")
	}
	return list
}
