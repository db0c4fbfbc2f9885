// Package desk says at which desk what comes in belongs, and whether a thread waits for
// us or for them.
package desk

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
)

// ID names a desk; 0 is none.
type ID int64

// Desk is a place where people of the office look after threads.
type Desk struct {
	ID      ID               `json:"id"`
	Name    string           `json:"name" minLength:"1" maxLength:"80"`
	Units   []roster.UnitID  `json:"units" maxItems:"200" doc:"Whose answers come here, with what is nested in them"`
	Groups  []roster.GroupID `json:"groups" maxItems:"200" doc:"Answers to messages to these come here"`
	Members []int64          `json:"members" maxItems:"500" doc:"Accounts that sit here"`
	Hours   []Hours          `json:"hours" maxItems:"50" doc:"When somebody sits here; none is always"`
	Outside string           `json:"outside" maxLength:"600" doc:"What is answered outside the hours; empty for nothing"`
}

// Hours are a span of a day of the week, on the organisation's clocks. A span that ends
// no later than it begins ends on the next day.
type Hours struct {
	Day  int          `json:"day" minimum:"0" maximum:"6" doc:"Of the week, 0 is Sunday"`
	From timing.Clock `json:"from" doc:"Such as 08:00"`
	To   timing.Clock `json:"to" doc:"Such as 16:00"`
}

// Sits reports whether an account sits at the desk.
func (d Desk) Sits(account int64) bool { return slices.Contains(d.Members, account) }

// rest reports whether the desk answers for all that no other one does.
func (d Desk) rest() bool { return len(d.Units) == 0 && len(d.Groups) == 0 }

// Open reports whether an instant, in the organisation's zone, is within the hours.
func (d Desk) Open(at time.Time) bool {
	_, open := d.Until(at)
	return open
}

// Until is when the hours end in which an instant lies; the zero time for a desk that is
// always open.
func (d Desk) Until(at time.Time) (end time.Time, open bool) {
	if len(d.Hours) == 0 {
		return time.Time{}, true
	}
	for _, h := range d.Hours {
		for _, ago := range []int{0, 1} { // it may have begun yesterday
			day := at.AddDate(0, 0, -ago)
			if int(day.Weekday()) != h.Day {
				continue
			}
			from, to := h.From.On(day), h.To.On(day)
			if !to.After(from) {
				to = h.To.On(day.AddDate(0, 0, 1))
			}
			if !at.Before(from) && at.Before(to) && to.After(end) {
				end, open = to, true
			}
		}
	}
	return end, open
}

// ErrName means that a desk has no name of its own.
var ErrName = errors.New("a desk needs a name of its own")

// Check refuses a desk that could not be kept beside the others.
func (d Desk) Check(others []Desk, r *roster.Roster) error {
	if strings.TrimSpace(d.Name) == "" {
		return ErrName
	}
	for _, other := range others {
		if other.ID != d.ID && strings.EqualFold(other.Name, d.Name) {
			return fmt.Errorf("%w: there is a desk “%s” already", ErrName, other.Name)
		}
	}
	for _, u := range d.Units {
		if r.UnitName(u) == "" {
			return fmt.Errorf("there is no unit %d", u)
		}
	}
	for _, g := range d.Groups {
		if _, ok := r.Group(g); !ok {
			return fmt.Errorf("there is no group %d", g)
		}
	}
	return nil
}

// Meant is what an answer tells about where it belongs.
type Meant struct {
	Desk   ID               // that the message names
	Groups []roster.GroupID // to which the message was written
	Unit   roster.UnitID    // that wrote, or that the person belongs to
}

// Choose is the desk at which something belongs; 0 when there is none.
func Choose(desks []Desk, m Meant, r *roster.Roster) ID {
	for _, d := range desks {
		if d.ID == m.Desk && m.Desk != 0 {
			return d.ID
		}
	}
	var around []roster.GroupID
	for _, g := range m.Groups {
		around = append(around, r.Around(g)...)
	}
	for _, d := range desks {
		if slices.ContainsFunc(d.Groups, func(g roster.GroupID) bool { return slices.Contains(around, g) }) {
			return d.ID
		}
	}
	for unit, steps := m.Unit, 0; unit != 0 && steps <= len(r.Units); steps++ {
		for _, d := range desks {
			if slices.Contains(d.Units, unit) {
				return d.ID
			}
		}
		unit = parent(r.Units, unit)
	}
	for _, d := range desks {
		if d.rest() {
			return d.ID
		}
	}
	if len(desks) > 0 {
		return desks[0].ID
	}
	return 0
}

func parent(units []roster.Unit, id roster.UnitID) roster.UnitID {
	for _, u := range units {
		if u.ID == id {
			return u.Parent
		}
	}
	return 0
}
