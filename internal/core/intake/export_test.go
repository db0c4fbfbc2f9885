package intake

import "upperlantern/internal/core/roster"

// Counted proposes and returns how many look-ups of people that took.
func Counted(t Table, r *roster.Roster) (*Proposal, int) {
	b := newBuilder(t, r)
	p := b.propose()
	return p, b.known.lookups + b.inFile.lookups
}

// What tests of dates look at.
var (
	ReadDate = readDate
	OrderOf  = orderOf
)
