package plan

import (
	"cmp"
	"slices"
	"time"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
)

// practised is the draft of an exercise: for the testers themselves, and
// marked so that nobody takes it for real.
func practised(d message.Draft, s Settings) message.Draft {
	if !d.Practice || d.Urgency != roster.Emergency {
		return d
	}
	d.Audience = audience.Audience{Receivers: audience.Themselves}
	if len(s.Sending.Testers) > 0 {
		d.Audience.Parts = []audience.Part{{Kind: audience.ByPeople, People: s.Sending.Testers}}
	}
	return d
}

func (p *Plan) exercise() bool { return p.Draft.Practice && p.Draft.Urgency == roster.Emergency }

// mark stands before what is only an exercise, in the language of its words.
func (p *Plan) mark(tag string) string {
	if p.exercise() {
		return phrase.In(tag).Say("exercise")
	}
	return ""
}

// schedule says of every delivery when it may leave.
func (m *maker) schedule() {
	counts, nth := map[roster.Channel]int{}, map[roster.Channel]int{}
	for _, d := range m.plan.Deliveries {
		counts[d.Channel]++
	}
	draft, settings := m.plan.Draft, m.plan.Settings
	for i := range m.plan.Deliveries {
		d := &m.plan.Deliveries[i]
		d.At = timing.Spread(
			draft.Leaves(d.Channel, settings.Leaves), time.Duration(draft.Spread)*time.Minute, nth[d.Channel], counts[d.Channel],
		)
		nth[d.Channel]++
		m.quieten(d)
	}
}

// quieten lets a delivery wait for quiet hours to end where any of those who
// share it lives, unless it is an emergency.
func (m *maker) quieten(d *Delivery) {
	quiet, ok := m.plan.Settings.Sending.Quiet[d.Channel]
	if !ok {
		return
	}
	m.zones = m.zones[:0]
	for _, rec := range d.Recipients {
		m.zones = append(m.zones, m.plan.Zone(m.roster.At(m.plan.Recipients[rec].Person)))
	}
	next := quiet.NextIn(d.At, m.zones).In(d.At.Location())
	switch {
	case next.Equal(d.At):
	case m.plan.Draft.Urgency == roster.Emergency:
		m.plan.Unquiet++
	default:
		d.At, d.Quiet = next, true
	}
}

// Zone is the time zone in which somebody lives.
func (p *Plan) Zone(who *roster.Person) *time.Location { return p.Settings.zone(who.TimeZone) }

func (s Settings) zone(name string) *time.Location {
	if s.Zone == nil {
		return time.UTC
	}
	return s.Zone(name)
}

// First is when the first delivery may leave; the soonest instant while there is none.
func (p *Plan) First() time.Time {
	first := p.Settings.Leaves
	for i, d := range p.Deliveries {
		if i == 0 || d.At.Before(first) {
			first = d.At
		}
	}
	return first
}

// last is when the last delivery may leave.
func (p *Plan) last() time.Time {
	last := p.First()
	for _, d := range p.Deliveries {
		if d.At.After(last) {
			last = d.At
		}
	}
	return last
}

// Wait is how many deliveries of a channel wait for quiet hours to end.
type Wait struct {
	Channel    roster.Channel
	Until      time.Time
	Deliveries int
}

// waits are listed by channel, soonest first.
func (p *Plan) waits() []Wait {
	counts := map[Wait]int{}
	for _, d := range p.Deliveries {
		if d.Quiet {
			counts[Wait{Channel: d.Channel, Until: d.At}]++
		}
	}
	list := make([]Wait, 0, len(counts))
	for w, n := range counts {
		w.Deliveries = n
		list = append(list, w)
	}
	slices.SortFunc(list, func(a, b Wait) int {
		return cmp.Or(slices.Index(roster.Channels, a.Channel)-slices.Index(roster.Channels, b.Channel), a.Until.Compare(
			b.Until,
		))
	})
	return list
}

// Moment writes an instant the way the organisation's clocks show it, with the
// year if it is not the one in which the message is written.
func (s Settings) Moment(at time.Time) string {
	home := s.zone("")
	if at.In(home).Year() != s.Leaves.In(home).Year() {
		return at.In(home).Format("Monday 2 January 2006 at 15:04")
	}
	return at.In(home).Format("Monday 2 January at 15:04")
}

// expiry is a problem when some of it is not free to leave before its time is over, and
// one that blocks when nothing is.
func (p *Plan) expiry() (problem Problem, is bool) {
	if p.Draft.Until == nil || len(p.Deliveries) == 0 {
		return problem, false
	}
	until := p.Draft.Until.In(p.Settings.zone(""))
	late := 0
	for _, d := range p.Deliveries {
		if !d.At.Before(until) {
			late++
		}
	}
	switch late {
	case 0:
		return problem, false
	case len(p.Deliveries):
		return Problem{Code: NeverLeaves, Mend: InTime, Blocks: true, Params: Params{"at": until}}, true
	}
	return Problem{Code: SomeExpire, Mend: InTime, Params: Params{"deliveries": late, "at": until}}, true
}

// timeNotes are what is odd about when it leaves.
func (p *Plan) timeNotes() []Problem {
	var list []Problem
	home := p.Settings.zone("")
	if some, is := p.expiry(); is && !some.Blocks {
		list = append(list, some)
	}
	note := func(code ProblemCode, at time.Time) {
		list = append(list, Problem{Code: code, Mend: InTime, Params: Params{"at": at.In(home)}})
	}
	for _, at := range p.chosenTimes() {
		switch {
		case at.Before(p.Settings.Leaves):
			note(PastTime, at)
		case timing.IsTwice(at, home):
			note(TwiceTime, at)
		}
	}
	if p.Draft.Urgency != roster.Emergency && len(p.Deliveries) > 0 && timing.AtNight(p.First(), home) {
		note(AtNight, p.First())
	}
	return list
}

// chosenTimes are the times that the sender chose, each once.
func (p *Plan) chosenTimes() []time.Time {
	var list []time.Time
	add := func(at time.Time) {
		if !slices.ContainsFunc(list, at.Equal) {
			list = append(list, at)
		}
	}
	if p.Draft.SendAt != nil {
		add(*p.Draft.SendAt)
	}
	for _, c := range roster.Channels {
		if at, ok := p.Draft.Times[c]; ok {
			add(at)
		}
	}
	return list
}
