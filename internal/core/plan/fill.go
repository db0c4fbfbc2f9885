package plan

import (
	"cmp"
	"html"
	"slices"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// filler knows what fields are filled with.
type filler struct {
	roster     *roster.Roster
	plan       *Plan
	attributes map[field.Name]roster.AttributeID
}

func newFiller(r *roster.Roster, p *Plan) filler {
	f := filler{r, p, make(map[field.Name]roster.AttributeID, len(r.Attributes))}
	for _, a := range r.Attributes {
		f.attributes[field.Of(a.Name)] = a.ID
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

func (f filler) value(n field.Name, rec audience.Recipient) string {
	person := f.roster.At(rec.Person)
	switch n {
	case field.FirstName, field.LastName, field.FullName:
		return nameOf(n, person)
	case field.Organisation:
		return f.plan.Settings.Organisation
	case field.Sender:
		return f.plan.Settings.Sender
	case field.Unit:
		return cmp.Or(f.roster.UnitName(person.Unit), f.plan.Settings.Organisation)
	case field.Group:
		return f.group(rec)
	case field.Dependents:
		return f.list(rec, (*roster.Person).First)
	}
	id, ok := f.attributes[n]
	if !ok {
		return ""
	}
	if own := person.Value(id); own != "" {
		return own
	}
	return f.list(rec, func(p *roster.Person) string { return p.Value(id) })
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

// list joins something about the dependents whom a message is about.
func (f filler) list(rec audience.Recipient, of func(*roster.Person) string) string {
	said := make([]string, 0, len(rec.About))
	for _, d := range rec.About {
		if v := of(f.roster.At(d)); v != "" {
			said = append(said, v)
		}
	}
	return field.List(said, f.plan.Settings.Language)
}

// HTML is the formatted body of an email, or "" when it has no formatting.
// Src gives the source of a picture by the hash of its file.
func (p *Plan) HTML(d Delivery, src func(hash string) string) string {
	if d.Channel != roster.Email || !p.Draft.Email.Formatted() {
		return ""
	}
	rec := p.Recipients[d.Recipients[0]].Recipient
	written := p.Draft.Email.HTML(src)
	if footer := p.Settings.Signature.Footer; footer != "" {
		written += "<hr style=\"margin:14px 0 6px\">\n" + rich.Lines(footer).HTML(src)
	}
	body, _ := field.Parse(written).Fill(func(n field.Name) string {
		return html.EscapeString(p.filler.value(field.Of(html.UnescapeString(string(n))), rec))
	})
	if d.Mark != "" {
		body = "<p><strong>" + d.Mark + "</strong></p>\n" + body
	}
	return body
}
