package access

import (
	"errors"

	"upperlantern/internal/core/roster"
)

// Door is the way by which somebody came in.
type Door string

const (
	BySession Door = "session" // those who signed in
	ByFeed    Door = "feed"    // calendars that read what is scheduled
	Inside    Door = "inside"  // the program itself, and its command line
)

// Principal is on whose behalf something is asked: an account, what it may do, and
// the door by which it came.
type Principal struct {
	ID    int64 // of the account; 0 for the program itself
	Login string
	Name  string
	Door  Door
	Grant
}

// Program is the program itself, where nobody is signed in.
var Program = Principal{
	Name: "the program", Door: Inside, Grant: Grant{Scope: roster.Scope{Whole: true}, Rights: Rights},
}

// ErrNotYours means that something belongs to a unit that somebody does not reach.
var ErrNotYours = errors.New("belongs to a unit beyond yours")

// SeesMessagesOf reports whether the messages of an author may be seen: one's own,
// and those of whom one reaches.
func (p Principal) SeesMessagesOf(author int64, reach Grant, units []roster.Unit) bool {
	return author == p.ID || p.Reaches(reach, units)
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
	case s.Owner == p.ID:
		return true
	case s.Own:
		return false
	}
	return s.Unit == 0 || p.Scope.Covers(roster.Scope{Units: []roster.UnitID{s.Unit}}, units)
}

// MayDrop reports whether what was kept for everybody may be deleted: its maker may,
// and whoever changes the settings of the whole organisation.
func (p Principal) MayDrop(owner int64) bool {
	return owner != 0 && owner == p.ID || p.May(ChangeSettings) && p.Scope.Whole
}

// MayChange reports whether something that is seen may be changed. What is
// everybody's is changed by its owner, and by whoever reaches the whole organisation.
func (p Principal) MayChange(s Shared) bool {
	return s.Owner == p.ID || p.Scope.Whole || s.Unit != 0
}
