package plan

import (
	"slices"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
)

// Total is how many deliveries leave, and what they cost.
type Total struct {
	Deliveries int
	Cost       money.Amount
}

// AtOnce is what the plan would come to if every channel of its steps were used at once
// and nobody's wish counted: what precedence saves is the difference.
func (p *Plan) AtOnce(r *roster.Roster) Total {
	d := p.Draft
	d.Steps, d.Unwished = precedence.Steps{slices.Concat(p.Steps...)}, true
	all := p
	if len(p.Steps) > 1 {
		all = Make(r, d, p.Settings)
	}
	t := Total{Deliveries: len(all.Deliveries)}
	for _, delivery := range all.Deliveries {
		t.Cost += delivery.Cost
	}
	return t
}

// Saving is what an earlier total comes to without a later one; nothing is less than none.
func (t Total) Saving(left Total) Total {
	return Total{max(0, t.Deliveries-left.Deliveries), max(0, t.Cost-left.Cost)}
}
