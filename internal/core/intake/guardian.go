package intake

import (
	"fmt"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
)

// guardianSaid is what a row says of a guardian in columns of their own.
type guardianSaid struct {
	full, given, family string
	relation            string
	language            string
	addresses           []roster.Address
	silenced            bool // receives nothing
	barred              bool
}

// guardianCell reads a cell of a guardian.
func (b *builder) guardianCell(g *guardianSaid, at Place, column int, field Column, cell string) {
	heading := b.heading(column)
	switch field {
	case FullName:
		g.full = cell
	case GivenName:
		g.given = entry.Name(cell)
	case FamilyName:
		g.family = entry.Name(cell)
	case relation:
		g.relation = entry.Name(cell)
	case Language:
		tag, ok := entry.Language(cell)
		if !ok {
			b.note(at, heading, cell, "is no language that is known; the person loads without one")
		}
		g.language = tag
	case Mobile, Landline:
		for _, one := range b.split(cell) {
			g.addresses = append(g.addresses, b.number(at, heading, field, one)...)
		}
	case Email:
		for _, typed := range split(cell, ";,| \n") {
			g.addresses = append(g.addresses, b.mailbox(at, heading, typed)...)
		}
	case receives:
		yes, known := b.answer(at, column, cell, "they receive")
		g.silenced = known && !yes
	case noContact:
		// What nobody understands keeps the contact barred: the other way would do harm.
		yes, known := b.answer(at, column, cell, "contact is barred")
		g.barred = yes || !known
	}
}

// answer reads a yes or a no; what is neither is noted with what holds then.
func (b *builder) answer(at Place, column int, cell, then string) (yes, known bool) {
	word := strings.ToLower(norm.NFKC.String(cell))
	if yesWords[word] || noWords[word] {
		return yesWords[word], true
	}
	b.note(at, b.heading(column), cell, "is neither yes nor no: "+then)
	return false, false
}

func (g guardianSaid) empty() bool {
	return g.full == "" && g.given == "" && g.family == "" && len(g.addresses) == 0
}

// bare reports whether a guardian is named and nothing else is said of them.
func (g guardianSaid) bare() bool { return g.given == "" && g.family == "" && len(g.addresses) == 0 }

// person is the guardian as somebody of the roster.
func (g guardianSaid) person() roster.Person {
	p := roster.Person{GivenName: g.given, FamilyName: g.family, Language: g.language}
	if g.full != "" {
		given, family := splitName(g.full)
		if p.GivenName == "" && p.FamilyName == "" {
			p.GivenName, p.FamilyName = given, family
		}
	}
	addRole(&p, roster.Guardian)
	for _, a := range g.addresses {
		addAddress(&p, a)
	}
	return p
}

// guardianCalled is the guardian of a row whom the word for a parent means.
func (r *reading) guardianCalled(who string) *guardianSaid {
	for i := range r.guardians {
		g := &r.guardians[i]
		if w, known := relations[strings.ToLower(g.relation)]; known && w == who && who != "" && !g.empty() {
			return g
		}
	}
	return nil
}

// namesGuardians reports whether a row names a guardian in columns of their own.
func (r *reading) namesGuardians() bool {
	return slices.ContainsFunc(r.guardians[:], func(g guardianSaid) bool {
		if g.empty() {
			return false
		}
		p := g.person()
		return p.Name() != ""
	})
}

// enterGuardians makes the guardians of an entry's row people of the file, and ties them
// to its person. One whom another row named too is the same.
func (b *builder) enterGuardians(row Row, entry int) {
	for n, g := range b.read[entry].guardians {
		if g.empty() {
			continue
		}
		p := g.person()
		if p.Name() == "" {
			b.note(row.Place, "", p.Addresses[0].Value, fmt.Sprintf(
				"belongs to guardian %d, who has no name; it is left off", n+1,
			))
			continue
		}
		p.Unit = b.read[entry].person.Unit
		at, known := b.inFile.find(&p)
		if known {
			b.proposal.Entries[at].After = merge(b.proposal.Entries[at].After, p)
		} else {
			at = b.enter(row, reading{person: p})
			b.named[at] = true
		}
		b.read[entry].tied = append(b.read[entry].tied, tiedTo{at, g.silenced, g.barred})
	}
}
