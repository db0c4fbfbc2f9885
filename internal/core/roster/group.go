package roster

import "slices"

// Take is how people are brought into a group.
type Take string

const (
	TakeAdd    Take = "add"
	TakeOnly   Take = "only" // keep only those who are in both
	TakeRemove Take = "remove"
)

// Fill changes who is picked for a group. Guests stay as they are.
func (r *Roster) Fill(group *Group, take Take, people []PersonID) []PersonEdit {
	switch take {
	case TakeAdd:
		return r.changeGroups(people, func(s *Sheet) { s.Join(group.ID) })
	case TakeRemove:
		return r.changeGroups(people, func(s *Sheet) { s.Leave(group.ID) })
	}
	keep := make(map[PersonID]bool, len(people))
	for _, id := range people {
		keep[id] = true
	}
	out := slices.DeleteFunc(slices.Clone(group.Members), func(id PersonID) bool { return keep[id] })
	return r.changeGroups(out, func(s *Sheet) { s.Leave(group.ID) })
}

// changeGroups are the edits of those whose groups become other ones.
func (r *Roster) changeGroups(people []PersonID, change func(*Sheet)) []PersonEdit {
	var edits []PersonEdit
	for _, id := range people {
		before := r.Sheet(id)
		if before == nil || r.Guest(id) {
			continue
		}
		after := before.Clone()
		change(after)
		if len(after.Groups) != len(before.Groups) {
			edits = append(edits, PersonEdit{Before: before, After: after})
		}
	}
	return edits
}

// Moves says who would join a group, 0 for a new one, and who would leave it, if
// these people were in it.
func (r *Roster) Moves(id GroupID, people []int) (joins, leaves []PersonID) {
	now := map[PersonID]bool{}
	if group, ok := r.Group(id); ok {
		for _, m := range group.Members {
			now[m] = r.Person(m) != nil
		}
	}
	for _, i := range people {
		person := r.At(i).ID
		if !now[person] {
			joins = append(joins, person)
		}
		delete(now, person)
	}
	for i := range r.Len() {
		if person := r.At(i).ID; now[person] {
			leaves = append(leaves, person)
		}
	}
	return joins, leaves
}

// WithHidden are the groups inside a group that whoever sees another roster chose,
// with those that they do not see, so that saving does not lose them.
func (r *Roster) WithHidden(seen *Roster, typed Group) []GroupID {
	inside := slices.Clone(typed.Inside)
	before, ok := r.Group(typed.ID)
	if !ok {
		return inside
	}
	for _, id := range before.Inside {
		if _, visible := seen.Group(id); !visible {
			inside = append(inside, id)
		}
	}
	return inside
}
