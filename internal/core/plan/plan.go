// Package plan answers “who gets what” for a message before anything is sent.
// The plan that is shown while writing and the plan that is sent come from
// the same function, Make.
package plan

import (
	"slices"
	"time"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
)

// Settings are what an organisation and its sender bring to every plan.
type Settings struct {
	Fixed
	Leaves time.Time                        // the soonest that anything may leave: when the hold would be over
	Zone   func(name string) *time.Location // a time zone, the organisation's for ""; nil is UTC
	Budget money.Amount                     // of the month; 0 is none
	Spent  money.Amount                     // of it, on other messages
	Near   []Near                           // other messages at about the same time
	// Holiday names the public holiday on a day, or "" for none; nil knows none.
	Holiday func(day time.Time) string
	// Load tells how much somebody was sent lately; nil when nobody was sent anything.
	Load func(roster.PersonID) Load
	// Conversation is the number under which somebody's number was last sent a
	// text, or ""; nil when none ever was.
	Conversation func(number string) string
	Busy         map[roster.PersonID]job.Busy // who does another job, or rests after one, of a message that asks for one
	Copies       []copies.Copy                // of the message, in other languages
	Chain        *Chain                       // what became of the messages that it follows
	Terms        []copies.Term                // of the glossary
	// Doubtful says what is suspicious about a copy; nil examines every line anew.
	Doubtful copies.Doubtful
}

// Reason says why somebody gets nothing.
type Reason string

const (
	NoAddress Reason = "no-address"
	AllDead   Reason = "all-dead"
	OptedOut  Reason = "opted-out"
	Barred    Reason = "contact-barred"
	NoContent Reason = "no-content"
	// NoVoice is somebody who could only be called, and no voice speaks their copy.
	NoVoice Reason = "no-voice"
	// NoCarrier is somebody who has addresses only of channels that nothing carries.
	NoCarrier  Reason = "no-carrier"
	FieldEmpty Reason = "field-empty"
	AwayOrLeft Reason = "away-or-left"
	NoGuardian Reason = "no-guardian"
	Enough     Reason = "enough" // they had as many messages as the organisation sends in a week
	// Resting is somebody who does another job, or rests after one.
	Resting Reason = "resting"
	// GuardiansGetNothing is a dependent whose guardians are to be told and get
	// nothing either.
	GuardiansGetNothing Reason = "guardians-get-nothing"
	// BeyondScope is an address of somebody beyond the sender's units.
	BeyondScope Reason = "beyond-scope"
	// GuardiansTold is a dependent who is told through a guardian. It is no
	// problem: such people are counted apart, in Plan.Told.
	GuardiansTold Reason = "guardians-told"
)

// Reasons lists every reason why people get nothing in the order in which they
// are shown, the ones that an administrator can mend on the roster first.
var Reasons = []Reason{
	NoAddress, NoGuardian, GuardiansGetNothing, AllDead, FieldEmpty, OptedOut, NoContent, NoCarrier, NoVoice, Enough,
	Resting, Barred, BeyondScope, AwayOrLeft,
}

// Delivery is one content to one address, on behalf of one or more recipients.
type Delivery struct {
	delivery.Envelope
	Addresses  []roster.AddressID
	Recipients []int  // by index into Plan.Recipients
	Language   string // of the words, BCP 47
	Mark       string // before what is an exercise or a trial; Subject and Body have it already
	Subject    string // of an email, the title of a push
	Body       string
	Link       string        // that a push opens
	Bytes      int           // of a push, of push.Most
	Count      segment.Count // of a text; its parts are the envelope's
	At         time.Time     // when it may leave
	Quiet      bool          // it waits until then for quiet hours to end
	reading    int           // by index into Plan.readings
}

// Recipient is somebody who gets the message.
type Recipient struct {
	audience.Recipient
	Step       int
	Deliveries []int  // by index into Plan.Deliveries
	Overridden bool   // an emergency overrides consent they withheld
	Wished     bool   // they asked for the channel; Step is where it stands
	AsBefore   bool   // the channel is that which reached them before
	Copy       string // the language of the copy that they get; "" for the original
}

// LeftOut is somebody who was named and gets nothing.
type LeftOut struct {
	Person int
	Reason Reason
	Field  field.Name // the field that could not be filled
	About  int        // the dependent a barred guardian is tied to, or -1
}

// Told is a dependent who gets nothing themselves and is told through guardians.
type Told struct {
	Person    int
	Guardians []int // by position, those who get it
}

// Plan is the worked-out answer. People are given by their position in the roster.
type Plan struct {
	Draft      message.Draft
	Settings   Settings
	Steps      precedence.Steps
	Audience   audience.Resolution
	Recipients []Recipient
	LeftOut    []LeftOut // by position
	Told       []Told    // by position; nobody of them is left out or a recipient
	// Passed is how many recipients a message that follows another one passes over.
	Passed     int
	Deliveries []Delivery
	// Unquiet are the deliveries that leave in quiet hours because it is an emergency.
	Unquiet int
	Lines   []lines.Standing // of the message, if it has copies
	Copies  []CopyUse        // in the order of the settings

	teller   *audience.Teller
	readings []renderer // the original first
	readers  map[string]reader
	filler   filler

	languagesOfFiles []string // that have files of their own
	tailorings       map[tailoring]int
}

// Make works out the plan of a draft against a roster.
func Make(r *roster.Roster, d message.Draft, s Settings) *Plan {
	d.Content = d.Cleaned()
	d = practised(d, s)
	leaves := d.Soonest(s.Leaves).In(s.zone(""))
	p := &Plan{
		Draft: d, Settings: s, Steps: s.StepsFor(d), teller: audience.NewTeller(r, d.Audience),
		Audience: audience.Resolve(r, d.Audience, roster.Date(leaves.Format(time.DateOnly))),
	}
	p.passOver(r)
	p.readers = map[string]reader{}
	p.filler = newFiller(r, p)
	p.prepare()
	n := len(p.Audience.Recipients)
	p.Recipients, p.Deliveries = make([]Recipient, 0, n), make([]Delivery, 0, n+n/2)
	m := newMaker(r, p)
	for _, rec := range p.Audience.Recipients {
		m.recipient(rec)
	}
	m.leaveOutUnnamed()
	m.separateDependents()
	m.schedule()
	return m.plan
}

func newMaker(r *roster.Roster, p *Plan) *maker {
	d := p.Draft
	has := make(map[roster.Channel]bool, len(roster.Channels)) // asked for every address
	wordless := d.Wordless()
	for _, c := range roster.Channels {
		has[c] = wordless || d.Has(c) // before the first word, everything could still be said
	}
	m := &maker{
		roster: r, plan: p, last: make(map[destination]int, cap(p.Deliveries)),
		speakers: speakers(r, d.Audience),
		rules: precedence.Rules{
			Urgency: d.Urgency, Steps: p.Steps, Off: p.Settings.Off, Room: make([]roster.Address, 0, 8),
		},
	}
	m.rules.Content = func(c roster.Channel) bool { return has[c] && !(m.uncalled && c == roster.Voice) }
	return m
}

// separateDependents counts every dependent whom guardians are to be told about
// and who gets nothing themselves: as told when any guardian gets it, as left
// out when none does.
func (m *maker) separateDependents() {
	p := m.plan
	told := m.guardiansTold()
	left := make(map[int]bool, len(p.LeftOut))
	for _, l := range p.LeftOut {
		left[l.Person] = true
	}
	for _, dependent := range p.Audience.ThroughGuardians {
		_, reached := p.find(dependent)
		switch guardians := told[dependent]; {
		case reached:
		case len(guardians) > 0:
			p.Told = append(p.Told, Told{dependent, guardians})
		case !left[dependent]:
			p.LeftOut = append(p.LeftOut, LeftOut{Person: dependent, Reason: GuardiansGetNothing, About: -1})
		}
	}
	p.LeftOut = slices.DeleteFunc(p.LeftOut, func(l LeftOut) bool { return p.tells(l.Person) })
	slices.SortStableFunc(p.LeftOut, func(a, b LeftOut) int { return a.Person - b.Person })
}

// guardiansTold are the recipients who are told about others, by dependent.
func (m *maker) guardiansTold() map[int][]int {
	told := map[int][]int{}
	for _, rec := range m.plan.Recipients {
		for _, dependent := range rec.About {
			if dependent != rec.Person {
				told[dependent] = append(told[dependent], rec.Person)
			}
		}
	}
	return told
}

// tells reports whether somebody is told through a guardian.
func (p *Plan) tells(person int) bool {
	_, told := slices.BinarySearchFunc(p.Told, person, func(t Told, at int) int { return t.Person - at })
	return told
}

// find returns the recipient at a position of the roster, by index.
func (p *Plan) find(person int) (int, bool) {
	return slices.BinarySearchFunc(p.Recipients, person, func(rec Recipient, at int) int { return rec.Person - at })
}

type destination struct {
	channel roster.Channel
	to      string
}

type maker struct {
	roster   *roster.Roster
	plan     *Plan
	rules    precedence.Rules
	last     map[destination]int // the last delivery that goes somewhere, from 1
	before   []int               // for each delivery the one before it to the same place, from 1
	speakers []speaker
	uncalled bool             // the one at hand is not called: no voice speaks their copy
	zones    []*time.Location // of the delivery at hand
	ranks    []int            // for each delivery the rank of its sender; see identity

	addresses  slab[roster.AddressID]
	recipients slab[int]
}

// slab makes lists of one thing, many to an allocation.
type slab[T any] struct{ rest []T }

const slabSize = 1024

func (s *slab[T]) of(thing T) []T {
	if len(s.rest) == 0 {
		s.rest = make([]T, slabSize)
	}
	list := s.rest[:1:1]
	s.rest = s.rest[1:]
	list[0] = thing
	return list
}

// leaveOutUnnamed adds those whom the audience itself left out.
func (m *maker) leaveOutUnnamed() {
	reasons := map[audience.Gap]Reason{
		audience.AwayOrLeft: AwayOrLeft, audience.Barred: Barred, audience.NoGuardian: NoGuardian,
		audience.BeyondScope: BeyondScope,
	}
	for _, l := range m.plan.Audience.LeftOut {
		m.plan.LeftOut = append(m.plan.LeftOut, LeftOut{Person: l.Person, Reason: reasons[l.Gap], About: l.About})
	}
}

func (m *maker) recipient(rec audience.Recipient) {
	person := m.roster.At(rec.Person)
	if m.plan.spares(person.ID) {
		m.leaveOut(rec.Person, Enough, "")
		return
	}
	if _, rests := m.plan.Settings.Busy[person.ID]; rests {
		m.leaveOut(rec.Person, Resting, "")
		return
	}
	reader := m.reader(person)
	step, chosen, wished, before := m.choose(person)
	if step == 0 {
		m.leaveOut(rec.Person, m.unreachable(person.Addresses), "")
		return
	}
	contents, missing := m.render(rec, reader, chosen)
	if missing != "" {
		m.leaveOut(rec.Person, FieldEmpty, missing)
		return
	}
	index, own := len(m.plan.Recipients), m.identity(rec)
	out := Recipient{Recipient: rec, Step: step, Wished: wished, AsBefore: before}
	for _, a := range chosen {
		out.Overridden = out.Overridden || a.DeclinesRoutine || a.DeclinesTimely
		out.Deliveries = append(out.Deliveries, m.deliver(index, step, a, own, *contents.of(a.Channel)))
		if reader.hears(a.Channel) == reader.reading {
			out.Copy = m.plan.copyOf(reader)
		}
	}
	out.Overridden = out.Overridden && m.plan.Draft.Urgency == roster.Emergency
	// Two addresses of one person can be the same mailbox typed twice.
	slices.Sort(out.Deliveries)
	out.Deliveries = slices.Compact(out.Deliveries)
	m.plan.Recipients = append(m.plan.Recipients, out)
}

// reader is how the person at hand is written to, and whether they are called.
func (m *maker) reader(p *roster.Person) reader {
	found := m.plan.readingOf(p.Language)
	m.uncalled = found.voiceless && m.plan.Draft.Copies.Voiceless == message.NextStep
	return found
}

// choose asks how a person was reached before, and for their own wish, before the
// steps decide.
func (m *maker) choose(p *roster.Person) (step int, chosen []roster.Address, wished, before bool) {
	d := m.plan.Draft
	if channels := m.plan.before(p); len(channels) > 0 {
		if step, chosen = m.rules.Among(p.Addresses, channels, d.FirstOnly); step > 0 {
			return step, chosen, false, true
		}
	}
	if !d.Unwished && !m.plan.Settings.Sending.Unwished {
		if step, chosen = m.rules.Wish(p.Addresses, p.Wish, d.FirstOnly); step > 0 {
			return step, chosen, true, false
		}
	}
	step, chosen = m.rules.Choose(p.Addresses, d.FirstOnly)
	return step, chosen, false, false
}

func (m *maker) leaveOut(person int, reason Reason, missing field.Name) {
	m.plan.LeftOut = append(m.plan.LeftOut, LeftOut{Person: person, Reason: reason, Field: missing, About: -1})
}

// unreachable names the reason for somebody without a usable address: the
// one nearest to being usable counts.
func (m *maker) unreachable(addresses []roster.Address) Reason {
	reason := NoAddress
	for _, a := range addresses {
		switch m.rules.Judge(a) {
		case precedence.Withheld, precedence.Stopped:
			return OptedOut
		case precedence.NoContent, precedence.ChannelOff:
			reason = NoContent
			if m.uncalled && a.Channel == roster.Voice {
				return NoVoice
			}
		case precedence.Uncarried:
			if reason != NoContent {
				reason = NoCarrier
			}
		case precedence.Dead:
			if reason == NoAddress {
				reason = AllDead
			}
		}
	}
	return reason
}

// contents are those of all channels, in the order of roster.Channels.
type contents [4]content

func (c *contents) of(channel roster.Channel) *content {
	return &c[slices.Index(roster.Channels, channel)]
}

// render fills the content of every chosen channel for one recipient.
func (m *maker) render(
	rec audience.Recipient, reader reader, chosen []roster.Address,
) (all contents, missing field.Name) {
	v := m.plan.filler.of(rec)
	for _, a := range chosen {
		c := all.of(a.Channel)
		if c.filled {
			continue
		}
		reading, text := reader.hears(a.Channel), all.of(roster.Text)
		if reading != reader.reading {
			text = &content{} // it is in another language
		}
		if *c, missing = m.plan.readings[reading].fill(a.Channel, text, v); missing != "" {
			return all, missing
		}
		c.filled, c.reading = true, reading
	}
	return all, ""
}

// deliver plans one content to one address and returns the delivery's index.
// Recipients who share the address and the very content share the delivery. Its
// sender is that of whose group stands first in the organisation's order.
func (m *maker) deliver(recipient, step int, a roster.Address, own sender, c content) int {
	where := destination{a.Channel, a.Value}
	for i := m.last[where] - 1; i >= 0; i = m.before[i] - 1 {
		d := &m.plan.Deliveries[i]
		if d.reading != c.reading || d.Subject != c.subject || d.Body != c.body || d.Link != c.link {
			continue
		}
		if !slices.Contains(d.Recipients, recipient) {
			d.Recipients = append(d.Recipients, recipient)
		}
		d.Addresses = append(d.Addresses, a.ID)
		d.Step = min(d.Step, step)
		if own.rank < m.ranks[i] {
			m.ranks[i], d.Sender = own.rank, m.from(a, own.identity)
		}
		return i
	}
	d := Delivery{
		Envelope:  delivery.Envelope{Channel: a.Channel, Address: a.Value, Sender: m.from(a, own.identity), Step: step},
		Addresses: m.addresses.of(a.ID), Recipients: m.recipients.of(recipient),
		Language: m.plan.readings[c.reading].language, Mark: m.plan.readings[c.reading].mark, reading: c.reading,
		Subject: c.subject, Body: c.body, Link: c.link, Bytes: c.bytes,
	}
	m.plan.measure(&d)
	i := len(m.plan.Deliveries)
	m.plan.Deliveries, m.ranks = append(m.plan.Deliveries, d), append(m.ranks, own.rank)
	m.before, m.last[where] = append(m.before, m.last[where]), i+1
	return i
}
