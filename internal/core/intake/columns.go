// Package intake works out what loading a table of people would change,
// before anything is changed.
package intake

import (
	"slices"
	"strings"
	"unicode"
)

// Column says what the cells of one column of a file mean.
type Column string

const (
	Ignored    Column = ""
	ExternalID Column = "external id"
	GivenName  Column = "given name"
	FamilyName Column = "family name"
	FullName   Column = "full name"
	Roles      Column = "roles"
	Language   Column = "language"
	Mobile     Column = "mobile"
	Landline   Column = "landline"
	Email      Column = "email"
	Groups     Column = "groups"
	Guardians  Column = "guardians"
	Barred     Column = "barred guardians"
	OptedOut   Column = "opted out of"
	Status     Column = "status"
)

// Columns lists every meaning in the order in which they are offered.
var Columns = []Column{
	ExternalID, GivenName, FamilyName, FullName, Roles, Language, Mobile, Landline, Email,
	Groups, Guardians, Barred, OptedOut, Status,
}

// several are the meanings that more than one column may have.
var several = []Column{Ignored, Roles, Mobile, Landline, Email, Groups, Guardians, Barred}

// headings are what files call their columns, without case, digits and punctuation.
var headings = map[Column][]string{
	ExternalID: {"id", "external id", "person id", "member no", "member number", "membership number", "number", "ref", "reference"},
	GivenName:  {"given name", "given names", "first name", "first names", "forename", "forenames"},
	FamilyName: {"family name", "last name", "surname"},
	FullName:   {"name", "full name", "person"},
	Roles:      {"role", "roles", "type", "category"},
	Language:   {"language", "preferred language", "home language", "lang"},
	Mobile:     {"mobile", "mobile phone", "mobile number", "cell", "text number", "phone", "telephone"},
	Landline:   {"landline", "home phone", "home telephone", "house phone", "work phone"},
	Email:      {"email", "e mail", "mail", "email address", "e mail address", "home email", "work email"},
	Groups:     {"group", "groups", "squad", "squads", "team", "teams", "class", "classes", "section"},
	Guardians:  {"guardian", "guardians", "parent", "parents", "parent or guardian", "guardian id", "guardian ids"},
	Barred:     {"barred guardian", "barred guardians", "barred contact", "contact barred"},
	OptedOut:   {"opted out of", "opted out", "opt out", "declines", "declined"},
	Status:     {"status", "state"},
}

// Guess reads the meaning of each column from its heading. Where a second
// column would have a meaning that only one may have, it is ignored.
func Guess(header []string) []Column {
	mapping := make([]Column, len(header))
	for i, heading := range header {
		c := meaning(heading)
		if !slices.Contains(several, c) && slices.Contains(mapping[:i], c) {
			continue
		}
		mapping[i] = c
	}
	return mapping
}

func meaning(heading string) Column {
	folded := strings.Join(strings.FieldsFunc(strings.ToLower(heading), func(r rune) bool {
		return !unicode.IsLetter(r)
	}), " ")
	for c, names := range headings {
		if slices.Contains(names, folded) {
			return c
		}
	}
	return Ignored
}
