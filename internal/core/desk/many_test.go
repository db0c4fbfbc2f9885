package desk_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
)

// Whom a word to everybody in a thread is for.
func TestWhomAThreadIsWith(t *testing.T) {
	flood := desk.Desk{ID: 3, Units: []roster.UnitID{4}, Groups: []roster.GroupID{3}}
	r, err := roster.New(roster.Contents{People: []roster.Person{{ID: 7, GivenName: "Ada"}, {ID: 9, GivenName: "Bo"}}})
	assert.NoError(t, err)
	people := func(ids ...roster.PersonID) audience.Part { return audience.Part{Kind: audience.ByPeople, People: ids} }
	left := people(9)
	left.LeaveOut = true
	for name, c := range map[string]struct {
		with      desk.Round
		desk      desk.Desk
		parts     []audience.Part
		receivers audience.Receivers
	}{
		"chosen people": {desk.Round{With: desk.Chosen, People: []roster.PersonID{7}}, flood, []audience.Part{people(7)}, audience.Themselves},
		"a group":       {desk.Round{With: desk.OfGroup, Group: 2}, flood, []audience.Part{{Kind: audience.ByGroup, Group: 2}}, audience.Guardians},
		"a job":         {desk.Round{With: desk.OfJob, Group: 2}, flood, []audience.Part{{Kind: audience.ByGroup, Group: 2}}, audience.Themselves},
		"an area":       {desk.Round{With: desk.Area, Unit: 4}, flood, []audience.Part{{Kind: audience.ByUnit, Unit: 4}}, audience.Guardians},
		"everybody whom the desk reaches": {
			desk.Round{With: desk.Everybody}, flood,
			[]audience.Part{{Kind: audience.ByUnit, Unit: 4}, {Kind: audience.ByGroup, Group: 3}}, audience.Guardians,
		},
		"everybody, of a desk for all others": {
			desk.Round{With: desk.Everybody}, desk.Desk{}, []audience.Part{people(7, 9)}, audience.Guardians,
		},
		"without who left it": {
			desk.Round{With: desk.OfGroup, Group: 2, Gone: []roster.PersonID{9}}, flood,
			[]audience.Part{{Kind: audience.ByGroup, Group: 2}, left}, audience.Guardians,
		},
		"a group that is gone": {desk.Round{With: desk.OfGroup, Gone: []roster.PersonID{9}}, flood, []audience.Part{}, audience.Guardians},
		"nobody chosen":        {desk.Round{With: desk.Chosen}, flood, []audience.Part{}, audience.Themselves},
	} {
		t.Run(name, func(t *testing.T) {
			a := c.with.Audience(c.desk, r)
			assert.Equal(t, c.parts, a.Parts)
			assert.Equal(t, c.receivers, a.Receivers)
		})
	}
}

func TestHowAThreadIsCalled(t *testing.T) {
	for want, names := range map[string][]string{
		"Nobody yet": nil, "Ada": {"Ada"}, "Ada and Bo": {"Ada", "Bo"}, "Ada, Bo and 2 more": {"Ada", "Bo", "Cy", "Di"},
	} {
		assert.Equal(t, want, desk.Called(names))
	}
}

// What somebody writes is passed on to the others who were told, if the writer was, and
// only so often.
func TestWhatIsPassedOn(t *testing.T) {
	told := []roster.PersonID{1, 2, 3}
	often := func(n int, ago time.Duration) (list []time.Time) {
		for range n {
			list = append(list, noon.Add(-ago))
		}
		return list
	}
	for name, c := range map[string]struct {
		writer  roster.PersonID
		told    []roster.PersonID
		earlier []time.Time
		to      []roster.PersonID
	}{
		"to the others":              {2, told, nil, []roster.PersonID{1, 3}},
		"of who was not told":        {4, told, nil, nil},
		"of somebody unknown":        {0, []roster.PersonID{0, 1}, nil, nil},
		"to nobody else":             {1, []roster.PersonID{1}, nil, []roster.PersonID{}},
		"a tenth time":               {2, told, often(desk.PassedAtMost-1, time.Minute), []roster.PersonID{1, 3}},
		"once too often":             {2, told, often(desk.PassedAtMost, time.Minute), nil},
		"what was long ago":          {2, told, often(desk.PassedAtMost, desk.PassedWithin), []roster.PersonID{1, 3}},
		"to nobody who was not told": {1, nil, nil, nil},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.to, desk.Passes(c.writer, c.told, noon, c.earlier)) })
	}
	assert.Equal(t, []roster.PersonID{1, 2, 3}, told, "the list of the told stays as it is")
}
