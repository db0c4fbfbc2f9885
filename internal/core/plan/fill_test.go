package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// fieldRoster has a guardian of two juniors, one of whom is due a swim test.
func fieldRoster(t testing.TB) *roster.Roster {
	due := func(v string) []roster.Value { return []roster.Value{{Attribute: 1, Value: v}} }
	people := []roster.Person{
		{ID: 1, GivenName: "Ana", FamilyName: "Ruiz", KnownAs: "Anita", Unit: 2, Addresses: addresses("ana@example.org")},
		{ID: 2, GivenName: "Kim", Roles: []roster.Role{roster.Dependent}, Values: due("due")},
		{ID: 3, GivenName: "Lee", Roles: []roster.Role{roster.Dependent}, Values: due("passed")},
		{ID: 4, GivenName: "Max", Addresses: addresses("max@example.org"), Values: due("own")},
	}
	for i := range people {
		people[i].Status = roster.Active
	}
	r, err := roster.New(roster.Contents{
		People: people,
		Attributes: []roster.Attribute{
			{ID: 1, Name: "Swim  Test", Kind: roster.TextAttribute}, {ID: 2, Name: "R&D <x>", Kind: roster.TextAttribute},
		},
		Units: []roster.Unit{
			{ID: 1, Name: "Rowing", Signature: roster.Signature{Prefix: "[Rowing]", Footer: "Rowing desk"}},
			{ID: 2, Name: "Juniors", Parent: 1, Signature: roster.Signature{Prefix: "[Juniors]"}},
		},
		Ties: []roster.Tie{{Guardian: 1, Dependent: 2, Receives: true}, {Guardian: 1, Dependent: 3, Receives: true}},
		Groups: []roster.Group{
			{ID: 1, Name: "U12", Members: []roster.PersonID{2, 3, 4}, Identity: roster.Identity{Name: "Juniors", Number: "+447700900150"}},
		},
	})
	require.NoError(t, err)
	return r
}

func TestFieldsAreFilledPerRecipient(t *testing.T) {
	for _, c := range []struct{ name, text, ana, max string }{
		{"names", "{{first name}} {{last name}} ({{full name}})", "Anita Ruiz (Ana Ruiz)", ""},
		{"dependents become a list", "{{dependents, else you}}", "Kim and Lee", "you"},
		{"an attribute of the dependents", "{{swim test}}", "due (Kim) and passed (Lee)", "own"},
		{"an attribute however it is written", "{{ SWIM   test }}", "due (Kim) and passed (Lee)", "own"},
		{"the unit, or the organisation", "{{unit}}", "Juniors", "Quillmere"},
		{"the group it comes by", "{{group}}", "U12", "U12"},
		{"sender and organisation", "{{sender}}, {{organisation}}", "Naya Osei, Quillmere", "Naya Osei, Quillmere"},
		{"other words", "{{r&d <x>, else none & nothing}}", "none & nothing", "none & nothing"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := message.Draft{
				Content: message.Content{Email: rich.Doc{
					Content: []rich.Node{
						{Type: rich.Paragraph, Content: []rich.Node{
							{Type: rich.Text, Text: c.text, Marks: []rich.Mark{{Type: rich.Bold}}},
						}},
					},
				}},
				Routing: message.Routing{
					Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup, Group: 1}}},
				},
			}
			p := plan.Make(fieldRoster(t), d, settings)
			bodies := map[string]string{}
			for _, d := range p.Deliveries {
				bodies[d.Address] = d.Body
				assert.NotContains(t, p.HTML(d, nil), "{{")
				if c.text == "{{r&d <x>, else none & nothing}}" {
					assert.Contains(t, p.HTML(d, nil), "<strong>none &amp; nothing</strong>")
				}
			}
			assert.Equal(t, c.ana, bodies["ana@example.org"])
			assert.Equal(t, c.max, bodies["max@example.org"], "somebody whom nothing fills a field for gets nothing")
		})
	}
	assert.Equal(t, append(append([]field.Name{}, field.Names...), "swim test", "r&d <x>"), plan.Fields(fieldRoster(t)))
}

func TestSignatures(t *testing.T) {
	r := fieldRoster(t)
	whole := roster.Signature{Prefix: "[All]", Footer: "The office"}
	for unit, want := range map[roster.UnitID]roster.Signature{
		0: whole, 1: {Prefix: "[Rowing]", Footer: "Rowing desk"}, 2: {Prefix: "[Juniors]", Footer: "Rowing desk"}, 9: whole,
	} {
		assert.Equal(t, want, r.SignatureOf(unit, whole), unit)
	}
	s := settings
	s.Signature = roster.Signature{Prefix: "[Juniors]", Footer: "{{sender}}\n<The boathouse>"}
	for subject, want := range map[string]string{
		"Outing": "[Juniors] Outing", "": "[Juniors]", "[Juniors] Re: Outing": "[Juniors] Re: Outing",
	} {
		d := everybody(
			message.Draft{
				Content: message.Content{Subject: subject, Email: rich.Doc{
					Content: []rich.Node{
						{Type: rich.Heading, Attrs: &rich.Attrs{Level: 2}, Content: []rich.Node{{Type: rich.Text, Text: "Come"}}},
					},
				}},
			},
		)
		p := plan.Make(testRoster(t), d, s)
		mail := p.Deliveries[0]
		assert.Equal(t, want, mail.Subject)
		assert.Equal(t, "Come\n\nNaya Osei\n<The boathouse>", mail.Body)
		assert.Contains(t, p.HTML(mail, nil), "Naya Osei")
		assert.Contains(t, p.HTML(mail, nil), "&lt;The boathouse&gt;")
	}
	texts := 0
	for _, d := range plan.Make(testRoster(t), everybody(message.Draft{
		Content: message.Content{Email: rich.Lines("Come")},
	}), s).Deliveries {
		if d.Channel == roster.Text {
			texts++
			assert.Equal(t, "Come", d.Body, "a text is not signed")
		}
	}
	assert.Positive(t, texts)
}

func TestTheSenderMayChooseAmongWhatTheyUse(t *testing.T) {
	r := fieldRoster(t)
	s := settings
	s.Identity = roster.Identity{Name: "Quillmere", Number: "+447700900100", Caller: "+447700900101"}
	s.Own = "naya@example.org"
	names, numbers := plan.Identities(r, s)
	assert.Equal(t, []string{"Quillmere", "Naya Osei", "Juniors"}, names)
	assert.Equal(t, []string{"+447700900100", "+447700900101", "+447700900150"}, numbers)
	for _, c := range []struct {
		name  string
		draft message.Draft
		from  string
		fine  bool
	}{
		{"by the rule of the group", message.Draft{}, "Juniors", true},
		{"their own name", message.Draft{
			Routing: message.Routing{From: roster.Identity{Name: "Naya Osei"}},
		}, "Naya Osei", true},
		{"replies to themselves", message.Draft{
			Routing: message.Routing{ReplyTo: "naya@example.org"},
		}, "Juniors", true},
		{"somebody else's name", message.Draft{
			Routing: message.Routing{From: roster.Identity{Name: "The Mayor"}},
		}, "The Mayor", false},
		{"a number of nobody", message.Draft{
			Routing: message.Routing{From: roster.Identity{Caller: "+447700900999"}},
		}, "Juniors", false},
		{"replies to somebody else", message.Draft{
			Routing: message.Routing{ReplyTo: "mayor@example.org"},
		}, "Juniors", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.draft.Urgency, c.draft.Email = roster.Routine, rich.Lines("Come")
			c.draft.Audience.Parts = []audience.Part{{Kind: audience.ByGroup, Group: 1}}
			p := plan.Make(r, c.draft, s)
			assert.Equal(t, c.from, p.Deliveries[0].Sender)
			problem, blocked := p.Summarise(r).Blocked()
			assert.Equal(t, !c.fine, blocked)
			if blocked {
				assert.Equal(t, plan.NotYours, problem.Code)
			}
		})
	}
}

func TestACallSaysWhatItIsGiven(t *testing.T) {
	for _, c := range []struct {
		name    string
		voice   message.Voice
		body    string
		seconds int
	}{
		{"the text", message.Voice{}, "Come to the lock", 1},
		{"its own words", message.Voice{Own: true, Text: "Hello {{first name}}"}, "Hello Cy", 1},
		{"a recording", message.Voice{Recording: &attachment.File{Type: "audio/wav"}, Seconds: 61}, "", 61},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := plan.Make(
				testRoster(t), everybody(message.Draft{
					Content: message.Content{Email: rich.Lines("Come to the lock"), Voice: c.voice},
				}), settings,
			)
			for _, d := range p.Deliveries {
				if d.Channel == roster.Voice {
					assert.Equal(t, c.body, d.Body)
					assert.Equal(t, c.seconds, d.Seconds)
				}
			}
		})
	}
}

func TestAWeeklyLimit(t *testing.T) {
	r := testRoster(t)
	s := settings
	s.Sending.LoadLimit = 3
	s.Load = func(id roster.PersonID) plan.Load {
		return map[roster.PersonID]plan.Load{ana: {Routine: 2, Timely: 1, Emergency: 9}, bo: {Routine: 2, Emergency: 9}}[id]
	}
	for _, c := range []struct {
		name    string
		urgency roster.Urgency
		spare   bool
		over    int
		told    int
	}{
		{"counted", roster.Routine, false, 1, 4},
		{"spared", roster.Routine, true, 0, 3},
		{"a timely message spares nobody", roster.Timely, true, 1, 5},
		{"nobody chooses emergencies", roster.Emergency, true, 0, 5},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := plan.Make(
				r, everybody(message.Draft{
					Content: message.Content{Email: rich.Lines("Come")},
					Routing: message.Routing{Urgency: c.urgency, Spare: c.spare, Reason: "Flood"},
				}), s,
			)
			sum := p.Summarise(r)
			assert.Equal(t, c.over, sum.Load.Over)
			assert.Equal(t, c.told, sum.Recipients)
			if c.spare && c.urgency == roster.Routine {
				assert.Contains(t, sum.LeftOut, plan.ReasonCount{Reason: plan.Enough, People: 1})
			}
		})
	}
}
