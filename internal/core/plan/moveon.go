package plan

import (
	"slices"

	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
)

// Next is what a recipient, given by index, gets on the first step after one
// on which they can be reached, and that step; 0 when there is none.
func (p *Plan) Next(r *roster.Roster, recipient, after int) (step int, deliveries []Delivery) {
	if after >= len(p.Steps) {
		return 0, nil
	}
	rec := p.Recipients[recipient]
	m := newMaker(r, p)
	m.ranks, m.before = make([]int, len(p.Deliveries)), make([]int, len(p.Deliveries))
	reader := m.reader(r.At(rec.Person))
	rules := m.rules
	rules.Steps = append(make(precedence.Steps, after), p.Steps[after:]...)
	step, chosen := rules.Choose(r.At(rec.Person).Addresses, p.Draft.FirstOnly)
	if step == 0 {
		return 0, nil
	}
	contents, missing := m.render(rec.Recipient, reader, chosen)
	if missing != "" {
		return 0, nil
	}
	before := len(p.Deliveries)
	own := m.identity(rec.Recipient)
	for _, a := range chosen {
		m.deliver(recipient, step, a, own, *contents.of(a.Channel))
	}
	deliveries = p.Deliveries[before:]
	p.Deliveries = p.Deliveries[:before:before]
	for i := range deliveries {
		deliveries[i].At = p.Settings.Leaves
		m.quieten(&deliveries[i])
	}
	return step, deliveries
}

// Usable reports whether somebody, by position, has an address that the message may
// use.
func (p *Plan) Usable(r *roster.Roster, person int, channel roster.Channel, address string) bool {
	rules := precedence.Rules{Urgency: p.Draft.Urgency, Steps: p.Steps, Off: p.Settings.Off, Content: p.Draft.Has}
	return slices.ContainsFunc(r.At(person).Addresses, func(a roster.Address) bool {
		return a.Channel == channel && a.Value == address && rules.Judge(a) == ""
	})
}
