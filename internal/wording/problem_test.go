package wording_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/wording"
)

var settings = plan.Settings{
	Fixed: plan.Fixed{Currency: "GBP"}, Leaves: time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC),
	Zone: func(string) *time.Location { return time.UTC },
}

func TestProblem(t *testing.T) {
	at := time.Date(2026, 11, 26, 3, 30, 0, 0, time.UTC)
	for _, c := range []struct {
		code plan.ProblemCode
		of   plan.Params
		says string
	}{
		{plan.NoAudience, nil, "Nobody is chosen yet. Add a group, a role or a person."},
		{plan.UnknownField, plan.Params{"name": "shoe", "known": "first name, unit"}, "There is no field “shoe”. Fields are: first name, unit."},
		{plan.TooLarge, plan.Params{"bytes": 60_100_000, "most": 20_000_000}, "The files have 60.1 MB together, and mailboxes here take at most 20.0 MB; send a link to the largest instead."},
		{plan.TooManyFiles, plan.Params{"files": 21, "most": 20}, "There are 21 files, and no more than 20 can go with a message."},
		{plan.PushTooLarge, plan.Params{"bytes": 4123, "people": 1, "most": 3000}, "The push has 4,123 bytes for 1 person, and a device takes 3,000. Shorten it."},
		{plan.WrongWeekday, plan.Params{"said": "Fri 26 Nov", "weekday": time.Thursday}, "“Fri 26 Nov” is a Thursday."},
		{plan.OverBudget, plan.Params{"spent": 12 * money.Minor, "budget": 3 * money.Minor}, "It takes this month to £0.12 of a budget of £0.03."},
		{plan.Clash, plan.Params{"title": "Rota", "people": 1200, "at": at}, "“Rota” goes to 1,200 of these people too, on Thursday 26 November at 03:30."},
		{plan.Clash, plan.Params{"title": "", "people": 1, "at": at}, "A message of another unit goes to 1 of these people too, on Thursday 26 November at 03:30."},
		{plan.TwiceTime, plan.Params{"at": at}, "Clocks are put back that night: 03:30 comes twice, and one of them is meant (UTC)."},
		{plan.EmptyField, plan.Params{"people": 1}, "1 person gets nothing because a field has nothing to fill it. " + plan.FieldEmpty.WayOut()},
		{plan.FilesUnseen, plan.Params{"people": 2, "files": 3}, "2 people get it without the files, because not by email."},
		{plan.OverLimit, plan.Params{"people": 1, "limit": 4}, "1 person goes over the limit of 4 messages in 7 days."},
		{plan.MissingPart, plan.Params{"part": 2}, "Part 2 of the audience is no longer on the roster."},
		{"something new", nil, "Something is wrong: something new."},
	} {
		t.Run(string(c.code), func(t *testing.T) {
			assert.Equal(t, c.says, wording.Problem(plan.Problem{Code: c.code, Params: c.of}, settings))
		})
	}
}

func TestEveryProblemHasWords(t *testing.T) {
	for _, code := range plan.ProblemCodes {
		says := wording.Problem(plan.Problem{Code: code}, settings)
		assert.NotContains(t, says, "Something is wrong", code)
		assert.NotContains(t, says, "%!", "as many blanks as there are things to speak of: %s", code)
	}
}
