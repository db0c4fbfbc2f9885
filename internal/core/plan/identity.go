package plan

import (
	"slices"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/roster"
)

// speaker is a group that writes under an identity of its own.
type speaker struct {
	identity roster.Identity
	in       []bool // by position: who is in it, with everybody in what is nested
}

// speakers are the groups that a message is written to, in the organisation's
// one order, as far as they have an identity of their own.
func speakers(r *roster.Roster, a audience.Audience) []speaker {
	written := map[roster.GroupID]bool{}
	for _, p := range a.Parts {
		if p.Kind == audience.ByGroup && !p.LeaveOut {
			for _, id := range r.Inside(p.Group) {
				written[id] = true
			}
		}
	}
	var list []speaker
	for _, g := range r.Groups() {
		if !written[g.ID] || g.Identity == (roster.Identity{}) {
			continue
		}
		s := speaker{identity: g.Identity, in: make([]bool, r.Len())}
		for _, i := range r.In(g.ID) {
			s.in[i] = true
		}
		list = append(list, s)
	}
	return list
}

// identity is under which name and numbers a recipient hears from us: those of
// the first of their groups, or of their dependents' groups, that the message
// was written to; the organisation's where that group has none.
func (m *maker) identity(rec audience.Recipient) roster.Identity {
	own := m.plan.Settings.Identity
	for _, s := range m.speakers {
		if !s.in[rec.Person] && !slices.ContainsFunc(rec.About, func(i int) bool { return s.in[i] }) {
			continue
		}
		fill(&own.Name, s.identity.Name)
		fill(&own.Number, s.identity.Number)
		fill(&own.Caller, s.identity.Caller)
		break
	}
	return own
}

func fill(into *string, from string) {
	if from != "" {
		*into = from
	}
}

// from is what an address shows as the sender: a name for an email, a number
// for a text or a call. A text conversation that goes on keeps its number.
func (m *maker) from(a roster.Address, identity roster.Identity) string {
	switch a.Channel {
	case roster.Email:
		return identity.Name
	case roster.Voice:
		return identity.Caller
	}
	if known := m.plan.Settings.Conversation; known != nil {
		if number := known(a.Value); number != "" {
			return number
		}
	}
	return identity.Number
}
