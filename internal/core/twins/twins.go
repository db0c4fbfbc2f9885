// Package twins finds people who stand on the roster twice.
package twins

import (
	"cmp"
	"slices"
	"strings"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// Pair is two people who are likely one, by position, the earlier first.
type Pair struct {
	A, B    int
	Reasons []string // in words
	Weight  int      // how likely; more is likelier
	Likely  bool     // more than the same name speaks for it: an address, or the birth date
}

// apart is how many people may share an address before it says nothing about
// who they are: a family, or an office.
const apart = 12

// Find lists likely twins, the likeliest first: two people who share a number
// or a mailbox and whose names are alike, or whose names are the same. Whoever
// differs in birth date is not one person, nor is a pair that known says are
// two. Guests are not looked at: they are mended elsewhere.
func Find(r *roster.Roster, known func(a, b roster.PersonID) bool) []Pair {
	f := finder{r: r, known: known, pairs: map[[2]int]*Pair{}, names: make([][]string, r.Len())}
	byAddress := map[string][]int{}
	byName := map[string][]int{}
	for i := range r.Len() {
		p := r.At(i)
		if r.Guest(p.ID) {
			continue
		}
		f.names[i] = strings.Fields(roster.Fold(p.Name()))
		slices.Sort(f.names[i])
		key := strings.Join(f.names[i], " ")
		byName[key] = append(byName[key], i)
		seen := map[string]bool{}
		for _, a := range p.Addresses {
			if a.Channel != roster.Push && !seen[a.Value] {
				seen[a.Value] = true
				byAddress[a.Value] = append(byAddress[a.Value], i)
			}
		}
	}
	for value, people := range byAddress {
		f.each(people, func(a, b int) {
			if alike(f.names[a], f.names[b]) {
				f.add(a, b, sharedAddress, "both have "+phone.Display(value))
			}
		})
	}
	for name, people := range byName {
		if name == "" {
			continue
		}
		f.each(people, func(a, b int) { f.add(a, b, sameName, "the same name") })
	}
	return f.list()
}

// How much speaks for a pair.
const (
	sharedAddress = 3
	sameName      = 2
	sameBirth     = 2
)

type finder struct {
	r     *roster.Roster
	known func(a, b roster.PersonID) bool
	pairs map[[2]int]*Pair
	names [][]string // folded words of the name, sorted, by position
}

func (f *finder) each(people []int, visit func(a, b int)) {
	if len(people) > apart {
		return
	}
	for n, a := range people {
		for _, b := range people[n+1:] {
			visit(a, b)
		}
	}
}

func (f *finder) add(a, b, weight int, reason string) {
	first, second := f.r.At(a), f.r.At(b)
	if first.BornOn != "" && second.BornOn != "" && first.BornOn != second.BornOn || f.tied(a, second.ID) || f.known(first.ID, second.ID) {
		return
	}
	pair := f.pairs[[2]int{a, b}]
	if pair == nil {
		pair = &Pair{A: a, B: b}
		f.pairs[[2]int{a, b}] = pair
		if first.BornOn != "" && first.BornOn == second.BornOn {
			pair.Weight, pair.Likely, pair.Reasons = sameBirth, true, []string{"born on the same day"}
		}
		if first.ExternalID == "" || second.ExternalID == "" {
			pair.Weight++ // two ids of the organisation's own are rather two people
		}
	}
	pair.Weight += weight
	pair.Likely = pair.Likely || weight == sharedAddress
	pair.Reasons = append(pair.Reasons, reason)
}

// tied reports whether one is the guardian of the other: a parent and a child
// of the same name are two.
func (f *finder) tied(a int, b roster.PersonID) bool {
	return slices.ContainsFunc(f.r.Guardians(a), func(t roster.Tie) bool { return t.Guardian == b }) ||
		slices.ContainsFunc(f.r.Dependents(a), func(t roster.Tie) bool { return t.Dependent == b })
}

func (f *finder) list() []Pair {
	list := make([]Pair, 0, len(f.pairs))
	for _, p := range f.pairs {
		slices.Sort(p.Reasons)
		list = append(list, *p)
	}
	slices.SortFunc(list, func(x, y Pair) int {
		return cmp.Or(cmp.Compare(y.Weight, x.Weight), cmp.Compare(x.A, y.A), cmp.Compare(x.B, y.B))
	})
	return list
}

// alike reports whether two names, given as their words, could be one
// person's: the words of one are among those of the other, or they differ by
// a slip of the pen.
func alike(a, b []string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(a) == 0 {
		return false
	}
	within := true
	for _, word := range a {
		within = within && slices.Contains(b, word)
	}
	if within && (len(a) > 1 || len(b) == 1) {
		return true
	}
	x, y := []rune(strings.Join(a, " ")), []rune(strings.Join(b, " "))
	slips := 1
	if len(x) > 9 {
		slips = 2
	}
	return len(a) == len(b) && len(x) > 4 && distance(x, y) <= slips
}

// distance is how many letters are added, dropped or changed between two words.
func distance(a, b []rune) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range a {
		diagonal := row[0]
		row[0] = i + 1
		for j := range b {
			changed := diagonal
			if a[i] != b[j] {
				changed++
			}
			diagonal = row[j+1]
			row[j+1] = min(changed, row[j]+1, row[j+1]+1)
		}
	}
	return row[len(b)]
}
