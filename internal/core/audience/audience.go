// Package audience turns the parts that a sender named into recipients, each
// once, with the reasons why they are there.
package audience

import (
	"fmt"
	"slices"

	"upperlantern/internal/core/roster"
)

// Kind says what a part names.
type Kind string

const (
	ByGroup  Kind = "group"
	ByRole   Kind = "role"
	ByPerson Kind = "person"
	ByPeople Kind = "people" // several, chosen one by one
)

// Part names some people to include or to leave out. Just the identifier that
// belongs to its kind is set.
type Part struct {
	Kind     Kind              `json:"kind" enum:"group,role,person,people"`
	Group    roster.GroupID    `json:"group,omitempty"`
	Role     roster.Role       `json:"role,omitempty"`
	Person   roster.PersonID   `json:"person,omitempty"`
	People   []roster.PersonID `json:"people,omitempty" maxItems:"200000"`
	LeaveOut bool              `json:"leaveOut,omitempty"`
}

// Receivers says who receives what concerns a dependent.
type Receivers string

const (
	Guardians  Receivers = "guardians"
	Themselves Receivers = "themselves"
	Both       Receivers = "both"
)

// Audience is the sender's choice. The zero value chooses nobody.
type Audience struct {
	Parts     []Part    `json:"parts"`
	Receivers Receivers `json:"receivers" enum:"guardians,themselves,both"`
}

// Validate refuses a part that does not say whom it names.
func (a Audience) Validate() error {
	for i, p := range a.Parts {
		named := map[Kind]bool{ByGroup: p.Group != 0, ByRole: p.Role != "", ByPerson: p.Person != 0, ByPeople: len(p.People) > 0}
		if !named[p.Kind] {
			return fmt.Errorf("part %d: no %s is named", i+1, p.Kind)
		}
	}
	if !slices.Contains([]Receivers{"", Guardians, Themselves, Both}, a.Receivers) {
		return fmt.Errorf("%q does not say who receives for a dependent", a.Receivers)
	}
	return nil
}

// Recipient is a person to be told, by position in the roster.
type Recipient struct {
	Person int
	Parts  []int // the including parts that named them, by index
	About  []int // the dependents it is about, by position
	Named  int   // how many times they were named, in all
}

// Gap says why someone whom the parts named gets nothing.
type Gap string

const (
	AwayOrLeft Gap = "away-or-left"
	Barred     Gap = "contact-barred"
	NoGuardian Gap = "no-guardian"
)

// LeftOut is someone who was named and gets nothing.
type LeftOut struct {
	Person int
	Gap    Gap
	About  int // the dependent a barred guardian is tied to, or -1
}

// PartCount says what one part did.
type PartCount struct {
	People     int // named by the part itself, dependents included
	Beyond     int // others in its group, whom the sender's account does not reach
	Recipients int // recipients it names or, for a leave-out, takes away
	Groups     int // groups nested in it
	Missing    bool
}

// Resolution is an audience worked out against a roster. Recipients and left
// out people are in roster order.
type Resolution struct {
	Recipients []Recipient
	LeftOut    []LeftOut
	Parts      []PartCount
	NamedTwice int // recipients who were named more than once and count once
}

// Resolve works out who is meant (see docs/rules.md, Audience).
func Resolve(r *roster.Roster, a Audience) Resolution {
	w := worker{r: r, a: a, people: make([][]int, len(a.Parts))}
	res := Resolution{Parts: make([]PartCount, len(a.Parts))}
	for i, p := range a.Parts {
		w.people[i] = w.name(p, &res.Parts[i])
		res.Parts[i].People = len(w.people[i])
	}

	gone := make([]bool, r.Len())
	found := w.gather(gone)
	for i := range found.recipients {
		for _, part := range found.recipients[i].Parts {
			res.Parts[part].Recipients++
		}
	}
	for i, p := range a.Parts {
		if !p.LeaveOut {
			continue
		}
		for _, person := range w.people[i] {
			gone[person] = true
		}
		before := len(found.recipients)
		found = w.gather(gone)
		res.Parts[i].Recipients = before - len(found.recipients)
	}

	res.Recipients, res.LeftOut = found.recipients, found.leftOut
	for _, rec := range res.Recipients {
		if rec.Named > 1 {
			res.NamedTwice++
		}
	}
	return res
}

type worker struct {
	r      *roster.Roster
	a      Audience
	people [][]int // by part: the positions it names
}

func (w *worker) name(p Part, count *PartCount) []int {
	switch p.Kind {
	case ByGroup:
		g, known := w.r.Group(p.Group)
		count.Missing = !known
		if known {
			count.Beyond = g.Beyond
		}
		count.Groups = w.r.Nested(p.Group)
		return w.r.In(p.Group)
	case ByPerson:
		if i, ok := w.r.Position(p.Person); ok {
			return []int{i}
		}
		count.Missing = true
	case ByPeople:
		var in []int
		for _, id := range p.People {
			if i, ok := w.r.Position(id); ok {
				in = append(in, i)
			}
		}
		slices.Sort(in)
		count.Missing = len(in) == 0
		return slices.Compact(in)
	case ByRole:
		var in []int
		for i := range w.r.Len() {
			if w.r.At(i).Has(p.Role) {
				in = append(in, i)
			}
		}
		return in
	}
	return nil
}

type gathered struct {
	recipients []Recipient
	leftOut    []LeftOut
}

// gather unites the including parts without the people who are gone.
func (w *worker) gather(gone []bool) gathered {
	g := gatherer{worker: w, gone: gone, slot: make([]int32, w.r.Len()), gaps: map[int]LeftOut{}}
	for i, p := range w.a.Parts {
		if p.LeaveOut {
			continue
		}
		for _, person := range w.people[i] {
			g.include(i, p, person)
		}
	}
	return g.result()
}

type gatherer struct {
	*worker
	gone       []bool
	slot       []int32 // by position: 1 + index into recipients
	recipients []Recipient
	gaps       map[int]LeftOut // by position: people who get nothing, unless they become recipients
}

func (g *gatherer) include(part int, p Part, person int) {
	asThemselves := p.Kind == ByRole && p.Role != roster.Dependent
	if asThemselves || !g.r.At(person).Has(roster.Dependent) {
		g.add(part, person, -1)
		return
	}
	if g.gone[person] {
		return
	}
	if g.r.At(person).Status != roster.Active {
		g.gaps[person] = LeftOut{person, AwayOrLeft, -1}
		return
	}
	if g.a.Receivers == Themselves || g.a.Receivers == Both {
		g.add(part, person, person)
	}
	if g.a.Receivers != Themselves {
		g.addGuardians(part, person)
	}
}

func (g *gatherer) addGuardians(part, dependent int) {
	receiving := false
	for _, tie := range g.r.Guardians(dependent) {
		guardian, _ := g.r.Position(tie.Guardian)
		switch {
		case tie.Barred:
			if !g.gone[guardian] {
				g.gaps[guardian] = LeftOut{guardian, Barred, dependent}
			}
		case tie.Receives:
			receiving = true
			g.add(part, guardian, dependent)
		}
	}
	if !receiving {
		g.gaps[dependent] = LeftOut{dependent, NoGuardian, -1}
	}
}

// add names a recipient on behalf of a part and, unless about is -1, about a dependent.
func (g *gatherer) add(part, person, about int) {
	if g.gone[person] {
		return
	}
	if g.r.At(person).Status != roster.Active {
		if g.gaps[person].Gap != Barred {
			g.gaps[person] = LeftOut{person, AwayOrLeft, -1}
		}
		return
	}
	if g.slot[person] == 0 {
		g.recipients = append(g.recipients, Recipient{Person: person})
		g.slot[person] = int32(len(g.recipients))
	}
	rec := &g.recipients[g.slot[person]-1]
	rec.Named++
	if !slices.Contains(rec.Parts, part) {
		rec.Parts = append(rec.Parts, part)
	}
	if about >= 0 && !slices.Contains(rec.About, about) {
		rec.About = append(rec.About, about)
	}
}

func (g *gatherer) result() gathered {
	out := gathered{recipients: g.recipients}
	slices.SortFunc(out.recipients, func(a, b Recipient) int { return a.Person - b.Person })
	for person, gap := range g.gaps {
		if g.slot[person] == 0 {
			out.leftOut = append(out.leftOut, gap)
		}
	}
	slices.SortFunc(out.leftOut, func(a, b LeftOut) int { return a.Person - b.Person })
	return out
}
