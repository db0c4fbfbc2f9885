package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

type recordOfOne struct {
	Message    struct{ State string }
	Recipients []struct {
		Name, Outcome, Why string
		Step               int
		Deliveries         []struct{ Channel, State string }
	}
	LeftOut []struct{ Reason string }
}

func toRania(more string) string {
	return strings.Replace(
		draftOf(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Dear {{first name}}"), `"subject"`,
		more+`"subject"`, 1,
	)
}

func TestMovingOnAfterFailure(t *testing.T) {
	i, c := start(t)
	require.NoError(t, i.Box.SetFault(t.Context(), "rania@example.org", standin.Gone))
	var p plan
	draft := toRania(`"moveOn":{"failed":true},`)
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", draft, &p)
	assert.Contains(t, strings.Join(p.Sentences, " "), "Where everything failed, the next step is tried, at its own cost.")
	id := sendDraft(t, c, draft)
	var rec recordOfOne
	testkit.Eventually(t, "she is reached by text", func() bool {
		c.Record(id, &rec)
		return rec.Recipients[0].Outcome == "reached"
	})
	one := rec.Recipients[0]
	assert.Equal(t, 2, one.Step)
	assert.Equal(t, "Moved on from step 1 to step 2.", one.Why)
	require.Len(t, one.Deliveries, 2)
	assert.Equal(t, "failed", one.Deliveries[0].State)
	assert.Equal(t, "text", one.Deliveries[1].Channel)
	texts := received(t, i.Box, 1)
	assert.Equal(t, "Dear Rania", texts[0].Body)
	ids, err := i.Store.MovingOn(t.Context())
	require.NoError(t, err)
	testkit.Eventually(t, "nobody is left to be tried", func() bool {
		ids, err = i.Store.MovingOn(t.Context())
		return err == nil && len(ids) == 0
	})
}

func TestMovingOnStopsWhereThereIsNoFurtherStep(t *testing.T) {
	i, c := start(t)
	for _, address := range []string{"rania@example.org", "+447700900417"} {
		require.NoError(t, i.Box.SetFault(t.Context(), address, standin.Gone))
	}
	id := sendDraft(t, c, toRania(`"moveOn":{"failed":true},`))
	var rec recordOfOne
	testkit.Eventually(t, "everything was tried", func() bool {
		c.Record(id, &rec)
		ids, err := i.Store.MovingOn(t.Context())
		return err == nil && len(ids) == 0 && rec.Message.State == "sent"
	})
	assert.Equal(t, "not-reached", rec.Recipients[0].Outcome)
	assert.Equal(t, "sent", rec.Message.State)
	channels := []string{}
	for _, d := range rec.Recipients[0].Deliveries {
		channels = append(channels, d.Channel)
	}
	assert.Equal(t, []string{"email", "text", "voice"}, channels, "each step once")
}

func TestMovingOnWithoutConfirmation(t *testing.T) {
	clock := testkit.NewClock(time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC))
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(c *app.Config) {
		c.Now = clock.Now
	})
	c := testkit.SignedIn(t, i.URL)
	sendDraft(t, c, toRania(`"moveOn":{"minutes":30,"answered":true},`))
	received(t, i.Box, 1)
	require.NoError(t, i.Sending.MoveOn(t.Context()))
	received(t, i.Box, 1)
	clock.Pass(31 * time.Minute)
	require.NoError(t, i.Sending.MoveOn(t.Context()))
	assert.Equal(t, roster.Text, received(t, i.Box, 2)[1].Channel, "arriving is not enough where an answer is asked for")
}

func TestStoppingEndsMovingOn(t *testing.T) {
	i, c := start(t)
	id := sendDraft(t, c, toRania(`"moveOn":{"minutes":30},`))
	received(t, i.Box, 1)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/stop", id), nil, nil)
	ids, err := i.Store.MovingOn(t.Context())
	require.NoError(t, err)
	assert.Empty(t, ids)
}

func TestTheRecordKeepsWhyItWasAnEmergency(t *testing.T) {
	_, c := start(t)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := strings.Replace(toRania(`"reason":"Flood warning 14",`), "routine", "emergency", 1)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	c.Want(
		http.StatusOK, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d,"recipients":1,"typed":1}`, m.Revision),
		nil,
	)
	var rec struct {
		Reason   string
		Practice bool
	}
	c.Want(http.StatusOK, http.MethodGet, path+"/record", nil, &rec)
	assert.Equal(t, "Flood warning 14", rec.Reason)
	assert.False(t, rec.Practice)
}

func TestADraftOutlivesThoseItNames(t *testing.T) {
	_, c := start(t)
	var p plan
	draft := draftOf(`{"kind":"person","person":4},`+juniors, "Come")
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", draft, &p)
	require.NotContains(t, p.Parts[0].Label, "no longer")
	c.Want(http.StatusOK, http.MethodPost, "/api/people/remove", `{"people":[4]}`, nil)
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", draft, &p)
	assert.Equal(t, "Somebody who is no longer on the roster", p.Parts[0].Label)
	assert.True(t, p.Sendable, "the rest is not lost")
	said := ""
	for _, one := range p.Problems {
		said += one.Sentence
	}
	assert.Contains(t, said, "Part 1 of the audience is no longer on the roster.")
}

// What is set after Send changes neither how a message moves on nor what its record
// says: steps, number, signature, currency, the sender's name and reach.
func TestWhatIsSetLaterChangesNothingThatWasSent(t *testing.T) {
	clock := testkit.NewClock(time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC))
	folder := testkit.Folder(t, testkit.Roster, func(o *store.Organisation) { o.Hold = 0 })
	i := testkit.Start(t, folder, func(c *app.Config) { c.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	id := sendDraft(t, c, strings.Replace(
		toRania(`"moveOn":{"minutes":30,"answered":true},`), "Dear {{first name}}", "From {{sender}} of {{organisation}}", 1,
	))
	received(t, i.Box, 1)
	type recordNow struct {
		Planned, Spent string
		AtOnce, Saving int
		Saved          string
		Steps          []struct{ Channels []string }
		Languages      []struct{ Reads bool }
	}
	record := func() (r recordNow) {
		c.Record(id, &r)
		return r
	}
	var before recordNow
	testkit.Eventually(t, "the email has been written down", func() bool {
		before = record()
		return before.Spent == before.Planned
	})

	assert.Equal(t, []any{3, 2}, []any{before.AtOnce, before.Saving}, "a text and a call were not needed")
	require.NotEmpty(t, before.Saved)

	o, err := i.Store.Organisation(t.Context())
	require.NoError(t, err)
	o.Name, o.NumberFrom, o.Currency, o.Language = "Another Club", "+447700900222", "EUR", "pl"
	o.Steps = map[roster.Urgency]precedence.Steps{roster.Routine: {{roster.Voice}, {roster.Email}}}
	require.NoError(t, i.Store.PutOrganisation(t.Context(), o))
	account, err := i.Store.AccountByLogin(t.Context(), testkit.Login)
	require.NoError(t, err)
	account.Name, account.Scope = "Somebody Else", roster.Scope{Units: []roster.UnitID{}}
	_, err = i.Store.PutAccount(t.Context(), account)
	require.NoError(t, err)

	assert.Equal(t, before.Steps, record().Steps)
	assert.Equal(t, before.Languages, record().Languages)
	assert.Contains(t, record().Planned, "£")
	clock.Pass(31 * time.Minute)
	require.NoError(t, i.Sending.MoveOn(t.Context()))
	text := received(t, i.Box, 2)[1]
	assert.Equal(t, roster.Text, text.Channel, "the second of the steps of then")
	assert.Equal(t, "+447700900100", text.From)
	assert.Equal(t, "From Hugo Farrowby of Quillmere Rowing Club & Flood Watch", text.Body)
	assert.Equal(t, 1, record().Saving, "the text was needed after all")
}
