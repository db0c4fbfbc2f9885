package roster

import (
	"cmp"
	"slices"
	"strings"
)

// Unit is a part of the organisation; units nest.
type Unit struct {
	ID     UnitID `json:"id,omitempty"`
	Name   string `json:"name"`
	Parent UnitID `json:"parent,omitempty"`
	Signature
}

// Signature is how a unit, or the organisation as a whole, signs what it writes.
type Signature struct {
	Prefix string `json:"prefix,omitempty" maxLength:"40" doc:"Stands before the subject of emails, so that families of several units know who writes"`
	Footer string `json:"footer,omitempty" maxLength:"2000" doc:"Stands under emails; fields are filled"`
}

// SignatureOf is how a unit signs: what it does not say itself, the unit around it
// says, and the organisation at last.
func (r *Roster) SignatureOf(id UnitID, whole Signature) Signature {
	var v Signature
	for range r.Units { // no deeper than there are units
		i := slices.IndexFunc(r.Units, func(u Unit) bool { return u.ID == id })
		if i < 0 {
			break
		}
		v = v.or(r.Units[i].Signature)
		id = r.Units[i].Parent
	}
	return v.or(whole)
}

func (v Signature) or(other Signature) Signature {
	return Signature{cmp.Or(v.Prefix, other.Prefix), cmp.Or(v.Footer, other.Footer)}
}

// Scope is what an account may touch: everything, or some units with all that
// is nested in them. The zero value is nothing.
type Scope struct {
	Whole bool     `json:"whole" doc:"The organisation as a whole"`
	Units []UnitID `json:"units"`
}

// Pays is the unit whose budget whoever reaches so far spends: their first one; 0 is
// the organisation.
func (s Scope) Pays() UnitID {
	if s.Whole || len(s.Units) == 0 {
		return 0
	}
	return s.Units[0]
}

// Begins reports whether a unit is where a reach begins: what is around it is not seen.
func (s Scope) Begins(id UnitID) bool { return !s.Whole && id != 0 && slices.Contains(s.Units, id) }

// MayEdit reports whether a group that is seen may be changed: those of the whole
// organisation only by who reaches all of it.
func (s Scope) MayEdit(g *Group) bool { return s.Whole || g.Unit != 0 }

// MayBelong reports whether something may be put into a unit of this roster by
// whoever reaches so far; only who reaches the whole organisation puts it into none.
func (r *Roster) MayBelong(unit UnitID, reach Scope) bool {
	if unit == 0 {
		return reach.Whole
	}
	return r.UnitPath(unit) != ""
}

// UnitPath names a unit from the outermost down: “Rowing › Juniors”. It is ""
// for the organisation as a whole and for a unit that does not exist.
func (r *Roster) UnitPath(id UnitID) string {
	var names []string
	for range len(r.Units) {
		i := slices.IndexFunc(r.Units, func(u Unit) bool { return u.ID == id })
		if i < 0 {
			break
		}
		names = append(names, r.Units[i].Name)
		id = r.Units[i].Parent
	}
	slices.Reverse(names)
	return strings.Join(names, " › ")
}

// UnitName is a unit's own name, or "" when there is no such unit.
func (r *Roster) UnitName(id UnitID) string {
	for _, u := range r.Units {
		if u.ID == id {
			return u.Name
		}
	}
	return ""
}

// UnitNamed finds a unit by its own name or by its path, in any case.
func (r *Roster) UnitNamed(name string) (UnitID, bool) {
	name = strings.ReplaceAll(strings.Join(strings.Fields(name), " "), " > ", " › ")
	for _, u := range r.Units {
		if strings.EqualFold(u.Name, name) || strings.EqualFold(r.UnitPath(u.ID), name) {
			return u.ID, true
		}
	}
	return 0, false
}

// Below returns the units of a list and everything nested in them.
func Below(units []Unit, of []UnitID) map[UnitID]bool {
	within := make(map[UnitID]bool, len(of))
	for _, id := range of {
		within[id] = true
	}
	for grew := true; grew; {
		grew = false
		for _, u := range units {
			if within[u.Parent] && !within[u.ID] && u.Parent != 0 {
				within[u.ID], grew = true, true
			}
		}
	}
	return within
}

// Covers reports whether everything that inner may touch, s may touch too.
func (s Scope) Covers(inner Scope, units []Unit) bool {
	if s.Whole {
		return true
	}
	if inner.Whole {
		return false
	}
	within := Below(units, s.Units)
	return !slices.ContainsFunc(inner.Units, func(u UnitID) bool { return !within[u] })
}

// Within returns the roster as a scope sees it: the people of its units, and
// as guests the guardians of the dependents among them. Groups that belong to
// other units are gone; a group that reaches beyond the scope says by how many.
func (r *Roster) Within(s Scope) *Roster {
	if s.Whole {
		return r
	}
	within := Below(r.Units, s.Units)
	guests := map[PersonID]bool{}
	seen := make([]bool, r.Len())
	for i := range r.People {
		seen[i] = within[r.People[i].Unit]
	}
	for i := range r.People {
		if !within[r.People[i].Unit] {
			continue
		}
		for _, t := range r.guardians[i] {
			guardian := r.position[t.Guardian]
			if !within[r.People[guardian].Unit] {
				guests[t.Guardian] = true
				seen[guardian] = true
			}
		}
	}
	c := Contents{Ties: r.Ties, Attributes: r.Attributes, OwnRoles: r.OwnRoles, Today: r.Today}
	for i, visible := range seen {
		if visible {
			c.People = append(c.People, r.People[i])
		}
	}
	for _, u := range r.Units {
		if within[u.ID] {
			c.Units = append(c.Units, u)
		}
	}
	c.Groups = r.groupsWithin(within, seen)
	limited := index(c)
	limited.guests = guests
	return limited
}

func (r *Roster) groupsWithin(within map[UnitID]bool, seen []bool) []Group {
	visible := func(g *Group) bool { return g.Unit == 0 || within[g.Unit] }
	var list []Group
	for _, g := range r.Groups() {
		if !visible(&g) {
			continue
		}
		for _, i := range r.In(g.ID) {
			if !seen[i] {
				g.Beyond++
			}
		}
		g.Inside = slices.DeleteFunc(slices.Clone(g.Inside), func(id GroupID) bool {
			inner, ok := r.Group(id)
			return !ok || !visible(inner)
		})
		list = append(list, g)
	}
	return list
}

// Guest reports whether a person is seen only as the guardian of somebody in
// the scope: they can be written to, and are edited elsewhere.
func (r *Roster) Guest(id PersonID) bool { return r.guests[id] }

// ByUnit counts the people and groups that belong to each unit itself.
func (r *Roster) ByUnit() (people, groups map[UnitID]int) {
	people, groups = map[UnitID]int{}, map[UnitID]int{}
	for i := range r.People {
		people[r.People[i].Unit]++
	}
	for _, g := range r.Groups() {
		groups[g.Unit]++
	}
	return people, groups
}
