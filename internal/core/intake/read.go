package intake

import (
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// reading is what one row says, before it is compared with the roster.
type reading struct {
	person    roster.Person
	groups    [][]string // each from the outermost to the one to join
	guardians []namedGuardian
	declines  map[roster.Urgency]bool // on every address of the row
}

type namedGuardian struct {
	name   string // or an external identifier
	column string
	barred bool
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
	for i, c := range b.mapping {
		if i >= len(row.Cells) {
			break
		}
		cell := clean(row.Cells[i])
		if cell == "" || c == Ignored {
			continue
		}
		b.cell(&got, row.Line, b.heading(i), c, cell)
	}
	for i := range got.person.Addresses {
		got.person.Addresses[i].DeclinesRoutine = got.declines[roster.Routine]
		got.person.Addresses[i].DeclinesTimely = got.declines[roster.Timely]
	}
	return got
}

func (b *builder) cell(got *reading, line int, heading string, c Column, cell string) {
	p := &got.person
	switch c {
	case ExternalID:
		p.ExternalID = cell
	case GivenName:
		p.GivenName = cell
	case FamilyName:
		p.FamilyName = cell
	case FullName:
		p.GivenName, p.FamilyName = splitName(cell)
	case Status:
		status, ok := statusWords[strings.ToLower(cell)]
		if !ok {
			b.note(line, heading, cell, "is none of active, away, left; the person loads as active")
			return
		}
		p.Status = status
	case Language:
		tag, ok := languageTag(cell)
		if !ok {
			b.note(line, heading, cell, "is no language that is known; the person loads without one")
			return
		}
		p.Language = tag
	case Roles:
		for _, word := range split(cell, ";,|\n") {
			b.role(p, line, heading, word)
		}
	case Mobile, Landline:
		for _, typed := range split(cell, ";,|\n") {
			b.number(p, line, heading, c, typed)
		}
	case Email:
		for _, typed := range split(cell, ";,| \n") {
			b.mailbox(p, line, heading, typed)
		}
	case Groups:
		for _, path := range split(cell, ";|\n") {
			if names := split(path, ">"); len(names) > 0 {
				got.groups = append(got.groups, names)
			}
		}
	case Guardians, Barred:
		for _, name := range split(cell, ";|\n") {
			got.guardians = append(got.guardians, namedGuardian{name, heading, c == Barred})
		}
		addRole(p, roster.Dependent)
	case OptedOut:
		b.optOut(got, line, heading, cell)
	}
}

func (b *builder) role(p *roster.Person, line int, heading, word string) {
	role, ok := roleWords[strings.ToLower(word)]
	if !ok {
		b.note(line, heading, word, "is no role here; the person loads without it")
		return
	}
	addRole(p, role)
}

func addRole(p *roster.Person, role roster.Role) {
	if !p.Has(role) {
		p.Roles = append(p.Roles, role)
	}
}

func (b *builder) number(p *roster.Person, line int, heading string, c Column, typed string) {
	e164, err := phone.Parse(typed, b.region)
	if err != nil {
		_, why, _ := strings.Cut(err.Error(), phone.ErrUnreadable.Error())
		b.note(line, heading, typed, phone.ErrUnreadable.Error()+why+"; the person loads without it")
		return
	}
	if c == Mobile {
		addAddress(p, roster.Address{Channel: roster.Text, Value: e164, Label: "mobile"})
	}
	addAddress(p, roster.Address{Channel: roster.Voice, Value: e164, Label: string(c)})
}

func (b *builder) mailbox(p *roster.Person, line int, heading, typed string) {
	a, err := mail.ParseAddress(typed)
	if err != nil || !strings.Contains(a.Address, ".") || strings.ContainsAny(a.Address, "\r\n") {
		b.note(line, heading, typed, "cannot be read as a mail address; the person loads without it")
		return
	}
	at := strings.LastIndexByte(a.Address, '@')
	addAddress(p, roster.Address{Channel: roster.Email, Value: a.Address[:at] + strings.ToLower(a.Address[at:]), Label: "email"})
}

func addAddress(p *roster.Person, a roster.Address) {
	a.Health = roster.Untried
	same := func(b roster.Address) bool { return b.Channel == a.Channel && b.Value == a.Value }
	if !slices.ContainsFunc(p.Addresses, same) {
		p.Addresses = append(p.Addresses, a)
	}
}

func (b *builder) optOut(got *reading, line int, heading, cell string) {
	for _, word := range split(cell, ";,|\n") {
		urgency := roster.Urgency(strings.ToLower(word))
		if urgency != roster.Routine && urgency != roster.Timely {
			b.note(line, heading, word, "is neither routine nor timely; nothing is declined")
			continue
		}
		if got.declines == nil {
			got.declines = map[roster.Urgency]bool{}
		}
		got.declines[urgency] = true
	}
}

// clean trims a cell and drops control and zero-width characters, which come
// along when cells are copied and make equal names differ.
func clean(cell string) string {
	cleaned := strings.Map(func(r rune) rune {
		switch {
		case r == '\n':
			return r
		case unicode.IsControl(r), r == '\u200b', r == '\ufeff', r == '\u2060':
			return -1
		case unicode.IsSpace(r):
			return ' '
		}
		return r
	}, cell)
	return strings.TrimSpace(cleaned)
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

// languagesByName has the languages that files are likely to name in words.
var languagesByName = nameLanguages("am", "ar", "bg", "bn", "cs", "da", "de", "el", "en", "es", "et", "fa", "fi", "fr",
	"gu", "he", "hi", "hr", "hu", "it", "ja", "ko", "ku", "lt", "lv", "nl", "no", "pa", "pl", "ps", "pt", "pt-BR",
	"pt-PT", "ro", "ru", "sk", "sl", "so", "sq", "sr", "sv", "sw", "ta", "th", "ti", "tr", "uk", "ur", "vi", "zh", "zh-Hans")

func nameLanguages(tags ...string) map[string]string {
	names := map[string]string{}
	for _, t := range tags {
		tag := language.MustParse(t)
		for _, name := range []string{display.English.Tags().Name(tag), display.Self.Name(tag)} {
			names[strings.ToLower(name)] = t
		}
	}
	return names
}

// languageTag reads a BCP 47 tag, or the name of a language in English or in itself.
func languageTag(typed string) (string, bool) {
	if t, ok := languagesByName[strings.ToLower(typed)]; ok {
		return t, true
	}
	tag, err := language.Parse(typed)
	if err != nil || tag == language.Und {
		return "", false
	}
	return tag.String(), true
}

// merge brings what a row says into the person on the roster. Nothing is
// taken away: an empty cell leaves what is there.
func merge(known, said roster.Person) (roster.Person, []string) {
	var changes []string
	set := func(what string, old *string, value string) {
		if value != "" && *old != value {
			changes = append(changes, fmt.Sprintf("%s: %s → %s", what, orNone(*old), value))
			*old = value
		}
	}
	set("external id", &known.ExternalID, said.ExternalID)
	set("given name", &known.GivenName, said.GivenName)
	set("family name", &known.FamilyName, said.FamilyName)
	set("language", &known.Language, said.Language)
	if said.Status != "" && said.Status != known.Status {
		changes = append(changes, fmt.Sprintf("status: %s → %s", known.Status, said.Status))
		known.Status = said.Status
	}
	known.Roles = slices.Clone(known.Roles)
	for _, role := range said.Roles {
		if !known.Has(role) {
			known.Roles = append(known.Roles, role)
			changes = append(changes, "new role "+string(role))
		}
	}
	known.Addresses = slices.Clone(known.Addresses)
	for _, a := range said.Addresses {
		changes = append(changes, mergeAddress(&known, a)...)
	}
	return known, changes
}

func mergeAddress(known *roster.Person, a roster.Address) []string {
	i := slices.IndexFunc(known.Addresses, func(k roster.Address) bool { return k.Channel == a.Channel && k.Value == a.Value })
	if i < 0 {
		known.Addresses = append(known.Addresses, a)
		return []string{fmt.Sprintf("new %s %s", a.Channel, a.Value)}
	}
	k := &known.Addresses[i]
	if (!a.DeclinesRoutine || k.DeclinesRoutine) && (!a.DeclinesTimely || k.DeclinesTimely) {
		return nil
	}
	k.DeclinesRoutine = k.DeclinesRoutine || a.DeclinesRoutine
	k.DeclinesTimely = k.DeclinesTimely || a.DeclinesTimely
	return []string{fmt.Sprintf("%s %s opted out", a.Channel, a.Value)}
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
}
