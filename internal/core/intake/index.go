package intake

import (
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// index finds people by external identifier, and by name together with an address.
type index struct {
	people   []*roster.Person
	at       []int // what add was given
	external map[string]int
	name     map[string][]int
}

func newIndex() *index {
	return &index{external: map[string]int{}, name: map[string][]int{}}
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
}

// find returns the one person that p must be: by external identifier; else by
// name and a shared address; else by name alone, when p has no address and
// nobody else has the name.
func (x *index) find(p *roster.Person) (int, bool) {
	if p.ExternalID != "" {
		if i, ok := x.external[p.ExternalID]; ok {
			return x.at[i], true
		}
	}
	var alike []int
	for _, i := range x.name[foldName(p.Name())] {
		other := x.people[i]
		if p.ExternalID != "" && other.ExternalID != "" {
			continue // two identifiers are two people
		}
		if shareAddress(p, other) {
			return x.at[i], true
		}
		alike = append(alike, i)
	}
	if len(alike) == 1 && (len(p.Addresses) == 0 || len(x.people[alike[0]].Addresses) == 0) {
		return x.at[alike[0]], true
	}
	return 0, false
}

func shareAddress(p, q *roster.Person) bool {
	return slices.ContainsFunc(p.Addresses, func(a roster.Address) bool {
		return slices.ContainsFunc(q.Addresses, func(b roster.Address) bool {
			return a.Channel == b.Channel && a.Value == b.Value
		})
	})
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

// nesting keeps track of groups by name, those of the roster and new ones.
type nesting struct {
	roster   *roster.Roster
	names    map[string]string                   // by folded name: as it is written
	members  map[string]map[roster.PersonID]bool // by name
	inside   map[string][]string                 // by name: names of groups in it
	created  []string
	nestings []Nesting
}

func newNesting(r *roster.Roster) *nesting {
	n := &nesting{roster: r, names: map[string]string{}, members: map[string]map[roster.PersonID]bool{}, inside: map[string][]string{}}
	for _, g := range r.Groups() {
		n.names[foldName(g.Name)] = g.Name
		n.members[g.Name] = make(map[roster.PersonID]bool, len(g.Members))
		for _, m := range g.Members {
			n.members[g.Name][m] = true
		}
		for _, id := range g.Inside {
			if inner, ok := r.Group(id); ok {
				n.inside[g.Name] = append(n.inside[g.Name], inner.Name)
			}
		}
	}
	return n
}

func (n *nesting) canonical(name string) string { return n.names[foldName(name)] }

func (n *nesting) holds(group string, person roster.PersonID) bool {
	return person != 0 && n.members[group][person]
}

// add makes sure that the groups of a path exist, each inside the one before.
func (n *nesting) add(path []string) error {
	for i := 1; i < len(path); i++ {
		if outer, inner := n.canonical(path[i-1]), n.canonical(path[i]); inner != "" && n.reaches(inner, outer) || foldName(path[i]) == foldName(path[i-1]) {
			return fmt.Errorf("would put the group “%s” inside itself", path[i])
		}
	}
	for i, name := range path {
		if n.canonical(name) == "" {
			n.names[foldName(name)] = name
			n.created = append(n.created, name)
		}
		if i == 0 {
			continue
		}
		outer, inner := n.canonical(path[i-1]), n.canonical(name)
		if !slices.Contains(n.inside[outer], inner) {
			n.inside[outer] = append(n.inside[outer], inner)
			n.nestings = append(n.nestings, Nesting{outer, inner})
		}
	}
	return nil
}

// reaches reports whether target is from itself or nested in it.
func (n *nesting) reaches(from, target string) bool {
	if target == "" {
		return false
	}
	if from == target {
		return true
	}
	return slices.ContainsFunc(n.inside[from], func(inner string) bool { return n.reaches(inner, target) })
}
