package intake

import (
	"strings"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// AttributeOf returns the name of the attribute that a column holds.
func AttributeOf(c Column) (name string, ok bool) {
	return strings.CutPrefix(string(c), attributePrefix)
}

// Heading is what the column is called in a file that we write.
func (c Column) Heading() string {
	name, ok := AttributeOf(c)
	if ok {
		return name
	}
	if c == Ignored {
		return ""
	}
	return strings.ToUpper(string(c[:1])) + string(c[1:])
}

// Cells says a person in the words that reading a file understands, one cell a
// column. Somebody at the other end of a tie is named by their identifier in
// the organisation's files or, without one, by their name.
func Cells(r *roster.Roster, s *roster.Sheet, columns []Column) []string {
	cells := make([]string, len(columns))
	for i, c := range columns {
		cells[i] = cell(r, s, c)
	}
	return cells
}

func cell(r *roster.Roster, s *roster.Sheet, c Column) string {
	switch c {
	case ExternalID:
		return s.ExternalID
	case GivenName:
		return s.GivenName
	case FamilyName:
		return s.FamilyName
	case FullName:
		return s.Name()
	case KnownAs:
		return s.KnownAs
	case Roles:
		return list(s.Roles, func(role roster.Role) string { return string(role) })
	case Unit:
		return r.UnitPath(s.Unit)
	case Language:
		return s.Language
	case Mobile, Landline, TextOnly, Email:
		return addresses(s, c)
	case Groups:
		return list(s.Groups, r.GroupName)
	case Guardians, Barred, Dependents:
		return ties(r, s, c)
	case OptedOut:
		return optedOut(s)
	case Status:
		return string(s.Status)
	case AwayUntil:
		return string(s.AwayUntil)
	case BornOn:
		return string(s.BornOn)
	case TimeZone:
		return s.TimeZone
	case Wish:
		return string(s.Wish)
	case Notes:
		return s.Notes
	}
	name, _ := AttributeOf(c)
	for _, a := range r.Attributes {
		if a.Name == name {
			return s.Value(a.ID)
		}
	}
	return ""
}

func list[T any](items []T, say func(T) string) string {
	words := make([]string, len(items))
	for i, item := range items {
		words[i] = say(item)
	}
	return strings.Join(words, "; ")
}

func addresses(s *roster.Sheet, c Column) string {
	channels := map[string]map[roster.Channel]bool{}
	for _, a := range s.Addresses {
		if channels[a.Value] == nil {
			channels[a.Value] = map[roster.Channel]bool{}
		}
		channels[a.Value][a.Channel] = true
	}
	wanted := func(a roster.Address) bool {
		has := channels[a.Value]
		switch c {
		case Email:
			return a.Channel == roster.Email
		case Mobile:
			return a.Channel == roster.Text && has[roster.Voice]
		case Landline:
			return a.Channel == roster.Voice && !has[roster.Text]
		}
		return a.Channel == roster.Text && !has[roster.Voice]
	}
	var values []string
	for _, a := range s.Addresses {
		if wanted(a) {
			values = append(values, phone.Display(a.Value))
		}
	}
	return strings.Join(values, "; ")
}

func ties(r *roster.Roster, s *roster.Sheet, c Column) string {
	var names []string
	for _, t := range s.Ties {
		// A barred tie is said once, where the dependent stands.
		if (t.Guardian == s.ID) != (c == Dependents) || t.Barred != (c == Barred) {
			continue
		}
		other := r.Person(t.Other(s.ID))
		if other == nil {
			continue
		}
		if other.ExternalID != "" {
			names = append(names, other.ExternalID)
		} else {
			names = append(names, other.Name())
		}
	}
	return strings.Join(names, "; ")
}

// optedOut are the urgencies that are declined on every address.
func optedOut(s *roster.Sheet) string {
	var declined []string
	for _, u := range []roster.Urgency{roster.Routine, roster.Timely} {
		all := len(s.Addresses) > 0
		for _, a := range s.Addresses {
			all = all && a.Declines(u)
		}
		if all {
			declined = append(declined, string(u))
		}
	}
	return strings.Join(declined, "; ")
}
