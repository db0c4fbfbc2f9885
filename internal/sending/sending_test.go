package sending_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/messages"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
	"upperlantern/internal/wording"
)

var (
	ctx  = context.Background()
	now  = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	hugo = access.Principal{ID: 1, Name: "Hugo Farrowby", Grant: access.Program.Grant}
)

func newService(t *testing.T) *sending.Service {
	s, err := store.Open(testkit.Folder(t, testkit.Roster, func(o *store.Organisation) { o.Hold = 30 * time.Second }))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return &sending.Service{
		Store: s, Messages: &messages.Service{Store: s}, Now: func() time.Time { return now }, Held: func(int64) {},
	}
}

func toGuardians(email string) message.Draft {
	return message.Draft{
		Content: message.Content{Email: rich.Lines(email)},
		Routing: message.Routing{
			Urgency:  roster.Timely,
			Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByRole, Role: roster.Guardian}}},
		},
	}
}

func TestLeaving(t *testing.T) {
	soon, later := now.Add(5*time.Second), time.Date(2027, 7, 3, 17, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name   string
		hold   time.Duration
		at     *time.Time
		leaves time.Time
		words  string
	}{
		{"now", 30 * time.Second, nil, now.Add(30 * time.Second), "after a hold of 30 seconds, in which Stop undoes everything"},
		{"without a hold", 0, nil, now, "at once"},
		{"a time within the hold", 30 * time.Second, &soon, now.Add(30 * time.Second), "after a hold of 30 seconds, in which Stop undoes everything"},
		{"a time in summer, on the organisation's clocks", 30 * time.Second, &later, later, "on Saturday 3 July 2027 at 18:00; until then Stop undoes everything"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := newService(t)
			o, err := d.Store.Organisation(ctx)
			require.NoError(t, err)
			o.Hold = c.hold
			require.NoError(t, d.Store.PutOrganisation(ctx, o))
			draft := toGuardians("Hello")
			draft.SendAt = c.at
			w, err := d.Plan(ctx, 0, draft, hugo)
			require.NoError(t, err)
			assert.Equal(t, c.leaves, w.Summary.First.UTC())
			assert.Equal(t, c.words, sending.Leaving(w))
		})
	}
}

func TestThePlanThatChangedSinceTheCheckIsNotSent(t *testing.T) {
	d := newService(t)
	m, err := d.Store.AddDraft(ctx, 1, toGuardians("Hello"), now)
	require.NoError(t, err)
	five := 5
	_, err = d.Send(ctx, m.ID, m.Revision, sending.Checked{Recipients: &five}, hugo)
	require.ErrorIs(t, err, sending.ErrChanged)
	require.ErrorContains(t, err, "it was to go to 5 people and now goes to 4 people")
	again, err := d.Store.Message(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Draft, again.State, "nothing was sent")
}

func TestEmergenciesNeedAReasonAndTheNumberTyped(t *testing.T) {
	d := newService(t)
	draft := toGuardians("The river rises")
	draft.Urgency = roster.Emergency
	send := func(typed int) error {
		m, err := d.Store.AddDraft(ctx, 1, draft, now)
		require.NoError(t, err)
		_, err = d.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: typed}, hugo)
		return err
	}
	require.ErrorContains(t, send(4), "Say why it is an emergency")
	draft.Reason = "Flood warning 14"
	require.ErrorContains(t, send(3), "type the number of people, 4, to confirm")
	require.NoError(t, send(4))

	clerk := hugo
	clerk.Rights = []access.Right{access.Write}
	m, err := d.Store.AddDraft(ctx, 1, draft, now)
	require.NoError(t, err)
	_, err = d.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: 4}, clerk)
	require.ErrorContains(t, err, "may not write emergencies")
}

func TestWhatThePlanKnowsOfOtherMessages(t *testing.T) {
	d := newService(t)
	o, err := d.Store.Organisation(ctx)
	require.NoError(t, err)
	o.Sending.Budgets = []plan.Budget{{Month: 5}}
	require.NoError(t, d.Store.PutOrganisation(ctx, o))
	first, err := d.Store.AddDraft(ctx, 1, toGuardians("Keys"), now)
	require.NoError(t, err)
	_, err = d.Send(ctx, first.ID, first.Revision, sending.Checked{}, hugo)
	require.NoError(t, err)
	said := func(draft message.Draft) string {
		w, err := d.Plan(ctx, 0, draft, hugo)
		require.NoError(t, err)
		var sentences []string
		for _, p := range w.Summary.Problems {
			sentences = append(sentences, wording.Problem(p, w.Plan.Settings))
		}
		return strings.Join(sentences, " ")
	}
	again := said(toGuardians("Keys again"))
	assert.Contains(t, again, "“Keys” goes to 4 of these people too, on Tuesday 24 November at 08:00.")
	assert.Contains(t, again, "It takes this month to £0.28 of a budget of £0.05.")
	christmas := time.Date(2026, 12, 25, 12, 0, 0, 0, time.UTC)
	later := toGuardians("Keys at last")
	later.SendAt = &christmas
	assert.NotContains(t, said(later), "goes to 4 of these people too")
	assert.Contains(t, said(later), "It leaves on a public holiday: Christmas Day.")
}

func TestSendRefusesWhatWasNotChecked(t *testing.T) {
	d := newService(t)
	m, err := d.Store.AddDraft(ctx, 1, toGuardians("Hello"), now)
	require.NoError(t, err)
	revision, err := d.Store.SaveDraft(ctx, m.ID, m.Revision, 1, toGuardians("Hello again"), now)
	require.NoError(t, err)
	_, err = d.Send(ctx, m.ID, m.Revision, sending.Checked{}, hugo)
	require.ErrorIs(t, err, store.ErrConflict)

	sent, err := d.Send(ctx, m.ID, revision, sending.Checked{}, hugo)
	require.NoError(t, err)
	assert.Equal(t, store.Held, sent.State)
	assert.Equal(t, now.Add(30*time.Second), sent.LeavesAt)
	_, err = d.Send(ctx, m.ID, sent.Revision, sending.Checked{}, hugo)
	require.ErrorIs(t, err, store.ErrConflict, "it is sent once")
}

func TestSendRefusesWhatIsBlocked(t *testing.T) {
	d := newService(t)
	m, err := d.Store.AddDraft(ctx, 1, toGuardians("{{shoe size}}"), now)
	require.NoError(t, err)
	_, err = d.Send(ctx, m.ID, m.Revision, sending.Checked{}, hugo)
	require.ErrorIs(t, err, sending.ErrBlocked)
	require.ErrorContains(t, err, "There is no field “shoe size”")
	_, err = d.Send(ctx, 99, 1, sending.Checked{}, hugo)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestStopMakesADraftAgainThatCanBeSent(t *testing.T) {
	d := newService(t)
	m, err := d.Store.AddDraft(ctx, 1, toGuardians("Hello"), now)
	require.NoError(t, err)
	first, err := d.Send(ctx, m.ID, m.Revision, sending.Checked{}, hugo)
	require.NoError(t, err)
	stopped, err := d.Stop(ctx, m.ID, hugo)
	require.NoError(t, err)
	assert.Equal(t, sending.Stopped{Draft: true}, stopped)
	again, err := d.Store.Message(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Draft, again.State)
	assert.Zero(t, again.LeavesAt)
	assert.Equal(t, first.Revision, again.Revision)
	_, err = d.Send(ctx, m.ID, again.Revision, sending.Checked{}, hugo)
	require.NoError(t, err)
	f, err := d.Store.Figures(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, 4, f.Recipients, "counted once, not twice")
}

func TestThePlanShownIsThePlanSent(t *testing.T) {
	d := newService(t)
	draft := toGuardians("Dear {{first name}}")
	shown, err := d.Plan(ctx, 0, draft, hugo)
	require.NoError(t, err)
	m, err := d.Store.AddDraft(ctx, 1, draft, now)
	require.NoError(t, err)
	_, err = d.Send(ctx, m.ID, m.Revision, sending.Checked{}, hugo)
	require.NoError(t, err)
	sent, err := d.Store.Deliveries(ctx, m.ID)
	require.NoError(t, err)
	require.Len(t, sent, len(shown.Plan.Deliveries))
	for i, one := range shown.Plan.Deliveries {
		assert.Equal(t, one.Address, sent[i].Address)
		assert.Equal(t, one.Body, sent[i].Content.Body)
		assert.Equal(t, one.Cost, sent[i].Cost)
	}
}

func TestAPlanSaysWhatTheAccountMayNot(t *testing.T) {
	d := newService(t)
	draft := toGuardians("Leave now")
	draft.Urgency, draft.Reason = roster.Emergency, "Flood"
	limited := hugo
	limited.Rights = []access.Right{access.Write}
	w, err := d.Plan(ctx, 0, draft, limited)
	require.NoError(t, err)
	problem, blocked := w.Summary.Blocked()
	assert.True(t, blocked)
	assert.Equal(t, plan.NotAllowed, problem.Code)
	w, err = d.Plan(ctx, 0, draft, hugo)
	require.NoError(t, err)
	_, blocked = w.Summary.Blocked()
	assert.False(t, blocked)
}

// Sending again what nobody can tell of is writing: an emergency needs its right.
func TestDecidingToSendAgainNeedsTheRight(t *testing.T) {
	d := newService(t)
	draft := toGuardians("Leave now")
	draft.Urgency, draft.Reason = roster.Emergency, "Flood"
	m, err := d.Store.AddDraft(ctx, 1, draft, now)
	require.NoError(t, err)
	limited := hugo
	limited.Rights = []access.Right{access.Write}
	_, err = d.Decide(ctx, m.ID, true, limited)
	require.ErrorIs(t, err, sending.ErrBlocked)
	_, err = d.Decide(ctx, m.ID, false, limited)
	require.NoError(t, err, "leaving it sends nothing")
}
