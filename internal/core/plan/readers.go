package plan

import (
	"cmp"
	"slices"

	"upperlantern/internal/core/roster"
)

// Readers are recipients who read one language.
type Readers struct {
	Language string // BCP 47
	People   int
}

// OtherReaders counts the recipients who read another language than that in which the
// message is written; the language that most of them read first.
func (p *Plan) OtherReaders(r *roster.Roster) []Readers {
	var list []Readers
	for _, recipient := range p.Recipients {
		tag := r.At(recipient.Person).Language
		if tag == "" || reads(tag, p.Settings.Language) {
			continue
		}
		at := slices.IndexFunc(list, func(l Readers) bool { return l.Language == tag })
		if at < 0 {
			at, list = len(list), append(list, Readers{Language: tag})
		}
		list[at].People++
	}
	slices.SortStableFunc(list, func(a, b Readers) int {
		return cmp.Or(cmp.Compare(b.People, a.People), cmp.Compare(a.Language, b.Language))
	})
	return list
}
