package plan

import (
	"cmp"
	"slices"
	"time"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
)

// filler knows what fields are filled with.
type filler struct {
	roster     *roster.Roster
	plan       *Plan
	attributes map[field.Name]roster.Attribute
}

func newFiller(r *roster.Roster, p *Plan) filler {
	f := filler{r, p, make(map[field.Name]roster.Attribute, len(r.Attributes))}
	for _, a := range r.Attributes {
		f.attributes[field.Of(a.Name)] = a
	}
	return f
}

// known reports whether there is a field.
func (f filler) known(n field.Name) bool {
	_, attribute := f.attributes[n]
	return attribute || slices.Contains(field.Names, n)
}

// Fields lists what a message to people of a roster can be filled with, in the
// order in which it is offered.
func Fields(r *roster.Roster) []field.Name {
	list := slices.Clone(field.Names)
	for _, a := range r.Attributes {
		if n := field.Of(a.Name); !slices.Contains(list, n) {
			list = append(list, n)
		}
	}
	return list
}

// of fills fields for a recipient.
func (f filler) of(rec audience.Recipient) value {
	return func(fd field.Field, tag string) string { return f.value(fd, rec, tag) }
}

// value is what fills a field for a recipient in a language, or "".
func (f filler) value(fd field.Field, rec audience.Recipient, tag string) string {
	if fd.InLink {
		return field.Encode(f.plain(fd, rec, tag))
	}
	return f.plain(fd, rec, tag)
}

func (f filler) plain(fd field.Field, rec audience.Recipient, tag string) string {
	person := f.roster.At(rec.Person)
	switch fd.Name {
	case field.FirstName, field.LastName, field.FullName:
		return nameOf(fd.Name, person)
	case field.Organisation:
		return f.plan.Settings.termed(f.plan.Settings.Organisation, tag)
	case field.Sender:
		return f.plan.Settings.Sender
	case field.Unit:
		return f.plan.Settings.termed(cmp.Or(f.roster.UnitName(person.Unit), f.plan.Settings.Organisation), tag)
	case field.Group:
		return f.plan.Settings.termed(f.group(rec), tag)
	case field.Dependents:
		return f.dependents(rec, tag)
	}
	a, ok := f.attributes[fd.Name]
	if !ok {
		return ""
	}
	if own := f.attribute(a, person, tag); own != "" {
		return own
	}
	return f.ofDependents(a, fd, rec, tag)
}

// attribute is what somebody has for an attribute, as the language writes it.
func (f filler) attribute(a roster.Attribute, p *roster.Person, tag string) string {
	value := p.Value(a.ID)
	if day, err := time.Parse(time.DateOnly, value); a.Kind == roster.DateAttribute && err == nil {
		return phrase.Date(tag, day)
	}
	return value
}

// ofDependents is what the dependents whom a message is about have for an
// attribute: once when it is the same for all, otherwise each with their name.
// Of one who has nothing the field's own words are said; without any, nothing
// fills the field, since the others' values alone would mislead.
func (f filler) ofDependents(a roster.Attribute, fd field.Field, rec audience.Recipient, tag string) string {
	var values, named []string
	some := false
	for _, d := range rec.About {
		who := f.roster.At(d)
		value := f.attribute(a, who, tag)
		some = some || value != ""
		if value == "" && fd.Else == "" && !fd.Optional {
			return ""
		}
		if value = cmp.Or(value, fd.Else); value != "" {
			values, named = append(values, value), append(named, value+" ("+who.First()+")")
		}
	}
	switch {
	case !some:
		return ""
	case len(values) == len(rec.About) && !slices.ContainsFunc(values, func(v string) bool { return v != values[0] }):
		return values[0]
	}
	return phrase.List(tag, named)
}

func nameOf(n field.Name, p *roster.Person) string {
	switch {
	case p.Stranger():
		return ""
	case n == field.FirstName:
		return p.First()
	case n == field.LastName:
		return p.FamilyName
	}
	return p.Name()
}

// group is the first group by which the message comes to somebody.
func (f filler) group(rec audience.Recipient) string {
	for _, i := range rec.Parts {
		if p := f.plan.Draft.Audience.Parts[i]; p.Kind == audience.ByGroup {
			return f.roster.GroupName(p.Group)
		}
	}
	return ""
}

// dependents are the names of those whom a message is about.
func (f filler) dependents(rec audience.Recipient, tag string) string {
	names := make([]string, len(rec.About))
	for i, d := range rec.About {
		names[i] = f.roster.At(d).First()
	}
	return phrase.List(tag, names)
}

// HTML is the formatted body of an email, or "" when it has no formatting.
// Src gives the source of a picture by the hash of its file.
func (p *Plan) HTML(d Delivery, src func(hash string) string) string {
	if d.Channel != roster.Email {
		return ""
	}
	render := p.readings[d.reading]
	render.mark = d.Mark
	values := nothing
	if len(d.Recipients) > 0 {
		values = p.filler.of(p.Recipients[d.Recipients[0]].Recipient)
	}
	return render.html(values, src)
}
