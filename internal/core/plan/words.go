package plan

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
)

// reasonWords say why somebody gets nothing, and what to do about it.
var reasonWords = map[Reason]struct{ sentence, wayOut string }{
	NoAddress:           {"no way to reach them on file", "Ask for their details and add them to the roster file."},
	NoGuardian:          {"no guardian on file who receives for them", "Add a guardian on the roster, or let them receive it themselves."},
	AllDead:             {"every address has failed before", "Ask for a new address."},
	FieldEmpty:          {"a field in the message has nothing to fill it", "Give the field other words: {{dependents, else your rower}}."},
	OptedOut:            {"asked not to get such messages", "Respect it, or tell them in person."},
	NoContent:           {"no content for the channels they have", "Put their channel on a step and write something for it."},
	NoCarrier:           {"only reached by a channel that nothing carries yet", "Set a carrier up for it in Settings, Carriers, or give them another address."},
	NoVoice:             {"could only be called, and no voice speaks their language", "Let them hear the original, or add a recording in their language."},
	Enough:              {"had as many messages in the last 7 days as we send", "Stop sparing them, or send it next week."},
	Resting:             {"does another job, or rests after one", "Ask others, or change the rest in Settings."},
	Barred:              {"contact is barred", "Nothing: this must not be sent."},
	GuardiansGetNothing: {"their guardians get nothing either", "See what keeps the guardians from getting it."},
	BeyondScope:         {"belongs to somebody beyond your units", "Ask somebody who reaches their unit to write to them."},
	GuardiansTold:       {"told through a guardian", "Nothing: a guardian gets it for them."},
	AwayOrLeft:          {"away, or no longer with us", "Change their status when they are back."},
}

// Sentence says the reason in words that follow a name or a count.
func (r Reason) Sentence() string { return reasonWords[r].sentence }

// WayOut says what an administrator can do about it.
func (r Reason) WayOut() string { return reasonWords[r].wayOut }

// ChannelWord names a channel in a sentence.
func ChannelWord(c roster.Channel) string {
	if c == roster.Voice {
		return "call"
	}
	return string(c)
}

// Detail says why one person is left out, with what is particular to them.
func (p *Plan) Detail(r *roster.Roster, l LeftOut) string {
	switch {
	case l.Reason == FieldEmpty:
		return fmt.Sprintf("nothing to fill “%s” with", l.Field)
	case l.Reason == Barred && l.About >= 0:
		return fmt.Sprintf("contact about %s is barred", r.At(l.About).Name())
	case l.Reason == GuardiansGetNothing:
		return l.Reason.Sentence() + p.whyGuardians(r, l.Person)
	}
	return l.Reason.Sentence()
}

// whyGuardians says what keeps each guardian of a dependent from getting it.
func (p *Plan) whyGuardians(r *roster.Roster, dependent int) string {
	var said []string
	for _, t := range r.Guardians(dependent) {
		if !t.Receives || t.Barred {
			continue
		}
		guardian, _ := r.Position(t.Guardian)
		why := "left out by the sender"
		if i, left := p.leftOut(guardian); left {
			why = p.LeftOut[i].Reason.Sentence()
		}
		said = append(said, fmt.Sprintf("%s (%s)", r.At(guardian).Name(), why))
	}
	if len(said) == 0 {
		return ""
	}
	return ": " + phrase.List("en", said)
}

// leftOut finds whoever is at a position of the roster among those left out.
func (p *Plan) leftOut(person int) (int, bool) {
	return slices.BinarySearchFunc(p.LeftOut, person, func(l LeftOut, at int) int { return l.Person - at })
}

// Through says of a dependent who is told through guardians by whom.
func (p *Plan) Through(r *roster.Roster, t Told) string {
	names := make([]string, len(t.Guardians))
	for i, g := range t.Guardians {
		names[i] = r.At(g).Name()
	}
	return "told through " + phrase.List("en", names)
}

// Explain says in one or two sentences why a recipient is reached the way they are.
func (p *Plan) Explain(r *roster.Roster, rec Recipient) string {
	why := p.teller.Why(rec.Recipient)
	switch {
	case rec.AsBefore:
		return strings.TrimSpace("By the channel that reached them before. " + why)
	case rec.Wished:
		return strings.TrimSpace(
			fmt.Sprintf("They asked to be reached by %s first. %s", ChannelWord(p.Deliveries[rec.Deliveries[0]].Channel), why),
		)
	case rec.Step == 1:
		return why
	}
	var before []string
	for _, step := range p.Steps[:rec.Step-1] {
		for _, c := range step {
			addresses := r.At(rec.Person).Addresses
			if c == roster.Push && !slices.ContainsFunc(addresses, ofChannel(c)) {
				continue // few have a device: that they have none explains nothing
			}
			before = append(before, p.unused(addresses, c))
		}
	}
	return strings.TrimSpace(fmt.Sprintf("Reached on step %d: %s. %s", rec.Step, strings.Join(before, ", "), why))
}

// Aside is an address that somebody has and that a message does not use.
type Aside struct {
	Channel roster.Channel   `json:"channel"`
	Address string           `json:"address"`
	Why     precedence.Aside `json:"why"`
}

// Aside lists the addresses of a recipient that cannot be used for the message. Those
// that it does not need, because an earlier step reaches them, are none of them.
func (p *Plan) Aside(r *roster.Roster, rec Recipient) []Aside {
	rules := precedence.Rules{Urgency: p.Draft.Urgency, Steps: p.Steps, Off: p.Settings.Off, Content: p.Draft.Has}
	var list []Aside
	for _, a := range r.At(rec.Person).Addresses {
		if why := rules.Judge(a); why != "" {
			list = append(list, Aside{a.Channel, a.Value, why})
		}
	}
	return list
}

var asideWords = map[precedence.Aside]string{
	precedence.NoContent: "there was nothing written for it", precedence.ChannelOff: "the channel was switched off",
	precedence.Dead: "it was known to be dead", precedence.Withheld: "they declined such messages there",
	precedence.Stopped: "they stopped it with the carrier", precedence.Uncarried: "nothing carried it",
	precedence.Unconnected: "the device was not connected",
}

// AsideWords are why an address was put aside, in words.
func AsideWords(why precedence.Aside) string { return asideWords[why] }

func ofChannel(c roster.Channel) func(roster.Address) bool {
	return func(a roster.Address) bool { return a.Channel == c }
}

// unused says why a channel of an earlier step was passed over.
func (p *Plan) unused(addresses []roster.Address, c roster.Channel) string {
	rules := precedence.Rules{Urgency: p.Draft.Urgency, Steps: p.Steps, Off: p.Settings.Off, Content: p.Draft.Has}
	word := ChannelWord(c)
	switch c {
	case roster.Voice:
		word = "number for calls"
	case roster.Push:
		word = "device"
	}
	said := "no " + word + " on file"
	for _, a := range addresses {
		if a.Channel != c {
			continue
		}
		switch rules.Judge(a) {
		case precedence.Dead:
			said = word + " has failed before"
		case precedence.Withheld, precedence.Stopped:
			return word + " declined"
		case precedence.NoContent:
			return "nothing written for " + word
		case precedence.Uncarried:
			return ChannelWord(c) + " has no carrier yet"
		case precedence.Unconnected:
			said = "no device connected"
		}
	}
	return said
}

// Count writes a number with the word that fits it: “1 person”, “2 people”.
func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%s %s", Thousands(n), many)
}

// Thousands writes a whole number with a comma between thousands.
func Thousands(n int) string {
	digits := fmt.Sprint(n)
	for i := len(digits) - 3; i > 0; i -= 3 {
		digits = digits[:i] + "," + digits[i:]
	}
	return digits
}

// Check puts the plan into whole sentences for the last look before sending.
// Leaves says when, such as “now, after a hold of 30 seconds”.
func (p *Plan) Check(s Summary, leaves string) []string {
	lines := []string{p.whoGetsIt(s), whatGoesOut(s), "It leaves " + leaves + "."}
	if p.exercise() {
		lines[0] = "This is an exercise: it goes to the testers only, marked as one. " + lines[0]
	}
	lines = append(lines, p.spreads(s)...)
	if words := p.movesOn(); words != "" {
		lines = append(lines, words)
	}
	if words := p.asks(); words != "" {
		lines = append(lines, words)
	}
	for _, w := range s.Waits {
		lines = append(lines, fmt.Sprintf("%s %s for quiet hours to end, until %s.", Count(w.Deliveries, ChannelWord(w.Channel), ChannelWord(w.Channel)+"s"),
			verb(w.Deliveries, "waits", "wait"), p.Settings.Moment(w.Until)))
	}
	if s.Cost > 0 {
		lines = append(lines, "It is expected to cost "+s.Cost.Format(p.Settings.Currency)+".")
	} else {
		lines = append(lines, "It costs nothing.")
	}
	lines = append(lines, p.whoReadsWhat(s)...)
	lines = append(lines, p.whoGetsFiles()...)
	if s.Wished > 0 {
		lines = append(lines, Count(s.Wished, "person gets", "people get")+" it only by the channel they asked for first.")
	}
	if s.Overridden > 0 {
		lines = append(
			lines, "As an emergency it goes to "+Count(s.Overridden, "person", "people")+" who declined other messages.",
		)
	}
	if p.Unquiet > 0 {
		lines = append(lines, "As an emergency "+Count(p.Unquiet, "delivery leaves", "deliveries leave")+" in quiet hours.")
	}
	lines = append(lines, nobody(s))
	if p.Passed > 0 {
		lines = append(lines, p.passed())
	}
	if s.Told > 0 {
		lines = append(lines, Count(s.Told, "dependent is", "dependents are")+" told through a guardian.")
	}
	return lines
}

// passed says who is passed over because of the message that it follows.
func (p *Plan) passed() string {
	over := Count(p.Passed, "person is", "people are") + " passed over: "
	switch f := p.Draft.Follows; {
	case len(f.People) > 0:
		return over + "they were not chosen, or got it already."
	case f.As == message.Unanswered:
		return over + "they have answered."
	case f.As.Repeats():
		return over + "they got it already, or may get it yet."
	}
	return over + "they did not get what it follows."
}

// asks says what answers it asks for, and when asking stops.
func (p *Plan) asks() string {
	q := p.Draft.Question
	if !q.Asks() {
		return ""
	}
	said := "It asks for one of " + Count(len(q.Choices), "answer", "answers") + "."
	if q.Needed > 0 {
		said += " Asking stops once " + Count(q.Needed, "of them counts", "of them count")
		if strings.TrimSpace(q.Filled) != "" {
			said += ", and the others are told so"
		}
		said += "."
	}
	if p.Draft.Voice.Recording != nil || len(p.Draft.Voice.Others) > 0 {
		said += " A recording has to say itself which key is which."
	}
	return said
}

// movesOn says when somebody is tried on the next step.
func (p *Plan) movesOn() string {
	on := p.Draft.MoveOn
	confirmed := map[bool]string{false: "arrived", true: "was answered"}[on.Answered]
	var when []string
	if on.Failed {
		when = append(when, "everything failed")
	}
	if on.Minutes > 0 {
		when = append(when, fmt.Sprintf("nothing %s within %s", confirmed, Count(on.Minutes, "minute", "minutes")))
	}
	if len(when) == 0 || len(p.Steps) < 2 {
		return ""
	}
	return "Where " + strings.Join(when, ", or ") + ", the next step is tried, at its own cost."
}

// spreads says at which other times than the first it leaves.
func (p *Plan) spreads(s Summary) []string {
	var lines []string
	if p.Draft.Spread > 0 && s.Deliveries > 1 {
		perMinute := max(1, (s.Deliveries+p.Draft.Spread/2)/p.Draft.Spread)
		lines = append(lines, fmt.Sprintf(
			"It is spread over %s, about %d a minute.", Count(p.Draft.Spread, "minute", "minutes"), perMinute,
		))
	}
	for _, c := range s.Channels {
		if _, own := p.Draft.Times[c.Channel]; own {
			lines = append(lines, fmt.Sprintf(
				"%s leave on %s.", plurals[c.Channel], p.Settings.Moment(p.Draft.Leaves(c.Channel, p.Settings.Leaves)),
			))
		}
	}
	return lines
}

var plurals = map[roster.Channel]string{
	roster.Email: "Emails", roster.Text: "Texts", roster.Voice: "Calls", roster.Push: "Pushes",
}

func (p *Plan) whoGetsIt(s Summary) string {
	var by []string
	for _, step := range s.Steps {
		if step.People == 0 {
			continue
		}
		var words []string
		for _, c := range s.Channels {
			if slices.Contains(step.Channels, c.Channel) {
				words = append(words, ChannelWord(c.Channel))
			}
		}
		by = append(by, fmt.Sprintf("%s by %s", Thousands(step.People), phrase.List("en", words)))
	}
	return Count(s.Recipients, "person gets", "people get") + " this message: " + strings.Join(by, ", ") + "."
}

func whatGoesOut(s Summary) string {
	var kinds []string
	for _, c := range s.Channels {
		switch c.Channel {
		case roster.Email:
			kinds = append(kinds, Count(c.Deliveries, "email", "emails"))
		case roster.Text:
			kinds = append(kinds, Count(c.Deliveries, "text", "texts")+" in "+Count(c.Parts, "part", "parts"))
		case roster.Voice:
			kinds = append(kinds, fmt.Sprintf(
				"%s of about %s", Count(c.Deliveries, "call", "calls"), Count(c.Seconds, "second", "seconds"),
			))
		case roster.Push:
			kinds = append(kinds, Count(c.Deliveries, "push", "pushes"))
		}
	}
	line := "That is " + strings.Join(kinds, ", ") + "."
	if s.Shared > 0 {
		line += " " + Count(s.Shared, "person shares", "people share") + " an address with another and " +
			verb(s.Shared, "is", "are") + " told once, together."
	}
	return line
}

func nobody(s Summary) string {
	if s.Nobody == 0 {
		return "Nobody is left out."
	}
	why := make([]string, len(s.LeftOut))
	for i, l := range s.LeftOut {
		why[i] = fmt.Sprintf("%s (%s)", l.Reason.Sentence(), Thousands(l.People))
	}
	return Count(s.Nobody, "person gets", "people get") + " nothing: " + strings.Join(why, "; ") + "."
}

// whoReadsWhat says who gets which copy, and who gets the original though they read
// another language.
func (p *Plan) whoReadsWhat(s Summary) []string {
	var lines []string
	for _, c := range p.Copies {
		people := 0
		for _, l := range s.Languages {
			if l.Got == c.Language {
				people += l.People
			}
		}
		if !c.Used || people == 0 {
			continue
		}
		lines = append(lines, fmt.Sprintf(
			"%s the %s copy, %s.", Count(people, "person gets", "people get"), roster.LanguageName(c.Language), TrustWords(c.Standing),
		))
	}
	if other := p.readingOther(s); other > 0 {
		said := ", untranslated"
		if p.Draft.Copies.Otherwise == message.FilledLines {
			said = ", with what is translated beneath it in emails and letters"
		}
		lines = append(lines, Count(other, "person reads", "people read")+" another language and "+
			verb(other, "gets", "get")+" the original"+said+": "+p.whyOriginals(s)+".")
	}
	return lines
}

// whyOriginals lists the languages whose readers get the original, with what their
// copies lack.
func (p *Plan) whyOriginals(s Summary) string {
	var said []string
	for _, l := range s.Languages {
		if l.Reads || l.Got != "" {
			continue
		}
		words := cmp.Or(roster.LanguageName(l.Tag), l.Tag) + " " + Thousands(l.People)
		if at := p.readingOf(l.Tag).copy; at >= 0 {
			c := p.Copies[at]
			if c.Used {
				said = append(said, words+" (no voice speaks it)")
				continue
			}
			lacks := Count(c.Lines-c.Filled, "line is", "lines are") + " missing"
			if c.Filled == c.Lines {
				lacks = "nobody has read " + Count(c.Lines-c.Standing.Checked, "line", "lines")
			}
			words += " (" + lacks + ")"
		}
		said = append(said, words)
	}
	return strings.Join(said, ", ")
}

// TrustWords say how far a copy that is used can be trusted.
func TrustWords(s copies.Standing) string {
	by := phrase.List("en", s.By)
	switch unread := s.Lines - s.Checked; unread {
	case 0:
		return "checked by " + by
	case s.Lines:
		return "which nobody has read"
	default:
		return fmt.Sprintf("of which nobody has read %s; the rest was checked by %s", Count(unread, "line", "lines"), by)
	}
}

// Trust is how many people got a message in words that can be trusted how far.
type Trust struct {
	Original     int `json:"original" doc:"They read the language of the original, or theirs is not known"`
	Checked      int `json:"checked" doc:"A copy that somebody checked"`
	Unread       int `json:"unread" doc:"A copy of which nobody read some lines"`
	Untranslated int `json:"untranslated" doc:"The original, though they read another language"`
}

// CountTrust counts people by how far what they got can be trusted; standings are those
// of the copies by their languages.
func CountTrust(list []LanguageCount, standings map[string]copies.Standing) Trust {
	var t Trust
	for _, l := range list {
		switch {
		case l.Got != "" && standings[l.Got].State == copies.Checked:
			t.Checked += l.People
		case l.Got != "":
			t.Unread += l.People
		case l.Reads || l.Tag == "":
			t.Original += l.People
		default:
			t.Untranslated += l.People
		}
	}
	return t
}

// readingOther counts those who read another language and get the original.
func (p *Plan) readingOther(s Summary) int {
	n := 0
	for _, l := range s.Languages {
		if !l.Reads && l.Got == "" {
			n += l.People
		}
	}
	return n
}

func verb(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// WhyNot says why somebody gets nothing, whether they were named or not.
func (p *Plan) WhyNot(r *roster.Roster, id roster.PersonID) string {
	position, ok := r.Position(id)
	if !ok {
		return "They are no longer on the roster."
	}
	if i, left := p.leftOut(position); left {
		return "Named, but gets nothing: " + p.Detail(r, p.LeftOut[i]) + "."
	}
	for _, t := range p.Told {
		if t.Person == position {
			return "Named, and " + p.Through(r, t) + "."
		}
	}
	return p.teller.WhyNot(position)
}

// Find returns the recipient who is the person with an identifier, by index.
func (p *Plan) Find(r *roster.Roster, id roster.PersonID) (int, bool) {
	position, ok := r.Position(id)
	if !ok {
		return 0, false
	}
	return p.find(position)
}
