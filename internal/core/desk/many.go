package desk

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/roster"
)

// With says with whom a thread is.
type With string

const (
	One       With = "one"       // a person, or an address of nobody
	Chosen    With = "people"    // chosen at the desk
	OfGroup   With = "group"     // whoever is in it
	Area      With = "area"      // whoever belongs to a unit, or to one inside it
	Everybody With = "everybody" // whom the desk reaches
	OfJob     With = "job"       // whoever is in it
)

// Withs lists every way.
var Withs = []With{One, Chosen, OfGroup, Area, Everybody, OfJob}

// Many reports whether a thread is with more than one.
func (w With) Many() bool { return w != One }

// Round is whom a thread with many is with.
type Round struct {
	With   With
	People []roster.PersonID // chosen at the desk
	Group  roster.GroupID    // a job too
	Unit   roster.UnitID
	Gone   []roster.PersonID // who left the thread by the word for it
}

// Audience is whom a word to everybody in the thread is for. It names nobody when what
// the thread is with is gone.
func (t Round) Audience(d Desk, r *roster.Roster) audience.Audience {
	a := audience.Audience{Parts: t.parts(d, r), Receivers: audience.Guardians}
	if t.With == Chosen || t.With == OfJob {
		a.Receivers = audience.Themselves
	}
	if len(t.Gone) > 0 && len(a.Parts) > 0 {
		a.Parts = append(a.Parts, audience.Part{Kind: audience.ByPeople, People: t.Gone, LeaveOut: true})
	}
	return a
}

func (t Round) parts(d Desk, r *roster.Roster) []audience.Part {
	switch {
	case t.With == Chosen && len(t.People) > 0:
		return []audience.Part{{Kind: audience.ByPeople, People: t.People}}
	case (t.With == OfGroup || t.With == OfJob) && t.Group != 0:
		return []audience.Part{{Kind: audience.ByGroup, Group: t.Group}}
	case t.With == Area && t.Unit != 0:
		return []audience.Part{{Kind: audience.ByUnit, Unit: t.Unit}}
	case t.With == Everybody:
		return d.reach(r)
	}
	return []audience.Part{}
}

// reach are the parts of an audience of everybody whom a desk reaches: the people of its
// units and groups, or the whole roster for a desk that answers for all others.
func (d Desk) reach(r *roster.Roster) []audience.Part {
	parts := []audience.Part{}
	for _, u := range d.Units {
		parts = append(parts, audience.Part{Kind: audience.ByUnit, Unit: u})
	}
	for _, g := range d.Groups {
		parts = append(parts, audience.Part{Kind: audience.ByGroup, Group: g})
	}
	if !d.rest() {
		return parts
	}
	var all []roster.PersonID
	for i := range r.Len() {
		all = append(all, r.At(i).ID)
	}
	if len(all) == 0 {
		return parts
	}
	return []audience.Part{{Kind: audience.ByPeople, People: all}}
}

// namedAtMost is how many people stand in the name of a thread that has none of its own.
const namedAtMost = 2

// Called is how a thread is called after its people.
func Called(names []string) string {
	if len(names) == 0 {
		return "Nobody yet"
	}
	first := names[:min(len(names), namedAtMost)]
	if more := len(names) - len(first); more > 0 {
		return fmt.Sprintf("%s and %d more", strings.Join(first, ", "), more)
	}
	return strings.Join(first, " and ")
}

// What somebody says in a thread is passed on so often within so long, and no more: one
// telephone cannot flood all others.
const (
	PassedAtMost = 10
	PassedWithin = 10 * time.Minute
)

// Passes says whether what somebody wrote is passed on to the others in a thread, and to
// whom: to those who were told that all see what is said, if the writer was told too.
// Earlier is when other things of theirs were passed on.
func Passes(writer roster.PersonID, told []roster.PersonID, at time.Time, earlier []time.Time) (to []roster.PersonID) {
	if writer == 0 || !slices.Contains(told, writer) {
		return nil
	}
	lately := 0
	for _, e := range earlier {
		if at.Sub(e) < PassedWithin {
			lately++
		}
	}
	if lately >= PassedAtMost {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(told), func(p roster.PersonID) bool { return p == writer })
}
