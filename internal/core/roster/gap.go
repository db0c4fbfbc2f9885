package roster

import "slices"

// Gap is a reason why somebody could not be told something when it matters.
type Gap string

const (
	NoAddress   Gap = "no-address"
	AllDead     Gap = "all-dead"
	NoGuardian  Gap = "no-guardian"
	NoLanguage  Gap = "no-language"
	DeclinesAll Gap = "declines-all"
)

// Gaps lists every gap, the worst first.
var Gaps = []Gap{NoAddress, AllDead, NoGuardian, DeclinesAll, NoLanguage}

var gapWords = map[Gap]string{
	NoAddress:   "no way to reach them on file",
	AllDead:     "every address has failed for good",
	NoGuardian:  "no guardian who can be reached",
	NoLanguage:  "language not known",
	DeclinesAll: "declines routine and timely messages everywhere, or the carrier recorded a stop",
}

var gapShort = map[Gap]string{
	NoAddress: "No address", AllDead: "Every address dead", NoGuardian: "No guardian", NoLanguage: "No language",
	DeclinesAll: "Decline everything",
}

// Short says a gap where there is little room.
func (g Gap) Short() string { return gapShort[g] }

// Words says a gap in a sentence.
func (g Gap) Words() string { return gapWords[g] }

// Has reports whether the person at a position has a gap, by the same rules as
// a plan puts addresses aside. Who has left has none; a dependent needs no
// address but a guardian who can be reached, since guardians are told for them
// unless a sender says otherwise.
func (r *Roster) Has(g Gap, i int) bool {
	p := r.At(i)
	if p.Status == Left {
		return false
	}
	dependent := p.Has(Dependent)
	switch g {
	case NoAddress:
		return !dependent && !slices.ContainsFunc(p.Addresses, connectable)
	case AllDead:
		alive := func(a Address) bool { return connectable(a) && a.Health != Dead }
		return !dependent && slices.ContainsFunc(p.Addresses, connectable) && !slices.ContainsFunc(p.Addresses, alive)
	case NoGuardian:
		return dependent && !r.guardianReached(i)
	case NoLanguage:
		return p.Language == "" && len(p.Addresses) > 0
	case DeclinesAll:
		return p.declinesEverywhere(Routine) && p.declinesEverywhere(Timely)
	}
	return false
}

// connectable reports whether an address is one that a message could go to: a
// device that is not connected is none.
func connectable(a Address) bool { return !a.Unconnected() }

// guardianReached reports whether any guardian who receives for the dependent
// at a position, and is not away, has a usable address.
func (r *Roster) guardianReached(dependent int) bool {
	return slices.ContainsFunc(r.guardians[dependent], func(t Tie) bool {
		g := r.Person(t.Guardian)
		return t.Receives && !t.Barred && g.Status == Active && g.Reaches("")
	})
}

// GapCount is how many people have a gap, in all and by what they belong to.
type GapCount struct {
	Gap    Gap
	People int
	Units  map[UnitID]int
	Roles  map[Role]int
}

// CountGaps counts the gaps of everybody who is not a guest.
func (r *Roster) CountGaps() []GapCount {
	counts := make([]GapCount, len(Gaps))
	for n, g := range Gaps {
		counts[n] = GapCount{Gap: g, Units: map[UnitID]int{}, Roles: map[Role]int{}}
		for i := range r.People {
			if !r.Has(g, i) || r.Guest(r.People[i].ID) {
				continue
			}
			counts[n].People++
			counts[n].Units[r.People[i].Unit]++
			for _, role := range r.People[i].Roles {
				counts[n].Roles[role]++
			}
		}
	}
	return counts
}
