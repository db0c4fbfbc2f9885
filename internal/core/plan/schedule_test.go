package plan_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
)

// timed are settings for a Wednesday at noon, with quiet nights for texts and calls.
func timed() plan.Settings {
	s := settings
	s.Leaves = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	s.Zone = func(name string) *time.Location {
		loc, err := time.LoadLocation(name)
		if name == "" || err != nil {
			return time.UTC
		}
		return loc
	}
	night := timing.Quiet{From: 21 * 60, To: 7 * 60}
	s.Sending.Quiet = map[roster.Channel]timing.Quiet{roster.Text: night, roster.Voice: night}
	return s
}

func leaves(p *plan.Plan) map[string]string {
	at := map[string]string{}
	for _, d := range p.Deliveries {
		at[d.Address] = d.At.UTC().Format("02 15:04")
	}
	return at
}

func TestWhenItLeaves(t *testing.T) {
	evening := time.Date(2026, 11, 25, 22, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name  string
		draft message.Draft
		want  map[string]string // by address
	}{
		{"now", message.Draft{}, map[string]string{"ana@example.org": "25 12:00", "+447700900002": "25 12:00", "+447700900003": "25 12:00"}},
		{"in quiet hours", message.Draft{
			Routing: message.Routing{SendAt: &evening},
		}, map[string]string{"ana@example.org": "25 22:00", "+447700900002": "26 07:00", "+447700900003": "26 07:00"}},
		{"texts at their own time", message.Draft{
			Routing: message.Routing{Times: map[roster.Channel]time.Time{roster.Text: evening.Add(-3 * time.Hour)}},
		},
			map[string]string{"ana@example.org": "25 12:00", "+447700900002": "25 19:00", "+447700900003": "25 12:00"}},
		{"a time that is past", message.Draft{
			Routing: message.Routing{SendAt: &time.Time{}},
		}, map[string]string{"ana@example.org": "25 12:00", "+447700900002": "25 12:00"}},
		{"an emergency", message.Draft{
			Routing: message.Routing{Urgency: roster.Emergency, SendAt: &evening},
		}, map[string]string{"+447700900002": "25 22:00", "+447700900003": "25 22:00"}},
		{"spread over half an hour", message.Draft{
			Routing: message.Routing{Spread: 30},
		}, map[string]string{"ana@example.org": "25 12:00", "ana2@example.org": "25 12:10", "ana3@example.org": "25 12:20", "+447700900002": "25 12:00"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.draft.Email = rich.Lines("Come")
			got := leaves(plan.Make(testRoster(t), everybody(c.draft), timed()))
			for to, at := range c.want {
				assert.Equal(t, at, got[to], to)
			}
		})
	}
}

func TestQuietHoursAreThoseOfTheRecipient(t *testing.T) {
	r := testRoster(t)
	r.At(bo - 1).TimeZone = "Asia/Tokyo" // 21:00 there
	p := plan.Make(r, everybody(message.Draft{
		Content: message.Content{Email: rich.Lines("Come")},
	}), timed())
	assert.Equal(t, "25 22:00", leaves(p)["+447700900002"])
	s := p.Summarise(r)
	assert.Equal(
		t, []plan.Wait{{Channel: roster.Text, Until: time.Date(2026, 11, 25, 22, 0, 0, 0, time.UTC), Deliveries: 1}},
		utc(s.Waits),
	)
	assert.Contains(
		t, strings.Join(p.Check(s, "now"), " "), "1 text waits for quiet hours to end, until Wednesday 25 November at 22:00.",
	)
}

func utc(waits []plan.Wait) []plan.Wait {
	for i := range waits {
		waits[i].Until = waits[i].Until.UTC()
	}
	return waits
}

func TestAnEmergencyCountsWhatItOverrides(t *testing.T) {
	at := time.Date(2026, 11, 25, 23, 0, 0, 0, time.UTC)
	r := testRoster(t)
	p := plan.Make(
		r, everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("Leave now")},
			Routing: message.Routing{Urgency: roster.Emergency, Reason: "Flood", SendAt: &at},
		}),
		timed(),
	)
	s := p.Summarise(r)
	assert.Equal(t, 5, p.Unquiet, "Ana's, Bo's and Cy's texts and calls")
	assert.True(t, s.Confirm)
	assert.Contains(t, strings.Join(p.Check(s, "now"), " "), "As an emergency 5 deliveries leave in quiet hours.")
}

func TestAnExerciseGoesToTestersOnly(t *testing.T) {
	r := testRoster(t)
	d := everybody(message.Draft{
		Content: message.Content{Subject: "Leave", Email: rich.Doc{Content: []rich.Node{
			{Type: rich.Heading, Attrs: &rich.Attrs{Level: 2}, Content: []rich.Node{{Type: rich.Text, Text: "Leave now"}}},
		}}},
		Routing: message.Routing{Urgency: roster.Emergency, Reason: "Drill", Practice: true},
	})
	s := timed()
	nobody := plan.Make(r, d, s).Summarise(r)
	problem, _ := nobody.Blocked()
	assert.Equal(t, plan.NoTesters, problem.Code)

	s.Sending.Testers = []roster.PersonID{eve}
	p := plan.Make(r, d, s)
	require.Len(t, p.Deliveries, 1)
	one := p.Deliveries[0]
	assert.Equal(t, "eve@example.org", one.Address)
	assert.Equal(t, "EXERCISE: Leave", one.Subject)
	assert.Equal(t, "EXERCISE: Leave now", one.Body)
	assert.Contains(t, p.HTML(one, func(string) string { return "" }), "<strong>EXERCISE: </strong>")
	assert.Contains(t, p.Check(p.Summarise(r), "now")[0], "This is an exercise")

	d.Urgency = roster.Timely
	assert.Greater(t, len(plan.Make(r, d, s).Recipients), 1, "only emergencies are exercised")
}

func TestMarksSpeakTheLanguageOfTheMessage(t *testing.T) {
	r, s := testRoster(t), settings
	s.Sending.Testers, s.Language = []roster.PersonID{eve}, "pl"
	draft := message.Draft{
		Content: message.Content{Subject: "Alarm", Email: rich.Lines("Wyjdź")},
		Routing: message.Routing{Urgency: roster.Emergency, Reason: "R", Practice: true},
	}
	p := plan.Make(r, draft, s)
	require.NotEmpty(t, p.Deliveries)
	assert.Contains(t, p.Deliveries[0].Body, "ĆWICZENIA: Wyjdź")
	tried, _ := p.Trial(0, []roster.Address{{Channel: roster.Text, Value: "+447700900001", Health: roster.Good}}, "")
	require.Len(t, tried, 1)
	assert.Equal(t, "PRÓBA: Wyjdź", tried[0].Body)
}

func TestWarnings(t *testing.T) {
	twice, night := time.Date(2027, 10, 31, 0, 30, 0, 0, time.UTC), time.Date(2026, 11, 26, 3, 0, 0, 0, time.UTC)
	over, morning := time.Date(2026, 11, 25, 11, 0, 0, 0, time.UTC), time.Date(2026, 11, 26, 5, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name  string
		draft message.Draft
		set   func(*plan.Settings)
		code  plan.ProblemCode
		of    plan.Params
	}{
		{"files missing", message.Draft{
			Content: message.Content{Email: rich.Lines("Please see the attached form")},
		}, nil, plan.NoFiles, plan.Params{"said": "attached"}},
		{"files that some do not get", message.Draft{
			Content: message.Content{Files: []attachment.File{{Name: "map.pdf"}}},
		}, nil, plan.FilesUnseen, plan.Params{"people": 2, "files": 1}},
		{"a wrong weekday", message.Draft{
			Content: message.Content{Subject: "Friday 26 November"},
		}, nil, plan.WrongWeekday, plan.Params{"said": "Friday 26 November", "weekday": time.Thursday}},
		{"a day that is past", message.Draft{
			Content: message.Content{Email: rich.Lines("on 20 November 2026")},
		}, nil, plan.PastDate, plan.Params{"said": "20 November 2026"}},
		{"a day that is past when it leaves", message.Draft{
			Content: message.Content{Email: rich.Lines("on 27 November 2026")},
			Routing: message.Routing{SendAt: &twice},
		}, nil, plan.PastDate, plan.Params{"said": "27 November 2026"}},
		{"an empty field", message.Draft{
			Content: message.Content{Email: rich.Lines("about {{dependents}}")},
		}, nil, plan.EmptyField, plan.Params{"people": 4}},
		{"over the budget", message.Draft{}, func(s *plan.Settings) { s.Budget, s.Spent = 3*money.Minor, 2*money.Minor }, plan.OverBudget, plan.Params{"spent": money.Amount(12_300), "budget": 3 * money.Minor, "currency": "GBP"}},
		{"people whom nothing reaches", message.Draft{}, nil, plan.Unreached, plan.Params{"people": 2}},
		{"another message", message.Draft{}, func(s *plan.Settings) {
			s.Near = []plan.Near{{Title: "Rota", At: s.Leaves.Add(time.Hour), To: map[roster.PersonID]bool{ana: true, di: true}}}
		}, plan.Clash, plan.Params{"title": "Rota", "people": 1, "at": time.Date(2026, 11, 25, 13, 0, 0, 0, time.UTC)}},
		{"clocks that are put back", message.Draft{
			Routing: message.Routing{SendAt: &twice},
		}, func(s *plan.Settings) { s.Zone = func(string) *time.Location { return london(t) } }, plan.TwiceTime, plan.Params{"at": twice.In(london(t))}},
		{"at night", message.Draft{
			Routing: message.Routing{SendAt: &night},
		}, func(s *plan.Settings) { s.Sending.Quiet = nil }, plan.AtNight, plan.Params{"at": night}},
		{"a time that is past", message.Draft{
			Routing: message.Routing{SendAt: &time.Time{}},
		}, nil, plan.PastTime, plan.Params{"at": time.Time{}}},
		{"over before anything may leave", message.Draft{
			Routing: message.Routing{Until: &over},
		}, nil, plan.NeverLeaves, plan.Params{"at": over}},
		{"over before quiet hours end", message.Draft{
			Routing: message.Routing{SendAt: &night, Until: &morning},
		}, nil, plan.SomeExpire, plan.Params{"deliveries": 2, "at": morning}},
		{"a holiday", message.Draft{}, func(s *plan.Settings) { s.Holiday = func(time.Time) string { return "Lantern Day" } }, plan.PublicHoliday, plan.Params{"name": "Lantern Day"}},
		{"a big audience", message.Draft{}, func(s *plan.Settings) { s.Sending.BigFrom = 4 }, plan.BigAudience, plan.Params{"people": 4}},
		{"an emergency without a reason", message.Draft{
			Routing: message.Routing{Urgency: roster.Emergency},
		}, nil, plan.NoReason, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			if c.draft.Email.Empty() {
				c.draft.Email = rich.Lines("Come")
			}
			s := timed()
			if c.set != nil {
				c.set(&s)
			}
			r := testRoster(t)
			var found []plan.Params
			for _, p := range plan.Make(r, everybody(c.draft), s).Summarise(r).Problems {
				assert.NotEmpty(t, p.Mend)
				if p.Code == c.code {
					found = append(found, p.Params)
				}
			}
			assert.Contains(t, found, c.of)
		})
	}
}

func london(t testing.TB) *time.Location {
	loc, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	return loc
}

// Whatever times are chosen, nothing leaves before the hold is over, and what
// is not an emergency leaves no text in quiet hours.
func TestScheduleProperties(t *testing.T) {
	r := testRoster(t)
	rapid.Check(t, func(t *rapid.T) {
		s := timed()
		at := s.Leaves.Add(time.Duration(rapid.IntRange(-100, 5000).Draw(t, "minutes")) * time.Minute)
		d := everybody(message.Draft{
			Content: message.Content{Email: rich.Lines("Come")},
			Routing: message.Routing{
				SendAt: &at, Spread: rapid.IntRange(0, 600).Draw(t, "spread"),
				Urgency: rapid.SampledFrom(roster.Urgencies).Draw(t, "urgency"),
			},
		})
		for _, one := range plan.Make(r, d, s).Deliveries {
			require.False(t, one.At.Before(s.Leaves))
			require.False(t, one.At.Before(at))
			quiet := s.Sending.Quiet[one.Channel].Holds(timing.Clock(one.At.Hour()*60 + one.At.Minute()))
			require.False(t, quiet && d.Urgency != roster.Emergency && one.Channel != roster.Email)
		}
	})
}

func TestMomentNamesAnotherYear(t *testing.T) {
	assert.Equal(t, "Friday 25 December at 09:00", settings.Moment(time.Date(2026, 12, 25, 9, 0, 0, 0, time.UTC)))
	assert.Equal(t, "Sunday 28 March 2027 at 02:30", settings.Moment(time.Date(2027, 3, 28, 2, 30, 0, 0, time.UTC)))
}

func TestChannelsOfAStepAreAListInWords(t *testing.T) {
	r := crew(t)
	p := plan.Make(
		r, everybody(message.Draft{
			Content: message.Content{Subject: "Go", Email: rich.Lines("Go.")},
			Routing: message.Routing{Urgency: roster.Emergency, Reason: "Flood"},
		}),
		settings,
	)
	assert.Equal(t, "3 people get this message: 3 by email, text, call and push.", p.Check(p.Summarise(r), "now")[0])
}
