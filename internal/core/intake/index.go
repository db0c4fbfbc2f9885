package intake

import (
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// index finds people by external identifier, address and name.
type index struct {
	people   []*roster.Person
	at       []int // what add was given
	external map[string]int
	name     map[string][]int
	address  map[destination][]int
}

type destination struct {
	channel roster.Channel
	value   string
}

// where is the destination of an address. Mailboxes are told apart by case in
// theory only (RFC 5321 §2.4).
func where(a roster.Address) destination { return destination{a.Channel, strings.ToLower(a.Value)} }

func newIndex() *index {
	return &index{external: map[string]int{}, name: map[string][]int{}, address: map[destination][]int{}}
}

func foldName(s string) string { return strings.Join(strings.Fields(strings.ToLower(s)), " ") }

func (x *index) add(at int, p *roster.Person) {
	i := len(x.people)
	x.people, x.at = append(x.people, p), append(x.at, at)
	if p.ExternalID != "" {
		x.external[p.ExternalID] = i
	}
	folded := foldName(p.Name())
	x.name[folded] = append(x.name[folded], i)
	for _, a := range p.Addresses {
		x.address[where(a)] = append(x.address[where(a)], i)
	}
}

// find returns the one person that p must be: by external identifier; else by
// a shared address and the name; else by name and birth date; else by name
// alone, when one of the two has no address and nobody else has the name.
func (x *index) find(p *roster.Person) (int, bool) {
	if p.ExternalID != "" {
		if i, ok := x.external[p.ExternalID]; ok {
			return x.at[i], true
		}
	}
	if i, ok := x.sharing(p); ok {
		return x.at[i], true
	}
	var alike []int
	for _, i := range x.name[foldName(p.Name())] {
		other := x.people[i]
		if p.ExternalID != "" && other.ExternalID != "" {
			continue // two identifiers are two people
		}
		if p.BornOn != "" && other.BornOn != "" {
			if p.BornOn == other.BornOn {
				return x.at[i], true
			}
			continue
		}
		alike = append(alike, i)
	}
	if len(alike) == 1 && (len(p.Addresses) == 0 || len(x.people[alike[0]].Addresses) == 0) {
		return x.at[alike[0]], true
	}
	return 0, false
}

// sharing finds whoever has one of p's addresses and p's name, or at least the
// given name beside another family name: a family that shares a mailbox is
// several people, somebody who married is one.
func (x *index) sharing(p *roster.Person) (int, bool) {
	for _, a := range p.Addresses {
		for _, i := range x.address[where(a)] {
			other := x.people[i]
			if p.ExternalID != "" && other.ExternalID != "" {
				continue
			}
			renamed := p.FamilyName != "" && other.FamilyName != "" && foldName(other.GivenName) == foldName(p.GivenName)
			if renamed || foldName(other.Name()) == foldName(p.Name()) {
				return x.at[i], true
			}
		}
	}
	return 0, false
}

// named returns who has a name or an external identifier, or -1 for nobody.
func (x *index) named(name string) (int, error) {
	if i, ok := x.external[name]; ok {
		return x.at[i], nil
	}
	alike := x.name[foldName(name)]
	switch len(alike) {
	case 0:
		return -1, nil
	case 1:
		return x.at[alike[0]], nil
	}
	return -1, fmt.Errorf("%d people have this name: give the guardian's id instead", len(alike))
}

// nesting keeps track of groups by name, those of the roster and new ones,
// whose identifiers are negative: -1 is the first of made.
type nesting struct {
	ids      map[string]roster.GroupID // by folded name
	inside   map[roster.GroupID][]roster.GroupID
	byRule   map[roster.GroupID]bool
	made     []roster.Group
	nestings []roster.Nesting
}

func newNesting(r *roster.Roster) *nesting {
	n := &nesting{ids: map[string]roster.GroupID{}, inside: map[roster.GroupID][]roster.GroupID{}, byRule: map[roster.GroupID]bool{}}
	for _, g := range r.Groups() {
		n.ids[foldName(g.Name)] = g.ID
		n.inside[g.ID] = slices.Clone(g.Inside)
		n.byRule[g.ID] = g.Kind == roster.ByRule
	}
	return n
}

// add makes sure that the groups of a path exist, each inside the one before,
// and returns the last of them.
func (n *nesting) add(path []string) (roster.GroupID, error) {
	for i := 1; i < len(path); i++ {
		outer, inner := n.ids[foldName(path[i-1])], n.ids[foldName(path[i])]
		if foldName(path[i]) == foldName(path[i-1]) || inner != 0 && outer != 0 && n.reaches(inner, outer) {
			return 0, fmt.Errorf("would put the group “%s” inside itself", path[i])
		}
	}
	last := path[len(path)-1]
	if id := n.ids[foldName(last)]; n.byRule[id] {
		return 0, fmt.Errorf("the group “%s” gets its people by rule; nobody is picked for it", last)
	}
	for i, name := range path {
		if n.ids[foldName(name)] == 0 {
			n.made = append(n.made, roster.Group{ID: roster.GroupID(-len(n.made) - 1), Name: name, Kind: roster.Picked})
			n.ids[foldName(name)] = n.made[len(n.made)-1].ID
		}
		if i == 0 {
			continue
		}
		outer, inner := n.ids[foldName(path[i-1])], n.ids[foldName(name)]
		if !slices.Contains(n.inside[outer], inner) {
			n.inside[outer] = append(n.inside[outer], inner)
			n.nestings = append(n.nestings, roster.Nesting{Outer: outer, Inner: inner})
		}
	}
	return n.ids[foldName(last)], nil
}

// reaches reports whether target is from itself or nested in it.
func (n *nesting) reaches(from, target roster.GroupID) bool {
	if from == target {
		return true
	}
	return slices.ContainsFunc(n.inside[from], func(inner roster.GroupID) bool { return n.reaches(inner, target) })
}
