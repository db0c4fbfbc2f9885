// Package view holds what answers of several areas show alike.
package view

import (
	"strings"

	"upperlantern/internal/core/roster"
)

// NamedPerson is somebody in a list.
type NamedPerson struct {
	ID     roster.PersonID `json:"id"`
	Name   string          `json:"name"`
	Detail string          `json:"detail"`
}

// NamedPeople are the first of some people, and how many there are.
type NamedPeople struct {
	People []NamedPerson `json:"people"`
	All    int           `json:"all"`
}

const namedAtMost = 200

// NamePeople names the first of some people.
func NamePeople(r *roster.Roster, ids []roster.PersonID) NamedPeople {
	out := NamedPeople{People: []NamedPerson{}, All: len(ids)}
	for _, id := range ids[:min(len(ids), namedAtMost)] {
		if p := r.Person(id); p != nil {
			out.People = append(out.People, Name(p))
		}
	}
	return out
}

// Name names one person.
func Name(p *roster.Person) NamedPerson {
	return NamedPerson{ID: p.ID, Name: p.Name(), Detail: note(p)}
}

// note tells two people of the same name apart.
func note(p *roster.Person) string {
	var words []string
	for _, role := range p.Roles {
		words = append(words, string(role))
	}
	if p.ExternalID != "" {
		words = append(words, p.ExternalID)
	}
	return strings.Join(words, ", ")
}

// Choice is one of several values that something can be set to.
type Choice struct {
	Value string `json:"value"`
	Words string `json:"words"`
}

// FilterView is one condition of a stack of filters.
type FilterView struct {
	Words  string `json:"words"`
	Leaves int    `json:"leaves" doc:"How many people it leaves of those before it"`
}
