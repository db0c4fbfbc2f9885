// Package match finds the people whom a pasted list means.
package match

import (
	"strings"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// Found is one item of a list and whom it means.
type Found struct {
	Line    int               `json:"line"`
	Text    string            `json:"text"`
	People  []roster.PersonID `json:"people"`
	Address string            `json:"address,omitempty" doc:"The mailbox, or the number in E.164, if it is one"`
	Problem string            `json:"problem,omitempty" doc:"Why it means nobody, or nobody for sure"`
}

// LongestList is the most items that are looked at.
const LongestList = 20_000

const (
	longestItem  = 1000 // bytes that a name, an id or an address can have
	longestShown = 100  // characters that are shown of what is longer
)

// List matches numbers, mail addresses, ids and names that are separated by
// commas, semicolons, tabs or new lines; numbers and addresses also by spaces.
// Region is the ISO 3166 country of numbers without a country code.
func List(r *roster.Roster, text, region string) []Found {
	m := newMatcher(r, region)
	var list []Found
	for n, line := range strings.Split(text, "\n") {
		for _, item := range strings.FieldsFunc(line, func(c rune) bool { return strings.ContainsRune(",;\t", c) }) {
			if item = entry.Name(item); item == "" {
				continue
			}
			for _, f := range m.item(item) {
				if len(list) == LongestList {
					return list
				}
				f.Line = n + 1
				list = append(list, f)
			}
		}
	}
	return list
}

type matcher struct {
	region   string
	external map[string]roster.PersonID
	holders  func(address string) []roster.PersonID
	name     map[string][]roster.PersonID
}

func newMatcher(r *roster.Roster, region string) *matcher {
	m := &matcher{region: region, external: map[string]roster.PersonID{}, name: map[string][]roster.PersonID{}}
	m.holders = func(address string) []roster.PersonID {
		var people []roster.PersonID
		for _, i := range r.Holders(address) {
			people = append(people, r.At(i).ID)
		}
		return people
	}
	for i := range r.Len() {
		p := r.At(i)
		if p.ExternalID != "" {
			m.external[p.ExternalID] = p.ID
		}
		name, turned := roster.Fold(p.Name()), roster.Fold(p.FamilyName+" "+p.GivenName)
		m.name[name] = append(m.name[name], p.ID)
		if turned != name {
			m.name[turned] = append(m.name[turned], p.ID)
		}
	}
	return m
}

// item matches what stands between two separators. Several addresses with
// only spaces between them are several items.
func (m *matcher) item(text string) []Found {
	if f := m.one(text); f.Problem == "" || !strings.Contains(text, " ") {
		return []Found{f}
	}
	words := strings.Fields(text)
	if len(words) > LongestList {
		words = words[:LongestList]
	}
	var list []Found
	for _, w := range words {
		f := m.one(w)
		if !isAddress(w, m.region) {
			return []Found{m.one(text)}
		}
		list = append(list, f)
	}
	return list
}

func isAddress(word, region string) bool {
	if strings.Contains(word, "@") {
		return true
	}
	_, err := phone.Parse(word, region)
	return err == nil
}

func (m *matcher) one(text string) Found {
	f := Found{Text: text, People: []roster.PersonID{}}
	if len(text) > longestItem {
		f.Text, f.Problem = string([]rune(text[:longestItem])[:longestShown])+"…", "is too long to be a name, id or address"
		return f
	}
	if id, ok := m.external[text]; ok {
		f.People = append(f.People, id)
		return f
	}
	value := text
	address := strings.Contains(text, "@")
	if address {
		mailbox, err := entry.Mailbox(text)
		if err != nil {
			f.Problem = entry.ErrMailbox.Error()
			return f
		}
		value = mailbox
	} else if e164, err := phone.Parse(text, m.region); err == nil {
		value, address = e164, true
	}
	if address {
		f.Address = value
		f.People = append(f.People, m.holders(value)...)
		if len(f.People) == 0 {
			f.Problem = "is nobody's address here"
		}
		return f
	}
	alike := m.name[roster.Fold(text)]
	switch len(alike) {
	case 0:
		f.Problem = "is nobody's name, id or address here"
	case 1:
		f.People = append(f.People, alike[0])
	default:
		f.Problem = "is the name of several people; give an address or id"
	}
	return f
}
