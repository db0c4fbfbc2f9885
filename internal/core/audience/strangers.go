package audience

import (
	"strings"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// WithStrangers is a roster that also holds somebody for every address of the
// audience that belongs to nobody in r. Everybody is the whole roster where r
// shows a part of it: whoever has an address there and not in r is beyond the
// sender's units and gets nothing. The identifiers of all of them are negative.
func WithStrangers(r, everybody *roster.Roster, a Audience) *roster.Roster {
	var strangers []roster.Person
	known := map[string]bool{}
	for _, p := range a.Parts {
		for _, address := range p.Addresses {
			key := strings.ToLower(address)
			if known[key] || len(r.Holders(address)) > 0 {
				continue
			}
			known[key] = true
			one := stranger(address, -1-len(strangers))
			one.Beyond = len(everybody.Holders(address)) > 0
			strangers = append(strangers, one)
		}
	}
	if len(strangers) == 0 {
		return r
	}
	return r.Plus(strangers)
}

// stranger is somebody of whom only an address is known.
func stranger(address string, id int) roster.Person {
	p := roster.Person{
		ID: roster.PersonID(id), GivenName: phone.Display(address), Roles: []roster.Role{}, Status: roster.Active,
	}
	add := func(c roster.Channel) { p.Addresses = append(p.Addresses, roster.Address{Channel: c, Value: address}) }
	switch {
	case !strings.HasPrefix(address, "+"):
		add(roster.Email)
	case phone.Landline(address):
		add(roster.Voice)
	default:
		add(roster.Text)
		add(roster.Voice)
	}
	return p
}

// strangers counts those of a part who are not on the roster.
func (p Part) strangers(r *roster.Roster) int {
	if p.Kind != ByAddresses {
		return 0
	}
	n := 0
	for _, i := range Named(r, p) {
		if who := r.At(i); who.Stranger() && !who.Beyond {
			n++
		}
	}
	return n
}
