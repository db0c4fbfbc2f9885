package plan_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func group(id roster.GroupID) audience.Part { return audience.Part{Kind: audience.ByGroup, Group: id} }

func leavingOut(p audience.Part) audience.Part {
	p.LeaveOut = true
	return p
}

// A dependent is never lost from the figures, whatever keeps the guardian from
// getting it.
func TestDependentsWhoseGuardiansGetNothing(t *testing.T) {
	person := func(id roster.PersonID) audience.Part {
		return audience.Part{Kind: audience.ByPerson, Person: id}
	}
	for _, c := range []struct {
		name   string
		parts  []audience.Part
		change func(guardian *roster.Person)
		want   map[string]plan.Reason
		why    string
	}{
		{"the guardian gets it", nil, func(*roster.Person) {}, map[string]plan.Reason{}, "Named, and told through Bo."},
		{"the guardian is left out", []audience.Part{leavingOut(person(bo))}, func(*roster.Person) {},
			map[string]plan.Reason{"Kim": plan.GuardiansGetNothing}, "Named, but gets nothing: their guardians get nothing either: Bo (left out by the sender)."},
		{"the guardian is away", nil, func(p *roster.Person) { p.Status = roster.Away },
			map[string]plan.Reason{"Bo": plan.AwayOrLeft, "Kim": plan.GuardiansGetNothing}, "Named, but gets nothing: their guardians get nothing either: Bo (away, or no longer with us)."},
		{"the guardian's numbers are dead", nil, func(p *roster.Person) { p.Addresses[0].Health, p.Addresses[1].Health = roster.Dead, roster.Dead },
			map[string]plan.Reason{"Bo": plan.AllDead, "Kim": plan.GuardiansGetNothing}, ""},
		{"the guardian declined", nil, func(p *roster.Person) { p.Addresses[0].DeclinesRoutine, p.Addresses[1].DeclinesRoutine = true, true },
			map[string]plan.Reason{"Bo": plan.OptedOut, "Kim": plan.GuardiansGetNothing}, ""},
		{"the guardian has no address", nil, func(p *roster.Person) { p.Addresses = nil },
			map[string]plan.Reason{"Bo": plan.NoAddress, "Kim": plan.GuardiansGetNothing}, ""},
		{"the dependent is left out", []audience.Part{leavingOut(group(2))}, func(*roster.Person) {}, map[string]plan.Reason{}, "Left out by “Juniors”."},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := testRoster(t)
			c.change(r.At(bo - 1))
			d := message.Draft{
				Content: message.Content{Email: rich.Lines("Hello")},
				Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{Parts: append(c.parts, group(2))}},
			}
			p := plan.Make(r, d, settings)
			assert.Equal(t, c.want, reasons(p, r))
			assert.Equal(t, len(c.want), p.Summarise(r).Nobody)
			if c.why != "" {
				assert.Equal(t, c.why, p.WhyNot(r, kid))
			}
		})
	}
}

// Who is told through a guardian stands apart from who gets nothing.
func TestToldThroughAGuardianIsNoProblem(t *testing.T) {
	r := testRoster(t)
	d := message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
		Routing: message.Routing{
			Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{group(2)}, Receivers: audience.Both},
		},
	}
	p := plan.Make(r, d, settings)
	s := p.Summarise(r)
	assert.Equal(t, []int{1, 0, 1}, []int{s.Recipients, s.Nobody, s.Told})
	check := strings.Join(p.Check(s, "now"), " ")
	assert.Contains(t, check, "Nobody is left out.")
	assert.Contains(t, check, "1 dependent is told through a guardian.")
	for _, problem := range s.Problems {
		assert.NotEqual(t, plan.Unreached, problem.Code)
	}
}

// An away dependent's guardians are told, and of one who left nobody is.
func TestWhatAnAbsentDependentMeansForTheGuardians(t *testing.T) {
	for _, c := range []struct {
		status     roster.Status
		recipients int
		nobody     map[string]plan.Reason
	}{
		{roster.Away, 1, map[string]plan.Reason{}}, {roster.Left, 0, map[string]plan.Reason{"Kim": plan.AwayOrLeft}},
	} {
		for _, receivers := range []audience.Receivers{audience.Guardians, audience.Both} {
			r := testRoster(t)
			r.At(kid - 1).Status = c.status
			p := plan.Make(
				r,
				message.Draft{
					Content: message.Content{Email: rich.Lines("Hello")},
					Routing: message.Routing{
						Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{group(2)}, Receivers: receivers},
					},
				},
				settings,
			)
			assert.Len(t, p.Recipients, c.recipients)
			assert.Equal(t, c.nobody, reasons(p, r))
		}
	}
}

// Who is back when the message leaves gets it, though they are away today.
func TestAwayIsJudgedOnTheDayOfSending(t *testing.T) {
	for _, c := range []struct {
		until roster.Date
		at    time.Time
		gets  bool
	}{
		{"2026-11-26", time.Date(2026, 11, 26, 20, 0, 0, 0, time.UTC), false},
		{"2026-11-26", time.Date(2026, 11, 27, 7, 0, 0, 0, time.UTC), true},
		{"", time.Date(2027, 11, 27, 7, 0, 0, 0, time.UTC), false},
	} {
		r := testRoster(t)
		r.At(bo-1).Status, r.At(bo-1).AwayUntil = roster.Away, c.until
		p := plan.Make(r, message.Draft{
			Content: message.Content{Email: rich.Lines("Hello")},
			Routing: message.Routing{
				Urgency: roster.Routine, SendAt: &c.at,
				Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByPerson, Person: bo}}},
			},
		}, settings)
		assert.Len(t, p.Recipients, map[bool]int{true: 1}[c.gets], "%s %s", c.until, c.at)
	}
}

// Leaving out a role other than dependent leaves out the people themselves, and
// nothing that concerns them as dependents.
func TestLeavingOutARole(t *testing.T) {
	r := testRoster(t)
	r.At(kid - 1).Roles = []roster.Role{roster.Dependent, roster.Member}
	out := func(role roster.Role) *plan.Plan {
		return plan.Make(r, message.Draft{
			Content: message.Content{Email: rich.Lines("Hello")},
			Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{
				Parts: []audience.Part{group(2), leavingOut(audience.Part{Kind: audience.ByRole, Role: role})},
			}},
		}, settings)
	}
	assert.Len(t, out(roster.Member).Recipients, 1, "Bo hears about Kim")
	assert.Empty(t, out(roster.Dependent).Recipients, "what concerns dependents is left out")
}

// Of several reasons the one counts that is nearest to being usable.
func TestMixedReasonsForNoUsableAddress(t *testing.T) {
	declined := roster.Address{Channel: roster.Email, Value: "a@example.org", DeclinesRoutine: true}
	stopped := roster.Address{Channel: roster.Text, Value: "+447700900011", CarrierStop: true}
	dead := roster.Address{Channel: roster.Email, Value: "b@example.org", Health: roster.Dead}
	device := roster.Address{Channel: roster.Push, Value: "Bo's phone"}
	silent := roster.Address{Channel: roster.Voice, Value: "+447700900012"} // voice is on no step
	for _, c := range []struct {
		name      string
		addresses []roster.Address
		want      plan.Reason
	}{
		{"dead and declined", []roster.Address{dead, declined}, plan.OptedOut},
		{"a carrier's stop and no content", []roster.Address{silent, stopped}, plan.OptedOut},
		{"dead and no content", []roster.Address{dead, silent}, plan.NoContent},
		{"a device and dead", []roster.Address{device, dead}, plan.AllDead},
		{"only a device that is not connected", []roster.Address{device}, plan.NoAddress},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := testRoster(t)
			r.At(bo - 1).Addresses = c.addresses
			d := message.Draft{
				Content: message.Content{Email: rich.Lines("Hello")},
				Routing: message.Routing{
					Urgency:  roster.Routine,
					Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByPerson, Person: bo}}},
				},
			}
			d.Steps = precedence.Steps{{roster.Email, roster.Push}, {roster.Text}}
			assert.Equal(t, map[string]plan.Reason{"Bo": c.want}, reasons(plan.Make(r, d, settings), r))
		})
	}
}

// Consent belongs to a person and an address. Who declined a shared address is
// left out; the delivery is for those who did not, and an emergency for both.
func TestASharedDeliveryIsForThoseWhoDidNotDecline(t *testing.T) {
	r := testRoster(t)
	r.At(gus - 1).Addresses[0].DeclinesRoutine = true
	d := message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
		Routing: message.Routing{Urgency: roster.Routine, FirstOnly: true, Audience: audience.Audience{
			Parts: []audience.Part{{Kind: audience.ByPeople, People: []roster.PersonID{ana, gus}}},
		}},
	}
	d.Steps = precedence.Steps{{roster.Email}}
	p := plan.Make(r, d, settings)
	assert.Equal(t, []string{"email ana@example.org ×1"}, destinations(p))
	assert.Equal(t, map[string]plan.Reason{"Gus": plan.OptedOut}, reasons(p, r))

	d.Urgency, d.Reason = roster.Emergency, "Flood"
	p = plan.Make(r, d, settings)
	assert.Equal(t, []string{"email ana@example.org ×2"}, destinations(p))
	assert.Equal(t, 1, p.Summarise(r).Overridden, "only Gus, who declined")
}

func TestASharedDeliveryWaitsForEverybodysQuietHours(t *testing.T) {
	for _, c := range []struct {
		first, second string // the zones of the two, as the roster lists them
		want          string
	}{
		{"", "Asia/Tokyo", "26 07:00"}, {"Asia/Tokyo", "", "26 07:00"}, // when Tokyo wakes, London sleeps
		{"America/New_York", "Asia/Tokyo", "25 23:00"},
	} {
		r := testRoster(t)
		r.At(bo-1).TimeZone, r.At(cy-1).TimeZone = c.first, c.second
		r.At(cy - 1).Addresses = addresses("+447700900002")
		s := timed()
		if c.want == "25 23:00" {
			q := s.Sending.Quiet[roster.Text]
			q.From, q.To = 22*60, 8*60
			s.Sending.Quiet[roster.Text] = q
		}
		d := message.Draft{
			Content: message.Content{Text: "Come", OwnText: true},
			Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{
				Parts: []audience.Part{{Kind: audience.ByPeople, People: []roster.PersonID{bo, cy}}},
			}},
		}
		d.Steps = precedence.Steps{{roster.Text}}
		at := time.Date(2026, 11, 25, 13, 0, 0, 0, time.UTC)
		d.SendAt = &at
		p := plan.Make(r, d, s)
		require.Equal(t, []string{"text +447700900002 ×2"}, destinations(p))
		assert.Equal(t, c.want, leaves(p)["+447700900002"], "%s and %s", c.first, c.second)
	}
}

// Two people in different zones who wait for the same instant are one wait.
func TestOneInstantIsOneWait(t *testing.T) {
	r := testRoster(t)
	r.At(bo-1).TimeZone, r.At(cy-1).TimeZone = "Asia/Tokyo", "Asia/Seoul" // the same clocks
	r.At(cy - 1).Addresses = addresses("+447700900003")
	d := message.Draft{
		Content: message.Content{Text: "Come", OwnText: true},
		Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{
			Parts: []audience.Part{{Kind: audience.ByPeople, People: []roster.PersonID{bo, cy}}},
		}},
	}
	at := time.Date(2026, 11, 25, 13, 0, 0, 0, time.UTC)
	d.SendAt = &at
	s := plan.Make(r, d, timed()).Summarise(r)
	require.Len(t, s.Waits, 1)
	assert.Equal(t, 2, s.Waits[0].Deliveries)
}

// The sender of a shared delivery is that of the group that stands first in the
// organisation's order, whoever stands first on the roster.
func TestASharedDeliverySpeaksForTheFirstGroup(t *testing.T) {
	for _, firstGroup := range []roster.PersonID{bo, cy} {
		base := testRoster(t)
		people := base.People
		people[cy-1].Addresses = addresses("+447700900002")
		other := map[roster.PersonID]roster.PersonID{bo: cy, cy: bo}[firstGroup]
		r, err := roster.New(roster.Contents{People: people, Groups: []roster.Group{
			{ID: 1, Name: "First", Members: []roster.PersonID{firstGroup}, Identity: roster.Identity{Number: "+447700900101"}},
			{ID: 2, Name: "Second", Members: []roster.PersonID{other}, Identity: roster.Identity{Number: "+447700900102"}},
		}})
		require.NoError(t, err)
		d := message.Draft{
			Content: message.Content{Text: "Come", OwnText: true},
			Routing: message.Routing{
				Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{group(1), group(2)}},
			},
		}
		d.Steps = precedence.Steps{{roster.Text}}
		p := plan.Make(r, d, settings)
		require.Equal(t, []string{"text +447700900002 ×2"}, destinations(p))
		assert.Equal(t, "+447700900101", p.Deliveries[0].Sender)
	}
}

// Gaps say of somebody's addresses what a plan says of them when the message has
// content for every channel.
func TestGapsAndPlansAgree(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := randomRoster(t)
		for _, urgency := range []roster.Urgency{roster.Routine, roster.Timely} {
			d := everybody(message.Draft{
				Content: message.Content{Email: rich.Lines("Now")},
				Routing: message.Routing{Urgency: urgency},
			})
			d.Audience.Receivers = audience.Themselves
			why := map[int]plan.Reason{}
			for _, l := range plan.Make(r, d, settings).LeftOut {
				why[l.Person] = l.Reason
			}
			for i := range r.Len() {
				if p := r.At(i); p.Has(roster.Dependent) || p.Status != roster.Active {
					continue
				}
				require.Equal(t, r.Has(roster.NoAddress, i), why[i] == plan.NoAddress)
				require.Equal(t, r.Has(roster.AllDead, i), why[i] == plan.AllDead)
				if r.Has(roster.DeclinesAll, i) {
					require.Equal(t, plan.OptedOut, why[i])
				}
			}
		}
		d := everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("Now")},
			Routing: message.Routing{Urgency: roster.Emergency},
		})
		d.Audience.Receivers = audience.Guardians
		p := plan.Make(r, d, settings)
		told := map[int]bool{}
		for _, one := range p.Told {
			told[one.Person] = true
		}
		for i := range r.Len() {
			if r.At(i).Has(roster.Dependent) {
				_, own := p.Find(r, r.At(i).ID) // they may be somebody's guardian too
				require.False(t, r.Has(roster.NoGuardian, i) && told[i], "a gap, and yet told")
				require.True(t, own || told[i] || r.Has(roster.NoGuardian, i), "no gap, and yet not told")
			}
		}
	})
}
