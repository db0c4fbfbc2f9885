package roster

import (
	"cmp"
	"slices"
	"strings"
)

// Patch is how some people are now.
type Patch struct {
	IDs    []PersonID             // everybody whom it is about; who is not in People is gone
	People []Person               // in any order
	Ties   []Tie                  // all that they have
	Groups map[PersonID][]GroupID // all for which they are picked
}

// Compare is the order in which people are listed: by family name or, without
// one, given name; then by given name; without regard to the case of Latin letters.
func Compare(a, b *Person) int {
	first := func(p *Person) string {
		if p.FamilyName != "" {
			return p.FamilyName
		}
		return p.GivenName
	}
	return cmp.Or(
		strings.Compare(lowerASCII(first(a)), lowerASCII(first(b))), strings.Compare(lowerASCII(a.GivenName), lowerASCII(b.GivenName)), cmp.Compare(a.ID, b.ID),
	)
}

// lowerASCII folds as the database's NOCASE does.
func lowerASCII(s string) string {
	return strings.Map(func(r rune) rune {
		if 'A' <= r && r <= 'Z' {
			return r + 'a' - 'A'
		}
		return r
	}, s)
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
		at, _ := slices.BinarySearchFunc(c.People, person, func(a, b Person) int { return Compare(&a, &b) })
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
