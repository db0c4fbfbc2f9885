// Package roster holds the people, ties, addresses and groups from which
// every audience and every plan is computed.
//
// A Roster is a snapshot: it never changes after New, so that any number of
// plans can be computed from it at once.
package roster

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
)

// Contents are what a snapshot is made of.
type Contents struct {
	People     []Person // in the order in which results list them
	Ties       []Tie
	Groups     []Group // in the organisation's one order
	Units      []Unit
	Attributes []Attribute
	OwnRoles   []Role // of the organisation, besides Roles
	Today      Date   // in the organisation's time zone
}

// Roster is an immutable snapshot of people, ties and groups. People are
// addressed by their position, 0 to Len()-1, which is the order given to New.
type Roster struct {
	Contents
	position   map[PersonID]int
	guardians  [][]Tie // by the dependent's position
	dependents [][]Tie // by the guardian's position
	group      map[GroupID]int
	picked     [][]GroupID       // by position: the groups for which they were picked
	guests     map[PersonID]bool // seen only as guardians; see Within

	once     sync.Once
	texts    []searchText // see searchable
	onceIn   sync.Once
	memberOf [][]GroupID // by position: see GroupsOf
	onceHold sync.Once
	holders  map[string][]int // by address in lower case: see Holders
}

// New makes a snapshot. Members and ties that name nobody in people are
// dropped; a group that contains itself is an error. People whose time away is
// over are active again, and groups by rule get their members.
func New(c Contents) (*Roster, error) {
	r := index(c)
	acyclic := map[GroupID]bool{}
	for _, g := range r.Groups() {
		if path := r.cycle(g.ID, nil, acyclic); path != nil {
			return nil, fmt.Errorf("group nesting closes a circle: %s", strings.Join(path, " › "))
		}
	}
	for i := range r.People {
		if p := &r.People[i]; p.Status == Away && p.AwayUntil != "" && p.AwayUntil < c.Today {
			p.Status, p.AwayUntil = Active, ""
		}
	}
	r.fillRules()
	return r, nil
}

func index(c Contents) *Roster {
	r := &Roster{
		Contents:   c,
		position:   make(map[PersonID]int, len(c.People)),
		guardians:  make([][]Tie, len(c.People)),
		dependents: make([][]Tie, len(c.People)),
		group:      make(map[GroupID]int, len(c.Groups)),
		picked:     make([][]GroupID, len(c.People)),
	}
	for i := range c.People {
		r.position[c.People[i].ID] = i
	}
	r.Ties = nil
	for _, t := range c.Ties {
		dependent, known := r.position[t.Dependent]
		guardian, also := r.position[t.Guardian]
		if known && also {
			r.Ties = append(r.Ties, t)
			r.guardians[dependent] = append(r.guardians[dependent], t)
			r.dependents[guardian] = append(r.dependents[guardian], t)
		}
	}
	for i, g := range c.Groups {
		r.group[g.ID] = i
		if g.Kind == ByRule {
			continue
		}
		for _, m := range g.Members {
			if at, ok := r.position[m]; ok {
				r.picked[at] = append(r.picked[at], g.ID)
			}
		}
	}
	return r
}

// cycle returns the names along the first circle reached from id. Groups in
// done, which were walked before, lead to none.
func (r *Roster) cycle(id GroupID, above []GroupID, done map[GroupID]bool) []string {
	g, ok := r.Group(id)
	if !ok || done[id] {
		return nil
	}
	if at := slices.Index(above, id); at >= 0 {
		var names []string
		for _, a := range append(above[at:], id) {
			names = append(names, r.GroupName(a))
		}
		return names
	}
	above = append(above, id)
	for _, inner := range g.Inside {
		if path := r.cycle(inner, above, done); path != nil {
			return path
		}
	}
	done[id] = true
	return nil
}

// Closes returns the names from a group down to another one that it holds at
// some depth, by which putting the first into the second would close a circle;
// nil when it would not.
func (r *Roster) Closes(outer, inner GroupID) []string {
	return r.down(inner, func(g *Group) bool { return g.ID == outer }, map[GroupID]bool{})
}

// down returns the names from a group down to the first one that is found.
func (r *Roster) down(id GroupID, found func(*Group) bool, seen map[GroupID]bool) []string {
	g, ok := r.Group(id)
	if !ok || seen[id] {
		return nil
	}
	seen[id] = true
	if found(g) {
		return []string{g.Name}
	}
	for _, inner := range g.Inside {
		if below := r.down(inner, found, seen); below != nil {
			return append([]string{g.Name}, below...)
		}
	}
	return nil
}

// Len is the number of people.
func (r *Roster) Len() int { return len(r.People) }

// At returns the person at a position.
func (r *Roster) At(i int) *Person { return &r.People[i] }

// Position returns where a person stands, and whether they are on the roster.
func (r *Roster) Position(id PersonID) (int, bool) {
	i, ok := r.position[id]
	return i, ok
}

// Person returns the person with an identifier, or nil.
func (r *Roster) Person(id PersonID) *Person {
	if i, ok := r.position[id]; ok {
		return &r.People[i]
	}
	return nil
}

// Guardians returns the ties of the dependent at a position.
func (r *Roster) Guardians(dependent int) []Tie { return r.guardians[dependent] }

// Dependents returns the ties of the guardian at a position.
func (r *Roster) Dependents(guardian int) []Tie { return r.dependents[guardian] }

// ToldAbout are the dependents about whom somebody gets messages.
func (r *Roster) ToldAbout(guardian int) []PersonID {
	var list []PersonID
	for _, t := range r.Dependents(guardian) {
		if t.Receives && !t.Barred {
			list = append(list, t.Dependent)
		}
	}
	return list
}

// Groups returns all groups in the organisation's one order.
func (r *Roster) Groups() []Group { return r.Contents.Groups }

// Group returns the group with an identifier.
func (r *Roster) Group(id GroupID) (*Group, bool) {
	i, ok := r.group[id]
	if !ok {
		return nil, false
	}
	return &r.Contents.Groups[i], true
}

// HasNumber reports whether a number is one that texts or calls to a group show.
func (r *Roster) HasNumber(number string) bool {
	return slices.ContainsFunc(r.Groups(), func(g Group) bool {
		return number != "" && (g.Identity.Number == number || g.Identity.Caller == number)
	})
}

// GroupNamed returns the group with a name, in any case.
func (r *Roster) GroupNamed(name string) (*Group, bool) {
	i := slices.IndexFunc(r.Groups(), func(g Group) bool { return strings.EqualFold(g.Name, name) })
	if i < 0 {
		return nil, false
	}
	return &r.Contents.Groups[i], true
}

// GroupsOf returns the groups that the person at a position is in themselves,
// picked or by rule, in their order.
func (r *Roster) GroupsOf(i int) []GroupID {
	r.onceIn.Do(func() {
		r.memberOf = make([][]GroupID, r.Len())
		for _, g := range r.Groups() {
			for _, m := range g.Members {
				if at, ok := r.position[m]; ok {
					r.memberOf[at] = append(r.memberOf[at], g.ID)
				}
			}
		}
	})
	return r.memberOf[i]
}

// Attribute returns the attribute with an identifier.
func (r *Roster) Attribute(id AttributeID) (Attribute, bool) {
	i := slices.IndexFunc(r.Attributes, func(a Attribute) bool { return a.ID == id })
	if i < 0 {
		return Attribute{}, false
	}
	return r.Attributes[i], true
}

// In returns the positions of everybody in a group and in what is nested in
// it, each once, in roster order.
func (r *Roster) In(id GroupID) []int {
	var in []int
	r.eachInside(id, func(g *Group) {
		for _, m := range g.Members {
			if i, ok := r.position[m]; ok {
				in = append(in, i)
			}
		}
	})
	slices.Sort(in)
	return slices.Compact(in)
}

// Nested returns how many different groups are nested in a group, at any depth.
func (r *Roster) Nested(id GroupID) int {
	n := -1
	r.eachInside(id, func(*Group) { n++ })
	return max(n, 0)
}

// Inside returns a group and all groups nested in it, at any depth, each once.
func (r *Roster) Inside(id GroupID) []GroupID {
	var ids []GroupID
	r.eachInside(id, func(g *Group) { ids = append(ids, g.ID) })
	return ids
}

// Around returns a group and all groups that it is nested in, at any depth, each once.
func (r *Roster) Around(id GroupID) []GroupID {
	around, groups := []GroupID{id}, r.Groups()
	for at := 0; at < len(around); at++ {
		for _, g := range groups {
			if slices.Contains(g.Inside, around[at]) && !slices.Contains(around, g.ID) {
				around = append(around, g.ID)
			}
		}
	}
	return around
}

// eachInside calls visit once for the group and for each group nested in it.
func (r *Roster) eachInside(id GroupID, visit func(*Group)) {
	seen := map[GroupID]bool{}
	var walk func(GroupID)
	walk = func(id GroupID) {
		g, ok := r.Group(id)
		if !ok || seen[id] {
			return
		}
		seen[id] = true
		visit(g)
		for _, inner := range g.Inside {
			walk(inner)
		}
	}
	walk(id)
}

// Path returns the names of the groups from the group with an identifier down
// to the first one that holds the person, or nil when none does.
func (r *Roster) Path(id GroupID, person PersonID) []string {
	return r.down(id, func(g *Group) bool { return slices.Contains(g.Members, person) }, map[GroupID]bool{})
}

// Taken says what would go along with people who are removed.
type Taken struct {
	People      int
	Addresses   int
	Memberships int
	Ties        int
	Alone       []PersonID // dependents whom nobody would receive for
}

// Removal says what removing people would take along.
func (r *Roster) Removal(sheets []*Sheet) Taken {
	var t Taken
	gone := map[PersonID]bool{}
	for _, s := range sheets {
		gone[s.ID] = true
		t.People++
		t.Addresses += len(s.Addresses)
		t.Memberships += len(s.Groups)
		t.Ties += len(s.Ties)
	}
	t.Alone = r.LeftAlone(gone)
	return t
}

// LeftAlone returns the dependents for whom nobody would receive if some
// people were gone, and somebody does now.
func (r *Roster) LeftAlone(gone map[PersonID]bool) []PersonID {
	var alone []PersonID
	for i := range r.People {
		if gone[r.People[i].ID] {
			continue
		}
		now, then := 0, 0
		for _, t := range r.guardians[i] {
			if !t.Receives || t.Barred {
				continue
			}
			now++
			if !gone[t.Guardian] {
				then++
			}
		}
		if now > 0 && then == 0 {
			alone = append(alone, r.People[i].ID)
		}
	}
	return alone
}

// namesInAutomatic is how many members an automatic name tells.
const namesInAutomatic = 3

// AutomaticName is what a group is called until somebody names it: after its
// first members, with a number when another one is called so.
func (r *Roster) AutomaticName(id GroupID) string {
	var names []string
	members := r.In(id)
	for _, i := range members[:min(len(members), namesInAutomatic)] {
		names = append(names, strings.NewReplacer(";", "", ">", "", "|", "").Replace(r.At(i).Name()))
	}
	name := strings.Join(names, ", ")
	if more := len(members) - len(names); more > 0 {
		name += fmt.Sprintf(" and %d more", more)
	}
	if name == "" {
		name = "New group"
	}
	unique := name
	for n := 2; ; n++ {
		if other, taken := r.GroupNamed(unique); !taken || other.ID == id {
			return unique
		}
		unique = fmt.Sprintf("%s (%d)", name, n)
	}
}

// Reorder is the order of all groups after somebody put some of them into an
// order, who may move just the groups of which own is true: these change places
// with each other, and the others keep theirs. Kept reports whether the groups
// that were named come in that order; if not, others would have to move.
func (r *Roster) Reorder(wanted []GroupID, own func(*Group) bool) (order []GroupID, kept bool) {
	mine := make([]GroupID, 0, len(wanted)) // in the order that they get
	for _, id := range wanted {
		if g, ok := r.Group(id); ok && own(g) {
			mine = append(mine, id)
		}
	}
	next := 0
	for _, g := range r.Groups() {
		id := g.ID
		if slices.Contains(mine, id) {
			id = mine[next]
			next++
		}
		order = append(order, id)
	}
	place := make(map[GroupID]int, len(order))
	for i, id := range order {
		place[id] = i
	}
	return order, slices.IsSortedFunc(wanted, func(a, b GroupID) int { return place[a] - place[b] })
}

// Own is how many people are in a group themselves, not by what is nested in it.
func (r *Roster) Own(g *Group) int {
	n := 0
	for _, m := range g.Members {
		if _, ok := r.position[m]; ok {
			n++
		}
	}
	return n
}

// Behind is the only active person who has a login as a mailbox: whoever signs in with
// it. It is nil when there is none, or more than one.
func (r *Roster) Behind(login string) *Person {
	var found *Person
	for _, i := range r.Holders(login) {
		p := r.At(i)
		if p.Status != Active {
			continue
		}
		if found != nil {
			return nil
		}
		found = p
	}
	return found
}

// Holders lists the positions of those who have an address: a mailbox, however
// its letters are cased, or a number in E.164.
func (r *Roster) Holders(address string) []int {
	r.onceHold.Do(func() {
		r.holders = make(map[string][]int, 2*len(r.People))
		for i := range r.People {
			for _, a := range r.People[i].Addresses {
				key := strings.ToLower(a.Value)
				if known := r.holders[key]; len(known) == 0 || known[len(known)-1] != i {
					r.holders[key] = append(known, i)
				}
			}
		}
	})
	return r.holders[strings.ToLower(address)]
}

// Plus returns a snapshot with further people at its end, who have no ties and
// are in no group.
func (r *Roster) Plus(people []Person) *Roster {
	out := &Roster{
		Contents: r.Contents, position: maps.Clone(r.position), group: r.group, guests: r.guests,
		guardians:  append(slices.Clip(r.guardians), make([][]Tie, len(people))...),
		dependents: append(slices.Clip(r.dependents), make([][]Tie, len(people))...),
		picked:     append(slices.Clip(r.picked), make([][]GroupID, len(people))...),
	}
	out.People = append(slices.Clip(r.People), people...)
	for i := range people {
		out.position[people[i].ID] = r.Len() + i
	}
	return out
}
