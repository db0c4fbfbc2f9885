package report

import "upperlantern/internal/core/roster"

// Census counts to how many messages households were recipients.
type Census struct {
	roster     *roster.Roster
	households []roster.Household
	of         map[roster.PersonID][]int // the households of a person
	messages   []int                     // by household
	last       []int64                   // the message that a household was counted for last
	gone       int
}

// NewCensus begins to count for households of a roster.
func NewCensus(r *roster.Roster, households []roster.Household) *Census {
	c := &Census{
		roster: r, households: households, of: map[roster.PersonID][]int{}, messages: make([]int, len(households)),
		last: make([]int64, len(households)),
	}
	for n, h := range households {
		for _, at := range h.People {
			id := r.At(at).ID
			c.of[id] = append(c.of[id], n)
		}
	}
	return c
}

// Add counts a recipient. The recipients of a message come one after the other.
func (c *Census) Add(message int64, person roster.PersonID) {
	households := c.of[person]
	if len(households) == 0 {
		c.gone++
	}
	for _, n := range households {
		if c.last[n] != message {
			c.last[n] = message
			c.messages[n]++
		}
	}
}

// Gone is how many recipients are in no household.
func (c *Census) Gone() int { return c.gone }

// Burdens are what was counted.
func (c *Census) Burdens() []Burden {
	list := make([]Burden, len(c.households))
	for n, h := range c.households {
		list[n] = Burden{People: len(h.People), Messages: c.messages[n]}
		for _, at := range h.People {
			list[n].Names = append(list[n].Names, c.roster.At(at).Name())
		}
	}
	return list
}
