package audience

import (
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// Why says in one sentence how a recipient came to be one, such as “Guardian
// of Sami and Lina Haddad (Junior squads › U14).”
func Why(r *roster.Roster, a Audience, rec Recipient) string {
	var reasons []string
	if about := others(rec); len(about) > 0 {
		reasons = append(reasons, "guardian of "+names(r, about)+within(paths(r, a, rec.Parts, about)))
	}
	for _, i := range rec.Parts {
		if said := direct(r, a.Parts[i], rec.Person); said != "" {
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
func direct(r *roster.Roster, p Part, person int) string {
	who := r.At(person)
	switch {
	case p.Kind == ByRole && who.Has(p.Role):
		return fmt.Sprintf("has the role %s", p.Role)
	case p.Kind == ByPerson && who.ID == p.Person, p.Kind == ByPeople && slices.Contains(p.People, who.ID):
		return "named in person"
	case p.Kind == ByGroup:
		if path := r.Path(p.Group, who.ID); path != nil {
			return "in " + strings.Join(path, " › ")
		}
	}
	return ""
}

// paths are the groups by which parts reach the people, each once.
func paths(r *roster.Roster, a Audience, parts, people []int) []string {
	var list []string
	seen := map[string]bool{}
	for _, i := range parts {
		for _, person := range people {
			if a.Parts[i].Kind != ByGroup {
				continue
			}
			path := strings.Join(r.Path(a.Parts[i].Group, r.At(person).ID), " › ")
			if path != "" && !seen[path] {
				seen[path] = true
				list = append(list, path)
			}
		}
	}
	return list
}

func within(paths []string) string {
	if len(paths) == 0 {
		return ""
	}
	return " (" + strings.Join(paths, ", ") + ")"
}

func names(r *roster.Roster, people []int) string {
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
	}
	if p.Kind == ByPeople {
		return fmt.Sprintf("%d people chosen one by one", len(p.People))
	}
	if who := r.Person(p.Person); who != nil {
		return who.Name()
	}
	return "Somebody who is no longer on the roster"
}

// Describe says what a part is, under its label.
func Describe(r *roster.Roster, a Audience, part int, count PartCount) string {
	p := a.Parts[part]
	var said []string
	switch p.Kind {
	case ByGroup:
		said = append(said, "group")
		if count.Groups == 1 {
			said = append(said, "1 group inside it")
		} else if count.Groups > 1 {
			said = append(said, fmt.Sprintf("%d groups inside it", count.Groups))
		}
	case ByRole:
		said = append(said, "role")
	case ByPerson, ByPeople:
		said = append(said, "in person")
	}
	if count.Beyond > 0 {
		said = append(said, fmt.Sprintf("%d more are beyond your units", count.Beyond))
	}
	if !p.LeaveOut && namesDependents(r, p) {
		said = append(said, map[Receivers]string{
			"": "their guardians", Guardians: "their guardians", Themselves: "themselves", Both: "themselves and their guardians",
		}[a.Receivers])
	}
	return strings.Join(said, " · ")
}

// namesDependents reports whether a part names anybody for whom others may receive.
func namesDependents(r *roster.Roster, p Part) bool {
	switch p.Kind {
	case ByRole:
		return p.Role == roster.Dependent
	case ByPerson:
		who := r.Person(p.Person)
		return who != nil && who.Has(roster.Dependent)
	case ByPeople:
		return slices.ContainsFunc(p.People, func(id roster.PersonID) bool {
			who := r.Person(id)
			return who != nil && who.Has(roster.Dependent)
		})
	}
	return slices.ContainsFunc(r.In(p.Group), func(i int) bool { return r.At(i).Has(roster.Dependent) })
}
