package copies

import (
	"strings"
	"unicode"

	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// Naming finds lines in which somebody of a roster was named: by their whole name, a
// number or a mail address. Such a line is pointed out before it leaves the program.
type Naming struct {
	names  map[string]bool // whole names, in lower case
	values map[string]bool // addresses
	region string
}

// NamingOf knows the people of a roster. Region is ISO 3166, for numbers without a
// calling code.
func NamingOf(r *roster.Roster, region string) Naming {
	n := Naming{names: make(map[string]bool, r.Len()), values: map[string]bool{}, region: region}
	for i := range r.Len() {
		p := r.At(i)
		if p.GivenName != "" && p.FamilyName != "" {
			n.names[strings.ToLower(p.GivenName+" "+p.FamilyName)] = true
		}
		for _, a := range p.Addresses {
			n.values[strings.ToLower(a.Value)] = true
		}
	}
	return n
}

const longestName = 5 // words

// Names reports whether a line names somebody.
func (n Naming) Names(l lines.Line, tag string) bool {
	words := strings.FieldsFunc(strings.ToLower(lines.Words(l.Text)), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.Is(unicode.Mn, r) && r != '-' && r != '\'' && r != '’'
	})
	for i := range words {
		for length := 2; length <= longestName && i+length <= len(words); length++ {
			if n.names[strings.Join(words[i:i+length], " ")] {
				return true
			}
		}
	}
	for _, f := range figures(l.Text, tag) {
		said := l.Text[f.from:f.to]
		if f.kind == target && n.values[strings.ToLower(said)] {
			return true
		}
		if number, err := phone.Parse(said, n.region); f.kind == phoneNumber && err == nil && n.values[number] {
			return true
		}
	}
	return false
}
