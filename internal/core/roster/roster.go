// Package roster holds the people, ties, addresses and groups from which
// every audience and every plan is computed.
//
// A Roster is a snapshot: it never changes after New, so that any number of
// plans can be computed from it at once.
package roster

import (
	"fmt"
	"slices"
	"strings"
)

// Identifiers are those of the store; zero never names anything.
type (
	PersonID  int64
	GroupID   int64
	AddressID int64
)

// Channel is a way of carrying a message.
type Channel string

const (
	Email Channel = "email"
	Text  Channel = "text"
	Voice Channel = "voice"
)

// Channels lists every channel in the order in which they are shown.
var Channels = []Channel{Email, Text, Voice}

// Valid reports whether c is one of Channels.
func (c Channel) Valid() bool { return slices.Contains(Channels, c) }

// Urgency says how much a message may override.
type Urgency string

const (
	Routine   Urgency = "routine"
	Timely    Urgency = "timely"
	Emergency Urgency = "emergency"
)

// Urgencies lists every urgency from least to most.
var Urgencies = []Urgency{Routine, Timely, Emergency}

// Valid reports whether u is one of Urgencies.
func (u Urgency) Valid() bool { return slices.Contains(Urgencies, u) }

// Role is what a person is here. An organisation may add its own.
type Role string

const (
	Guardian  Role = "guardian"
	Staff     Role = "staff"
	Member    Role = "member"
	Field     Role = "field"
	Dependent Role = "dependent"
)

// Roles lists the built-in roles in the order in which they are shown.
var Roles = []Role{Guardian, Staff, Member, Field, Dependent}

// Status says whether a person is to be written to at all.
type Status string

const (
	Active Status = "active"
	Away   Status = "away"
	Left   Status = "left"
)

// Health is what earlier deliveries taught about an address.
type Health string

const (
	Untried Health = "untried"
	Good    Health = "good"
	Failing Health = "failing"
	Dead    Health = "dead"
)

// Address is one way to reach a person.
type Address struct {
	ID      AddressID
	Channel Channel
	Value   string // a mailbox, or a number in E.164
	Label   string // what the roster calls it: mobile, landline, work
	Health  Health

	DeclinesRoutine bool
	DeclinesTimely  bool
	// CarrierStop is a stop that the carrier itself recorded: it would
	// refuse the delivery whatever we decide.
	CarrierStop bool
}

// Declines reports whether consent is withheld for messages of urgency u.
// Nobody can decline an emergency.
func (a Address) Declines(u Urgency) bool {
	switch u {
	case Routine:
		return a.DeclinesRoutine
	case Timely:
		return a.DeclinesTimely
	default:
		return false
	}
}

// Person is anybody on the roster, with addresses in the order of preference.
type Person struct {
	ID         PersonID
	ExternalID string // the identifier in the organisation's own files, or ""
	GivenName  string
	FamilyName string
	Roles      []Role
	Language   string // a BCP 47 tag, or "" when unknown
	Status     Status
	Addresses  []Address
}

// Name is the full name in the order given name, family name.
func (p *Person) Name() string {
	return strings.TrimSpace(p.GivenName + " " + p.FamilyName)
}

// Has reports whether p has the role.
func (p *Person) Has(role Role) bool { return slices.Contains(p.Roles, role) }

// Tie joins a guardian to a dependent.
type Tie struct {
	Guardian  PersonID
	Dependent PersonID
	Receives  bool // the guardian receives messages about the dependent
	Barred    bool // contact is barred, for example by a court
}

// Group gathers people under a name. Inside lists the groups nested in it.
type Group struct {
	ID      GroupID
	Name    string
	Members []PersonID
	Inside  []GroupID
}

// Roster is an immutable snapshot of people, ties and groups. People are
// addressed by their position, 0 to Len()-1, which is the order given to New.
type Roster struct {
	people   []Person
	position map[PersonID]int
	ties     [][]Tie // by the dependent's position
	groups   []Group // in the organisation's one order
	group    map[GroupID]int
}

// New makes a snapshot. The order of people and of groups is kept and is the
// order in which results list them. Members and ties that name nobody in
// people are dropped; a group that contains itself is an error.
func New(people []Person, ties []Tie, groups []Group) (*Roster, error) {
	r := &Roster{
		people:   people,
		position: make(map[PersonID]int, len(people)),
		ties:     make([][]Tie, len(people)),
		groups:   groups,
		group:    make(map[GroupID]int, len(groups)),
	}
	for i := range people {
		r.position[people[i].ID] = i
	}
	for _, t := range ties {
		dependent, known := r.position[t.Dependent]
		if _, also := r.position[t.Guardian]; known && also {
			r.ties[dependent] = append(r.ties[dependent], t)
		}
	}
	for i, g := range groups {
		r.group[g.ID] = i
	}
	for _, g := range groups {
		if path := r.cycle(g.ID, nil); path != nil {
			return nil, fmt.Errorf("group nesting closes a circle: %s", strings.Join(path, " › "))
		}
	}
	return r, nil
}

// cycle returns the names along the first circle reached from id.
func (r *Roster) cycle(id GroupID, above []GroupID) []string {
	g, ok := r.Group(id)
	if !ok {
		return nil
	}
	if slices.Contains(above, id) {
		var names []string
		for _, a := range append(above, id) {
			ancestor, _ := r.Group(a)
			names = append(names, ancestor.Name)
		}
		return names
	}
	above = append(above, id)
	for _, inner := range g.Inside {
		if path := r.cycle(inner, above); path != nil {
			return path
		}
	}
	return nil
}

// Len is the number of people.
func (r *Roster) Len() int { return len(r.people) }

// At returns the person at a position.
func (r *Roster) At(i int) *Person { return &r.people[i] }

// Position returns where a person stands, and whether they are on the roster.
func (r *Roster) Position(id PersonID) (int, bool) {
	i, ok := r.position[id]
	return i, ok
}

// Person returns the person with an identifier, or nil.
func (r *Roster) Person(id PersonID) *Person {
	if i, ok := r.position[id]; ok {
		return &r.people[i]
	}
	return nil
}

// Guardians returns the ties of the dependent at a position.
func (r *Roster) Guardians(dependent int) []Tie { return r.ties[dependent] }

// Groups returns all groups in the organisation's one order.
func (r *Roster) Groups() []Group { return r.groups }

// Group returns the group with an identifier.
func (r *Roster) Group(id GroupID) (*Group, bool) {
	i, ok := r.group[id]
	if !ok {
		return nil, false
	}
	return &r.groups[i], true
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
	g, ok := r.Group(id)
	if !ok {
		return nil
	}
	if slices.Contains(g.Members, person) {
		return []string{g.Name}
	}
	for _, inner := range g.Inside {
		if below := r.Path(inner, person); below != nil {
			return append([]string{g.Name}, below...)
		}
	}
	return nil
}
