package plan_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
)

const (
	ana, bo, cy, di, eve, fay, gus, kid = 1, 2, 3, 4, 5, 6, 7, 8
)

func addresses(values ...string) []roster.Address {
	var list []roster.Address
	for i, v := range values {
		a := roster.Address{ID: roster.AddressID(i + 1), Channel: roster.Email, Value: v, Health: roster.Untried}
		if v[0] == '+' {
			a.Channel = roster.Text
			list = append(list, a)
			a.Channel = roster.Voice
		}
		if v[0] == '#' {
			a.Channel, a.Value = roster.Voice, "+"+v[1:]
		}
		list = append(list, a)
	}
	return list
}

// testRoster has the worked example's Ana, Bo, Cy and Di, then Eve who
// declines, Fay whose mailbox is dead, Gus who shares Ana's mailbox, and a kid.
func testRoster(t testing.TB) *roster.Roster {
	people := []roster.Person{
		{ID: ana, GivenName: "Ana", Language: "en", Addresses: addresses("ana@example.org", "ana2@example.org", "ana3@example.org", "+447700900001")},
		{ID: bo, GivenName: "Bo", Language: "pl", Addresses: addresses("+447700900002")},
		{ID: cy, GivenName: "Cy", Language: "ar", Addresses: addresses("#447700900003")},
		{ID: di, GivenName: "Di", Language: ""},
		{ID: eve, GivenName: "Eve", Language: "en-GB", Addresses: addresses("eve@example.org")},
		{ID: fay, GivenName: "Fay", Language: "vi", Addresses: addresses("fay@example.org")},
		{ID: gus, GivenName: "Gus", Language: "en", Addresses: addresses("ana@example.org")},
		{ID: kid, GivenName: "Kim", FamilyName: "Venn", Language: "en", Roles: []roster.Role{roster.Dependent}},
	}
	everybody := roster.Group{ID: 1, Name: "Everybody"}
	for i := range people {
		people[i].Status = roster.Active
		if people[i].ID != kid {
			everybody.Members = append(everybody.Members, people[i].ID)
		}
	}
	people[eve-1].Addresses[0].DeclinesRoutine = true
	people[fay-1].Addresses[0].Health = roster.Dead
	r, err := roster.New(roster.Contents{
		People: people, Ties: []roster.Tie{{Guardian: bo, Dependent: kid, Receives: true}},
		Groups: []roster.Group{everybody, {ID: 2, Name: "Juniors", Members: []roster.PersonID{kid}}},
	})
	require.NoError(t, err)
	return r
}

var settings = plan.Settings{
	Leaves: time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC),
	Fixed: plan.Fixed{
		Organisation: "Quillmere", Sender: "Naya Osei", Language: "en", Currency: "GBP",
		Rates: plan.Rates{
			TextPart:    []plan.Rate{{Prefix: "", Price: 9 * money.Minor}, {Prefix: "+44", Price: 3800}},
			VoiceMinute: []plan.Rate{{Prefix: "+44", Price: 6500}},
		},
	},
}

func everybody(d message.Draft) message.Draft {
	d.Audience.Parts = append(d.Audience.Parts, audience.Part{Kind: audience.ByGroup, Group: 1})
	if d.Urgency == "" {
		d.Urgency = roster.Routine
	}
	return d
}

func destinations(p *plan.Plan) []string {
	var list []string
	for _, d := range p.Deliveries {
		list = append(list, fmt.Sprintf("%s %s ×%d", d.Channel, d.Address, len(d.Recipients)))
	}
	return list
}

func reasons(p *plan.Plan, r *roster.Roster) map[string]plan.Reason {
	list := map[string]plan.Reason{}
	for _, l := range p.LeftOut {
		list[r.At(l.Person).GivenName] = l.Reason
	}
	return list
}

func TestMakeWorkedExample(t *testing.T) {
	r := testRoster(t)
	p := plan.Make(r, everybody(message.Draft{
		Content: message.Content{Subject: "Outing", Email: rich.Lines("Meet at the lock.")},
	}), settings)
	assert.Equal(t, []string{
		"email ana@example.org ×2", "email ana2@example.org ×1", "email ana3@example.org ×1", "text +447700900002 ×1",
		"voice +447700900003 ×1",
	}, destinations(p), "Gus shares Ana's mailbox and the very same content: told once, together")
	assert.Equal(t, map[string]plan.Reason{"Di": plan.NoAddress, "Eve": plan.OptedOut, "Fay": plan.AllDead}, reasons(p, r))
}

// Whoever has only channels that nothing carries gets nothing, and is told apart.
// What precedence saves is the difference to every channel at once, without wishes.
func TestWhatPrecedenceSaves(t *testing.T) {
	r := testRoster(t)
	outing := everybody(message.Draft{Content: message.Content{Subject: "Outing", Email: rich.Lines("Meet at the lock.")}})
	p := plan.Make(r, outing, settings)
	atOnce := p.AtOnce(r)
	assert.Equal(t, 8, atOnce.Deliveries, "Ana would get a text and a call as well, and Bo a call")
	var planned plan.Total
	for _, d := range p.Deliveries {
		planned.Deliveries, planned.Cost = planned.Deliveries+1, planned.Cost+d.Cost
	}
	assert.Equal(t, plan.Total{Deliveries: 3, Cost: 3800 + 2*6500}, atOnce.Saving(planned))
	assert.Equal(t, plan.Total{}, planned.Saving(atOnce), "what was tried later can use up all of it")

	outing.Urgency = roster.Emergency
	p = plan.Make(r, outing, settings)
	assert.Equal(t, len(p.Deliveries), p.AtOnce(r).Deliveries, "an emergency uses everything at once")
}

func TestChannelsThatNothingCarries(t *testing.T) {
	r := testRoster(t)
	off := settings
	off.Off = []roster.Channel{roster.Text, roster.Email}
	p := plan.Make(r, everybody(message.Draft{Content: message.Content{Email: rich.Lines("Meet at the lock.")}}), off)
	assert.Equal(t, []string{
		"voice +447700900001 ×1", "voice +447700900002 ×1", "voice +447700900003 ×1",
	}, destinations(p), "Ana's and Bo's mobiles are called")
	assert.Equal(t, map[string]plan.Reason{
		"Gus": plan.NoCarrier, "Di": plan.NoAddress, "Eve": plan.NoCarrier, "Fay": plan.NoCarrier,
	}, reasons(p, r), "Fay's mailbox is dead too, and a carrier comes first")

	own := addresses("hugo@example.org", "+447700900009")
	trial, missing := p.Trial(0, own, "")
	assert.Empty(t, missing)
	require.Len(t, trial, 1, "nor does a trial go by them")
	assert.Equal(t, roster.Voice, trial[0].Channel)
}

// Before the first word, reach is what it will be; it costs nothing and cannot be sent.
func TestReachBeforeTheFirstWord(t *testing.T) {
	r := testRoster(t)
	reach := func(c message.Content) (steps map[string]int, p *plan.Plan) {
		p, steps = plan.Make(r, everybody(message.Draft{Content: c}), settings), map[string]int{}
		for _, rec := range p.Recipients {
			steps[r.At(rec.Person).GivenName] = rec.Step
		}
		return steps, p
	}
	written, _ := reach(message.Content{Email: rich.Lines("Meet at the lock.")})
	before, p := reach(message.Content{})
	assert.Equal(t, written, before)
	assert.Len(t, before, 4, "Ana, Bo, Cy and Gus")
	summary := p.Summarise(r)
	assert.Zero(t, summary.Cost)
	require.NotEmpty(t, summary.Problems)
	assert.Equal(t, plan.NothingToSay, summary.Problems[0].Code)
	assert.True(t, summary.Problems[0].Blocks)

	// A word for one channel is a choice: what has none is not used.
	onlyPush, _ := reach(message.Content{Push: message.Push{Own: true, Title: "Go", Body: "Now"}})
	assert.Empty(t, onlyPush)
}

func TestSharedMailboxWithOwnNamesGetsOneEach(t *testing.T) {
	p := plan.Make(testRoster(t), everybody(message.Draft{
		Content: message.Content{Email: rich.Lines("Dear {{first name}}")},
	}), settings)
	assert.Contains(t, destinations(p), "email ana@example.org ×1")
	assert.Equal(t, "Dear Ana", p.Deliveries[0].Body)
	assert.Len(t, p.Deliveries, 6)
}

func TestEmergencyUsesEverythingAndOverridesConsent(t *testing.T) {
	r := testRoster(t)
	p := plan.Make(
		r, everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("Leave the island now.")},
			Routing: message.Routing{Urgency: roster.Emergency},
		}), settings,
	)
	s := p.Summarise(r)
	assert.Contains(t, destinations(p), "email eve@example.org ×1")
	assert.Contains(t, destinations(p), "voice +447700900001 ×1", "Ana's mobile rings as well")
	assert.Equal(t, 1, s.Overridden)
	assert.Equal(t, map[string]plan.Reason{"Di": plan.NoAddress, "Fay": plan.AllDead}, reasons(p, r))
}

func TestFields(t *testing.T) {
	r := testRoster(t)
	juniors := message.Draft{
		Content: message.Content{Email: rich.Lines("{{dependents}} of {{organisation}} – {{sender}}")},
		Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{
			Parts: []audience.Part{{Kind: audience.ByGroup, Group: 2}, {Kind: audience.ByPerson, Person: cy}},
		}},
	}
	p := plan.Make(r, juniors, settings)
	require.Len(t, p.Recipients, 1)
	assert.Equal(t, "Kim of Quillmere – Naya Osei", p.Deliveries[0].Body)
	require.Len(t, p.LeftOut, 1, "Cy has no dependents and the field has no other words")
	assert.Equal(t, "nothing to fill “dependents” with", p.Detail(r, p.LeftOut[0]))

	juniors.Email = rich.Lines("{{dependents, else Your crew}}")
	assert.Len(t, plan.Make(r, juniors, settings).Recipients, 2)
}

func TestDependentWithoutAddressIsToldWhenGuardiansAre(t *testing.T) {
	r := testRoster(t)
	d := message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
		Routing: message.Routing{
			Urgency:  roster.Routine,
			Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup, Group: 2}}, Receivers: audience.Both},
		},
	}
	p := plan.Make(r, d, settings)
	assert.Empty(t, reasons(p, r))
	assert.Equal(t, []plan.Told{{Person: kid - 1, Guardians: []int{bo - 1}}}, p.Told)
	assert.Equal(t, "Named, and told through Bo.", p.WhyNot(r, kid))
	d.Audience.Receivers = audience.Themselves
	assert.Equal(t, map[string]plan.Reason{"Kim": plan.NoAddress}, reasons(plan.Make(r, d, settings), r))
}

func TestSummary(t *testing.T) {
	r := testRoster(t)
	d := everybody(message.Draft{
		Content: message.Content{Subject: "Outing", Email: rich.Lines("Park on the east side – Naya")},
	})
	s := plan.Make(r, d, settings).Summarise(r)
	assert.Equal(t, 4, s.Recipients)
	assert.Equal(t, 3, s.Nobody)
	assert.Equal(t, []plan.StepCount{
		{Channels: []roster.Channel{roster.Email, roster.Push}, People: 2},
		{Channels: []roster.Channel{roster.Text}, People: 1}, {Channels: []roster.Channel{roster.Voice}, People: 1},
	}, s.Steps)
	assert.Equal(t, 1, s.Shared)
	assert.Equal(t, money.Amount(3800+6500), s.Cost)
	assert.Equal(t, plan.Meter{
		Alphabet: segment.UCS2, Least: 1, Most: 1, Total: 1, Room: 42,
		Forces: []segment.Forcing{{Character: "–", Times: 1, Replacement: "-"}},
	}, s.Meter)
	require.Len(t, s.Problems, 1)
	assert.Equal(t, plan.Unreached, s.Problems[0].Code, "Di and Fay")
	assert.Equal(t, []string{
		"4 people get this message: 2 by email, 1 by text, 1 by call.",
		"That is 3 emails, 1 text in 1 part, 1 call of about 2 seconds. 1 person shares an address with another and is told once, together.",
		"It leaves at once.",
		"It is expected to cost £0.10.",
		"2 people read another language and get the original, untranslated: Arabic 1, Polish 1.",
		"3 people get nothing: no way to reach them on file (1); every address has failed before (1); asked not to get such messages (1).",
	}, plan.Make(r, d, settings).Check(s, "at once"))
}

func TestMeterSaysWhatReplacementsSave(t *testing.T) {
	r := testRoster(t)
	long := "Sat outing moved: meet Harrow Lock 08:30, not the boathouse. Warm layer and drink. Park east side – Naya"
	s := plan.Make(r, everybody(message.Draft{
		Content: message.Content{Email: rich.Lines(long)},
	}), settings).Summarise(r)
	assert.Equal(t, 2, s.Meter.Most)
	assert.Equal(t, 1, s.Meter.Saves)
	assert.Equal(t, "Park - Naya", s.Meter.Swapped("Park – Naya"))
}

func TestProblems(t *testing.T) {
	r := testRoster(t)
	nobody := message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
		Routing: message.Routing{Urgency: roster.Routine},
	}
	emptied := everybody(nobody)
	emptied.Audience.Parts = append(emptied.Audience.Parts, audience.Part{
		Kind: audience.ByGroup, Group: 1, LeaveOut: true,
	})
	voiceOnly := message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
		Routing: message.Routing{
			Urgency: roster.Routine, Steps: precedence.Steps{{roster.Voice}},
			Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByPerson, Person: eve}}},
		},
	}
	for _, c := range []struct {
		name  string
		draft message.Draft
		want  plan.ProblemCode
		block bool
	}{
		{"no audience", nobody, plan.NoAudience, true},
		{"everybody left out again", emptied, plan.NobodyLeft, true},
		{"no content", everybody(message.Draft{
			Content: message.Content{Subject: "Only a subject"},
		}), plan.NothingToSay, true},
		{"an unknown field", everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("{{shoe size}}")},
		}), plan.UnknownField, true},
		{"content only for a channel that nobody has", voiceOnly, plan.NobodyReached, true},
		{"no subject", everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("Hello")},
		}), plan.NoSubject, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			problems := plan.Make(r, c.draft, settings).Summarise(r).Problems
			at := slices.IndexFunc(problems, func(p plan.Problem) bool { return p.Code == c.want })
			require.GreaterOrEqual(t, at, 0)
			assert.Equal(t, c.block, problems[at].Blocks)
			assert.True(t, !c.block || at == 0, "what blocks comes first")
		})
	}
}

func TestExplainAndWhyNot(t *testing.T) {
	r := testRoster(t)
	d := everybody(message.Draft{
		Content: message.Content{Email: rich.Lines("Hello")},
	})
	d.Audience.Parts = append(d.Audience.Parts, audience.Part{Kind: audience.ByPerson, Person: gus, LeaveOut: true})
	p := plan.Make(r, d, settings)
	at, ok := p.Find(r, cy)
	require.True(t, ok)
	assert.Equal(t, "Reached on step 3: no email on file, no text on file. In Everybody.", p.Explain(r, p.Recipients[at]))
	assert.Equal(t, "Left out by “Gus”.", p.WhyNot(r, gus))
	assert.Equal(t, "Named, but gets nothing: every address has failed before.", p.WhyNot(r, fay))
	assert.Equal(t, "No part of the audience names them.", p.WhyNot(r, kid))
}

// randomRoster draws people with any addresses, ties and groups.
func randomRoster(t *rapid.T) *roster.Roster {
	channels := rapid.SampledFrom(roster.Channels)
	health := rapid.SampledFrom([]roster.Health{roster.Untried, roster.Good, roster.Failing, roster.Dead})
	status := rapid.SampledFrom([]roster.Status{roster.Active, roster.Active, roster.Active, roster.Away})
	n := rapid.IntRange(0, 20).Draw(t, "people")
	people := make([]roster.Person, n)
	group := roster.Group{ID: 1, Name: "All"}
	var ties []roster.Tie
	for i := range people {
		p := roster.Person{
			ID: roster.PersonID(i + 1), GivenName: fmt.Sprint("P", i%5), Status: status.Draw(t, "status"), Language: "en",
		}
		p.Wish = rapid.SampledFrom([]roster.Channel{"", roster.Email, roster.Text, roster.Voice, roster.Push}).Draw(t, "wish")
		for range rapid.IntRange(0, 4).Draw(t, "addresses") {
			p.Addresses = append(p.Addresses, roster.Address{
				Channel: channels.Draw(t, "channel"), Value: fmt.Sprint("to", rapid.IntRange(0, 12).Draw(t, "value")),
				Health:          health.Draw(t, "health"),
				DeclinesRoutine: rapid.Bool().Draw(t, "declines"), CarrierStop: rapid.IntRange(0, 9).Draw(t, "stop") == 0,
			})
		}
		if i > 0 && rapid.Bool().Draw(t, "dependent") {
			p.Roles = []roster.Role{roster.Dependent}
			ties = append(ties, roster.Tie{
				Guardian: roster.PersonID(rapid.IntRange(1, i).Draw(t, "guardian")), Dependent: p.ID,
				Receives: true, Barred: rapid.IntRange(0, 5).Draw(t, "barred") == 0,
			})
		}
		people[i] = p
		group.Members = append(group.Members, p.ID)
	}
	r, err := roster.New(roster.Contents{People: people, Ties: ties, Groups: []roster.Group{group}})
	require.NoError(t, err)
	return r
}

// For any roster: the counts of the plan and of the record made from it add up.
func TestPlanAndRecordAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := randomRoster(t)
		d := everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("Dear {{first name}}, {{dependents, else you}}")},
		})
		d.Urgency = rapid.SampledFrom(roster.Urgencies).Draw(t, "urgency")
		d.FirstOnly = rapid.Bool().Draw(t, "first only")
		d.Audience.Receivers = rapid.SampledFrom(
			[]audience.Receivers{audience.Guardians, audience.Themselves, audience.Both},
		).Draw(t, "receivers")
		p := plan.Make(r, d, settings)
		s := p.Summarise(r)

		require.Equal(t, r.Len(), s.Recipients+s.Nobody+s.Told, "the group names everybody, and each is counted once")
		counted := map[int]bool{}
		for _, told := range p.Told {
			counted[told.Person] = true
		}
		for _, l := range p.LeftOut {
			require.False(t, counted[l.Person])
			counted[l.Person] = true
		}
		for _, rec := range p.Recipients {
			require.False(t, counted[rec.Person])
			counted[rec.Person] = true
		}
		require.Len(t, counted, r.Len())
		people, left := 0, 0
		for _, step := range s.Steps {
			people += step.People
		}
		for _, l := range s.LeftOut {
			left += l.People
		}
		require.Equal(t, s.Recipients, people)
		require.Equal(t, s.Nobody, left)

		deliveries, links, states := 0, 0, make([]delivery.State, len(p.Deliveries))
		for _, c := range s.Channels {
			deliveries += c.Deliveries
		}
		where := map[string]bool{}
		for i, one := range p.Deliveries {
			key := string(one.Channel) + one.Address + one.Body
			require.False(t, where[key], "the same content twice to one address")
			where[key] = true
			links += len(one.Recipients)
			states[i] = rapid.SampledFrom(delivery.States).Draw(t, "state")
		}
		require.Equal(t, len(p.Deliveries), deliveries)
		require.Equal(t, s.Deliveries, deliveries)
		require.Equal(t, s.Shared, links-deliveries)

		var f record.Figures
		for _, rec := range p.Recipients {
			require.NotEmpty(t, rec.Deliveries, "a recipient gets something")
			var own []delivery.State
			for _, i := range rec.Deliveries {
				own = append(own, states[i])
			}
			f.AddRecipients(record.Of(own), 1)
		}
		for i, state := range states {
			f.AddDelivery(state, p.Deliveries[i].Cost)
		}
		require.Equal(t, s.Recipients, f.Recipients)
		require.Equal(t, f.Recipients, f.Reached+f.Waiting+f.NotReached+f.Stopped)
		require.Equal(t, s.Deliveries, f.Deliveries)
	})
}

// No urgency reaches a barred guardian, a dead address or a stopped one,
// or a channel that nothing carries.
func TestNothingGoesWhereItMustNot(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := randomRoster(t)
		d := everybody(
			message.Draft{
				Content: message.Content{Email: rich.Lines("Now")},
				Routing: message.Routing{Urgency: rapid.SampledFrom(roster.Urgencies).Draw(t, "urgency")},
			},
		)
		some := settings
		if rapid.Bool().Draw(t, "off") {
			some.Off = []roster.Channel{rapid.SampledFrom(roster.Channels).Draw(t, "nothing carries")}
		}
		p := plan.Make(r, d, some)
		for _, rec := range p.Recipients {
			for _, about := range rec.About {
				for _, tie := range r.Guardians(about) {
					if tie.Guardian == r.At(rec.Person).ID {
						require.False(t, tie.Barred, "a barred tie received")
					}
				}
			}
			usable := map[string]bool{}
			for _, a := range r.At(rec.Person).Addresses {
				if a.Health != roster.Dead && !a.CarrierStop && !a.Declines(d.Urgency) && !slices.Contains(some.Off, a.Channel) {
					usable[string(a.Channel)+a.Value] = true
				}
			}
			for _, i := range rec.Deliveries {
				require.True(t, usable[string(p.Deliveries[i].Channel)+p.Deliveries[i].Address])
			}
		}
	})
}

func TestAWishGoesBeforeTheSteps(t *testing.T) {
	r := testRoster(t)
	r.At(0).Wish = roster.Text  // Ana, who has mailboxes too
	r.At(1).Wish = roster.Email // Bo, who has none
	for name, c := range map[string]struct {
		draft  message.Draft
		step   int
		wished int
		why    string
	}{
		"routine": {message.Draft{
			Content: message.Content{Email: rich.Lines("Now")},
		}, 2, 1, "They asked to be reached by text first."},
		"routine, wishes passed by": {message.Draft{
			Content: message.Content{Email: rich.Lines("Now")},
			Routing: message.Routing{Unwished: true},
		}, 1, 0, ""},
		"timely, text first anyway": {message.Draft{
			Content: message.Content{Email: rich.Lines("Now")},
			Routing: message.Routing{Urgency: roster.Timely},
		}, 1, 0, ""},
		"emergency": {message.Draft{
			Content: message.Content{Email: rich.Lines("Now")},
			Routing: message.Routing{Urgency: roster.Emergency},
		}, 1, 0, ""},
	} {
		t.Run(name, func(t *testing.T) {
			p := plan.Make(r, everybody(c.draft), settings)
			s := p.Summarise(r)
			assert.Equal(t, c.step, p.Recipients[0].Step)
			assert.Equal(t, c.wished, s.Wished)
			assert.Contains(t, p.Explain(r, p.Recipients[0]), c.why)
			said := strings.Join(p.Check(s, "now"), " ")
			assert.Equal(
				t, c.wished > 0, strings.Contains(said, "1 person gets it only by the channel they asked for first."), said,
			)
		})
	}
	assert.Equal(
		t, []string{"text +447700900001 ×1"},
		destinations(plan.Make(r, everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("Now")},
		}), settings))[:1],
	)
}

func ExampleMake() {
	people := []roster.Person{
		{ID: 1, GivenName: "Bo", Status: roster.Active, Addresses: []roster.Address{{Channel: roster.Text, Value: "+447700900002"}}},
	}
	r, err := roster.New(
		roster.Contents{People: people, Groups: []roster.Group{{ID: 1, Name: "Crew", Members: []roster.PersonID{1}}}},
	)
	if err != nil {
		panic(err)
	}
	draft := message.Draft{
		Content: message.Content{Email: rich.Lines("Dear {{first name}}, meet at the lock.")},
		Routing: message.Routing{
			Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup, Group: 1}}},
		},
	}
	p := plan.Make(r, draft, plan.Settings{Fixed: plan.Fixed{Language: "en"}})
	fmt.Println(p.Deliveries[0].Channel, p.Deliveries[0].Address, p.Deliveries[0].Body)
	// Output: text +447700900002 Dear Bo, meet at the lock.
}

// The first group in the one order decides under which name and number its
// people hear from us.
func TestIdentityComesFromTheFirstGroupInTheOrder(t *testing.T) {
	people := []roster.Person{}
	for id := range roster.PersonID(4) {
		people = append(people, roster.Person{ID: id + 1, GivenName: "P", Status: roster.Active, Addresses: []roster.Address{
			{Channel: roster.Email, Value: fmt.Sprintf("p%d@example.org", id+1)},
			{Channel: roster.Text, Value: fmt.Sprintf("+44770090000%d", id+1)},
			{Channel: roster.Voice, Value: fmt.Sprintf("+44770090000%d", id+1)},
		}})
	}
	people[3].Roles = []roster.Role{roster.Dependent}
	r, err := roster.New(roster.Contents{
		People: people, Ties: []roster.Tie{{Guardian: 3, Dependent: 4, Receives: true}},
		Groups: []roster.Group{
			{ID: 5, Name: "Not written to", Members: []roster.PersonID{1, 2, 3, 4}, Identity: roster.Identity{Name: "Nobody"}},
			{ID: 2, Name: "Watch", Members: []roster.PersonID{1}, Identity: roster.Identity{Name: "Flood Watch", Number: "+447700900110"}},
			{ID: 1, Name: "Everybody", Members: []roster.PersonID{2}, Inside: []roster.GroupID{2, 3}, Identity: roster.Identity{Name: "The Club"}},
			{ID: 3, Name: "Juniors", Members: []roster.PersonID{4}, Identity: roster.Identity{Name: "Juniors"}},
		},
	})
	require.NoError(t, err)
	d := message.Draft{
		Content: message.Content{Email: rich.Lines("Hi")},
		Routing: message.Routing{
			Urgency: roster.Emergency, Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup, Group: 1}}},
		},
	}
	settings := plan.Settings{
		Fixed: plan.Fixed{
			Language: "en", Identity: roster.Identity{Name: "Quillmere", Number: "+447700900100", Caller: "+447700900100"},
		},
		Conversation: func(number string) string { return map[string]string{"+447700900002": "+447700900199"}[number] },
	}
	p := plan.Make(r, d, settings)
	from := map[string]string{}
	for _, one := range p.Deliveries {
		from[string(one.Channel)+" "+one.Address] = one.Sender
	}
	assert.Equal(t, map[string]string{
		"email p1@example.org": "Flood Watch", "text +447700900001": "+447700900110", "voice +447700900001": "+447700900100",
		"email p2@example.org": "The Club", "text +447700900002": "+447700900199", "voice +447700900002": "+447700900100",
		"email p3@example.org": "The Club", "text +447700900003": "+447700900100", "voice +447700900003": "+447700900100",
	}, from, "the watch’s own number, a conversation that goes on, a guardian by their dependent’s groups")
}
