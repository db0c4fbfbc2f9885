package desk_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
)

// Juniors (2) and Adults (3) are in Rowing (1); Flood watch (4) stands beside it. The
// group U14 (2) is nested in Squads (1).
func club(t testing.TB) *roster.Roster {
	r, err := roster.New(roster.Contents{
		Units: []roster.Unit{
			{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Juniors", Parent: 1}, {ID: 3, Name: "Adults", Parent: 1}, {ID: 4, Name: "Flood watch"},
		},
		Groups: []roster.Group{{ID: 1, Name: "Squads", Inside: []roster.GroupID{2}}, {ID: 2, Name: "U14"}, {ID: 3, Name: "Wardens"}},
	})
	require.NoError(t, err)
	return r
}

// Where an answer belongs, in the order of the rule.
func TestChoose(t *testing.T) {
	office := desk.Desk{ID: 1, Name: "Club office"}
	rowing := desk.Desk{ID: 2, Name: "Rowing", Units: []roster.UnitID{1}}
	flood := desk.Desk{ID: 3, Name: "Flood watch", Units: []roster.UnitID{4}, Groups: []roster.GroupID{3}}
	squads := desk.Desk{ID: 4, Name: "Squads", Groups: []roster.GroupID{1}}
	all := []desk.Desk{office, rowing, flood, squads}
	for name, c := range map[string]struct {
		desks []desk.Desk
		meant desk.Meant
		want  desk.ID
	}{
		"the desk that the message names":        {all, desk.Meant{Desk: 3, Groups: []roster.GroupID{1}, Unit: 1}, 3},
		"a desk that is gone":                    {all, desk.Meant{Desk: 9, Unit: 4}, 3},
		"a group, before the unit":               {all, desk.Meant{Groups: []roster.GroupID{3}, Unit: 1}, 3},
		"a group within another":                 {all, desk.Meant{Groups: []roster.GroupID{2}, Unit: 1}, 4},
		"the nearest unit":                       {all, desk.Meant{Unit: 3}, 2},
		"all others":                             {all, desk.Meant{}, 1},
		"a unit that is gone":                    {all, desk.Meant{Unit: 77}, 1},
		"the first, when none is for all others": {[]desk.Desk{flood, rowing}, desk.Meant{}, 3},
		"no desk":                                {nil, desk.Meant{Unit: 1}, 0},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, desk.Choose(c.desks, c.meant, club(t))) })
	}
}

// Hours are on the organisation's clocks, also over midnight and when clocks change.
func TestHours(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	clock := func(text string) (c timing.Clock) {
		require.NoError(t, c.UnmarshalText([]byte(text)))
		return c
	}
	day := desk.Desk{Hours: []desk.Hours{{Day: 4, From: clock("08:00"), To: clock("16:00")}}}
	night := desk.Desk{Hours: []desk.Hours{{Day: 6, From: clock("22:00"), To: clock("06:00")}}}
	at := func(text string) time.Time {
		when, err := time.ParseInLocation("2006-01-02 15:04", text, london)
		require.NoError(t, err)
		return when
	}
	for name, c := range map[string]struct {
		desk desk.Desk
		at   string
		end  string // "" while nobody sits there
	}{
		"within":                           {day, "2026-11-26 08:00", "2026-11-26 16:00"},
		"as they end":                      {day, "2026-11-26 16:00", ""},
		"another day":                      {day, "2026-11-27 09:00", ""},
		"before midnight":                  {night, "2026-11-28 23:00", "2026-11-29 06:00"},
		"after midnight":                   {night, "2026-11-29 05:59", "2026-11-29 06:00"},
		"in the night when clocks go back": {night, "2026-10-25 05:30", "2026-10-25 06:00"},
		"the night after":                  {night, "2026-11-29 23:00", ""},
	} {
		t.Run(name, func(t *testing.T) {
			end, open := c.desk.Until(at(c.at))
			assert.Equal(t, c.end != "", open)
			assert.Equal(t, open, c.desk.Open(at(c.at)))
			if open {
				assert.Equal(t, at(c.end), end)
			}
		})
	}
	end, open := desk.Desk{}.Until(at("2026-11-26 03:00"))
	assert.True(t, open, "a desk without hours is always open")
	assert.Zero(t, end)
}

func TestCheck(t *testing.T) {
	others := []desk.Desk{{ID: 1, Name: "Club office"}}
	for name, c := range map[string]struct {
		desk desk.Desk
		says string
	}{
		"as it is":             {desk.Desk{ID: 1, Name: "Club office"}, ""},
		"no name":              {desk.Desk{Name: "  "}, "needs a name"},
		"the name of another":  {desk.Desk{Name: "CLUB office"}, "there is a desk “Club office” already"},
		"a unit that is gone":  {desk.Desk{Name: "Night", Units: []roster.UnitID{9}}, "no unit 9"},
		"a group that is gone": {desk.Desk{Name: "Night", Groups: []roster.GroupID{9}}, "no group 9"},
	} {
		t.Run(name, func(t *testing.T) {
			err := c.desk.Check(others, club(t))
			if c.says == "" {
				require.NoError(t, err)
				return
			}
			require.ErrorContains(t, err, c.says)
		})
	}
}

var noon = time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC)

// What waits for us waits from the first thing that was not answered.
func TestStanding(t *testing.T) {
	heard := desk.Standing{}.Heard(noon)
	assert.Equal(t, desk.Standing{Waits: desk.Us, Since: noon, Unread: true}, heard)
	assert.Equal(t, noon, heard.Heard(noon.Add(time.Hour)).Since, "what is said further does not make it younger")
	told := heard.Told(noon.Add(2 * time.Hour))
	assert.Equal(t, desk.Standing{Waits: desk.Them, Since: noon.Add(2 * time.Hour)}, told)
	assert.Equal(t, desk.Them, told.Passed(noon.Add(desk.Silence)).Waits)
	quiet := told.Passed(noon.Add(2*time.Hour + desk.Silence))
	assert.Equal(t, desk.Quiet, quiet.Waits)
	assert.Equal(t, desk.Us, quiet.Heard(noon.Add(9*24*time.Hour)).Waits)
	assert.Equal(t, desk.Quiet, heard.Settled(noon).Waits)

	left := told.Left(noon.Add(3 * time.Hour))
	assert.Equal(t, desk.Standing{Waits: desk.Us, Since: noon.Add(3 * time.Hour), Unread: true}, left)
	assert.Equal(t, noon, heard.Left(noon.Add(time.Hour)).Since)

	back := heard.Returns(noon, noon.Add(time.Hour))
	assert.Equal(t, desk.Quiet, back.Passed(noon.Add(59*time.Minute)).Waits)
	again := desk.Standing{Waits: desk.Us, Since: noon.Add(time.Hour), Unread: true}
	assert.Equal(t, again, back.Passed(noon.Add(time.Hour)))
	assert.Zero(t, back.Heard(noon.Add(time.Minute)).Back, "they wrote before it was to come back")
}

// Whatever happens, what was said last and not answered waits for us.
func TestNothingUnansweredIsForgotten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now, s, owed := noon, desk.Standing{Waits: desk.Quiet, Since: noon}, false
		for range rapid.IntRange(1, 20).Draw(t, "steps") {
			now = now.Add(time.Duration(rapid.IntRange(0, 300).Draw(t, "hours")) * time.Hour)
			s = s.Passed(now)
			switch rapid.SampledFrom([]string{"heard", "told", "settled", "left", "passed"}).Draw(t, "what") {
			case "heard":
				s, owed = s.Heard(now), true
			case "told":
				s, owed = s.Told(now), false
			case "settled":
				s, owed = s.Settled(now), false
			case "left":
				s, owed = s.Left(now), true
			}
			if owed != (s.Waits == desk.Us) {
				t.Fatalf("owed %t, and it waits for %s", owed, s.Waits)
			}
			if s.Since.After(now) {
				t.Fatal("it waits since a time that is not here yet")
			}
		}
	})
}
