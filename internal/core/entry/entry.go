// Package entry reads what people type about somebody on the roster, and
// says what cannot be right and what is only unlikely.
package entry

import (
	"errors"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// Longest texts that are kept, in characters.
const (
	LongestName  = 300
	LongestNotes = 5000
	LongestValue = 1000
)

// CleanText drops control and zero-width characters from the text of a message.
// Every line ends with a line feed alone, however it was typed. Direction marks
// stay: a text of two scripts may need them.
func CleanText(typed string) string {
	if !strings.ContainsFunc(typed, unsent) {
		return typed
	}
	typed = strings.NewReplacer(
		"\r\n", "\n", "\r", "\n", "\u2028", "\n", "\u2029", "\n", "\v", "\n", "\f", "\n", "\u0085", "\n",
	).Replace(typed)
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\t': // the short alphabet has none
			return ' '
		case unsent(r):
			return -1
		}
		return r
	}, typed)
}

// unsent reports whether a character has no place in a message.
func unsent(r rune) bool {
	return unicode.IsControl(r) && r != '\n' || slices.Contains(
		[]rune{'\u2028', '\u2029', '\u200b', '\ufeff', '\u2060', '\u00ad'}, r,
	)
}

// Clean trims and drops control, zero-width and direction characters, which
// come along when words are copied, make equal names differ and can turn a
// line around. Joiners inside a word stay: some scripts need them.
func Clean(typed string) string {
	cleaned := strings.Map(func(r rune) rune {
		switch {
		case r == '\n':
			return r
		case unicode.IsControl(r), r == '\u200b', r == '\ufeff', r == '\u2060', r == utf8.RuneError,
			r == '\u200e', r == '\u200f', r == '\u061c', '\u202a' <= r && r <= '\u202e', '\u2066' <= r && r <= '\u2069':
			return -1
		case unicode.IsSpace(r):
			return ' '
		}
		return r
	}, typed)
	return strings.Trim(cleaned, " \n\u200c\u200d")
}

// Name cleans a name, which stands on one line.
func Name(typed string) string { return strings.Join(strings.Fields(Clean(typed)), " ") }

// dateForms are the ways in which files write days; a day comes before its month.
var dateForms = []string{
	time.DateOnly, "2/1/2006", "2.1.2006", "20060102", "2 January 2006", "2 Jan 2006", time.RFC3339, "2006-01-02 15:04:05",
}

// Date reads a day in one of the usual forms.
func Date(typed string) (roster.Date, bool) {
	for _, form := range dateForms {
		if t, err := time.Parse(form, typed); err == nil {
			return roster.Date(t.Format(time.DateOnly)), true
		}
	}
	return "", false
}

// ErrMailbox means that no mail address can be made of what was typed.
var ErrMailbox = errors.New("cannot be read as a mail address")

// Mailbox reads a mail address (RFC 5322 addr-spec); its domain becomes lower case.
func Mailbox(typed string) (string, error) {
	a, err := mail.ParseAddress(typed)
	if err != nil || strings.ContainsAny(a.Address, "\r\n") {
		return "", fmt.Errorf("%q %w", typed, ErrMailbox)
	}
	at := strings.LastIndexByte(a.Address, '@')
	domain := strings.ToLower(a.Address[at+1:])
	if !strings.Contains(domain, ".") {
		return "", fmt.Errorf("%q %w: nothing ends in @%s", typed, ErrMailbox, domain)
	}
	return a.Address[:at+1] + domain, nil
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

// Language reads a BCP 47 tag, or the name of a language in English or in itself.
func Language(typed string) (string, bool) {
	if t, ok := languagesByName[strings.ToLower(typed)]; ok {
		return t, true
	}
	tag, err := language.Parse(typed)
	if err != nil || tag == language.Und {
		return "", false
	}
	return tag.String(), true
}

// Remark is something about what was typed: it is refused, or only unlikely.
type Remark struct {
	Field   string `json:"field" doc:"Such as givenName or addresses[2]"`
	Value   string `json:"value,omitempty"`
	Reason  string `json:"reason"`
	Refused bool   `json:"refused"`
}

// Refusals are those issues that keep a sheet from being saved.
func Refusals(issues []Remark) []Remark {
	return slices.DeleteFunc(slices.Clone(issues), func(i Remark) bool { return !i.Refused })
}

const noDate = "is no date such as 2026-11-28"

// Reader reads typed sheets against a roster.
type Reader struct {
	Roster *roster.Roster
	Region string // ISO 3166, whose national number form is assumed
	Roles  []roster.Role
	// Zone reports whether a time zone is known.
	Zone func(name string) bool
}

type reading struct {
	Reader
	sheet  *roster.Sheet
	before *roster.Sheet
	issues []Remark
}

// Read brings a typed sheet into the form in which it is kept. Before is the
// person as they were, or nil for a new one: what did not change is not
// questioned again.
func (x Reader) Read(before, typed *roster.Sheet) (*roster.Sheet, []Remark) {
	if before == nil {
		before = &roster.Sheet{}
	}
	r := reading{Reader: x, sheet: typed.Clone(), before: before}
	r.names()
	r.facts()
	r.values()
	r.addresses()
	r.ties()
	r.groups()
	return r.sheet, r.issues
}

func (r *reading) refuse(field, value, reason string) {
	r.issues = append(r.issues, Remark{field, value, reason, true})
}

func (r *reading) doubt(field, value, reason string) {
	r.issues = append(r.issues, Remark{field, value, reason, false})
}

func (r *reading) names() {
	s := r.sheet
	for _, f := range []struct {
		field string
		text  *string
	}{
		{"givenName", &s.GivenName}, {"familyName", &s.FamilyName}, {"knownAs", &s.KnownAs}, {"externalId", &s.ExternalID},
	} {
		*f.text = Name(*f.text)
		if n := utf8.RuneCountInString(*f.text); n > LongestName {
			r.refuse(f.field, "", fmt.Sprintf("%d characters, and no more than %d are kept", n, LongestName))
		}
	}
	s.Notes = Clean(s.Notes)
	if n := utf8.RuneCountInString(s.Notes); n > LongestNotes {
		r.refuse("notes", "", fmt.Sprintf("%d characters, and no more than %d are kept", n, LongestNotes))
	}
	if s.Name() == "" {
		r.refuse("givenName", "", "somebody needs a name")
	}
	if s.ExternalID == "" || s.ExternalID == r.before.ExternalID {
		return
	}
	for i := range r.Roster.Len() {
		if p := r.Roster.At(i); p.ExternalID == s.ExternalID && p.ID != s.ID {
			r.refuse("externalId", s.ExternalID, p.Name()+" has this id already")
		}
	}
}

func (r *reading) facts() {
	s := r.sheet
	if s.Status == "" {
		s.Status = roster.Active
	}
	if !slices.Contains(roster.Statuses, s.Status) {
		r.refuse("status", string(s.Status), "is none of active, away, left")
	}
	if s.Status != roster.Away {
		s.AwayUntil = ""
	}
	if !s.AwayUntil.Valid() {
		r.refuse("awayUntil", string(s.AwayUntil), noDate)
	}
	if !s.BornOn.Valid() {
		r.refuse("bornOn", string(s.BornOn), noDate)
	}
	if s.BornOn > r.Roster.Today && r.Roster.Today != "" {
		r.refuse("bornOn", string(s.BornOn), "lies in the future")
	}
	if s.Language != "" {
		tag, ok := Language(s.Language)
		if !ok {
			r.refuse("language", s.Language, "is no language that is known")
		}
		s.Language = tag
	}
	if s.TimeZone != "" && !r.Zone(s.TimeZone) {
		r.refuse("timeZone", s.TimeZone, "is no time zone such as Europe/London")
	}
	if s.Wish != "" && !s.Wish.Valid() {
		r.refuse("wish", string(s.Wish), "is no channel")
	}
	if s.Unit != 0 && r.Roster.UnitPath(s.Unit) == "" {
		r.refuse("unit", "", "does not exist, or is not yours")
	}
	s.Roles = slices.Compact(slices.Sorted(slices.Values(s.Roles)))
	for _, role := range s.Roles {
		if !slices.Contains(r.Roles, role) {
			r.refuse("roles", string(role), "is no role here")
		}
	}
}

func (r *reading) values() {
	for i, v := range r.sheet.Values {
		a, ok := r.Roster.Attribute(v.Attribute)
		if !ok {
			continue // it was deleted while the sheet was open
		}
		value, err := a.Read(Clean(v.Value))
		if err == nil && utf8.RuneCountInString(value) > LongestValue {
			err = fmt.Errorf("%s: no more than %d characters are kept", a.Name, LongestValue)
		}
		if err != nil {
			r.refuse(fmt.Sprintf("values[%d]", i), v.Value, err.Error())
			continue
		}
		r.sheet.Values[i].Value = value
	}
	r.sheet.Values = slices.DeleteFunc(r.sheet.Values, func(v roster.Value) bool { return v.Value == "" })
	slices.SortFunc(r.sheet.Values, func(a, b roster.Value) int { return int(a.Attribute - b.Attribute) })
}

func (r *reading) addresses() {
	list := make([]roster.Address, 0, len(r.sheet.Addresses))
	for i, a := range r.sheet.Addresses {
		field := fmt.Sprintf("addresses[%d]", i)
		refusesPush := a.CarrierStop && a.Channel == roster.Push
		if !slices.ContainsFunc(r.before.Addresses, a.Is) {
			a.Value = r.address(field, a)
		}
		known := roster.Address{Health: roster.Untried} // what the program learned is not typed
		if at := slices.IndexFunc(r.before.Addresses, a.Is); at >= 0 {
			known = r.before.Addresses[at]
		}
		a.ID, a.Health, a.LastFailure = known.ID, known.Health, known.LastFailure
		a.FailedOn, a.CarrierStop = known.FailedOn, known.CarrierStop
		if a.Channel == roster.Push {
			a.CarrierStop = refusesPush
		}
		a.Connected = known.Connected
		a.Label = Name(a.Label)
		if !a.CheckedOn.Valid() {
			r.refuse(field, string(a.CheckedOn), noDate)
		}
		if slices.ContainsFunc(list, a.Is) {
			r.refuse(field, a.Value, "stands here twice")
			continue
		}
		list = append(list, a)
	}
	r.sheet.Addresses = list
}

// address reads the value of a new or changed address.
func (r *reading) address(field string, a roster.Address) string {
	typed := Clean(a.Value)
	switch a.Channel {
	case roster.Email:
		value, err := Mailbox(typed)
		if err != nil {
			r.refuse(field, typed, reason(err, ErrMailbox))
			return typed
		}
		r.shared(field, a.Channel, value)
		return value
	case roster.Text, roster.Voice:
		return r.number(field, a.Channel, typed)
	case roster.Push:
		if !slices.Contains(roster.DeviceKinds, a.Label) {
			r.refuse(field, a.Label, "is none of "+strings.Join(roster.DeviceKinds, ", "))
		}
		if typed == "" {
			r.refuse(field, "", "the device needs a name")
		}
		r.shared(field, a.Channel, typed)
		return typed
	}
	r.refuse(field, string(a.Channel), "is no channel")
	return typed
}

func (r *reading) number(field string, c roster.Channel, typed string) string {
	value, err := phone.Parse(typed, r.Region)
	if err != nil {
		r.refuse(field, typed, reason(err, phone.ErrUnreadable))
		return typed
	}
	if c == roster.Text && phone.Landline(value) {
		r.refuse(field, phone.Display(value), "is a landline: it takes calls, not texts")
		return value
	}
	if !phone.Assigned(value) {
		r.doubt(field, phone.Display(value), "is in a range that no network is known to use; check the digits")
	}
	if c == roster.Voice { // said once for a number that takes both
		r.shared(field, c, value)
	}
	return value
}

// shared says who has the address already: a family, or a slip.
func (r *reading) shared(field string, c roster.Channel, value string) {
	var names []string
	for i := range r.Roster.Len() {
		p := r.Roster.At(i)
		if p.ID != r.sheet.ID && slices.ContainsFunc(p.Addresses, roster.Address{Channel: c, Value: value}.Is) {
			names = append(names, p.Name())
		}
	}
	if len(names) > 3 {
		names = append(names[:3], fmt.Sprintf("%d more", len(names)-3))
	}
	if len(names) > 0 {
		r.doubt(field, value, "is also the address of "+strings.Join(names, ", "))
	}
}

// reason is what an error says without the value, which stands beside it.
func reason(err, kind error) string {
	_, why, _ := strings.Cut(err.Error(), kind.Error())
	return kind.Error() + why
}

func (r *reading) ties() {
	seen := map[roster.PersonID]bool{}
	for i, t := range r.sheet.Ties {
		field := fmt.Sprintf("ties[%d]", i)
		other := t.Other(r.sheet.ID)
		switch {
		case t.Guardian == t.Dependent:
			r.refuse(field, "", "nobody is their own guardian")
			continue
		case t.Guardian != r.sheet.ID && t.Dependent != r.sheet.ID:
			r.refuse(field, "", "does not concern this person")
			continue
		case seen[other]:
			r.refuse(field, "", "stands here twice")
		case r.Roster.Person(other) == nil:
			r.refuse(field, "", "names somebody who is no longer on the roster")
		}
		seen[other] = true
		if t.Barred {
			r.sheet.Ties[i].Receives = false
		}
	}
	r.sheet.LiftReason = Name(r.sheet.LiftReason)
	for _, t := range roster.Lifted(r.before, r.sheet) {
		if r.sheet.LiftReason == "" {
			name := r.Roster.PersonName(t.Other(r.sheet.ID))
			r.refuse("liftReason", name, "stays barred until you say why contact is allowed again; the reason is kept")
		}
	}
}

func (r *reading) groups() {
	for i, id := range r.sheet.Groups {
		g, ok := r.Roster.Group(id)
		switch {
		case !ok:
			r.refuse(fmt.Sprintf("groups[%d]", i), "", "no longer exists, or is not yours")
		case g.Kind == roster.ByRule:
			r.refuse(fmt.Sprintf("groups[%d]", i), g.Name, "gets its people by rule; nobody is picked for it")
		}
	}
}
