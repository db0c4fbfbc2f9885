package roster

import (
	"cmp"
	"slices"
	"strings"

	"upperlantern/internal/core/phone"
)

// Sheet is everything that is edited about one person.
type Sheet struct {
	Person
	Ties   []Tie     `json:"ties" doc:"In which they are the guardian or the dependent"`
	Groups []GroupID `json:"groups" doc:"The groups for which they were picked themselves"`
	// LiftReason is said by whoever lifts a barred contact; the history keeps it.
	LiftReason string `json:"liftReason,omitempty" maxLength:"1000" doc:"Why a barred contact is allowed again; needed to lift a bar"`
}

// Sheet returns the sheet of a person, or nil when they are not on the roster.
// It shares nothing with the snapshot that an edit would change.
func (r *Roster) Sheet(id PersonID) *Sheet {
	at, ok := r.position[id]
	if !ok {
		return nil
	}
	s := &Sheet{Person: r.People[at], Groups: append([]GroupID{}, r.picked[at]...)}
	s.Ties = append([]Tie{}, r.guardians[at]...)
	s.Ties = append(s.Ties, r.dependents[at]...)
	return s.Clone()
}

// Clone returns a copy that can be changed on its own.
func (s *Sheet) Clone() *Sheet {
	c := *s
	c.Roles, c.Values, c.Addresses = slices.Clone(s.Roles), slices.Clone(s.Values), slices.Clone(s.Addresses)
	c.Ties, c.Groups = slices.Clone(s.Ties), slices.Clone(s.Groups)
	return &c
}

// SetValue sets or, with "", takes away what the person has for an attribute.
func (s *Sheet) SetValue(id AttributeID, value string) {
	s.Values = slices.DeleteFunc(s.Values, func(v Value) bool { return v.Attribute == id })
	if value != "" {
		s.Values = append(s.Values, Value{id, value})
	}
	slices.SortFunc(s.Values, func(a, b Value) int { return cmp.Compare(a.Attribute, b.Attribute) })
}

// Join picks the person for a group, once.
func (s *Sheet) Join(id GroupID) {
	if !slices.Contains(s.Groups, id) {
		s.Groups = append(s.Groups, id)
	}
}

// Leave takes the person out of a group for which they were picked.
func (s *Sheet) Leave(id GroupID) {
	s.Groups = slices.DeleteFunc(s.Groups, func(g GroupID) bool { return g == id })
}

// Other is who a tie joins the person to.
func (t Tie) Other(id PersonID) PersonID {
	if t.Guardian == id {
		return t.Dependent
	}
	return t.Guardian
}

// Joins reports whether two ties join the same people.
func (t Tie) Joins(o Tie) bool { return t.Guardian == o.Guardian && t.Dependent == o.Dependent }

// Joined is what two accounts of one tie come to. A bar wins over anything else.
func (t Tie) Joined(o Tie) Tie {
	t.Barred = t.Barred || o.Barred
	t.Receives = (t.Receives || o.Receives) && !t.Barred
	return t
}

// Lifted lists the barred ties of a sheet that are no longer barred in the
// sheet after it, because they are gone or because contact is allowed again.
func Lifted(before, after *Sheet) []Tie {
	var list []Tie
	for _, t := range before.Ties {
		still := slices.ContainsFunc(after.Ties, func(a Tie) bool { return a.Joins(t) && a.Barred })
		if t.Barred && !still {
			list = append(list, t)
		}
	}
	return list
}

// KeepBars makes every tie barred again that is barred in the sheet of now, and
// returns how many that were.
func (s *Sheet) KeepBars(now *Sheet) int {
	lifted := Lifted(now, s)
	for _, t := range lifted {
		if at := slices.IndexFunc(s.Ties, t.Joins); at >= 0 {
			s.Ties[at] = s.Ties[at].Joined(t)
		} else {
			s.Ties = append(s.Ties, t)
		}
	}
	return len(lifted)
}

// Change is one thing that an edit made different, in words.
type Change struct {
	What string `json:"what"`
	From string `json:"from,omitempty"`
	To   string `json:"to,omitempty"`
}

// Names says how people and groups are called; a Roster knows its own.
type Names interface {
	PersonName(PersonID) string
	GroupName(GroupID) string
}

// PersonName is a person's full name.
func (r *Roster) PersonName(id PersonID) string {
	if p := r.Person(id); p != nil {
		return p.Name()
	}
	return "somebody who is no longer on the roster"
}

// GroupName is a group's name.
func (r *Roster) GroupName(id GroupID) string {
	if g, ok := r.Group(id); ok {
		return g.Name
	}
	return "a group that no longer exists"
}

// Differ says in words how the sheet before became the sheet after. Nil
// stands for a person who is not on the roster.
func (r *Roster) Differ(before, after *Sheet, names Names) []Change {
	if before == nil || after == nil {
		return nil
	}
	var list []Change
	add := func(what, from, to string) {
		if from != to {
			list = append(list, Change{what, from, to})
		}
	}
	add("external id", before.ExternalID, after.ExternalID)
	add("given name", before.GivenName, after.GivenName)
	add("family name", before.FamilyName, after.FamilyName)
	add("known as", before.KnownAs, after.KnownAs)
	add("roles", join(sorted(before.Roles)), join(sorted(after.Roles)))
	add("language", before.Language, after.Language)
	add("status", statusWords(before.Person), statusWords(after.Person))
	add("born on", string(before.BornOn), string(after.BornOn))
	add("unit", r.UnitPath(before.Unit), r.UnitPath(after.Unit))
	add("time zone", before.TimeZone, after.TimeZone)
	add("wish", string(before.Wish), string(after.Wish))
	add("notes", before.Notes, after.Notes)
	for _, a := range r.Attributes {
		add(a.Name, before.Value(a.ID), after.Value(a.ID))
	}
	list = append(list, differAddresses(before, after)...)
	list = append(list, differTies(before, after, names)...)
	return append(list, differGroups(before, after, names)...)
}

func statusWords(p Person) string {
	if p.Status == Away && p.AwayUntil != "" {
		return "away until " + string(p.AwayUntil)
	}
	return string(p.Status)
}

func sorted[T cmp.Ordered](list []T) []T {
	list = slices.Clone(list)
	slices.Sort(list)
	return list
}

func join[T ~string](list []T) string {
	words := make([]string, len(list))
	for i, s := range list {
		words[i] = string(s)
	}
	return strings.Join(words, ", ")
}

// words describes an address without what the program learns by itself.
func (a Address) words() string {
	said := phone.Display(a.Value)
	if a.Label != "" {
		said += " (" + a.Label + ")"
	}
	if a.DeclinesRoutine {
		said += ", declines routine"
	}
	if a.DeclinesTimely {
		said += ", declines timely"
	}
	if a.CheckedOn != "" {
		said += ", checked on " + string(a.CheckedOn)
	}
	return said
}

func differAddresses(before, after *Sheet) []Change {
	var list []Change
	var kept, order []string
	at := func(addresses []Address, a Address) int {
		return slices.IndexFunc(addresses, func(b Address) bool { return b.ID == a.ID && a.ID != 0 || b.Is(a) })
	}
	for _, b := range before.Addresses {
		i := at(after.Addresses, b)
		if i < 0 {
			list = append(list, Change{What: string(b.Channel), From: b.words()})
			continue
		}
		kept = append(kept, after.Addresses[i].Value)
		if to := after.Addresses[i]; to.words() != b.words() {
			list = append(list, Change{string(b.Channel), b.words(), to.words()})
		}
	}
	for _, a := range after.Addresses {
		if at(before.Addresses, a) < 0 {
			list = append(list, Change{What: string(a.Channel), To: a.words()})
			continue
		}
		order = append(order, a.Value)
	}
	if !slices.Equal(kept, order) {
		list = append(list, Change{
			"order of addresses", strings.Join(slices.Compact(kept), ", "), strings.Join(slices.Compact(order), ", "),
		})
	}
	return list
}

func differTies(before, after *Sheet, names Names) []Change {
	words := func(t Tie) string {
		switch {
		case t.Barred:
			return "contact barred"
		case t.Receives:
			return "receives messages"
		}
		return "does not receive messages"
	}
	name := func(t Tie, self PersonID) string {
		if t.Dependent == self {
			return "guardian " + names.PersonName(t.Guardian)
		}
		return "dependent " + names.PersonName(t.Dependent)
	}
	find := func(ties []Tie, t Tie) (Tie, bool) {
		i := slices.IndexFunc(ties, t.Joins)
		if i < 0 {
			return Tie{}, false
		}
		return ties[i], true
	}
	var list []Change
	for _, t := range before.Ties {
		to, kept := find(after.Ties, t)
		if !kept {
			list = append(list, Change{What: name(t, before.ID), From: words(t)})
		} else if words(to) != words(t) {
			list = append(list, Change{name(t, before.ID), words(t), words(to)})
		}
	}
	for _, t := range after.Ties {
		if _, known := find(before.Ties, t); !known {
			list = append(list, Change{What: name(t, after.ID), To: words(t)})
		}
	}
	return list
}

func differGroups(before, after *Sheet, names Names) []Change {
	var list []Change
	for _, id := range before.Groups {
		if !slices.Contains(after.Groups, id) {
			list = append(list, Change{What: "group", From: names.GroupName(id)})
		}
	}
	for _, id := range after.Groups {
		if !slices.Contains(before.Groups, id) {
			list = append(list, Change{What: "group", To: names.GroupName(id)})
		}
	}
	return list
}

// PersonEdit is one person of an edit: After is nil for one who is removed,
// Before for one who is added.
type PersonEdit struct {
	Before *Sheet
	After  *Sheet
}

// ID is the person's identifier.
func (e PersonEdit) ID() PersonID {
	if e.After != nil {
		return e.After.ID
	}
	return e.Before.ID
}

// EditKind is what was done to the roster.
type EditKind string

const (
	Changed   EditKind = "edit"
	Added     EditKind = "add"
	Removed   EditKind = "remove"
	Merged    EditKind = "merge"
	Imported  EditKind = "import"
	Undone    EditKind = "undo"
	Corrected EditKind = "update" // by the people themselves
	Set       EditKind = "set"    // a setting, which is changed back in Settings
)

// EditKinds lists everything that can be done.
var EditKinds = []EditKind{Changed, Added, Removed, Merged, Imported, Undone, Corrected, Set}

// Edit is what happens to the roster in one go, and is undone in one go. New
// people and groups have negative identifiers, by which its ties and
// memberships name them.
type Edit struct {
	Kind   EditKind
	Said   string // in words, for the history
	People []PersonEdit
	Groups []Group // new groups, with what is nested in them
	Nest   []Nesting
	// Merged people are known by the identifier of whom they were merged into.
	Merged map[PersonID]PersonID
}

// Nesting puts one group into another.
type Nesting struct{ Outer, Inner GroupID }
