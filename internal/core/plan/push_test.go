package plan_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func device(name string, connected bool) roster.Address {
	return roster.Address{ID: 90, Channel: roster.Push, Value: name, Label: "phone", Connected: connected}
}

// crew are Ana with mail and a phone that is connected, Bo whose phone is not,
// and Cy who rides in the same van as Ana.
func crew(t *testing.T) *roster.Roster {
	people := []roster.Person{
		{ID: ana, GivenName: "Ana", Status: roster.Active, Addresses: append(addresses("ana@example.org"), device("Ana’s phone", true), device("van screen", true))},
		{ID: bo, GivenName: "Bo", Status: roster.Active, Addresses: append(addresses("+447700900002"), device("Bo’s phone", false))},
		{ID: cy, GivenName: "Cy", Status: roster.Active, Addresses: []roster.Address{device("van screen", true)}},
	}
	r, err := roster.New(
		roster.Contents{
			People: people, Groups: []roster.Group{{ID: 1, Name: "Crew", Members: []roster.PersonID{ana, bo, cy}}},
		},
	)
	require.NoError(t, err)
	return r
}

func pushes(p *plan.Plan) map[string]plan.Delivery {
	list := map[string]plan.Delivery{}
	for _, d := range p.Deliveries {
		if d.Channel == roster.Push {
			list[d.Address] = d
		}
	}
	return list
}

func TestPush(t *testing.T) {
	r := crew(t)
	p := plan.Make(r, everybody(message.Draft{
		Content: message.Content{Subject: "Low water", Email: rich.Lines("Bring the short oars.")},
	}), settings)
	s := p.Summarise(r)
	assert.Equal(t, []plan.StepCount{
		{Channels: []roster.Channel{roster.Email, roster.Push}, People: 2},
		{Channels: []roster.Channel{roster.Text}, People: 1}, {Channels: []roster.Channel{roster.Voice}},
	}, s.Steps, "a device that is not connected reaches nobody")
	assert.Equal(
		t, "That is 1 email, 1 text in 1 part, 2 pushes. 1 person shares an address with another and is told once, together.",
		p.Check(s, "now")[1],
	)
	sent := pushes(p)
	require.Len(t, sent, 2)
	assert.Equal(t, "Low water", sent["Ana’s phone"].Subject)
	assert.Equal(t, "Bring the short oars.", sent["Ana’s phone"].Body)
	assert.Len(t, sent["van screen"].Recipients, 2, "one screen is shown it once")
	at, _ := p.Find(r, bo)
	assert.Equal(t, "Reached on step 2: no email on file, no device connected. In Crew.", p.Explain(r, p.Recipients[at]))
}

func TestPushContent(t *testing.T) {
	long := strings.Repeat("The water rises. ", 400)
	own := message.Push{Own: true, Title: "{{first name}}: go", Body: "Now."}
	for _, c := range []struct {
		name        string
		draft       message.Draft
		title, body string
		problem     plan.ProblemCode
	}{
		{"the title is the organisation's name without a subject", message.Draft{
			Content: message.Content{Email: rich.Lines("Go.")},
		}, "Quillmere", "Go.", ""},
		{"words of its own", message.Draft{
			Content: message.Content{Email: rich.Lines("Go."), Push: own},
		}, "Ana: go", "Now.", ""},
		{"own words alone are something to say", message.Draft{
			Content: message.Content{Push: own},
		}, "Ana: go", "Now.", ""},
		{"a long text is shortened", message.Draft{
			Content: message.Content{Subject: "S", Email: rich.Lines(long)},
		}, "S", "", ""},
		{"words of its own are not", message.Draft{
			Content: message.Content{Push: message.Push{Own: true, Body: long}},
		}, "Quillmere", strings.TrimSpace(long), plan.PushTooLarge},
		{"an unknown field", message.Draft{
			Content: message.Content{Push: message.Push{Own: true, Body: "{{shoe}}"}},
		}, "", "", plan.UnknownField},
		{"a link that is none", message.Draft{
			Content: message.Content{Email: rich.Lines("Go."), Push: message.Push{Link: "www.example.org"}},
		}, "Quillmere", "Go.", plan.NoLink},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := crew(t)
			p := plan.Make(r, everybody(c.draft), settings)
			blocked, is := p.Summarise(r).Blocked()
			assert.Equal(t, c.problem != "", is)
			assert.Equal(t, c.problem, blocked.Code)
			d, sent := pushes(p)["Ana’s phone"]
			assert.Equal(t, c.title != "", sent)
			assert.Equal(t, c.title, d.Subject)
			if c.body == "" && sent {
				assert.LessOrEqual(t, d.Bytes, push.Most)
				assert.True(
					t,
					strings.HasSuffix(d.Body, "rises.…") || strings.HasSuffix(d.Body, "The…") || strings.HasSuffix(d.Body, "water…"),
					d.Body[len(d.Body)-20:],
				)
				return
			}
			assert.Equal(t, c.body, d.Body)
		})
	}
}

func TestPushLinkIsFilled(t *testing.T) {
	r := crew(t)
	d := everybody(
		message.Draft{
			Content: message.Content{
				Email: rich.Lines("Go."), Push: message.Push{Link: "https://quillmere.example/{{first name}}/rota?by={{sender}}"},
			},
		},
	)
	d.Steps = precedence.Steps{{roster.Push}}
	s := settings
	s.Sender = "Naya Osei & crew"
	p := plan.Make(r, d, s)
	assert.Equal(t, "https://quillmere.example/Ana/rota?by=Naya%20Osei%20%26%20crew", pushes(p)["Ana’s phone"].Link)
	assert.Len(t, p.Deliveries, 3, "one screen opens another page for each of two people")
}

func TestPushOfAnExerciseAndATrial(t *testing.T) {
	r := crew(t)
	d := everybody(
		message.Draft{
			Content: message.Content{Subject: "Leave", Email: rich.Lines("Leave now.")},
			Routing: message.Routing{Urgency: roster.Emergency, Reason: "Test", Practice: true},
		},
	)
	s := settings
	s.Sending.Testers = []roster.PersonID{ana}
	p := plan.Make(r, d, s)
	assert.Equal(t, "EXERCISE: Leave", pushes(p)["Ana’s phone"].Subject)

	d = everybody(message.Draft{
		Content: message.Content{Subject: "Outing", Email: rich.Lines("Hello {{first name}}")},
	})
	p = plan.Make(r, d, settings)
	trial, missing := p.Trial(0, []roster.Address{device("Naya’s phone", true)}, "")
	require.Empty(t, missing)
	require.Len(t, trial, 1)
	assert.Equal(t, "TRIAL: Outing", trial[0].Subject)
	assert.Equal(t, "Hello Ana", trial[0].Body)
	assert.Positive(t, trial[0].Bytes)
}

func TestPushIsQuiet(t *testing.T) {
	for _, c := range []struct {
		name    string
		urgency roster.Urgency
		sound   message.PushSound
		quiet   bool
	}{
		{"routine", roster.Routine, "", true},
		{"routine that interrupts", roster.Routine, message.Interrupts, false},
		{"timely", roster.Timely, "", false},
		{"timely and quiet", roster.Timely, message.Quiet, true},
		{"emergency", roster.Emergency, "", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, c.quiet, message.Draft{
				Content: message.Content{Push: message.Push{Sound: c.sound}},
				Routing: message.Routing{Urgency: c.urgency},
			}.PushIsQuiet())
		})
	}
}
