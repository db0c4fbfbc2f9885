// Package access says what an account may do, and to whom.
package access

import (
	"errors"
	"fmt"
	"slices"

	"upperlantern/internal/core/roster"
)

// Right is something that an account may be allowed to do.
type Right string

const (
	SeePeople        Right = "see-people"
	EditPeople       Right = "edit-people"
	Write            Right = "write"
	WriteEmergencies Right = "write-emergencies"
	ReadRecords      Right = "read-records"
	RunReports       Right = "run-reports"
	ChangeSettings   Right = "change-settings"
)

// Rights lists every right in the order in which they are shown.
var Rights = []Right{SeePeople, EditPeople, Write, WriteEmergencies, ReadRecords, RunReports, ChangeSettings}

var words = map[Right]string{
	SeePeople: "see people", EditPeople: "edit people and groups", Write: "write to people",
	WriteEmergencies: "write emergencies",
	ReadRecords:      "read records", RunReports: "run reports", ChangeSettings: "change settings",
}

// Words says a right the way the interface does.
func (r Right) Words() string { return words[r] }

// Valid reports whether r is one of Rights.
func (r Right) Valid() bool { return slices.Contains(Rights, r) }

// Grant is what one account may do: rights, within a scope.
type Grant struct {
	Scope  roster.Scope
	Rights []Right
}

// May reports whether the grant holds a right.
func (g Grant) May(r Right) bool { return slices.Contains(g.Rights, r) }

// Reaches reports whether a grant reaches everything that another one does:
// what the other's account wrote may then be seen.
func (g Grant) Reaches(other Grant, units []roster.Unit) bool {
	return g.Scope.Covers(other.Scope, units)
}

// Holds reports whether a grant has every right of another one.
func (g Grant) Holds(other Grant) bool {
	return !slices.ContainsFunc(other.Rights, func(r Right) bool { return !g.May(r) })
}

// Full reports whether a grant has every right over the whole organisation.
func (g Grant) Full() bool { return g.Scope.Whole && g.Holds(Grant{Rights: Rights}) }

// ErrBeyond means that somebody wanted to give away more than they have.
var ErrBeyond = errors.New("you can give no more than you have")

// CheckGift refuses a gift that goes beyond what its giver has.
func (g Grant) CheckGift(gift Grant, units []roster.Unit) error {
	for _, r := range gift.Rights {
		if !r.Valid() {
			return fmt.Errorf("%q is no right", r)
		}
		if !g.May(r) {
			return fmt.Errorf("%w: to %s", ErrBeyond, r.Words())
		}
	}
	if !g.Reaches(gift, units) {
		return fmt.Errorf("%w: units beyond your own", ErrBeyond)
	}
	if !gift.Scope.Whole && len(gift.Scope.Units) == 0 {
		return errors.New("choose at least one unit, or the whole organisation")
	}
	return nil
}
