package access

import "upperlantern/internal/core/roster"

// Door is the way by which somebody came in.
type Door string

// BySession is the door of those who signed in.
const BySession Door = "session"

// Principal is on whose behalf something is asked: an account, what it may do, and
// the door by which it came.
type Principal struct {
	Account int64
	Door    Door
	Grant
}

// SeesMessagesOf reports whether the messages of an author may be seen: one's own,
// and those of whom one reaches.
func (p Principal) SeesMessagesOf(author int64, reach Grant, units []roster.Unit) bool {
	return author == p.Account || p.Reaches(reach, units)
}

// Shared is how something is shared: it is its owner's own, a unit's, or, without a
// unit, everybody's.
type Shared struct {
	Owner int64
	Own   bool
	Unit  roster.UnitID
}

// Sees reports whether something shared may be seen: one's own, what is everybody's,
// and what belongs to a unit within one's reach.
func (p Principal) Sees(s Shared, units []roster.Unit) bool {
	switch {
	case s.Owner == p.Account:
		return true
	case s.Own:
		return false
	}
	return s.Unit == 0 || p.Scope.Covers(roster.Scope{Units: []roster.UnitID{s.Unit}}, units)
}

// MayChange reports whether something that is seen may be changed. What is
// everybody's is changed by its owner, and by whoever reaches the whole organisation.
func (p Principal) MayChange(s Shared) bool {
	return s.Owner == p.Account || p.Scope.Whole || s.Unit != 0
}
