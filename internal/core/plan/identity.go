package plan

import (
	"cmp"
	"slices"
	"strings"

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

// sender is under which identity a recipient hears from us. Rank is the place of
// the group that it comes from among the speakers, and their number for the
// organisation's own.
type sender struct {
	identity roster.Identity
	rank     int
}

// identity is under which name and numbers a recipient hears from us: those of
// the first of their groups, or of their dependents' groups, that the message
// was written to; the organisation's where that group has none.
func (m *maker) identity(rec audience.Recipient) sender {
	own, rank := m.plan.Settings.Identity, len(m.speakers)
	for i, s := range m.speakers {
		if !s.in[rec.Person] && !slices.ContainsFunc(rec.About, func(i int) bool { return s.in[i] }) {
			continue
		}
		fill(&own.Name, s.identity.Name)
		fill(&own.Number, s.identity.Number)
		fill(&own.Caller, s.identity.Caller)
		rank = i
		break
	}
	chosen := m.plan.Draft.From
	return sender{roster.Identity{
		Name: cmp.Or(chosen.Name, own.Name), Number: cmp.Or(chosen.Number, own.Number),
		Caller: cmp.Or(chosen.Caller, own.Caller),
	}, rank}
}

// Identities are under which names and numbers an account may write: the
// organisation's and those of the groups that it sees, each once.
func Identities(r *roster.Roster, s Settings) (names, numbers []string) {
	add := func(list *[]string, value string) {
		if value != "" && !slices.Contains(*list, value) {
			*list = append(*list, value)
		}
	}
	add(&names, s.Identity.Name)
	add(&names, s.Sender)
	add(&numbers, s.Identity.Number)
	add(&numbers, s.Identity.Caller)
	for _, g := range r.Groups() {
		add(&names, g.Identity.Name)
		add(&numbers, g.Identity.Number)
		add(&numbers, g.Identity.Caller)
	}
	return names, numbers
}

// borrowed says which part of the identity that a draft asks for its sender
// may not use, or is "".
func (p *Plan) borrowed(r *roster.Roster) string {
	names, numbers := Identities(r, p.Settings)
	from := p.Draft.From
	for _, use := range []struct {
		value string
		of    []string
	}{{from.Name, names}, {from.Number, numbers}, {from.Caller, numbers}, {p.Draft.ReplyTo, []string{p.Settings.Own}}} {
		if use.value != "" && !slices.Contains(use.of, use.value) {
			return use.value
		}
	}
	return ""
}

// prefixed puts the unit's prefix before a subject.
func prefixed(s roster.Signature, subject string) string {
	if s.Prefix == "" || strings.HasPrefix(subject, s.Prefix) {
		return subject
	}
	return strings.TrimSpace(s.Prefix + " " + subject)
}

// signed is the plain email with the unit's footer under it.
func signed(s roster.Signature, body string) string {
	if s.Footer == "" {
		return body
	}
	return strings.TrimRight(body, "\n") + "\n\n" + s.Footer
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
	case roster.Push:
		return "" // a device shows whose page it was allowed for
	}
	if known := m.plan.Settings.Conversation; known != nil && m.plan.Draft.From.Number == "" {
		if number := known(a.Value); number != "" {
			return number
		}
	}
	return identity.Number
}
