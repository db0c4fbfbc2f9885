package roster

import "slices"

// Household is people who live together, as far as the roster tells, by
// position: adults first, then dependents.
type Household struct {
	People   []int
	Language string // the one that most of its adults read, or ""
}

// Households puts people into households with those who live with them:
// dependents with their guardians, and guardians of the same dependent who
// share the family name or an address. Guardians who live apart are not shown
// each other's addresses, and a barred contact is in no household of theirs.
func (r *Roster) Households(people []int) []Household {
	of := make(map[int]int, len(people)) // household by person
	var list []Household
	for _, i := range people {
		if _, done := of[i]; done {
			continue
		}
		members := r.livesWith(i)
		n := len(list)
		for _, m := range members {
			if _, taken := of[m]; !taken || !r.At(m).Has(Dependent) {
				of[m] = n
			}
		}
		list = append(list, Household{members, r.mostRead(members)})
	}
	return list
}

// livesWith returns somebody with those who live with them.
func (r *Roster) livesWith(i int) []int {
	adults := []int{i}
	if r.At(i).Has(Dependent) {
		adults = nil
		for _, t := range r.guardians[i] {
			if g, _ := r.Position(t.Guardian); !t.Barred && (len(adults) == 0 || r.together(adults[0], g)) {
				adults = append(adults, g)
			}
		}
		if adults == nil {
			return []int{i}
		}
	}
	var dependents []int
	for n := 0; n < len(adults); n++ {
		for _, t := range r.dependents[adults[n]] {
			d, _ := r.Position(t.Dependent)
			if t.Barred || slices.Contains(dependents, d) {
				continue
			}
			dependents = append(dependents, d)
			for _, other := range r.guardians[d] {
				g, _ := r.Position(other.Guardian)
				if !other.Barred && !slices.Contains(adults, g) && r.together(adults[0], g) {
					adults = append(adults, g)
				}
			}
		}
	}
	return append(adults, dependents...)
}

func (r *Roster) together(a, b int) bool {
	first, second := r.At(a), r.At(b)
	if Fold(first.FamilyName) == Fold(second.FamilyName) {
		return true
	}
	return slices.ContainsFunc(first.Addresses, func(x Address) bool {
		return slices.ContainsFunc(second.Addresses, x.Is)
	})
}

func (r *Roster) mostRead(people []int) string {
	counts := map[string]int{}
	best := ""
	for _, i := range people {
		tag := r.At(i).Language
		if tag == "" || r.At(i).Has(Dependent) && best != "" {
			continue
		}
		counts[tag]++
		if counts[tag] > counts[best] {
			best = tag
		}
	}
	return best
}
