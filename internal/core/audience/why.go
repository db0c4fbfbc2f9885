package audience

import (
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// Teller says who is in an audience and who is not, and why. It remembers whom
// each part names; it is not for use by several goroutines at once.
type Teller struct {
	r  *roster.Roster
	a  Audience
	in [][]bool // by part, then position; nil until asked for
}

// NewTeller makes a teller for an audience.
func NewTeller(r *roster.Roster, a Audience) *Teller {
	return &Teller{r, a, make([][]bool, len(a.Parts))}
}

// names reports whether a part names somebody.
func (t *Teller) names(part, person int) bool {
	if t.in[part] == nil {
		t.in[part] = make([]bool, t.r.Len())
		for _, i := range Named(t.r, t.a.Parts[part]) {
			t.in[part][i] = true
		}
	}
	return t.in[part][person]
}

// Why says in one sentence how a recipient came to be one, such as “Guardian
// of Sami and Lina Haddad (Junior squads › U14).”
func (t *Teller) Why(rec Recipient) string {
	var reasons []string
	if about := others(rec); len(about) > 0 {
		reasons = append(reasons, "guardian of "+listed(t.r, about)+within(t.paths(rec.Parts, about)))
	}
	for _, i := range rec.Parts {
		if said := t.direct(i, rec.Person); said != "" {
			reasons = append(reasons, said)
		}
	}
	sentence := strings.Join(reasons, "; ")
	if sentence == "" {
		return ""
	}
	return strings.ToUpper(sentence[:1]) + sentence[1:] + "."
}

// others are the dependents a recipient is told about, except themselves.
func others(rec Recipient) []int {
	var about []int
	for _, d := range rec.About {
		if d != rec.Person {
			about = append(about, d)
		}
	}
	return about
}

// direct is what a part says about the person themselves, or "".
func (t *Teller) direct(part, person int) string {
	p, who := t.a.Parts[part], t.r.At(person)
	switch p.Kind {
	case ByRole:
		if who.Has(p.Role) {
			return fmt.Sprintf("has the role %s", p.Role)
		}
		return ""
	case ByPerson, ByPeople:
		if t.names(part, person) {
			return "named themselves"
		}
		return ""
	case ByAddresses:
		if t.names(part, person) {
			return "among the pasted addresses"
		}
		return ""
	}
	if path := t.path(part, person); path != "" {
		return "in " + path
	}
	return ""
}

// path says through what a part holds a person: its groups, its unit or its
// rule; "" when it does not hold them.
func (t *Teller) path(part, person int) string {
	p := t.a.Parts[part]
	switch p.Kind {
	case ByGroup:
		return strings.Join(t.r.Path(p.Group, t.r.At(person).ID), " › ")
	case ByUnit, ByRule:
		if t.names(part, person) {
			return Label(t.r, p)
		}
	}
	return ""
}

// paths are the ways by which parts hold the people, each once.
func (t *Teller) paths(parts, people []int) []string {
	var list []string
	for _, i := range parts {
		for _, person := range people {
			if way := t.path(i, person); way != "" && !slices.Contains(list, way) {
				list = append(list, way)
			}
		}
	}
	return list
}

// WhyNot says why the audience does not make somebody a recipient.
func (t *Teller) WhyNot(person int) string {
	if part := t.leftOutBy(person); part >= 0 {
		return fmt.Sprintf("Left out by “%s”.", Label(t.r, t.a.Parts[part]))
	}
	if said := t.kept(person); said != "" {
		return said
	}
	for _, tie := range t.r.Dependents(person) {
		if said := t.whyNotFor(tie); said != "" {
			return said
		}
	}
	return "No part of the audience names them."
}

func (t *Teller) leftOutBy(person int) int {
	for i, p := range t.a.Parts {
		if p.LeaveOut && t.names(i, person) {
			return i
		}
	}
	return -1
}

// kept says which part's own conditions keep somebody out.
func (t *Teller) kept(person int) string {
	for i, p := range t.a.Parts {
		if len(p.Only) == 0 || t.names(i, person) {
			continue
		}
		words := strings.Join(t.r.RuleWords(p.Only), " and ")
		p.Only = nil
		if slices.Contains(Named(t.r, p), person) {
			return fmt.Sprintf("In “%s”, but not “%s”.", Label(t.r, p), words)
		}
	}
	return ""
}

// whyNotFor says why somebody does not hear of a dependent whom the audience names.
func (t *Teller) whyNotFor(tie roster.Tie) string {
	dependent, _ := t.r.Position(tie.Dependent)
	name := t.r.At(dependent).Name()
	if !t.included(dependent) {
		if said := t.kept(dependent); said != "" {
			return fmt.Sprintf("Guardian of %s: %s", name, strings.ToLower(said[:1])+said[1:])
		}
		return ""
	}
	part := t.leftOutBy(dependent)
	switch {
	case part >= 0:
		return fmt.Sprintf("Guardian of %s, who is left out by “%s”.", name, Label(t.r, t.a.Parts[part]))
	case t.a.Receivers == Themselves:
		return fmt.Sprintf("Guardian of %s, who receives it without their guardians.", name)
	case !tie.Receives:
		return fmt.Sprintf("Guardian of %s, but does not receive messages about them.", name)
	}
	return ""
}

// included reports whether an including part names somebody.
func (t *Teller) included(person int) bool {
	for i, p := range t.a.Parts {
		if !p.LeaveOut && t.names(i, person) {
			return true
		}
	}
	return false
}

func within(paths []string) string {
	if len(paths) == 0 {
		return ""
	}
	return " (" + strings.Join(paths, ", ") + ")"
}

func listed(r *roster.Roster, people []int) string {
	list := make([]string, len(people))
	for i, p := range people {
		list[i] = r.At(p).Name()
	}
	last := len(list) - 1
	if last == 0 {
		return list[0]
	}
	return strings.Join(list[:last], ", ") + " and " + list[last]
}

// Label names a part the way a sender would.
func Label(r *roster.Roster, p Part) string {
	switch p.Kind {
	case ByGroup:
		if g, ok := r.Group(p.Group); ok {
			return g.Name
		}
		return "A group that no longer exists"
	case ByRole:
		return "Everyone with the role " + string(p.Role)
	case ByUnit:
		if unit := r.UnitPath(p.Unit); unit != "" {
			return unit
		}
		return "A unit that no longer exists"
	case ByRule:
		if p.Name != "" {
			return p.Name
		}
		return "Everyone " + strings.Join(r.RuleWords(p.Rule), " and ")
	case ByAddresses:
		if p.Name != "" {
			return p.Name
		}
		return plural(len(p.Addresses), "address", "addresses") + " from a list"
	case ByPeople:
		return plural(len(p.People), "person", "people") + " chosen one by one"
	}
	if who := r.Person(p.Person); who != nil {
		return who.Name()
	}
	return "Somebody who is no longer on the roster"
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Describe says what a part is, under its label.
func Describe(r *roster.Roster, a Audience, part int, count PartCount) string {
	p := a.Parts[part]
	said := []string{
		map[Kind]string{ByGroup: "group", ByRole: "role", ByUnit: "unit", ByRule: "rule", ByAddresses: "addresses"}[p.Kind],
	}
	if said[0] == "" {
		said[0] = "by name"
	}
	if count.Groups > 0 {
		said = append(said, plural(count.Groups, "group", "groups")+" inside it")
	}
	if p.Kind == ByRule && p.Name != "" {
		said = append(said, strings.Join(r.RuleWords(p.Rule), " and "))
	}
	if len(p.Only) > 0 {
		said = append(said, "only those "+strings.Join(r.RuleWords(p.Only), " and "))
	}
	if strangers := p.strangers(r); strangers > 0 {
		said = append(said, plural(strangers, "is", "are")+" not on the roster")
	}
	if count.Beyond > 0 {
		said = append(said, plural(count.Beyond, "more is", "more are")+" beyond your units")
	}
	if !p.LeaveOut && namesDependents(r, p) {
		said = append(said, map[Receivers]string{
			"": "their guardians", Guardians: "their guardians", Themselves: "themselves",
			Both: "themselves and their guardians",
		}[a.Receivers])
	}
	return strings.Join(said, " · ")
}

// namesDependents reports whether a part names anybody for whom others may receive.
func namesDependents(r *roster.Roster, p Part) bool {
	switch p.Kind {
	case ByRole:
		return p.Role == roster.Dependent
	case ByAddresses:
		return false
	}
	return slices.ContainsFunc(Named(r, p), func(i int) bool { return r.At(i).Has(roster.Dependent) })
}
