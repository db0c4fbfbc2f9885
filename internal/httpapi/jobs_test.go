package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

type jobSeen struct {
	Job struct {
		ID                             int64
		Name, Reference, Place, Stands string
		Overdue, Editable              bool
		People                         int
		Parts                          map[string]int
		Starts, Ends, Closed           *time.Time
	}
	People []struct {
		ID         int64
		Name, Part string
		Came       int64
		Own        bool
	}
	Nested  []struct{ Name string }
	Asks    []struct{ Message, Needed, Coming, Asked, Silent int64 }
	Threads []struct {
		ID    int64
		Waits string
	}
	Desk int64
}

func (o deskOffice) job(id int64) (j jobSeen) {
	o.Helper()
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/jobs/%d", id), nil, &j)
	sum := 0
	for _, n := range j.Job.Parts {
		sum += n
	}
	require.Equal(o.T, j.Job.People, sum, "everybody has one part")
	require.Len(o.T, j.People, j.Job.People)
	return j
}

func (o deskOffice) parts(id int64) map[string]string {
	o.Helper()
	parts := map[string]string{}
	for _, p := range o.job(id).People {
		parts[p.Name] = p.Part
	}
	return parts
}

func (o deskOffice) beginsJob(body string) int64 {
	o.Helper()
	var made struct{ ID int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/jobs", body, &made)
	return made.ID
}

func (o deskOffice) inJob(status int, id int64, what, body string) {
	o.Helper()
	o.c.Want(status, http.MethodPost, fmt.Sprintf("/api/jobs/%d/%s", id, what), body, nil)
}

const pump = `{"name":"Pump at the mill","reference":"QM-14","place":"Lower race","starts":"2026-11-26T08:00:00Z","ends":"2026-11-26T14:00:00Z"}`

// A job has people by part, each in one; they come by hand, from groups and areas, and by
// groups that stay nested in it.
func TestAJobAndItsPeople(t *testing.T) {
	o := atDesk(t, "")
	id := o.beginsJob(pump)
	j := o.job(id)
	assert.Equal(t, []string{"Pump at the mill", "QM-14", "Lower race", "open"}, []string{j.Job.Name, j.Job.Reference, j.Job.Place, j.Job.Stands})
	assert.EqualValues(t, 1, j.Desk)
	o.inJob(http.StatusOK, id, "people", `{"part":"does","people":[1,2]}`)
	o.inJob(http.StatusOK, id, "people", `{"part":"watches","people":[2,4]}`)
	assert.Equal(t, map[string]string{"Rania Haddad": "does", "Piotr Zielony": "watches", "Tuan Vo": "watches"}, o.parts(id))
	o.inJob(http.StatusOK, id, "people", `{"part":"on-site","group":4}`)
	assert.Equal(t, len(o.job(id).People), o.job(id).Job.Parts["on-site"]+3)
	o.inJob(http.StatusNoContent, id, "out", `{"people":[1,2,4,999]}`)
	assert.NotContains(t, o.parts(id), "Rania Haddad")
	o.c.Want(http.StatusNoContent, http.MethodPut, fmt.Sprintf("/api/jobs/%d", id),
		`{"name":"Pump at the upper mill","inside":[4]}`, nil)
	j = o.job(id)
	require.Len(t, j.Nested, 1)
	assert.Equal(t, "Pump at the upper mill", j.Job.Name)
	assert.Nil(t, j.Job.Starts, "what is not said any more is gone")

	var list struct {
		Jobs []struct {
			ID     int64
			Stands string
		}
	}
	o.c.Want(http.StatusOK, http.MethodGet, "/api/jobs", nil, &list)
	require.Len(t, list.Jobs, 1)
	for name, c := range map[string]struct {
		method, path, body string
		status             int
		says               string
	}{
		"no name":                  {http.MethodPost, "/api/jobs", `{"name":" "}`, http.StatusUnprocessableEntity, "needs a name"},
		"ends before it starts":    {http.MethodPost, "/api/jobs", strings.Replace(pump, "2026-11-26T14", "2026-11-26T07", 1), http.StatusUnprocessableEntity, "ends before"},
		"a name that is taken":     {http.MethodPost, "/api/jobs", `{"name":"u14"}`, http.StatusUnprocessableEntity, "already"},
		"like a group that is not": {http.MethodPost, "/api/jobs", `{"name":"X","like":2}`, http.StatusNotFound, ""},
		"from no template":         {http.MethodPost, "/api/jobs", `{"name":"X","template":9}`, http.StatusNotFound, ""},
		"a group that is no job":   {http.MethodGet, "/api/jobs/2", "", http.StatusNotFound, ""},
		"people into no job":       {http.MethodPost, "/api/jobs/2/people", `{"part":"does","people":[1]}`, http.StatusNotFound, ""},
		"somebody who is not":      {http.MethodPost, fmt.Sprintf("/api/jobs/%d/people", id), `{"part":"does","people":[999]}`, http.StatusUnprocessableEntity, "nobody was put"},
		"nobody":                   {http.MethodPost, fmt.Sprintf("/api/jobs/%d/people", id), `{"part":"does"}`, http.StatusUnprocessableEntity, "that is nobody"},
		"a part that is none":      {http.MethodPost, fmt.Sprintf("/api/jobs/%d/people", id), `{"part":"sleeps","people":[1]}`, http.StatusUnprocessableEntity, ""},
		"a group that is gone":     {http.MethodPost, fmt.Sprintf("/api/jobs/%d/people", id), `{"part":"does","group":99}`, http.StatusUnprocessableEntity, "no longer"},
		"an area that is gone":     {http.MethodPost, fmt.Sprintf("/api/jobs/%d/people", id), `{"part":"does","unit":99}`, http.StatusUnprocessableEntity, "no longer"},
		"a template without name":  {http.MethodPost, fmt.Sprintf("/api/jobs/%d/template", id), `{"name":" "}`, http.StatusUnprocessableEntity, "needs a name"},
		"to ask for no job":        {http.MethodPost, "/api/jobs/2/ask", "", http.StatusNotFound, ""},
	} {
		t.Run(name, func(t *testing.T) {
			var body any
			if c.body != "" {
				body = c.body
			}
			assert.Contains(t, o.c.Problem(c.status, c.method, c.path, body), c.says)
		})
	}
}

// A job begins like another one or from a template: with its people by part, its place and
// its length, and no times of its own.
func TestAJobLikeAnother(t *testing.T) {
	o := atDesk(t, "")
	first := o.beginsJob(pump)
	o.inJob(http.StatusOK, first, "people", `{"part":"does","people":[1]}`)
	o.inJob(http.StatusOK, first, "people", `{"part":"watches","people":[2]}`)
	o.inJob(http.StatusNoContent, first, "template", `{"name":"Pump"}`)
	like := o.job(o.beginsJob(fmt.Sprintf(`{"name":"Pump again","starts":"2026-12-01T08:00:00Z","like":%d}`, first)))
	assert.Equal(t, "coming", like.Job.Stands)
	assert.Equal(t, "Lower race", like.Job.Place)
	require.NotNil(t, like.Job.Ends)
	assert.Equal(t, "2026-12-01T14:00:00Z", like.Job.Ends.UTC().Format(time.RFC3339))
	var list struct {
		Templates []struct {
			ID     int64
			Name   string
			People int
		}
	}
	o.c.Want(http.StatusOK, http.MethodGet, "/api/jobs", nil, &list)
	require.Len(t, list.Templates, 1)
	assert.Equal(t, 2, list.Templates[0].People)
	third := o.beginsJob(fmt.Sprintf(`{"name":"Pump once more","place":"Fen Row","template":%d}`, list.Templates[0].ID))
	assert.Equal(t, map[string]string{"Rania Haddad": "does", "Piotr Zielony": "watches"}, o.parts(third))
	assert.Equal(t, "Fen Row", o.job(third).Job.Place, "what was typed goes before the template")
	assert.Nil(t, o.job(third).Job.Starts)
	o.c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/job-templates/%d", list.Templates[0].ID), nil, nil)
	o.c.Problem(http.StatusNotFound, http.MethodDelete, fmt.Sprintf("/api/job-templates/%d", list.Templates[0].ID), nil)
}

// The thread of a job is there as long as the job; when it is closed while somebody
// writes, nothing is sent, and what comes later goes to the thread with whoever wrote it.
func TestAJobIsClosedWhileSomebodyWrites(t *testing.T) {
	o := atDesk(t, "")
	id := o.beginsJob(pump)
	o.inJob(http.StatusOK, id, "people", `{"part":"does","people":[1,2]}`)
	thread := o.opensMany(fmt.Sprintf(`{"with":"group","group":%d}`, id))
	assert.Equal(t, "job", o.many(thread).Thread.With)
	o.says(thread, "The pump is on its way", "")
	o.got("+447700900417", 1)
	o.texts("+447700900418", "K1", "It is here")
	assert.Len(t, o.many(thread).Entries, 2)
	require.Len(t, o.job(id).Threads, 1)
	assert.Equal(t, "us", o.job(id).Threads[0].Waits)

	o.inJob(http.StatusNoContent, id, "close", "")
	assert.Equal(t, "closed", o.job(id).Job.Stands)
	said := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, fmt.Sprintf("/api/threads/%d/say-to-all", thread), `{"text":"Well done"}`)
	assert.Contains(t, said, "has ended; nothing was sent")
	read := o.many(thread)
	assert.True(t, read.Many.Ended)
	assert.Equal(t, "us", read.Thread.Waits, "what waits for us still does")
	o.texts("+447700900418", "K2", "We packed up")
	assert.Len(t, o.many(thread).Entries, 2)
	assert.Equal(t, 1, o.threads(1, "with=one&waits=us").All)
	o.inJob(http.StatusUnprocessableEntity, id, "people", `{"part":"does","people":[4]}`)
	o.inJob(http.StatusNotFound, id, "ask", "")

	o.inJob(http.StatusNoContent, id, "reopen", "")
	assert.False(t, o.many(thread).Many.Ended)
	o.says(thread, "Once more", "")
	o.got("+447700900417", 2)
}

// Whoever says that they come is in the job, and out of it again when they take that back;
// whoever was put there by hand stays.
func TestWhoIsComingComesIntoTheJob(t *testing.T) {
	o := atDesk(t, "")
	id := o.beginsJob(pump)
	o.inJob(http.StatusOK, id, "people", `{"part":"watches","people":[4]}`)
	var draft struct{ ID int64 }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/jobs/%d/ask", id), nil, &draft)
	var m struct {
		Draft struct {
			Subject  string
			Question struct {
				Job     int64
				Choices []struct{ Words string }
			}
		}
	}
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d", draft.ID), nil, &m)
	assert.Equal(t, id, m.Draft.Question.Job)
	assert.Contains(t, m.Draft.Subject, "Pump at the mill")
	require.Len(t, m.Draft.Question.Choices, 3)

	asks := fmt.Sprintf(`{"choices":[{"words":"I am coming","means":"counts"},{"words":"Later","means":"minutes"},{"words":"I cannot"}],"needed":9,"job":%d}`, id)
	sent := sendDraft(t, o.c, question(guardians, asks))
	for _, address := range []string{"+447700900417", "+447700900418", "tuan@vo.example"} {
		o.got(address, 1)
	}
	o.texts("+447700900417", "A1", "1")
	o.texts("+447700900418", "A2", "2 20")
	o.answers("tuan@vo.example", standin.Written{Text: "1"})
	in := func(names ...string) {
		t.Helper()
		testkit.Eventually(t, "who comes is in it", func() bool { return len(o.job(id).People) == len(names) })
		for _, name := range names {
			assert.Contains(t, o.parts(id), name)
		}
	}
	in("Rania Haddad", "Piotr Zielony", "Tuan Vo")
	assert.Equal(t, "watches", o.parts(id)["Tuan Vo"], "their part stays")
	require.Len(t, o.job(id).Asks, 1)
	assert.EqualValues(t, 3, o.job(id).Asks[0].Coming)
	o.texts("+447700900417", "A3", "3")
	o.answers("tuan@vo.example", standin.Written{Text: "3"})
	in("Piotr Zielony", "Tuan Vo")
	for _, p := range o.job(id).People {
		assert.Equal(t, map[string]int64{"Piotr Zielony": sent, "Tuan Vo": 0}[p.Name], p.Came)
	}

	o.inJob(http.StatusNoContent, id, "out", `{"people":[2]}`)
	o.texts("+447700900418", "A5", "1")
	o.texts("+447700900188", "A6", "3")
	_, err := o.i.Store.JoinJobs(t.Context())
	require.NoError(t, err)
	in("Tuan Vo") // whom somebody took out no answer brings back
	o.inJob(http.StatusOK, id, "people", `{"part":"does","people":[2]}`)
	in("Piotr Zielony", "Tuan Vo")

	o.inJob(http.StatusNoContent, id, "close", "")
	o.texts("+447700900417", "A4", "1")
	assert.Len(t, o.job(id).People, 2, "nobody comes into a closed job")
	var p struct{ ID, Revision int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &p)
	put := fmt.Sprintf(`{"revision":%d,"draft":%s}`, p.Revision, question(guardians, asks))
	o.c.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/messages/%d", p.ID), put, &p)
	said := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", p.ID),
		fmt.Sprintf(`{"revision":%d}`, p.Revision))
	assert.Contains(t, said, "Pump at the mill is closed")
}

// Whoever does another job, or did one a short while ago, is not asked for the next, and is
// counted; other messages reach them.
func TestWhoRestsIsNotAsked(t *testing.T) {
	o := atDesk(t, "")
	o.c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending",
		`{"holdSeconds":0,"steps":{},"rules":{"restHours":8}}`, nil)
	busy, done, next := o.beginsJob(pump), o.beginsJob(`{"name":"Sandbags"}`), o.beginsJob(`{"name":"Boom"}`)
	o.inJob(http.StatusOK, busy, "people", `{"part":"does","people":[1]}`)
	o.inJob(http.StatusOK, done, "people", `{"part":"watches","people":[2]}`)
	o.inJob(http.StatusNoContent, done, "close", "")
	asks := func(job int64) (rests int) {
		t.Helper()
		var p struct {
			Recipients int
			LeftOut    []struct {
				Reason string
				People int
			}
		}
		more := ""
		if job != 0 {
			more = fmt.Sprintf(`,"job":%d`, job)
		}
		o.c.Want(http.StatusOK, http.MethodPost, "/api/plan",
			question(guardians, `{"choices":[{"words":"I am coming","means":"counts"},{"words":"No"}]`+more+`}`), &p)
		for _, l := range p.LeftOut {
			if l.Reason == "resting" {
				rests = l.People
			}
		}
		return rests
	}
	assert.Equal(t, 2, asks(next))
	assert.Equal(t, 1, asks(busy), "whoever is in the job itself is asked")
	assert.Zero(t, asks(0), "a message about no job")
	o.clock.Pass(9 * time.Hour)
	assert.Equal(t, 1, asks(next), "after the rest")
}
