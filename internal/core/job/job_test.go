package job_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/job"
	"upperlantern/internal/core/roster"
)

var now = time.Date(2026, 11, 27, 12, 0, 0, 0, time.UTC)

func in(hours int) *time.Time {
	at := now.Add(time.Duration(hours) * time.Hour)
	return &at
}

func TestHowAJobStands(t *testing.T) {
	for name, c := range map[string]struct {
		job     roster.Group
		stands  job.Stands
		overdue bool
	}{
		"no times":                   {roster.Group{}, job.Open, false},
		"before its start":           {roster.Group{Starts: in(1)}, job.Coming, false},
		"at its start":               {roster.Group{Starts: in(0)}, job.Open, false},
		"at its end":                 {roster.Group{Starts: in(-2), Ends: in(0)}, job.Open, false},
		"after its end":              {roster.Group{Starts: in(-2), Ends: in(-1)}, job.Open, true},
		"closed":                     {roster.Group{Starts: in(-2), Ends: in(-1), Closed: in(0)}, job.Closed, false},
		"closed before it began":     {roster.Group{Starts: in(2), Closed: in(0)}, job.Closed, false},
		"begins after its own end":   {roster.Group{Starts: in(2), Ends: in(-1)}, job.Coming, false},
		"no start, and its end past": {roster.Group{Ends: in(-1)}, job.Open, true},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, c.stands, job.Standing(c.job, now))
			assert.Equal(t, c.overdue, job.Overdue(c.job, now))
		})
	}
}

// Nobody in a job is lost: the parts come to everybody in it.
func TestHowManyHaveEachPart(t *testing.T) {
	for name, c := range map[string]struct {
		people int
		said   map[job.Part]int
		does   int
	}{
		"nobody said anything":      {5, nil, 5},
		"some are on site":          {5, map[job.Part]int{job.OnSite: 2, job.Watches: 1}, 2},
		"some who do it were said":  {5, map[job.Part]int{job.Does: 1, job.OnSite: 1}, 4},
		"who was taken out is none": {2, map[job.Part]int{job.Out: 3}, 2},
		"somebody left the roster":  {1, map[job.Part]int{job.OnSite: 2}, 0},
	} {
		t.Run(name, func(t *testing.T) {
			by := job.Count(c.people, c.said)
			want := map[job.Part]int{job.Does: c.does, job.OnSite: c.said[job.OnSite], job.Watches: c.said[job.Watches]}
			assert.Equal(t, want, by)
		})
	}
}

func TestTheOrderOfJobs(t *testing.T) {
	groups := []roster.Group{
		{Name: "closed long ago", Kind: roster.Job, Closed: in(-9)}, {Name: "closed", Kind: roster.Job, Closed: in(-1)},
		{Name: "coming later", Kind: roster.Job, Starts: in(9)}, {Name: "coming", Kind: roster.Job, Starts: in(1)},
		{Name: "no job", Kind: roster.Picked}, {Name: "open without an end", Kind: roster.Job},
		{Name: "open", Kind: roster.Job, Ends: in(3)}, {Name: "overdue", Kind: roster.Job, Ends: in(-1)},
	}
	var names []string
	for _, g := range job.Jobs(groups, now) {
		names = append(names, g.Name)
	}
	assert.Equal(t, []string{
		"overdue", "open", "open without an end", "coming", "coming later", "closed", "closed long ago",
	}, names)
}

// Whoever does another job, or did one that ended less than a rest before, is not asked.
func TestWhoRests(t *testing.T) {
	people := []roster.Person{{ID: 1, GivenName: "Ada"}, {ID: 2, GivenName: "Bo"}, {ID: 3, GivenName: "Cy"}, {ID: 4, GivenName: "Di"}, {ID: 5, GivenName: "Ed"}}
	member := func(ids ...roster.PersonID) []roster.PersonID { return ids }
	r, err := roster.New(roster.Contents{People: people, Groups: []roster.Group{
		{ID: 1, Name: "Pump", Kind: roster.Job, Starts: in(-3), Members: member(1)},
		{ID: 2, Name: "Sandbags", Kind: roster.Job, Closed: in(-5), Members: member(1, 2)},
		{ID: 3, Name: "Old", Kind: roster.Job, Closed: in(-20), Members: member(3)},
		{ID: 4, Name: "Tomorrow", Kind: roster.Job, Starts: in(20), Members: member(4)},
		{ID: 5, Name: "This one", Kind: roster.Job, Members: member(5)},
		{ID: 6, Name: "Wardens", Kind: roster.Picked, Members: member(3, 4, 5)},
	}})
	require.NoError(t, err)
	rest := 8 * time.Hour
	assert.Equal(t, map[roster.PersonID]job.Busy{
		1: {Job: "Pump"}, 2: {Job: "Sandbags", Until: now.Add(3 * time.Hour)},
	}, job.Resting(r, 5, now, rest))
	assert.NotContains(t, job.Resting(r, 5, now.Add(3*time.Hour), rest), roster.PersonID(2), "until the rest is over")
	assert.Empty(t, job.Resting(r, 5, now, 0), "an organisation without rests")
	assert.Contains(t, job.Resting(r, 5, now.Add(21*time.Hour), rest), roster.PersonID(4), "a job that is open by then")
}
