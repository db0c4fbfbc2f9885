package roster

import (
	"cmp"
	"slices"
	"sort"
	"strings"
)

// Patch is how some people are now.
type Patch struct {
	IDs    []PersonID             // everybody whom it is about; who is not in People is gone
	People []Person               // in any order
	Ties   []Tie                  // all that they have
	Groups map[PersonID][]GroupID // all for which they are picked
}

// listKey is what people are listed by: family name or, without one, given
// name; then given name; without regard to case and marks.
type listKey struct {
	first, given string
	id           PersonID
}

func listKeyOf(p *Person) listKey {
	k := listKey{first: Fold(p.FamilyName), given: Fold(p.GivenName), id: p.ID}
	if k.first == "" {
		k.first = k.given
	}
	return k
}

func (k listKey) compare(o listKey) int {
	return cmp.Or(strings.Compare(k.first, o.first), strings.Compare(k.given, o.given), cmp.Compare(k.id, o.id))
}

// Sort puts people into the order in which they are listed.
func Sort(people []Person) {
	keys := make([]listKey, len(people))
	order := make([]int, len(people))
	for i := range people {
		keys[i], order[i] = listKeyOf(&people[i]), i
	}
	slices.SortFunc(order, func(a, b int) int { return keys[a].compare(keys[b]) })
	sorted := make([]Person, len(people))
	for i, from := range order {
		sorted[i] = people[from]
	}
	copy(people, sorted)
}

// Patched returns a snapshot in which some people are as a patch has them.
// The groups and everybody else are as before.
func (r *Roster) Patched(p Patch) (*Roster, error) {
	touched := make(map[PersonID]bool, len(p.IDs))
	for _, id := range p.IDs {
		touched[id] = true
	}
	c := r.Contents
	c.People = make([]Person, 0, len(r.People)+len(p.People))
	for i := range r.People {
		if !touched[r.People[i].ID] {
			c.People = append(c.People, r.People[i])
		}
	}
	for _, person := range p.People {
		key := listKeyOf(&person)
		at := sort.Search(len(c.People), func(i int) bool { return listKeyOf(&c.People[i]).compare(key) >= 0 })
		c.People = slices.Insert(c.People, at, person)
	}
	c.Ties = slices.Clone(p.Ties)
	for _, t := range r.Ties {
		if !touched[t.Guardian] && !touched[t.Dependent] {
			c.Ties = append(c.Ties, t)
		}
	}
	c.Groups = slices.Clone(r.Groups())
	for i := range c.Groups {
		c.Groups[i].Members = p.members(&c.Groups[i], touched)
	}
	return New(c)
}

func (p Patch) members(g *Group, touched map[PersonID]bool) []PersonID {
	if g.Kind == ByRule {
		return nil // New finds them
	}
	members := make([]PersonID, 0, len(g.Members))
	for _, id := range g.Members {
		if !touched[id] {
			members = append(members, id)
		}
	}
	for _, id := range p.IDs {
		if slices.Contains(p.Groups[id], g.ID) {
			members = append(members, id)
		}
	}
	return members
}
