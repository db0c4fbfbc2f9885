package intake

import (
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"

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

	guardians [mostGuardians]guardianSaid
	parents   []ofParent // numbers in the person's own columns that a remark calls a parent's
	tied      []tiedTo   // once the guardians are entries
}

// ofParent is a number that a remark calls a parent's.
type ofParent struct {
	column    string
	typed     string
	who       string // mother or father, or ""
	addresses []roster.Address
}

// tiedTo is a guardian of the row by the index of their entry.
type tiedTo struct {
	entry            int
	silenced, barred bool
}

// namedPerson is a guardian or a dependent of the row's person.
type namedPerson struct {
	name      string // or an external identifier
	column    string
	barred    bool
	dependent bool
}

// mostUnits bounds how many units are made of one file.
const mostUnits = 200

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
		if n, field, ok := guardianOf(c); ok {
			b.guardianCell(&got.guardians[n-1], row.Place, i, field, cell)
			continue
		}
		b.cell(&got, row.Place, i, c, cell)
	}
	for i := range got.guardians { // an identifier names somebody who has a row
		if g := &got.guardians[i]; strings.ContainsAny(g.full, "0123456789") && g.bare() {
			got.named = append(got.named, namedPerson{name: g.full, barred: g.barred})
			*g = guardianSaid{}
			addRole(&got.person, roster.Dependent)
		}
	}
	b.giveParents(&got, row.Place)
	for i := range got.person.Addresses {
		got.person.Addresses[i].DeclinesRoutine = got.declines[roster.Routine]
		got.person.Addresses[i].DeclinesTimely = got.declines[roster.Timely]
	}
	return got
}

func (b *builder) cell(got *reading, at Place, column int, c Column, cell string) {
	p, heading := &got.person, b.heading(column)
	switch c {
	case ExternalID:
		p.ExternalID = entry.Name(norm.NFKC.String(cell))
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
			if name := entry.Name(cell); len(b.proposal.Units) < mostUnits && !slices.Contains(b.proposal.Units, name) {
				b.proposal.Units = append(b.proposal.Units, name)
			}
		}
		p.Unit = unit
	case AwayUntil:
		p.AwayUntil = b.date(at, column, cell)
	case BornOn:
		p.BornOn = b.date(at, column, cell)
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
		p.Status = b.status(column, cell)
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
		b.numbers(got, at, heading, c, cell)
	case Email:
		for _, typed := range split(cell, ";,| \n") {
			for _, a := range b.mailbox(at, heading, typed) {
				addAddress(p, a)
			}
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
		b.attribute(p, at, column, c, cell)
	}
}

func (b *builder) date(at Place, column int, cell string) roster.Date {
	date, ok := readDate(cell, b.orders[column], b.roster.Today)
	if !ok {
		b.note(at, b.heading(column), cell, "is no date such as 2026-11-28; the person loads without it")
		return ""
	}
	return date
}

// status is what a word of a file says, or what somebody said that it means; a word
// that nobody understands is asked about.
func (b *builder) status(column int, cell string) roster.Status {
	word := strings.ToLower(norm.NFKC.String(cell))
	if s, ok := statusWords[word]; ok {
		return s
	}
	if s, ok := b.Reading.Statuses[word]; ok {
		return s
	}
	b.ask(FileQuestion{Kind: StatusQuestion, Column: b.heading(column), Value: word})
	return ""
}

func (b *builder) attribute(p *roster.Person, at Place, column int, c Column, cell string) {
	heading := b.heading(column)
	for _, a := range b.roster.Attributes {
		if AttributeColumn(a.Name) != c {
			continue
		}
		if a.Kind == roster.DateAttribute {
			if date, ok := readDate(cell, b.orders[column], b.roster.Today); ok {
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

// numbers reads a cell of the row's person that holds one number, or several with
// remarks. What a remark calls a parent's is kept apart.
func (b *builder) numbers(got *reading, at Place, heading string, c Column, cell string) {
	for _, one := range b.split(cell) {
		addresses := b.number(at, heading, c, one)
		if who, parents := parentIn(one.Remark); parents {
			got.parents = append(got.parents, ofParent{heading, one.Number + " (" + one.Remark + ")", who, addresses})
			continue
		}
		for _, a := range addresses {
			addAddress(&got.person, a)
		}
	}
}

func (b *builder) split(cell string) []phone.Typed { return phone.Cell(norm.NFKC.String(cell)) }

// parentIn reports whether a remark beside a number speaks of a parent, and of which.
func parentIn(remark string) (who string, found bool) {
	for _, word := range wordOrNumber.FindAllString(strings.ToLower(remark), -1) {
		if w, known := relations[word]; known {
			return w, true
		}
	}
	return "", false
}

// giveParents gives numbers that a remark calls a parent's to the guardian of the row
// whom it means. Somebody who is a guardian has them themselves.
func (b *builder) giveParents(got *reading, at Place) {
	for _, n := range got.parents {
		if got.person.Has(roster.Guardian) {
			for _, a := range n.addresses {
				addAddress(&got.person, a)
			}
			continue
		}
		if g := got.guardianCalled(n.who); g != nil {
			g.addresses = append(g.addresses, n.addresses...)
			continue
		}
		b.note(at, n.column, n.typed, "is a parent’s number and not the person’s own; give the parent a column, or a row")
	}
}

// number reads a number for texts and calls, as its column has it.
func (b *builder) number(at Place, heading string, c Column, one phone.Typed) []roster.Address {
	e164, err := phone.Parse(one.Number, b.Region)
	if err != nil {
		_, why, _ := strings.Cut(err.Error(), phone.ErrUnreadable.Error())
		b.note(at, heading, one.Number, phone.ErrUnreadable.Error()+why+"; the person loads without it")
		return nil
	}
	e164 = phone.WithExtension(e164, one.Extension)
	if c != Landline && phone.Landline(e164) {
		if one.Extension == "" {
			b.note(at, heading, one.Number, "is a landline: it takes calls, not texts; it loads for calls")
		}
		c = Landline
	}
	label := "mobile"
	if c == Landline {
		label = "landline"
	}
	if one.Remark != "" {
		label = strings.ToLower(entry.Name(one.Remark))
	}
	var list []roster.Address
	if c != Landline {
		list = append(list, roster.Address{Channel: roster.Text, Value: e164, Label: label})
	}
	if c != TextOnly {
		list = append(list, roster.Address{Channel: roster.Voice, Value: e164, Label: label})
	}
	return list
}

// mailbox reads a mail address, if it can be.
func (b *builder) mailbox(at Place, heading, typed string) []roster.Address {
	value, err := entry.Mailbox(strings.TrimPrefix(strings.TrimPrefix(norm.NFKC.String(typed), "mailto:"), "MAILTO:"))
	if err != nil {
		b.note(at, heading, typed, entry.ErrMailbox.Error()+"; the person loads without it")
		return nil
	}
	return []roster.Address{{Channel: roster.Email, Value: value, Label: "email"}}
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

// splitName takes the last word of a full name as the family name, or what stands
// before a comma: “Osei, Naya”. In scripts that have it first, it is the first.
func splitName(full string) (given, family string) {
	full = entry.Name(full)
	for _, comma := range []string{",", "，", "、"} {
		if before, after, found := strings.Cut(full, comma); found {
			return strings.TrimSpace(after), strings.TrimSpace(before)
		}
	}
	words := strings.Fields(full)
	if roster.FamilyFirst(full) {
		return splitFamilyFirst(full, words)
	}
	if len(words) < 2 {
		return full, ""
	}
	last := len(words) - 1
	return strings.Join(words[:last], " "), words[last]
}

// longFamilies are Chinese family names of two characters.
var longFamilies = []string{"欧阳", "司马", "上官", "诸葛", "东方", "皇甫", "尉迟", "公孙", "慕容", "令狐", "司徒", "歐陽", "諸葛"}

// splitFamilyFirst takes the family name from the beginning of a name: a word, or its
// first character. What is neither is left whole: Japanese names without a space do
// not tell where they part.
func splitFamilyFirst(full string, words []string) (given, family string) {
	if len(words) > 1 {
		return strings.Join(words[1:], " "), words[0]
	}
	runes := []rune(full)
	for _, long := range longFamilies {
		if rest, ok := strings.CutPrefix(full, long); ok && rest != "" {
			return rest, long
		}
	}
	if len(runes) != 2 && len(runes) != 3 {
		return full, ""
	}
	return string(runes[1:]), string(runes[0])
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
