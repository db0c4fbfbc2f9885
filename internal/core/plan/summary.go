package plan

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"golang.org/x/text/language"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
)

// Summary holds the figures of a plan.
type Summary struct {
	Recipients int             // people who get the message
	LeftOut    []ReasonCount   // only reasons that occur
	Nobody     int             // people who get nothing, in all
	Told       int             // dependents who are told through a guardian; nobody else counts them
	Steps      []StepCount     // one for each step, used or not
	Channels   []ChannelCount  // one for each channel that carries something
	Languages  []LanguageCount // most first
	Meter      Meter           // the text as it is rendered
	Cost       money.Amount    // of all deliveries
	Deliveries int             // in all
	Shared     int             // recipients beyond the first of a delivery
	Overridden int             // people whose withheld consent an emergency overrides
	Wished     int             // people reached by the channel they asked for first
	Load       LoadSummary
	First      time.Time // when the first delivery may leave
	Last       time.Time // when the last one may
	Waits      []Wait    // what waits for quiet hours to end
	Confirm    bool      // it must be confirmed: by the number of people, or somebody else
	Problems   []Problem // what keeps it from being sent, then warnings
}

// ReasonCount is how many people get nothing for one reason.
type ReasonCount struct {
	Reason Reason
	People int
}

// StepCount is how many people are reached on one step.
type StepCount struct {
	Channels []roster.Channel
	People   int
}

// ChannelCount is what one channel carries. Seconds is the longest call, Bytes
// the largest push.
type ChannelCount struct {
	Channel    roster.Channel
	People     int
	Deliveries int
	Parts      int
	Seconds    int
	Bytes      int
	Cost       money.Amount
}

// LanguageCount is how many recipients prefer a language. Tag is "" for those
// whose language is unknown.
type LanguageCount struct {
	Tag    string
	People int
	Reads  bool   // whether the message is written in it
	Got    string // the language of the copy that they get; "" for the original
}

// Meter measures the text as rendered for those who get it by text, or, when
// nobody does, as it is written.
type Meter struct {
	Alphabet segment.Alphabet // UCS2 when any text needs it
	Least    int              // parts of the shortest text
	Most     int              // parts of the longest text
	Total    int              // parts of all texts
	Room     int              // units left in the last part of the longest text
	Forces   []segment.Forcing
	Saves    int // parts that the fair replacements would save
	// Shorten is how many units less would save parts, and Shortened how many
	// parts; 0 when no text is over a part by so little.
	Shorten, Shortened int
}

// littleOver is up to how many units a text is over a part by little.
const littleOver = 15

// Summarise works out the figures.
func (p *Plan) Summarise(r *roster.Roster) Summary {
	s := Summary{Recipients: len(p.Recipients), Nobody: len(p.LeftOut), Told: len(p.Told), Deliveries: len(p.Deliveries)}
	s.LeftOut = p.reasons()
	s.Steps = p.steps()
	s.Languages = p.languages(r)
	s.Meter = p.meter()
	s.Load = p.summariseLoad(r)
	s.First, s.Last, s.Waits = p.First(), p.last(), p.waits()
	s.Confirm = p.Draft.Urgency == roster.Emergency || s.Recipients >= p.Settings.Sending.Big()
	for _, rec := range p.Recipients {
		if rec.Overridden {
			s.Overridden++
		}
		if rec.Wished {
			s.Wished++
		}
	}
	byChannel := map[roster.Channel]*ChannelCount{}
	for _, c := range roster.Channels {
		byChannel[c] = &ChannelCount{Channel: c, People: p.peopleBy(c)}
	}
	for _, d := range p.Deliveries {
		c := byChannel[d.Channel]
		c.Deliveries++
		c.Parts += d.Count.Parts
		c.Seconds = max(c.Seconds, d.Seconds)
		c.Bytes = max(c.Bytes, d.Bytes)
		c.Cost += d.Cost
		s.Cost += d.Cost
		s.Shared += len(d.Recipients) - 1
	}
	for _, c := range roster.Channels {
		if byChannel[c].Deliveries > 0 {
			s.Channels = append(s.Channels, *byChannel[c])
		}
	}
	s.Problems = p.problems(r, s)
	return s
}

// Blocked returns the first problem that keeps the plan from being sent.
func (s Summary) Blocked() (Problem, bool) {
	i := slices.IndexFunc(s.Problems, func(p Problem) bool { return p.Blocks })
	if i < 0 {
		return Problem{}, false
	}
	return s.Problems[i], true
}

func (p *Plan) peopleBy(c roster.Channel) int {
	n := 0
	for _, rec := range p.Recipients {
		if slices.ContainsFunc(rec.Deliveries, func(d int) bool { return p.Deliveries[d].Channel == c }) {
			n++
		}
	}
	return n
}

func (p *Plan) reasons() []ReasonCount {
	counts := map[Reason]int{}
	for _, l := range p.LeftOut {
		counts[l.Reason]++
	}
	var list []ReasonCount
	for _, reason := range Reasons {
		if counts[reason] > 0 {
			list = append(list, ReasonCount{reason, counts[reason]})
		}
	}
	return list
}

func (p *Plan) steps() []StepCount {
	list := make([]StepCount, len(p.Steps))
	for i, step := range p.Steps {
		list[i].Channels = step
	}
	for _, rec := range p.Recipients {
		list[rec.Step-1].People++
	}
	return list
}

func (p *Plan) languages(r *roster.Roster) []LanguageCount {
	type use struct{ reads, got string }
	people := map[use]int{}
	for _, rec := range p.Recipients {
		people[use{r.At(rec.Person).Language, rec.Copy}]++
	}
	list := make([]LanguageCount, 0, len(people))
	for u, n := range people {
		list = append(list, LanguageCount{Tag: u.reads, Got: u.got, People: n})
	}
	return CountLanguages(list, p.Settings.Language)
}

// CountLanguages says which languages a message is written in among those that people
// prefer, the most preferred first.
func CountLanguages(list []LanguageCount, writtenIn string) []LanguageCount {
	for i, l := range list {
		list[i].Reads = reads(l.Tag, writtenIn)
	}
	slices.SortFunc(list, func(a, b LanguageCount) int {
		return cmp.Or(b.People-a.People, strings.Compare(a.Tag, b.Tag), strings.Compare(a.Got, b.Got))
	})
	return list
}

func (p *Plan) meter() Meter {
	body := p.Draft.TextBody()
	m := Meter{Alphabet: segment.GSM7, Forces: segment.Forces(body)}
	fair := slices.ContainsFunc(m.Forces, func(f segment.Forcing) bool { return f.Replacement != "" })
	for _, d := range p.Deliveries {
		if d.Channel == roster.Text {
			m.add(d.Count)
			if d.Language == p.Settings.Language {
				m.advise(d.Body, d.Count, fair)
			}
		}
	}
	if m.Total == 0 && body != "" {
		m.add(segment.Measure(body))
		m.advise(body, segment.Measure(body), fair)
	}
	return m
}

func (m *Meter) add(c segment.Count) {
	if c.Alphabet == segment.UCS2 {
		m.Alphabet = segment.UCS2
	}
	if m.Least == 0 || c.Parts < m.Least {
		m.Least = c.Parts
	}
	if c.Parts > m.Most || c.Parts == m.Most && c.Room < m.Room {
		m.Most, m.Room = c.Parts, c.Room
	}
	m.Total += c.Parts
}

// advise counts what other characters and fewer of them would save. That is said of
// the original only: what is changed in it changes no copy.
func (m *Meter) advise(body string, c segment.Count, fair bool) {
	if fair && c.Alphabet == segment.UCS2 {
		m.Saves += c.Parts - segment.MeasureReplaced(body).Parts
	}
	if over := c.Over(); over > 0 && over <= littleOver {
		m.Shorten = max(m.Shorten, over)
		m.Shortened++
	}
}

// Swapped is a text with the fair replacements, if they would help: every
// character that forces the long alphabet must have one.
func (m Meter) Swapped(text string) string {
	for _, f := range m.Forces {
		if f.Replacement == "" {
			return text
		}
	}
	return segment.Replace(text)
}

// Asked are the people behind a figure: any that is set must fit.
type Asked struct {
	Step       int    // those who are reached on a step, from 1
	Channel    string // those who are reached by a channel
	Language   string // those who prefer a language; “other” for one in which they do not get it
	Copy       string // those who get a copy
	From       string // those who hear from a name or a number
	Over       bool   // those whom it takes over the weekly limit
	Wished     bool   // those who are reached by the channel they asked for first
	Overridden bool   // those whose withheld consent an emergency overrides
	Quiet      bool   // those for whom something waits for quiet hours to end
}

// Fits reports whether a recipient is among the people behind a figure.
func (p *Plan) Fits(r *roster.Roster, rec Recipient, a Asked) bool {
	any := func(holds func(Delivery) bool) bool {
		return slices.ContainsFunc(rec.Deliveries, func(i int) bool { return holds(p.Deliveries[i]) })
	}
	who := r.At(rec.Person)
	return a != (Asked{}) &&
		(a.Step == 0 || a.Step == rec.Step) &&
		(a.Channel == "" || any(func(d Delivery) bool { return string(d.Channel) == a.Channel })) &&
		(a.Language == "" || a.Language == who.Language || a.Language == "other" && rec.Copy == "" && !reads(who.Language, p.Settings.Language)) &&
		(a.Copy == "" || a.Copy == rec.Copy) &&
		(a.From == "" || any(func(d Delivery) bool { return d.Sender == a.From })) &&
		(!a.Over || p.Over(who.ID)) && (!a.Wished || rec.Wished) && (!a.Overridden || rec.Overridden) &&
		(!a.Quiet || any(func(d Delivery) bool { return d.Quiet }))
}

// reads reports whether somebody who prefers a language reads another one; of
// somebody whose language is not known it is assumed.
func reads(tag, writtenIn string) bool {
	base, _ := language.Make(tag).Base()
	written, _ := language.Make(writtenIn).Base()
	return tag == "" || base == written
}
