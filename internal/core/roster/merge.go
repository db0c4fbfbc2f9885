package roster

import "slices"

// Merge makes one sheet of people who turned out to be one: the first keeps
// what it has and takes every address, tie, group, role and whatever it lacks
// from the others. What is withheld or barred for one of them stays so.
func Merge(keep *Sheet, others ...*Sheet) *Sheet {
	s := keep.Clone()
	merged := map[PersonID]bool{keep.ID: true}
	for _, o := range others {
		merged[o.ID] = true
	}
	for _, o := range others {
		fill(&s.ExternalID, o.ExternalID)
		fill(&s.GivenName, o.GivenName)
		fill(&s.FamilyName, o.FamilyName)
		fill(&s.KnownAs, o.KnownAs)
		fill(&s.Language, o.Language)
		fill(&s.BornOn, o.BornOn)
		fill(&s.TimeZone, o.TimeZone)
		fill(&s.Wish, o.Wish)
		fill(&s.Unit, o.Unit)
		s.ReachedOn = max(s.ReachedOn, o.ReachedOn)
		if o.Notes != "" && o.Notes != s.Notes {
			fill(&s.Notes, o.Notes)
			if s.Notes != o.Notes {
				s.Notes += "\n" + o.Notes
			}
		}
		for _, v := range o.Values {
			if s.Value(v.Attribute) == "" {
				s.SetValue(v.Attribute, v.Value)
			}
		}
		for _, role := range o.Roles {
			if !s.Has(role) {
				s.Roles = append(s.Roles, role)
			}
		}
		for _, a := range o.Addresses {
			s.mergeAddress(a)
		}
		for _, g := range o.Groups {
			s.Join(g)
		}
		s.mergeTies(o, merged)
	}
	s.Ties = slices.DeleteFunc(s.Ties, func(t Tie) bool { return merged[t.Guardian] && merged[t.Dependent] })
	return s
}

func fill[T comparable](into *T, from T) {
	var none T
	if *into == none {
		*into = from
	}
}

func (s *Sheet) mergeAddress(a Address) {
	at := slices.IndexFunc(s.Addresses, a.Is)
	if at < 0 {
		a.ID = 0
		s.Addresses = append(s.Addresses, a)
		return
	}
	known := &s.Addresses[at]
	known.DeclinesRoutine = known.DeclinesRoutine || a.DeclinesRoutine
	known.DeclinesTimely = known.DeclinesTimely || a.DeclinesTimely
	known.CarrierStop = known.CarrierStop || a.CarrierStop
	known.CheckedOn = max(known.CheckedOn, a.CheckedOn)
}

func (s *Sheet) mergeTies(o *Sheet, merged map[PersonID]bool) {
	for _, t := range o.Ties {
		if merged[t.Other(o.ID)] {
			continue
		}
		if t.Guardian == o.ID {
			t.Guardian = s.ID
		} else {
			t.Dependent = s.ID
		}
		at := slices.IndexFunc(s.Ties, t.Joins)
		if at < 0 {
			s.Ties = append(s.Ties, t)
			continue
		}
		s.Ties[at] = s.Ties[at].Joined(t)
	}
}
