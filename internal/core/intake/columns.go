// Package intake works out what loading a table of people would change,
// before anything is changed.
package intake

import (
	"slices"
	"strings"

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

// MeaningsFor lists every meaning that a column of a file can have here: those of
// ColumnsFor, and those of guardians whom a row names.
func MeaningsFor(r *roster.Roster) []Column {
	list := ColumnsFor(r)
	for n := range mostGuardians {
		for _, field := range guardianFields {
			list = append(list, guardianColumn(n+1, field))
		}
	}
	return list
}

// several are the meanings that more than one column may have.
var several = []Column{Ignored, Roles, Mobile, Landline, TextOnly, Email, Groups, Guardians, Barred, Dependents}

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
