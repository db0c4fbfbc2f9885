// Package intake works out what loading a table of people would change,
// before anything is changed.
package intake

import (
	"slices"
	"strings"
	"unicode"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
)

// Column says what the cells of one column of a file mean.
type Column string

const (
	Ignored    Column = ""
	ExternalID Column = "external id"
	GivenName  Column = "given name"
	FamilyName Column = "family name"
	FullName   Column = "full name"
	KnownAs    Column = "known as"
	Roles      Column = "roles"
	Unit       Column = "unit"
	Language   Column = "language"
	Mobile     Column = "mobile"
	Landline   Column = "landline"
	TextOnly   Column = "texts only"
	Email      Column = "email"
	Groups     Column = "groups"
	Guardians  Column = "guardians"
	Barred     Column = "barred guardians"
	Dependents Column = "dependents"
	OptedOut   Column = "opted out of"
	Status     Column = "status"
	AwayUntil  Column = "away until"
	BornOn     Column = "born on"
	TimeZone   Column = "time zone"
	Wish       Column = "wish"
	Notes      Column = "notes"
)

// attributePrefix begins the meaning of a column that holds an attribute.
const attributePrefix = "attribute: "

// AttributeColumn is the meaning of a column that holds an attribute.
func AttributeColumn(name string) Column { return Column(attributePrefix + name) }

// Columns lists every meaning in the order in which they are offered.
var Columns = []Column{
	ExternalID, GivenName, FamilyName, FullName, KnownAs, Roles, Unit, Language, Mobile, Landline, TextOnly, Email,
	Groups, Guardians, Barred, Dependents, OptedOut, Status, AwayUntil, BornOn, TimeZone, Wish, Notes,
}

// ColumnsFor lists every meaning that a column can have here.
func ColumnsFor(r *roster.Roster) []Column {
	list := slices.Clone(Columns)
	for _, a := range r.Attributes {
		list = append(list, AttributeColumn(a.Name))
	}
	return list
}

// several are the meanings that more than one column may have.
var several = []Column{Ignored, Roles, Mobile, Landline, TextOnly, Email, Groups, Guardians, Barred, Dependents}

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
	KnownAs:    {"known as", "preferred name", "nickname", "called"},
	Unit:       {"unit", "school", "campus", "station", "org", "organisation", "organization"},
	TextOnly:   {"texts only", "text only"},
	Dependents: {"dependents", "children", "dependent ids"},
	AwayUntil:  {"away until", "back on"},
	BornOn:     {"born on", "born", "birth date", "birthday", "birthdate", "date of birth", "dob"},
	TimeZone:   {"time zone", "timezone", "tz"},
	Wish:       {"wish", "preferred channel", "wishes"},
	Notes:      {"notes", "note", "remarks", "remark", "comments"},
}

// Guess reads the meaning of each column from its heading; headings that are
// called like an attribute hold it. Where a second column would have a meaning
// that only one may have, it is ignored.
func Guess(header []string, attributes []roster.Attribute) []Column {
	mapping := make([]Column, len(header))
	for i, heading := range header {
		c := meaning(heading, attributes)
		if !slices.Contains(several, c) && slices.Contains(mapping[:i], c) {
			continue
		}
		mapping[i] = c
	}
	return mapping
}

func meaning(heading string, attributes []roster.Attribute) Column {
	folded := foldHeading(heading)
	for _, a := range attributes {
		if foldHeading(a.Name) == folded {
			return AttributeColumn(a.Name)
		}
	}
	for c, names := range headings {
		if folded == string(c) && c != Ignored || slices.Contains(names, folded) {
			return c
		}
	}
	return Ignored
}

func foldHeading(heading string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(heading), func(r rune) bool { return !unicode.IsLetter(r) }), " ")
}

// identifying are the columns by which a row can mean somebody, the surest first.
var identifying = []Column{
	ExternalID, Email, Mobile, Landline, TextOnly, FullName,
}

// Means is what a row says about who is meant.
func Means(mapping []Column, cells []string) string {
	value := func(c Column) string {
		i := slices.Index(mapping, c)
		if i < 0 || i >= len(cells) {
			return ""
		}
		first, _, _ := strings.Cut(cells[i], ";")
		return entry.Name(strings.ReplaceAll(first, ",", " "))
	}
	for _, c := range identifying {
		if said := value(c); said != "" {
			return said
		}
	}
	return strings.TrimSpace(value(GivenName) + " " + value(FamilyName))
}
