// Package job says how jobs stand, what part people have in them, and who rests.
package job

import (
	"cmp"
	"slices"
	"time"

	"upperlantern/internal/core/roster"
)

// Part is what somebody does in a job.
type Part string

const (
	Does    Part = "does"
	OnSite  Part = "on-site"
	Watches Part = "watches"
)

// Out is the part of somebody who was taken out of a job by hand: an answer does not bring
// them back.
const Out Part = "out"

// Parts lists every part that somebody in a job can have, in the order in which they are shown.
var Parts = []Part{Does, OnSite, Watches}

// Count is how many of the people in a job have each part, of those whose part somebody
// said: whoever is in it without one does it.
func Count(people int, said map[Part]int) map[Part]int {
	by := map[Part]int{}
	for _, part := range Parts {
		by[part] = said[part]
	}
	by[Does] = max(0, people-said[OnSite]-said[Watches])
	return by
}

// Stands says how a job stands.
type Stands string

const (
	Open   Stands = "open"
	Coming Stands = "coming"
	Closed Stands = "closed"
)

// AllStands lists every way in the order in which jobs are shown.
var AllStands = []Stands{Open, Coming, Closed}

// Standing is how a job stands at an instant.
func Standing(g roster.Group, now time.Time) Stands {
	switch {
	case g.Closed != nil:
		return Closed
	case g.Starts != nil && g.Starts.After(now):
		return Coming
	}
	return Open
}

// Overdue reports whether a job is still open though its end has passed.
func Overdue(g roster.Group, now time.Time) bool {
	return Standing(g, now) == Open && g.Ends != nil && g.Ends.Before(now)
}

// Jobs are the jobs among groups: open ones by their expected end, coming ones by their
// start, closed ones the last first.
func Jobs(groups []roster.Group, now time.Time) []roster.Group {
	jobs := slices.DeleteFunc(slices.Clone(groups), func(g roster.Group) bool { return g.Kind != roster.Job })
	slices.SortStableFunc(jobs, func(a, b roster.Group) int {
		stands := Standing(a, now)
		if c := cmp.Compare(slices.Index(AllStands, stands), slices.Index(AllStands, Standing(b, now))); c != 0 {
			return c
		}
		switch stands {
		case Coming:
			return instant(a.Starts).Compare(instant(b.Starts))
		case Closed:
			return instant(b.Closed).Compare(instant(a.Closed))
		}
		return instant(cmp.Or(a.Ends, &never)).Compare(instant(cmp.Or(b.Ends, &never)))
	})
	return jobs
}

var never = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)

func instant(at *time.Time) time.Time {
	if at == nil {
		return time.Time{}
	}
	return *at
}

// Busy says why somebody is not asked for a job: until when they rest after another one,
// or the zero time while another one is open.
type Busy struct {
	Job   string // its name
	Until time.Time
}

// Resting are those who do another job that is open at an instant, or did one that
// ended less than a rest before it. A rest of 0 is none: then nobody rests.
func Resting(r *roster.Roster, asks roster.GroupID, at time.Time, rest time.Duration) map[roster.PersonID]Busy {
	busy := map[roster.PersonID]Busy{}
	if rest <= 0 {
		return busy
	}
	for _, g := range r.Groups() {
		if g.Kind != roster.Job || g.ID == asks || Standing(g, at) == Coming {
			continue
		}
		until := time.Time{}
		if g.Closed != nil {
			if until = g.Closed.Add(rest); !until.After(at) {
				continue
			}
		}
		for _, i := range r.In(g.ID) {
			p := r.At(i).ID
			if before, known := busy[p]; !known || !before.Until.IsZero() && (until.IsZero() || until.After(before.Until)) {
				busy[p] = Busy{g.Name, until}
			}
		}
	}
	return busy
}

// Template is what a new job can begin with.
type Template struct {
	Unit    roster.UnitID              `json:"unit,omitempty"`
	Place   string                     `json:"place,omitempty"`
	Minutes int                        `json:"minutes,omitempty" doc:"How long it takes; 0 is not known"`
	Inside  []roster.GroupID           `json:"inside,omitempty" doc:"Groups that are nested in it"`
	People  map[Part][]roster.PersonID `json:"people,omitempty"`
}

// Like is what a new job like another one begins with.
func Like(g roster.Group, part func(roster.PersonID) Part) Template {
	t := Template{Unit: g.Unit, Place: g.Place, Inside: g.Inside, People: map[Part][]roster.PersonID{}}
	if g.Starts != nil && g.Ends != nil {
		t.Minutes = int(g.Ends.Sub(*g.Starts) / time.Minute)
	}
	for _, p := range g.Members {
		t.People[part(p)] = append(t.People[part(p)], p)
	}
	return t
}
