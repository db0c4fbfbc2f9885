package intake

import (
	"slices"
	"strings"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// reading is what one row says, before it is compared with the roster.
type reading struct {
	person   roster.Person
	groups   [][]string // each from the outermost to the one to join
	named    []namedPerson
	declines map[roster.Urgency]bool // on every address of the row
}

// namedPerson is a guardian or a dependent of the row's person.
type namedPerson struct {
	name      string // or an external identifier
	column    string
	barred    bool
	dependent bool
}

// roleWords are the words that files use for roles.
var roleWords = map[string]roster.Role{
	"guardian": roster.Guardian, "parent": roster.Guardian, "carer": roster.Guardian,
	"staff": roster.Staff, "coach": roster.Staff, "teacher": roster.Staff, "office": roster.Staff,
	"member": roster.Member,
	"field":  roster.Field, "warden": roster.Field, "volunteer": roster.Field, "driver": roster.Field,
	"dependent": roster.Dependent, "child": roster.Dependent, "junior": roster.Dependent,
	"pupil": roster.Dependent, "student": roster.Dependent, "ward": roster.Dependent,
}

var statusWords = map[string]roster.Status{
	"active": roster.Active, "current": roster.Active, "away": roster.Away, "left": roster.Left, "former": roster.Left,
}

func (b *builder) interpret(row Row) reading {
	var got reading
	for i, c := range b.Mapping {
		if i >= len(row.Cells) {
			break
		}
		cell := entry.Clean(row.Cells[i])
		if cell == "" || c == Ignored {
			continue
		}
		b.cell(&got, row.Place, b.heading(i), c, cell)
	}
	for i := range got.person.Addresses {
		got.person.Addresses[i].DeclinesRoutine = got.declines[roster.Routine]
		got.person.Addresses[i].DeclinesTimely = got.declines[roster.Timely]
	}
	return got
}

func (b *builder) cell(got *reading, at Place, heading string, c Column, cell string) {
	p := &got.person
	switch c {
	case ExternalID:
		p.ExternalID = entry.Name(cell)
	case GivenName:
		p.GivenName = entry.Name(cell)
	case FamilyName:
		p.FamilyName = entry.Name(cell)
	case FullName:
		p.GivenName, p.FamilyName = splitName(cell)
	case KnownAs:
		p.KnownAs = entry.Name(cell)
	case Notes:
		p.Notes = cell
	case Unit:
		unit, ok := b.roster.UnitNamed(cell)
		if !ok {
			b.note(at, heading, cell, "is no unit here; the person loads without it")
		}
		p.Unit = unit
	case AwayUntil:
		p.AwayUntil = b.date(at, heading, cell)
	case BornOn:
		p.BornOn = b.date(at, heading, cell)
	case TimeZone:
		if b.Zone == nil || !b.Zone(cell) {
			b.note(at, heading, cell, "is no time zone such as Europe/London; the person loads without it")
			return
		}
		p.TimeZone = cell
	case Wish:
		if wish := roster.Channel(strings.ToLower(cell)); wish.Valid() {
			p.Wish = wish
		} else {
			b.note(at, heading, cell, "is no channel; the person loads without the wish")
		}
	case Status:
		status, ok := statusWords[strings.ToLower(cell)]
		if !ok {
			b.note(at, heading, cell, "is none of active, away, left; the person loads as active")
			return
		}
		p.Status = status
	case Language:
		tag, ok := entry.Language(cell)
		if !ok {
			b.note(at, heading, cell, "is no language that is known; the person loads without one")
			return
		}
		p.Language = tag
	case Roles:
		for _, word := range split(cell, ";,|\n") {
			b.role(p, at, heading, word)
		}
	case Mobile, Landline, TextOnly:
		for _, typed := range split(cell, ";,|\n") {
			b.number(p, at, heading, c, typed)
		}
	case Email:
		for _, typed := range split(cell, ";,| \n") {
			b.mailbox(p, at, heading, typed)
		}
	case Groups:
		for _, path := range split(cell, ";|\n") {
			if names := split(path, ">"); len(names) > 0 {
				got.groups = append(got.groups, names)
			}
		}
	case Guardians, Barred, Dependents:
		for _, name := range split(cell, ";|\n") {
			got.named = append(got.named, namedPerson{name, heading, c == Barred, c == Dependents})
		}
		addRole(p, map[bool]roster.Role{true: roster.Guardian, false: roster.Dependent}[c == Dependents])
	case OptedOut:
		b.optOut(got, at, heading, cell)
	default:
		b.attribute(p, at, heading, c, cell)
	}
}

func (b *builder) date(at Place, heading, cell string) roster.Date {
	date, ok := entry.Date(cell)
	if !ok {
		b.note(at, heading, cell, "is no date such as 2026-11-28; the person loads without it")
	}
	return date
}

func (b *builder) attribute(p *roster.Person, at Place, heading string, c Column, cell string) {
	for _, a := range b.roster.Attributes {
		if AttributeColumn(a.Name) != c {
			continue
		}
		if a.Kind == roster.DateAttribute {
			if date, ok := entry.Date(cell); ok {
				cell = string(date)
			}
		}
		value, err := a.Read(cell)
		if err != nil {
			b.note(at, heading, cell, strings.TrimPrefix(err.Error(), a.Name+": ")+"; the person loads without it")
			return
		}
		p.Values = append(p.Values, roster.Value{Attribute: a.ID, Value: value})
	}
}

func (b *builder) role(p *roster.Person, at Place, heading, word string) {
	role, ok := roleWords[strings.ToLower(word)]
	if own := slices.IndexFunc(b.Roles, func(r roster.Role) bool { return strings.EqualFold(string(r), word) }); own >= 0 {
		role, ok = b.Roles[own], true
	}
	if !ok {
		b.note(at, heading, word, "is no role here; the person loads without it")
		return
	}
	addRole(p, role)
}

func addRole(p *roster.Person, role roster.Role) {
	if !p.Has(role) {
		p.Roles = append(p.Roles, role)
	}
}

func (b *builder) number(p *roster.Person, at Place, heading string, c Column, typed string) {
	e164, err := phone.Parse(typed, b.Region)
	if err != nil {
		_, why, _ := strings.Cut(err.Error(), phone.ErrUnreadable.Error())
		b.note(at, heading, typed, phone.ErrUnreadable.Error()+why+"; the person loads without it")
		return
	}
	if c != Landline && phone.Landline(e164) {
		b.note(at, heading, typed, "is a landline: it takes calls, not texts; it loads for calls")
		c = Landline
	}
	label := "mobile"
	if c == Landline {
		label = "landline"
	}
	if c != Landline {
		addAddress(p, roster.Address{Channel: roster.Text, Value: e164, Label: label})
	}
	if c != TextOnly {
		addAddress(p, roster.Address{Channel: roster.Voice, Value: e164, Label: label})
	}
}

func (b *builder) mailbox(p *roster.Person, at Place, heading, typed string) {
	value, err := entry.Mailbox(typed)
	if err != nil {
		b.note(at, heading, typed, entry.ErrMailbox.Error()+"; the person loads without it")
		return
	}
	addAddress(p, roster.Address{Channel: roster.Email, Value: value, Label: "email"})
}

func addAddress(p *roster.Person, a roster.Address) {
	a.Health = roster.Untried
	if !slices.ContainsFunc(p.Addresses, a.Is) {
		p.Addresses = append(p.Addresses, a)
	}
}

func (b *builder) optOut(got *reading, at Place, heading, cell string) {
	for _, word := range split(cell, ";,|\n") {
		urgency := roster.Urgency(strings.ToLower(word))
		if urgency != roster.Routine && urgency != roster.Timely {
			b.note(at, heading, word, "is neither routine nor timely; nothing is declined")
			continue
		}
		if got.declines == nil {
			got.declines = map[roster.Urgency]bool{}
		}
		got.declines[urgency] = true
	}
}

// split cuts a cell that holds several values.
func split(cell, separators string) []string {
	var values []string
	for _, v := range strings.FieldsFunc(cell, func(r rune) bool { return strings.ContainsRune(separators, r) }) {
		if v = strings.TrimSpace(v); v != "" {
			values = append(values, v)
		}
	}
	return values
}

// splitName takes the last word of a full name as the family name, or what
// stands before a comma: “Osei, Naya”.
func splitName(full string) (given, family string) {
	if before, after, comma := strings.Cut(full, ","); comma {
		return strings.TrimSpace(after), strings.TrimSpace(before)
	}
	words := strings.Fields(full)
	if len(words) < 2 {
		return full, ""
	}
	last := len(words) - 1
	return strings.Join(words[:last], " "), words[last]
}

// merge brings what a row says into the person on the roster. Nothing is
// taken away: an empty cell leaves what is there.
func merge(before *roster.Sheet, said roster.Person) *roster.Sheet {
	s := before.Clone()
	for _, f := range []struct {
		old  *string
		said string
	}{
		{&s.ExternalID, said.ExternalID}, {&s.GivenName, said.GivenName}, {&s.FamilyName, said.FamilyName},
		{&s.KnownAs, said.KnownAs},
		{&s.Language, said.Language}, {&s.TimeZone, said.TimeZone}, {&s.Notes, said.Notes},
	} {
		if f.said != "" {
			*f.old = f.said
		}
	}
	if said.Status != "" {
		s.Status, s.AwayUntil = said.Status, said.AwayUntil
	}
	if said.BornOn != "" {
		s.BornOn = said.BornOn
	}
	if said.Unit != 0 {
		s.Unit = said.Unit
	}
	if said.Wish != "" {
		s.Wish = said.Wish
	}
	for _, v := range said.Values {
		s.SetValue(v.Attribute, v.Value)
	}
	for _, role := range said.Roles {
		addRole(&s.Person, role)
	}
	for _, a := range said.Addresses {
		mergeAddress(&s.Person, a)
	}
	return s
}

func mergeAddress(known *roster.Person, a roster.Address) {
	i := slices.IndexFunc(known.Addresses, func(k roster.Address) bool { return where(k) == where(a) })
	if i < 0 {
		known.Addresses = append(known.Addresses, a)
		return
	}
	k := &known.Addresses[i]
	k.DeclinesRoutine = k.DeclinesRoutine || a.DeclinesRoutine
	k.DeclinesTimely = k.DeclinesTimely || a.DeclinesTimely
}
