package intake

import (
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// index finds people by external identifier, address and name. Each look-up
// takes the same few steps, however many people share a name or an address.
type index struct {
	external map[string]int
	name     map[string]few // by folded name
	words    map[string]few // by folded name, its words sorted: “haddad rania”
	alike    map[alike]few
	sharing  map[sharing]few
	without  map[int]bool // people who have no address
	lookups  int          // how many were made, which a test bounds
}

// few is how many people have something in common, and the first of them.
type few struct{ n, first int }

// alike is what people who have a name can have in common besides.
type alike struct {
	name     string
	external bool        // they have an identifier of the organisation's own
	born     roster.Date // or anyBirth
}

// anyBirth stands for every birth date, and for none.
const anyBirth roster.Date = "any"

// sharing is what people who have an address can have in common besides.
type sharing struct {
	to       destination
	name     string // the full name, or the given name of somebody with a family name
	given    bool
	external bool
}

type destination struct {
	channel roster.Channel
	value   string
}

// where is the destination of an address. Mailboxes are told apart by case in
// theory only (RFC 5321 §2.4).
func where(a roster.Address) destination { return destination{a.Channel, strings.ToLower(a.Value)} }

func newIndex() *index {
	return &index{
		external: map[string]int{}, name: map[string]few{}, words: map[string]few{}, alike: map[alike]few{},
		sharing: map[sharing]few{}, without: map[int]bool{},
	}
}

func foldName(s string) string { return strings.Join(strings.Fields(strings.ToLower(s)), " ") }

// sortWords makes names equal whose words stand in another order.
func sortWords(folded string) string {
	words := strings.Fields(strings.ReplaceAll(folded, ",", " "))
	slices.Sort(words)
	return strings.Join(words, " ")
}

func put[K comparable](into map[K]few, key K, at int) {
	known := into[key]
	if known.n == 0 {
		known.first = at
	}
	known.n++
	into[key] = known
}

func (x *index) add(at int, p *roster.Person) {
	if p.ExternalID != "" {
		x.external[p.ExternalID] = at
	}
	name, external := foldName(p.Name()), p.ExternalID != ""
	put(x.name, name, at)
	put(x.words, sortWords(name), at)
	put(x.alike, alike{name, external, anyBirth}, at)
	put(x.alike, alike{name, external, p.BornOn}, at)
	for _, a := range p.Addresses {
		put(x.sharing, sharing{where(a), name, false, external}, at)
		if p.FamilyName != "" {
			put(x.sharing, sharing{where(a), foldName(p.GivenName), true, external}, at)
		}
	}
	if len(p.Addresses) == 0 {
		x.without[at] = true
	}
}

// find returns the one person that p must be: by external identifier; else by
// a shared address and the name; else by name and birth date; else by name
// alone, when one of the two has no address and nobody else has the name.
func (x *index) find(p *roster.Person) (int, bool) {
	if p.ExternalID != "" {
		if at, ok := x.external[p.ExternalID]; ok {
			return at, true
		}
	}
	if at, ok := x.byAddress(p); ok {
		return at, true
	}
	name := foldName(p.Name())
	if p.BornOn != "" {
		if same := x.among(p, name, p.BornOn); same.n > 0 {
			return same.first, true
		}
	}
	born := anyBirth
	if p.BornOn != "" {
		born = "" // two birth dates are two people
	}
	one := x.among(p, name, born)
	if one.n == 1 && (len(p.Addresses) == 0 || x.without[one.first]) {
		return one.first, true
	}
	return 0, false
}

// among are the people of a name and a birth date who may be p: two external
// identifiers are two people.
func (x *index) among(p *roster.Person, name string, born roster.Date) few {
	x.lookups++
	found := x.alike[alike{name, false, born}]
	if p.ExternalID != "" {
		return found
	}
	return found.and(x.alike[alike{name, true, born}])
}

func (f few) and(o few) few {
	switch {
	case f.n == 0:
		return o
	case o.n == 0:
		return f
	}
	return few{f.n + o.n, min(f.first, o.first)}
}

// byAddress finds whoever has one of p's addresses and p's name, or at least
// the given name beside another family name: a family that shares a mailbox is
// several people, somebody who married is one.
func (x *index) byAddress(p *roster.Person) (int, bool) {
	name, given := foldName(p.Name()), foldName(p.GivenName)
	for _, a := range p.Addresses {
		x.lookups++
		found := x.sharing[sharing{where(a), name, false, false}]
		if p.FamilyName != "" {
			found = found.and(x.sharing[sharing{where(a), given, true, false}])
		}
		if p.ExternalID == "" {
			found = found.and(x.sharing[sharing{where(a), name, false, true}])
			if p.FamilyName != "" {
				found = found.and(x.sharing[sharing{where(a), given, true, true}])
			}
		}
		if found.n > 0 {
			return found.first, true
		}
	}
	return 0, false
}

// named returns who has a name or an external identifier, or -1 for nobody. A
// name whose words stand in another order, “Haddad, Rania”, is found when
// nobody has it as it stands.
func (x *index) named(name string) (int, error) {
	x.lookups++
	if at, ok := x.external[name]; ok {
		return at, nil
	}
	folded := foldName(name)
	found := x.name[folded]
	if found.n == 0 {
		found = x.words[sortWords(folded)]
	}
	switch found.n {
	case 0:
		return -1, nil
	case 1:
		return found.first, nil
	}
	return -1, fmt.Errorf("%d people have this name: give the guardian's id instead", found.n)
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
	n := &nesting{
		ids: map[string]roster.GroupID{}, inside: map[roster.GroupID][]roster.GroupID{}, byRule: map[roster.GroupID]bool{},
	}
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
	seen := map[roster.GroupID]bool{}
	var walk func(roster.GroupID) bool
	walk = func(id roster.GroupID) bool {
		if id == target {
			return true
		}
		if seen[id] {
			return false
		}
		seen[id] = true
		return slices.ContainsFunc(n.inside[id], walk)
	}
	return walk(from)
}
