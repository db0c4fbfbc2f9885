// Package audience turns the parts that a sender named into recipients, each
// once, with the reasons why they are there.
package audience

import (
	"fmt"
	"maps"
	"regexp"
	"slices"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
)

// Kind says what a part names.
type Kind string

const (
	ByGroup     Kind = "group"
	ByRole      Kind = "role"
	ByUnit      Kind = "unit"
	ByPerson    Kind = "person"
	ByPeople    Kind = "people"    // several, chosen one by one
	ByRule      Kind = "rule"      // whoever fulfils conditions
	ByAddresses Kind = "addresses" // whoever they belong to, and those who are not on the roster
)

// Kinds lists every kind of part.
var Kinds = []Kind{ByGroup, ByRole, ByUnit, ByPerson, ByPeople, ByRule, ByAddresses}

// Part names some people to include or to leave out. Just the identifier that
// belongs to its kind is set.
type Part struct {
	Kind      Kind              `json:"kind"`
	Group     roster.GroupID    `json:"group,omitempty"`
	Role      roster.Role       `json:"role,omitempty"`
	Unit      roster.UnitID     `json:"unit,omitempty" doc:"With the units inside it"`
	Person    roster.PersonID   `json:"person,omitempty"`
	People    []roster.PersonID `json:"people,omitempty" maxItems:"200000"`
	Rule      roster.Rule       `json:"rule,omitempty" maxItems:"20"`
	Addresses []string          `json:"addresses,omitempty" maxItems:"20000" doc:"Mailboxes, and numbers in E.164"`
	Name      string            `json:"name,omitempty" maxLength:"200" doc:"What the sender calls a rule or a list of addresses"`
	Only      roster.Rule       `json:"only,omitempty" maxItems:"20" doc:"Which of those it names it includes"`
	LeaveOut  bool              `json:"leaveOut,omitempty"`
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
		named := map[Kind]bool{
			ByGroup: p.Group != 0, ByRole: p.Role != "", ByUnit: p.Unit != 0, ByPerson: p.Person != 0,
			ByPeople: len(p.People) > 0,
			ByRule:   len(p.Rule) > 0, ByAddresses: len(p.Addresses) > 0,
		}
		if !named[p.Kind] {
			return fmt.Errorf("part %d: no %s is named", i+1, p.Kind)
		}
		if p.LeaveOut && len(p.Only) > 0 {
			return fmt.Errorf("part %d: a part that leaves out takes no conditions of its own", i+1)
		}
		for _, address := range p.Addresses {
			if !valid(address) {
				return fmt.Errorf("part %d: %q is neither a mail address nor a number in international form", i+1, address)
			}
		}
	}
	if !slices.Contains([]Receivers{"", Guardians, Themselves, Both}, a.Receivers) {
		return fmt.Errorf("%q does not say who receives for a dependent", a.Receivers)
	}
	return nil
}

var e164 = regexp.MustCompile(`^\+[1-9][0-9]{6,14}$`) // ITU-T E.164 §6

func valid(address string) bool {
	if e164.MatchString(address) {
		return true
	}
	mailbox, err := entry.Mailbox(address)
	return err == nil && mailbox == address
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
	// BeyondScope is an address that belongs to somebody beyond the sender's units.
	BeyondScope Gap = "beyond-scope"
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
	Beyond     int // others in it, whom the sender's account does not reach
	Recipients int // recipients it names or, for a leave-out, takes away
	Adds       int // recipients whom no other part names
	Within     int // the including part, by index, that already holds everybody in it, or -1
	Groups     int // groups nested in it
	Missing    bool
}

// Resolution is an audience worked out against a roster. Recipients and left
// out people are in roster order.
type Resolution struct {
	Recipients []Recipient
	LeftOut    []LeftOut
	// ThroughGuardians are the dependents, by position in roster order, whom
	// guardians are to be told about. Whether any guardian gets it is for the
	// plan to say.
	ThroughGuardians []int
	Parts            []PartCount
	NamedTwice       int // recipients who were named more than once and count once
}

// Resolve works out who is meant by a message that leaves on a day (see
// docs/rules.md, Audience).
func Resolve(r *roster.Roster, a Audience, day roster.Date) Resolution {
	w := worker{r: r, a: a, day: day, people: make([][]int, len(a.Parts))}
	res := Resolution{Parts: make([]PartCount, len(a.Parts))}
	for i, p := range a.Parts {
		w.people[i] = w.name(p, &res.Parts[i])
		res.Parts[i].People = len(w.people[i])
	}
	w.contain(res.Parts)

	gone := leftOut{themselves: make([]bool, r.Len()), about: make([]bool, r.Len())}
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
			gone.themselves[person] = true
			gone.about[person] = gone.about[person] || !p.asThemselves()
		}
		before := len(found.recipients)
		found = w.gather(gone)
		res.Parts[i].Recipients = before - len(found.recipients)
	}

	res.Recipients, res.LeftOut, res.ThroughGuardians = found.recipients, found.leftOut, found.through
	for _, rec := range res.Recipients {
		if rec.Named > 1 {
			res.NamedTwice++
		}
		if len(rec.Parts) == 1 {
			res.Parts[rec.Parts[0]].Adds++
		}
	}
	return res
}

// Named lists the positions of those whom a part names, dependents included
// and without a look at what leaves them out.
func Named(r *roster.Roster, p Part) []int {
	w := worker{r: r}
	return w.name(p, &PartCount{})
}

type worker struct {
	r      *roster.Roster
	a      Audience
	day    roster.Date
	people [][]int // by part: the positions it names
}

// name lists whom a part names, those whom its own conditions keep out taken away.
func (w *worker) name(p Part, count *PartCount) []int {
	people := w.all(p, count)
	if len(p.Only) == 0 {
		return people
	}
	count.Missing = count.Missing || w.r.Check(p.Only) != nil
	holds := make([]bool, w.r.Len())
	fulfil, _ := w.r.Select(p.Only)
	for _, i := range fulfil {
		holds[i] = true
	}
	return slices.DeleteFunc(slices.Clone(people), func(i int) bool { return !holds[i] })
}

func (w *worker) all(p Part, count *PartCount) []int {
	switch p.Kind {
	case ByGroup:
		g, known := w.r.Group(p.Group)
		count.Missing = !known
		if known {
			count.Beyond = g.Beyond
		}
		count.Groups = w.r.Nested(p.Group)
		return w.r.In(p.Group)
	case ByUnit:
		count.Missing = w.r.UnitPath(p.Unit) == ""
		return w.fulfil(roster.Rule{{On: roster.OnUnit, Test: roster.Is, ID: int64(p.Unit)}})
	case ByRole:
		rule := roster.Rule{{On: roster.OnRole, Test: roster.Is, Value: string(p.Role)}}
		count.Missing = w.r.Check(rule) != nil
		return w.fulfil(rule)
	case ByRule:
		count.Missing = w.r.Check(p.Rule) != nil
		return w.fulfil(p.Rule)
	case ByAddresses:
		return w.holders(p, count)
	}
	return w.persons(p, count)
}

// fulfil are the people of the roster who fulfil a rule. Addresses that belong
// to nobody on it are no people of the roster.
func (w *worker) fulfil(rule roster.Rule) []int {
	people, _ := w.r.Select(rule)
	return slices.DeleteFunc(people, func(i int) bool { return w.r.At(i).Stranger() })
}

// persons are those named one by one.
func (w *worker) persons(p Part, count *PartCount) []int {
	ids := p.People
	if p.Kind == ByPerson {
		ids = []roster.PersonID{p.Person}
	}
	people := make([]int, 0, len(ids))
	for _, id := range ids {
		if i, ok := w.r.Position(id); ok {
			people = append(people, i)
		}
	}
	slices.Sort(people)
	count.Missing = len(people) == 0
	return slices.Compact(people)
}

// holders are those to whom addresses belong. See WithStrangers for those that
// belong to nobody, or to somebody beyond the sender's units.
func (w *worker) holders(p Part, count *PartCount) []int {
	var people []int
	for _, address := range p.Addresses {
		people = append(people, w.r.Holders(address)...)
	}
	slices.Sort(people)
	people = slices.Compact(people)
	for _, i := range people {
		if w.r.At(i).Beyond {
			count.Beyond++
		}
	}
	return people
}

// contain finds for every including part the first other one that holds all of
// its people; of two that hold the same, the later one.
func (w *worker) contain(parts []PartCount) {
	including := func(i int) bool { return !w.a.Parts[i].LeaveOut && len(w.people[i]) > 0 }
	sets := make([][]bool, len(parts))
	for i := range parts {
		parts[i].Within = -1
		if including(i) {
			sets[i] = make([]bool, w.r.Len())
			for _, person := range w.people[i] {
				sets[i][person] = true
			}
		}
	}
	for i := range parts {
		for j := range parts {
			if i == j || sets[i] == nil || sets[j] == nil {
				continue
			}
			out := slices.IndexFunc(w.people[i], func(person int) bool { return !sets[j][person] })
			if out < 0 && (len(w.people[i]) < len(w.people[j]) || j < i) {
				parts[i].Within = j
				break
			}
		}
	}
}

type gathered struct {
	recipients []Recipient
	leftOut    []LeftOut
	through    []int
}

// leftOut are those whom parts leave out, by position.
type leftOut struct {
	themselves []bool // as recipients
	about      []bool // as dependents: what concerns them
}

// asThemselves reports whether a part means the people themselves, also
// dependents: it names addresses, or a role other than dependent.
func (p Part) asThemselves() bool {
	return p.Kind == ByAddresses || p.Kind == ByRole && p.Role != roster.Dependent
}

// gather unites the including parts without the people who are gone.
func (w *worker) gather(gone leftOut) gathered {
	g := gatherer{worker: w, gone: gone, slot: make([]int32, w.r.Len()), gaps: map[int]LeftOut{}, through: map[int]bool{}}
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
	gone       leftOut
	slot       []int32 // by position: 1 + index into recipients
	recipients []Recipient
	gaps       map[int]LeftOut // by position: people who get nothing, unless they become recipients
	through    map[int]bool    // by position: dependents whom guardians are to be told about
}

func (g *gatherer) include(part int, p Part, person int) {
	who := g.r.At(person)
	if p.asThemselves() || !who.Has(roster.Dependent) {
		g.add(part, person, -1)
		return
	}
	switch {
	case g.gone.about[person]:
		return
	case who.Status == roster.Left:
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
			if !g.gone.themselves[guardian] {
				g.gaps[guardian] = LeftOut{guardian, Barred, dependent}
			}
		case tie.Receives:
			receiving = true
			g.add(part, guardian, dependent)
		}
	}
	if receiving {
		g.through[dependent] = true
		return
	}
	if _, known := g.gaps[dependent]; !known {
		g.gaps[dependent] = LeftOut{dependent, NoGuardian, -1}
	}
}

// add names a recipient on behalf of a part and, unless about is -1, about a dependent.
func (g *gatherer) add(part, person, about int) {
	if g.gone.themselves[person] {
		return
	}
	if who := g.r.At(person); who.Beyond || !who.ActiveOn(g.day) {
		gap := AwayOrLeft
		if who.Beyond {
			gap = BeyondScope
		}
		if g.gaps[person].Gap != Barred {
			g.gaps[person] = LeftOut{person, gap, -1}
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
	out := gathered{recipients: g.recipients, through: slices.Sorted(maps.Keys(g.through))}
	slices.SortFunc(out.recipients, func(a, b Recipient) int { return a.Person - b.Person })
	for person, gap := range g.gaps {
		if g.slot[person] == 0 {
			out.leftOut = append(out.leftOut, gap)
		}
	}
	slices.SortFunc(out.leftOut, func(a, b LeftOut) int { return a.Person - b.Person })
	return out
}

// Names reports whether a part names a group.
func (a Audience) Names(group roster.GroupID) bool {
	return slices.ContainsFunc(a.Parts, func(p Part) bool { return p.Group == group })
}

// Writing is the unit that writes to an audience: the sender's own, or, for somebody
// who reaches the whole organisation, the one to which everybody they write to
// belongs; 0 is the organisation.
func (a Audience) Writing(r *roster.Roster, reach roster.Scope) roster.UnitID {
	if !reach.Whole {
		return reach.Pays()
	}
	var unit roster.UnitID
	for _, p := range a.Parts {
		own := p.Unit
		if g, ok := r.Group(p.Group); ok && p.Kind == ByGroup {
			own = g.Unit
		}
		switch {
		case p.LeaveOut:
		case own == 0 || unit != 0 && own != unit:
			return 0
		default:
			unit = own
		}
	}
	return unit
}

// Labels name the parts of an audience, in their order.
func (a Audience) Labels(r *roster.Roster) []string {
	list := make([]string, len(a.Parts))
	for i, p := range a.Parts {
		list[i] = Label(r, p)
	}
	return list
}
