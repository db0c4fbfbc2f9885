// Package replan compares what was planned with what would be planned now.
package replan

import (
	"slices"

	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
)

// Kept is a recipient as they were planned.
type Kept struct {
	ID         int64
	Person     roster.PersonID // 0 of somebody who is not on the roster
	Name       string
	Deliveries []Delivery
}

// Delivery is one as it was planned.
type Delivery struct {
	ID      int64
	Channel roster.Channel
	Address string
	Hash    string // of what it says
	Here    bool   // it has not left
}

// Change is somebody for whom a plan is no longer what it was.
type Change struct {
	Kept  int64  // as they were planned; 0 for somebody who is new
	Now   int    // in the plan of now, by index; -1 for somebody who is no longer in it
	Name  string // of whoever it is
	About string // what changed, in words
}

// Changes are what is different between two plans of a message.
type Changes []Change

// Compare says what is different in the plan of now. Hash is that of what a delivery
// of it says.
func Compare(r *roster.Roster, now *plan.Plan, kept []Kept, hash func(plan.Delivery) (string, error)) (Changes, error) {
	var list Changes
	known := map[int]bool{}
	for _, k := range kept {
		at, there := find(r, now, k)
		if !there {
			list = append(list, Change{Kept: k.ID, Now: -1, Name: k.Name, About: why(r, now, k)})
			continue
		}
		known[at] = true
		about, err := different(now, at, k, hash)
		if err != nil {
			return nil, err
		}
		if about != "" {
			list = append(list, Change{Kept: k.ID, Now: at, Name: k.Name, About: about})
		}
	}
	for at, rec := range now.Recipients {
		if !known[at] {
			list = append(list, Change{Now: at, Name: r.At(rec.Person).Name(), About: "gets it too now"})
		}
	}
	return list, nil
}

// find is the recipient of a plan, by index, who is somebody that was planned.
func find(r *roster.Roster, p *plan.Plan, k Kept) (int, bool) {
	if k.Person != 0 {
		return p.Find(r, k.Person)
	}
	at := slices.IndexFunc(p.Recipients, func(rec plan.Recipient) bool {
		return r.At(rec.Person).Stranger() && slices.ContainsFunc(rec.Deliveries, func(d int) bool {
			return slices.ContainsFunc(k.Deliveries, func(o Delivery) bool { return o.Address == p.Deliveries[d].Address })
		})
	})
	return at, at >= 0
}

// why says why somebody gets nothing any more.
func why(r *roster.Roster, p *plan.Plan, k Kept) string {
	at, known := r.Position(k.Person)
	if !known {
		return "is no longer there"
	}
	for _, l := range p.LeftOut {
		if l.Person == at {
			return "gets nothing now: " + p.Detail(r, l)
		}
	}
	return "is no longer meant"
}

// different says what is different for somebody who is in both plans; "" is nothing.
func different(p *plan.Plan, at int, k Kept, hash func(plan.Delivery) (string, error)) (string, error) {
	rec := p.Recipients[at]
	places, words := len(rec.Deliveries) != len(k.Deliveries), false
	for _, n := range rec.Deliveries {
		d := p.Deliveries[n]
		says, err := hash(d)
		if err != nil {
			return "", err
		}
		i := slices.IndexFunc(k.Deliveries, func(o Delivery) bool { return o.Channel == d.Channel && o.Address == d.Address })
		if i < 0 {
			places = true
		} else if k.Deliveries[i].Hash != says {
			words = true
		}
	}
	switch {
	case places:
		return "gets it elsewhere", nil
	case words:
		return "gets other words", nil
	}
	return "", nil
}

// Withdrawn are the recipients whose deliveries must not leave any more: who would get
// nothing now, and whose addresses cannot be used now, by their deliveries.
func Withdrawn(r *roster.Roster, now *plan.Plan, kept []Kept) map[int64][]int64 {
	list := map[int64][]int64{}
	for _, k := range kept {
		at, there := find(r, now, k)
		for _, d := range k.Deliveries {
			if d.Here && (!there || !now.Usable(r, now.Recipients[at].Person, d.Channel, d.Address)) {
				list[k.ID] = append(list[k.ID], d.ID)
			}
		}
	}
	return list
}
