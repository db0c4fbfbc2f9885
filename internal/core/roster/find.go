package roster

import (
	"cmp"
	"slices"
	"strings"
)

// Order is what a list of people is sorted by.
type Order string

const (
	ByName     Order = "name" // family name, given name
	ByGiven    Order = "given"
	ByUnit     Order = "unit"
	ByLanguage Order = "language"
	ByStatus   Order = "status"
	ByReached  Order = "reached"
)

// Query asks for people.
type Query struct {
	Search     string `json:"search,omitempty" maxLength:"200" doc:"Words of the name, an address or an id"`
	Rule       Rule   `json:"rule,omitempty" maxItems:"20" doc:"Filters, one on top of the other"`
	Order      Order  `json:"order,omitempty" enum:"name,given,unit,language,status,reached"`
	Descending bool   `json:"descending,omitempty"`
}

// Find returns the positions of the people that a query asks for, in its
// order, and how many each of its filters leaves.
func (r *Roster) Find(q Query) (people []int, leaves []int) {
	people, leaves = r.Select(q.Rule)
	people = r.Search(people, q.Search)
	r.sort(people, q)
	return people, leaves
}

func (r *Roster) sort(people []int, q Query) {
	key := map[Order]func(i int) string{
		ByGiven:    func(i int) string { return Fold(r.At(i).GivenName) },
		ByUnit:     func(i int) string { return r.UnitPath(r.At(i).Unit) },
		ByLanguage: func(i int) string { return r.At(i).Language },
		ByStatus:   func(i int) string { return string(r.At(i).Status) },
		ByReached:  func(i int) string { return string(r.At(i).ReachedOn) },
	}[q.Order]
	if key != nil { // by name is how they stand already
		keys := make(map[int]string, len(people))
		for _, i := range people {
			keys[i] = key(i)
		}
		slices.SortStableFunc(people, func(a, b int) int { return cmp.Compare(keys[a], keys[b]) })
	}
	if q.Descending {
		slices.Reverse(people)
	}
}

// Search keeps those people in whom every word is found.
func (r *Roster) Search(people []int, typed string) []int {
	typed = strings.TrimSpace(typed)
	if typed == "" {
		return people
	}
	texts := r.searchable()
	words := strings.Fields(Fold(typed))
	number := digits(typed)
	mailbox := strings.ToLower(typed)
	return slices.DeleteFunc(slices.Clone(people), func(i int) bool {
		t := texts[i]
		if number != "" {
			return !strings.Contains(t.addresses, number) && !strings.EqualFold(r.At(i).ExternalID, typed)
		}
		if strings.ContainsAny(mailbox, "@.") && strings.Contains(t.addresses, mailbox) {
			return false
		}
		return len(words) == 0 || slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(t.words, w) })
	})
}

// digits are those of a typed number without what stands before the area, or
// "" when it is no number.
func digits(typed string) string {
	kept := strings.Map(func(c rune) rune {
		if strings.ContainsRune(" ()-./", c) {
			return -1
		}
		return c
	}, typed)
	kept = strings.TrimLeft(strings.TrimPrefix(kept, "+"), "0")
	if len(kept) < 4 || strings.Trim(kept, "0123456789") != "" {
		return ""
	}
	return kept
}

type searchText struct{ words, addresses string }

// searchable prepares what is searched, once for a snapshot.
func (r *Roster) searchable() []searchText {
	r.once.Do(func() {
		r.texts = make([]searchText, r.Len())
		for i := range r.People {
			p := &r.People[i]
			var b strings.Builder
			for _, a := range p.Addresses {
				b.WriteString(strings.ToLower(a.Value))
				b.WriteByte('\n')
			}
			r.texts[i] = searchText{Fold(p.GivenName + " " + p.FamilyName + " " + p.KnownAs + " " + p.ExternalID), b.String()}
		}
	})
	return r.texts
}

// RoleCount is how many people have a role.
type RoleCount struct {
	Role   Role
	People int
}

// CountRoles counts who has each of some roles; somebody with two counts in both.
func (r *Roster) CountRoles(roles []Role) []RoleCount {
	list := make([]RoleCount, len(roles))
	for i, role := range roles {
		people, _ := r.Select(Rule{{On: OnRole, Test: Is, Value: string(role)}})
		list[i] = RoleCount{Role: role, People: len(people)}
	}
	return list
}
