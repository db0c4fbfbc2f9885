// Package wording says to the office, in English, what the core gives as codes with
// what they speak of. Words that recipients read are in core/phrase.
package wording

import (
	"fmt"
	"time"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
)

// problems are the words of each problem: %[1]s and so on are what it speaks of, in
// the order of the names.
var problems = map[plan.ProblemCode]struct {
	words string
	of    []string
}{
	plan.NoTesters:     {"Nobody is named to test emergencies. Name testers in the settings, or switch the exercise off.", nil},
	plan.NoAudience:    {"Nobody is chosen yet. Add a group, a role or a person.", nil},
	plan.NobodyLeft:    {"The parts come to nobody: there is no one in them, or everybody is left out again.", nil},
	plan.NobodyReached: {"Nobody can be reached this way: see who gets nothing, and why.", nil},
	plan.NothingToSay:  {"There is nothing to send yet. Write the message.", nil},
	plan.HalfQuestion:  {"The question needs at least two answers, each with words and without fields.", nil},
	plan.NotYours:      {"Your account may not write as %s.", []string{"as"}},
	plan.NotAllowed:    {"Your account may not write emergencies.", nil},
	plan.NoReason:      {"Say why it is an emergency; it stands in the record.", nil},
	plan.TooManyFiles:  {"There are %s files, and no more than %s can go with a message.", []string{"files", "most"}},
	plan.TooLarge: {
		"The files have %s together, and mailboxes here take at most %s; send a link to the largest instead.",
		[]string{"bytes", "most"},
	},
	plan.AskedFor:     {"The template asks for “%s”: write it in its place.", []string{"name"}},
	plan.UnknownField: {"There is no field “%s”. Fields are: %s.", []string{"name", "known"}},
	plan.NoLink: {
		"The push cannot open “%s”: it is no web address, which begins with https://.", []string{"link"},
	},
	plan.PushTooLarge: {
		"The push has %s for %s, and a device takes %s. Shorten it.", []string{"bytes", "people", "most"},
	},
	plan.MissingPart:   {"Part %s of the audience is no longer on the roster.", []string{"part"}},
	plan.NoFiles:       {"It says “%s”, but no file goes with it.", []string{"said"}},
	plan.PastDate:      {"“%s” is past.", []string{"said"}},
	plan.WrongWeekday:  {"“%s” is a %s.", []string{"said", "weekday"}},
	plan.EmptyField:    {"%s nothing because a field has nothing to fill it. %s", []string{"people get", "way out"}},
	plan.OverBudget:    {"It takes this month to %s of a budget of %s.", []string{"spent", "budget"}},
	plan.Unreached:     {"No channel reaches %s.", []string{"people"}},
	plan.NoSubject:     {"The email has no subject.", nil},
	plan.Clash:         {"%s goes to %s of these people too, on %s.", []string{"title", "count", "at"}},
	plan.PastTime:      {"%s is past; it leaves as soon as the hold is over.", []string{"at"}},
	plan.TwiceTime:     {"Clocks are put back that night: %s comes twice, and one of them is meant (%s).", []string{"time", "zone"}},
	plan.SomeExpire:    {"%s wait longer than until %s, after which nothing is to leave.", []string{"deliveries", "at"}},
	plan.NeverLeaves:   {"Nothing is free to leave before %s, after which nothing is to leave.", []string{"at"}},
	plan.AtNight:       {"It begins to leave at night, at %s.", []string{"time"}},
	plan.PublicHoliday: {"It leaves on a public holiday: %s.", []string{"name"}},
	plan.CopyDoubtful:  {"The %s copy has %s that nobody has read.", []string{"language", "doubtful"}},
	plan.FilesUnseen:   {"%s it without the %s, because not by email.", []string{"people get", "files"}},
	plan.OverLimit:     {"%s over the limit of %s in 7 days.", []string{"people go", "limit"}},
	plan.BigAudience:   {"That is a big audience: %s.", []string{"people"}},
}

// Problem says a problem of a plan in a sentence or two.
func Problem(p plan.Problem, s plan.Settings) string {
	known, ok := problems[p.Code]
	if !ok {
		return "Something is wrong: " + string(p.Code) + "."
	}
	values := make([]any, len(known.of))
	for i, name := range known.of {
		values[i] = said(p, name, s)
	}
	if len(values) == 0 {
		return known.words
	}
	return fmt.Sprintf(known.words, values...)
}

// said is one of the things that a problem speaks of, in words.
func said(p plan.Problem, name string, s plan.Settings) string {
	number := func(of string) int {
		n, _ := p.Params[of].(int)
		return n
	}
	at, _ := p.Params["at"].(time.Time)
	switch name {
	case "people":
		return plan.Count(number(name), "person", "people")
	case "people get":
		return plan.Count(number("people"), "person gets", "people get")
	case "doubtful":
		return plan.Count(number("lines"), "suspicious line", "suspicious lines")
	case "people go":
		return plan.Count(number("people"), "person goes", "people go")
	case "count":
		return plan.Thousands(number("people"))
	case "limit":
		return plan.Count(number(name), "message", "messages")
	case "way out":
		return plan.FieldEmpty.WayOut()
	case "at":
		return s.Moment(at)
	case "time":
		return at.Format("15:04")
	case "zone":
		return at.Format("MST")
	case "title":
		if title, _ := p.Params[name].(string); title != "" {
			return "“" + title + "”"
		}
		return "A message of another unit" // whose title the sender may not see
	}
	return saidOf(p, name, number(name), s)
}

// saidOf is a thing that different problems speak of in different words.
func saidOf(p plan.Problem, name string, n int, s plan.Settings) string {
	switch {
	case p.Code == plan.TooLarge:
		return attachment.Size(int64(n))
	case p.Code == plan.PushTooLarge && name == "bytes":
		return plan.Count(n, "byte", "bytes")
	case p.Code == plan.SomeExpire && name == "deliveries":
		return plan.Count(n, "delivery would have to", "deliveries would have to")
	case p.Code == plan.FilesUnseen && name == "files" && n == 1:
		return "file"
	case p.Code == plan.FilesUnseen && name == "files":
		return "files"
	}
	switch v := p.Params[name].(type) {
	case int:
		return plan.Thousands(v)
	case money.Amount:
		return v.Format(s.Currency)
	default:
		return fmt.Sprint(v)
	}
}
