package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// following is a message to everybody on the test roster that follows message 1.
func following(as message.As, change func(*message.Follows)) message.Draft {
	f := &message.Follows{Message: 1, As: as}
	if change != nil {
		change(f)
	}
	return message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
		Routing: message.Routing{
			Urgency: roster.Routine, Follows: f,
			Audience: audience.Audience{Parts: []audience.Part{group(1), group(2)}, Receivers: audience.Guardians},
		},
	}
}

func recipientsOf(r *roster.Roster, p *plan.Plan) []roster.PersonID {
	ids := []roster.PersonID{}
	for _, rec := range p.Recipients {
		ids = append(ids, r.At(rec.Person).ID)
	}
	return ids
}

func TestWhoIsPassedOver(t *testing.T) {
	r := testRoster(t)
	everybody := recipientsOf(r, plan.Make(r, message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
		Routing: message.Routing{Urgency: roster.Routine, Audience: following(message.Again, nil).Audience},
	}, settings))
	require.Greater(t, len(everybody), 2)
	first, second := everybody[0], everybody[1]
	s := settings
	s.Chain = &plan.Chain{People: map[roster.PersonID]plan.Before{
		first:  {Reached: true, Channels: []roster.Channel{roster.Text}},
		second: {Waiting: true},
	}}
	for _, c := range []struct {
		name string
		d    message.Draft
		want []roster.PersonID
	}{
		{"again", following(message.Again, nil), everybody[2:]},
		{"to further people", following(message.Further, nil), everybody[2:]},
		{"again, twice", following(message.Again, func(f *message.Follows) { f.Twice = true }), everybody},
		{"again, to a chosen one", following(message.Again, func(f *message.Follows) { f.People = everybody[2:3] }), everybody[2:3]},
		{"again, to a chosen one who got it", following(message.Again, func(f *message.Follows) { f.People = everybody[:1] }), []roster.PersonID{}},
		{"a correction", following(message.Correction, nil), everybody[:1]},
		{"an all-clear", following(message.AllClear, nil), everybody[:1]},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := plan.Make(r, c.d, s)
			assert.Equal(t, c.want, recipientsOf(r, p))
			lost := len(everybody) - len(c.want)
			assert.GreaterOrEqual(t, p.Passed, lost, "those whom nothing reaches may be passed over too")
			assert.Equal(t, p.Passed > 0, len(c.want) < len(everybody))
		})
	}
	t.Run("by the channel that reached them", func(t *testing.T) {
		p := plan.Make(r, following(message.Correction, nil), s)
		for _, d := range p.Deliveries {
			assert.Equal(t, roster.Text, d.Channel)
		}
		assert.Contains(t, p.Explain(r, p.Recipients[0]), "By the channel that reached them before.")
	})
	t.Run("by the steps, where that channel cannot be used any more", func(t *testing.T) {
		at, _ := r.Position(first)
		person := r.At(at)
		before := append([]roster.Address{}, person.Addresses...)
		defer func() { person.Addresses = before }()
		person.Addresses = []roster.Address{{ID: 900, Channel: roster.Email, Value: "new@example.org"}}
		p := plan.Make(r, following(message.Correction, nil), s)
		require.Len(t, p.Deliveries, 1)
		assert.Equal(t, roster.Email, p.Deliveries[0].Channel)
	})
}

// However a chain went, what repeats it reaches nobody whom it reached, and passes over
// nobody else; nobody is counted twice.
func TestChainProperties(t *testing.T) {
	r := testRoster(t)
	rapid.Check(t, func(t *rapid.T) {
		chain := &plan.Chain{People: map[roster.PersonID]plan.Before{}}
		for i := range r.Len() {
			chain.People[r.At(i).ID] = plan.Before{
				Reached: rapid.Bool().Draw(t, "reached"), Waiting: rapid.Bool().Draw(t, "waiting"),
			}
		}
		s := settings
		alone := following(message.Again, func(f *message.Follows) { f.Twice = true })
		all := plan.Make(r, alone, s)
		s.Chain = chain
		p := plan.Make(r, following(message.Again, nil), s)
		for _, rec := range p.Recipients {
			before := chain.People[r.At(rec.Person).ID]
			assert.False(t, before.Reached || before.Waiting)
		}
		seen := map[int]bool{}
		for _, rec := range p.Recipients {
			assert.False(t, seen[rec.Person])
			seen[rec.Person] = true
		}
		for _, l := range p.LeftOut {
			assert.False(t, seen[l.Person])
			seen[l.Person] = true
		}
		assert.LessOrEqual(t, len(p.Recipients)+p.Passed, len(all.Audience.Recipients))
		assert.Equal(t, len(all.Audience.Recipients), len(p.Audience.Recipients)+p.Passed)
	})
}
