package plan

import (
	"slices"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
)

// Chain is what became of the messages that a message follows.
type Chain struct {
	People    map[roster.PersonID]Before
	Addresses map[string]Before // of recipients who are not on the roster
}

// Before is what the chain came to for somebody.
type Before struct {
	Reached  bool
	Answered bool
	Waiting  bool             // nothing final is known yet
	Channels []roster.Channel // that reached them, or may have
}

// of is what the chain came to for somebody.
func (c *Chain) of(p *roster.Person) Before {
	if c == nil {
		return Before{}
	}
	if !p.Stranger() {
		return c.People[p.ID]
	}
	for _, a := range p.Addresses {
		if b, ok := c.Addresses[a.Value]; ok {
			return b
		}
	}
	return Before{}
}

// passes reports whether a message that follows another one passes somebody over:
// what repeats it passes over whom it reached or may reach yet, anything else who did
// not get it.
func (p *Plan) passes(person *roster.Person) bool {
	f := p.Draft.Follows
	if f == nil {
		return false
	}
	if len(f.People) > 0 && !slices.Contains(f.People, person.ID) {
		return true
	}
	before := p.Settings.Chain.of(person)
	if f.As == message.Unanswered {
		return before.Answered
	}
	if f.As.Repeats() {
		return !f.Twice && (before.Reached || before.Waiting)
	}
	return len(before.Channels) == 0
}

// passOver takes those out of the audience whom the message passes over: they are
// counted in the message that it follows.
func (p *Plan) passOver(r *roster.Roster) {
	if p.Draft.Follows == nil {
		return
	}
	a := &p.Audience
	all := len(a.Recipients)
	about := map[int]bool{}
	kept := a.Recipients[:0:0]
	for _, rec := range a.Recipients {
		if !p.passes(r.At(rec.Person)) {
			kept = append(kept, rec)
			continue
		}
		for _, dependent := range rec.About {
			about[dependent] = true
		}
	}
	a.Recipients = kept
	p.Passed = all - len(kept)
	still := map[int]bool{}
	for _, rec := range kept {
		for _, dependent := range rec.About {
			still[dependent] = true
		}
	}
	chosen := p.Draft.Follows.People
	elsewhere := func(at int) bool { return len(chosen) > 0 && !slices.Contains(chosen, r.At(at).ID) }
	a.ThroughGuardians = slices.DeleteFunc(slices.Clone(a.ThroughGuardians), func(dependent int) bool {
		return !still[dependent] && (about[dependent] || elsewhere(dependent))
	})
	a.LeftOut = slices.DeleteFunc(slices.Clone(a.LeftOut), func(l audience.LeftOut) bool { return elsewhere(l.Person) })
}

// before are the channels that reached somebody, if the message is to go the same way.
func (p *Plan) before(person *roster.Person) []roster.Channel {
	if f := p.Draft.Follows; f == nil || f.As.Repeats() {
		return nil
	}
	return p.Settings.Chain.of(person).Channels
}
