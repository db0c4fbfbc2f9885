package plan

import (
	"cmp"
	"slices"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// Letter is a message on paper, for people who live together.
type Letter struct {
	People    []int  // by position in the roster
	Address   string // lines, as the roster keeps it; "" when it does not
	Subject   string
	Body      rich.Doc
	Languages []string // of the words, BCP 47, as they stand beneath one another
	Missing   field.Name
}

// writable are the reasons for which a letter reaches somebody all the same.
var writable = []Reason{NoAddress, AllDead, NoContent}

// Letters are what the message is on paper, a letter for each household, for
// those whom no channel reaches, or for just the people chosen.
func (p *Plan) Letters(r *roster.Roster, chosen []roster.PersonID) []Letter {
	about := map[int]audience.Recipient{}
	for _, rec := range p.Audience.Recipients {
		about[rec.Person] = rec
	}
	var people []int
	if len(chosen) == 0 {
		for _, l := range p.LeftOut {
			if _, named := about[l.Person]; named && slices.Contains(writable, l.Reason) {
				people = append(people, l.Person)
			}
		}
	}
	for _, id := range chosen {
		if at, ok := r.Position(id); ok {
			if _, named := about[at]; named {
				people = append(people, at)
			}
		}
	}
	var letters []Letter
	for _, h := range r.Households(people) {
		to := slices.DeleteFunc(slices.Clone(h.People), func(i int) bool { return !slices.Contains(people, i) })
		if len(to) > 0 {
			letters = append(letters, p.letter(r, to, about))
		}
	}
	return letters
}

func (p *Plan) letter(r *roster.Roster, to []int, about map[int]audience.Recipient) Letter {
	l := Letter{People: to}
	together := audience.Recipient{Person: to[0]}
	for _, i := range to {
		if l.Address == "" && p.Settings.Sending.Postal != 0 {
			l.Address = r.At(i).Value(p.Settings.Sending.Postal)
		}
		rec := about[i]
		together.Parts = append(together.Parts, rec.Parts...)
		for _, d := range rec.About {
			if !slices.Contains(together.About, d) {
				together.About = append(together.About, d)
			}
		}
	}
	value := func(f field.Field, tag string) string {
		if f.InLink || f.Name != field.FirstName && f.Name != field.FullName {
			return p.filler.value(f, together, tag)
		}
		names := make([]string, len(to))
		for i, person := range to {
			names[i] = nameOf(f.Name, r.At(person))
		}
		return phrase.List(tag, names)
	}
	for _, reading := range p.readingsOf(r, to) {
		subject, body, missing := reading.letter(value)
		l.Subject, l.Missing = cmp.Or(l.Subject, subject), cmp.Or(l.Missing, missing)
		if len(l.Languages) > 0 {
			body.Content = append(rich.Lines(apart).Content, body.Content...)
		}
		l.Body.Content = append(l.Body.Content, body.Content...)
		l.Languages = append(l.Languages, reading.language)
	}
	return l
}

// readingsOf are how people who live together are written to, each once: those of all
// their languages, with what stands beneath them.
func (p *Plan) readingsOf(r *roster.Roster, people []int) []*renderer {
	var list []*renderer
	add := func(reading *renderer) {
		if !slices.ContainsFunc(list, func(o *renderer) bool { return o.language == reading.language }) {
			list = append(list, reading)
		}
	}
	for _, i := range people {
		add(&p.readings[p.readingOf(r.At(i).Language).reading])
	}
	for _, reading := range slices.Clone(list) {
		if below := reading.below(roster.Email); below != nil {
			add(below)
		}
	}
	return list
}
