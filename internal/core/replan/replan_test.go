package replan_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/replan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// crew is a roster of n members in a group, each with a mailbox of their own.
func crew(t require.TestingT, n int, change func(p *roster.Person)) *roster.Roster {
	people := make([]roster.Person, n)
	var members []roster.PersonID
	for i := range people {
		id := roster.PersonID(i + 1)
		members = append(members, id)
		people[i] = roster.Person{
			ID: id, GivenName: fmt.Sprintf("Member %d", id), Status: roster.Active, Language: "en", Addresses: []roster.Address{
				{ID: roster.AddressID(id), Channel: roster.Email, Value: fmt.Sprintf("m%d@example.org", id)},
			},
		}
		change(&people[i])
	}
	r, err := roster.New(roster.Contents{
		People: people, Groups: []roster.Group{{ID: 1, Name: "Crew", Members: members}},
	})
	require.NoError(t, err)
	return r
}

func planned(r *roster.Roster, body string) *plan.Plan {
	return plan.Make(r, message.Draft{
		Content: message.Content{Email: rich.Lines(body)},
		Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{
			Receivers: audience.Guardians, Parts: []audience.Part{{Kind: audience.ByGroup, Group: 1}},
		}},
	}, plan.Settings{Leaves: time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)})
}

func says(p *plan.Plan) func(plan.Delivery) (string, error) {
	return func(d plan.Delivery) (string, error) {
		hash, err := p.Content(d).Hash()
		return string(hash[:]), err
	}
}

// kept is a plan as it was kept.
func kept(t require.TestingT, r *roster.Roster, p *plan.Plan) []replan.Kept {
	list := make([]replan.Kept, len(p.Recipients))
	for i, rec := range p.Recipients {
		person := r.At(rec.Person)
		list[i] = replan.Kept{ID: int64(100 + i), Person: person.ID, Name: person.Name()}
		for _, n := range rec.Deliveries {
			hash, err := says(p)(p.Deliveries[n])
			require.NoError(t, err)
			list[i].Deliveries = append(list[i].Deliveries, replan.Delivery{
				ID: int64(n + 1), Channel: p.Deliveries[n].Channel, Address: p.Deliveries[n].Address, Hash: hash, Here: true,
			})
		}
	}
	return list
}

func TestWhatChanged(t *testing.T) {
	before := crew(t, 3, func(*roster.Person) {})
	was := kept(t, before, planned(before, "Hello {{first name}}"))
	second := func(change func(p *roster.Person)) func(*roster.Person) {
		return func(p *roster.Person) {
			if p.ID == 2 {
				change(p)
			}
		}
	}
	for _, c := range []struct {
		name   string
		people int
		change func(*roster.Person)
		want   []string
	}{
		{"nothing", 3, func(*roster.Person) {}, nil},
		{"somebody declined", 3, second(func(p *roster.Person) { p.Addresses[0].DeclinesRoutine = true }),
			[]string{"Member 2 gets nothing now: "}},
		{"somebody left", 3, second(func(p *roster.Person) { p.Status = roster.Left }), []string{"Member 2 gets nothing now: "}},
		{"somebody has another mailbox", 3, second(func(p *roster.Person) { p.Addresses[0].Value = "new@example.org" }),
			[]string{"Member 2 gets it elsewhere"}},
		{"somebody has another name", 3, second(func(p *roster.Person) { p.GivenName = "Bo" }), []string{"Member 2 gets other words"}},
		{"somebody joined", 4, func(*roster.Person) {}, []string{"Member 4 gets it too now"}},
		{"somebody was removed", 2, func(*roster.Person) {}, []string{"Member 3 is no longer there"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := crew(t, c.people, c.change)
			now := planned(r, "Hello {{first name}}")
			changes, err := replan.Compare(r, now, was, says(now))
			require.NoError(t, err)
			require.Len(t, changes, len(c.want))
			for i, want := range c.want {
				assert.Contains(t, changes[i].Name+" "+changes[i].About, want)
			}
		})
	}
}

// Whoever declined, left or lost the address is withdrawn, and nobody else is; a plan
// is never different from itself.
func TestWithdrawnProperties(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 8).Draw(t, "people")
		before := crew(t, n, func(*roster.Person) {})
		first := planned(before, "Hello")
		was := kept(t, before, first)
		changes, err := replan.Compare(before, first, was, says(first))
		require.NoError(t, err)
		assert.Empty(t, changes)
		gone := map[roster.PersonID]bool{}
		now := crew(t, n, func(p *roster.Person) {
			switch rapid.IntRange(0, 5).Draw(t, "what becomes of them") {
			case 0:
				p.Addresses[0].DeclinesRoutine = true
			case 1:
				p.Status = roster.Left
			case 2:
				p.Addresses[0].Health = roster.Dead
			case 3:
				p.Addresses[0].Value = "other@example.org"
			default:
				return
			}
			gone[p.ID] = true
		})
		withdrawn := replan.Withdrawn(now, planned(now, "Hello"), was)
		for _, k := range was {
			assert.Equal(t, gone[k.Person], len(withdrawn[k.ID]) > 0)
		}
		was[0].Deliveries[0].Here = false
		assert.Empty(t, replan.Withdrawn(now, planned(now, "Hello"), was)[was[0].ID], "what left cannot be withdrawn")
	})
}
