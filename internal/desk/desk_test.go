package desk_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desk"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

var (
	ctx  = context.Background()
	now  = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	hugo = store.Account{ID: 1, Name: "Hugo Farrowby", Grant: store.Program.Grant}
)

func newDesk(t *testing.T) *desk.Desk {
	s, err := store.Open(testkit.Folder(t, testkit.Roster, func(o *store.Organisation) { o.Hold = 30 * time.Second }))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return &desk.Desk{Store: s, Now: func() time.Time { return now }, Held: func(int64) {}}
}

func toGuardians(email string) message.Draft {
	return message.Draft{
		Urgency: roster.Timely, Email: rich.Lines(email), Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByRole, Role: roster.Guardian}}},
	}
}

func TestLeavesAndLeaving(t *testing.T) {
	o := store.Organisation{Hold: 30 * time.Second, TimeZone: "Europe/London"}
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
		{"a time in summer, on the organisation's clocks", 30 * time.Second, &later, later, "on Saturday 3 July at 18:00; until then Stop undoes everything"},
	} {
		t.Run(c.name, func(t *testing.T) {
			o.Hold = c.hold
			d := message.Draft{SendAt: c.at}
			assert.Equal(t, c.leaves, desk.Leaves(o, d, now))
			assert.Equal(t, c.words, desk.Leaving(o, d, now))
		})
	}
}

func TestSendRefusesWhatWasNotChecked(t *testing.T) {
	d := newDesk(t)
	m, err := d.Store.AddDraft(ctx, 1, toGuardians("Hello"), now)
	require.NoError(t, err)
	revision, err := d.Store.SaveDraft(ctx, m.ID, m.Revision, toGuardians("Hello again"), now)
	require.NoError(t, err)
	_, err = d.Send(ctx, m.ID, m.Revision, hugo)
	require.ErrorIs(t, err, store.ErrConflict)

	sent, err := d.Send(ctx, m.ID, revision, hugo)
	require.NoError(t, err)
	assert.Equal(t, store.Held, sent.State)
	assert.Equal(t, now.Add(30*time.Second), sent.LeavesAt)
	_, err = d.Send(ctx, m.ID, sent.Revision, hugo)
	require.ErrorIs(t, err, store.ErrConflict, "it is sent once")
}

func TestSendRefusesWhatIsBlocked(t *testing.T) {
	d := newDesk(t)
	m, err := d.Store.AddDraft(ctx, 1, toGuardians("{{shoe size}}"), now)
	require.NoError(t, err)
	_, err = d.Send(ctx, m.ID, m.Revision, hugo)
	require.ErrorIs(t, err, desk.ErrBlocked)
	require.ErrorContains(t, err, "There is no field “shoe size”")
	_, err = d.Send(ctx, 99, 1, hugo)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestStopMakesADraftAgainThatCanBeSent(t *testing.T) {
	d := newDesk(t)
	m, err := d.Store.AddDraft(ctx, 1, toGuardians("Hello"), now)
	require.NoError(t, err)
	first, err := d.Send(ctx, m.ID, m.Revision, hugo)
	require.NoError(t, err)
	stopped, draft, err := d.Stop(ctx, m.ID, hugo)
	require.NoError(t, err)
	assert.True(t, draft)
	assert.Zero(t, stopped)
	again, err := d.Store.Message(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Draft, again.State)
	assert.Zero(t, again.LeavesAt)
	assert.Equal(t, first.Revision, again.Revision)
	_, err = d.Send(ctx, m.ID, again.Revision, hugo)
	require.NoError(t, err)
	f, err := d.Store.Figures(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, 4, f.Recipients, "counted once, not twice")
}

func TestThePlanShownIsThePlanSent(t *testing.T) {
	d := newDesk(t)
	draft := toGuardians("Dear {{first name}}")
	shown, err := d.Plan(ctx, draft, hugo)
	require.NoError(t, err)
	m, err := d.Store.AddDraft(ctx, 1, draft, now)
	require.NoError(t, err)
	_, err = d.Send(ctx, m.ID, m.Revision, hugo)
	require.NoError(t, err)
	sent, err := d.Store.Deliveries(ctx, m.ID)
	require.NoError(t, err)
	require.Len(t, sent, len(shown.Plan.Deliveries))
	for i, one := range shown.Plan.Deliveries {
		assert.Equal(t, one.To, sent[i].Address)
		assert.Equal(t, one.Body, sent[i].Body)
		assert.Equal(t, one.Cost, sent[i].Cost)
	}
}
