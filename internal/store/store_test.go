package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

var (
	ctx = context.Background()
	now = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
)

func open(t *testing.T, csv string) *store.Store {
	s, err := store.Open(testkit.Folder(t, csv, nil))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
}

func draft(parts ...audience.Part) message.Draft {
	return message.Draft{
		Content: message.Content{Email: rich.Lines("Hello {{first name}}")},
		Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{Parts: parts}},
	}
}

var everybody = draft(audience.Part{Kind: audience.ByRole, Role: roster.Guardian}, audience.Part{
	Kind: audience.ByRole, Role: roster.Staff,
})

// held puts a message on hold and returns it with its plan.
func held(t *testing.T, s *store.Store, d message.Draft, leaves time.Time) (store.Message, *plan.Plan) {
	m, err := s.AddDraft(ctx, 1, d, now)
	require.NoError(t, err)
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	p := plan.Make(r, d, plan.Settings{Fixed: plan.Fixed{Language: "en"}, Leaves: leaves})
	require.NoError(t, s.Hold(ctx, m.ID, m.Revision, store.Senders{Sender: 1}, r, p, now, leaves))
	m, err = s.Message(ctx, m.ID)
	require.NoError(t, err)
	return m, p
}

func TestOpenRefusesAFolderThatIsAFile(t *testing.T) {
	path := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(path, nil, 0o600))
	_, err := store.Open(filepath.Join(path, "data"))
	require.ErrorContains(t, err, "cannot be made")
}

func TestOpenAgainKeepsEverything(t *testing.T) {
	folder := testkit.Folder(t, testkit.Roster, nil)
	for range 2 {
		s, err := store.Open(folder)
		require.NoError(t, err)
		r, err := s.Roster(ctx)
		require.NoError(t, err)
		assert.Equal(t, 8, r.Len())
		require.NoError(t, s.Close())
	}
}

func TestRosterIsWhatWasLoaded(t *testing.T) {
	s := open(t, testkit.Roster)
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	var names []string
	for i := range r.Len() {
		names = append(names, r.At(i).Name())
	}
	assert.Equal(t, []string{
		"Lena Achterberg", "Rania Haddad", "Sami Haddad", "Naya Osei", "Di Venn", "Tuan Vo", "Kinga Zielony", "Piotr Zielony",
	}, names, "by family name")
	assert.Len(t, r.Guardians(6), 3)
	tuan := r.At(5)
	assert.True(t, tuan.Addresses[0].DeclinesRoutine)
	again, err := s.Roster(ctx)
	require.NoError(t, err)
	assert.Same(t, r, again, "a snapshot is made anew only when something changed")
}

func TestSaveDraftNeverOverwritesANewerOne(t *testing.T) {
	s := open(t, "")
	m, err := s.AddDraft(ctx, 1, draft(), now)
	require.NoError(t, err)
	next, err := s.SaveDraft(ctx, m.ID, m.Revision, 1, draft(), now)
	require.NoError(t, err)
	assert.Equal(t, m.Revision+1, next)
	_, err = s.SaveDraft(ctx, m.ID, m.Revision, 1, draft(), now)
	require.ErrorIs(t, err, store.ErrConflict)
	_, err = s.SaveDraft(ctx, 999, 1, 1, draft(), now)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.DeleteDraft(ctx, m.ID))
	require.ErrorIs(t, s.DeleteDraft(ctx, m.ID), store.ErrConflict)
}

func TestHoldKeepsThePlanAsItWasChecked(t *testing.T) {
	s := open(t, testkit.Roster)
	m, p := held(t, s, everybody, now.Add(time.Minute))
	assert.Equal(t, store.Held, m.State)
	assert.Equal(t, "Hugo Farrowby", m.Sender)
	kept, err := s.Deliveries(ctx, m.ID)
	require.NoError(t, err)
	require.Len(t, kept, len(p.Deliveries))
	keys := map[string]bool{}
	for i, d := range kept {
		assert.Equal(t, p.Deliveries[i].Address, d.Address)
		assert.Equal(t, p.Deliveries[i].Body, d.Content.Body)
		assert.Equal(t, delivery.Held, d.State)
		keys[d.Key] = true
	}
	assert.Len(t, keys, len(kept), "every delivery has a key of its own")
	f, err := s.Figures(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(
		t,
		record.Figures{
			Recipients: len(p.Recipients), Waiting: len(p.Recipients), LeftOut: len(p.LeftOut), Deliveries: len(kept),
			Here: len(kept),
		},
		f,
	)

	r, err := s.Roster(ctx)
	require.NoError(t, err)
	require.ErrorIs(
		t, s.Hold(ctx, m.ID, m.Revision, store.Senders{Sender: 1}, r, p, now, now), store.ErrConflict,
		"it cannot be sent twice",
	)
}

func TestReportThatOvertakesTheHandover(t *testing.T) {
	s := open(t, testkit.Roster)
	m, _ := held(t, s, everybody, now)
	_, err := s.Release(ctx, now)
	require.NoError(t, err)
	leased := lease(t, s, roster.Email, now, 1)
	id, err := s.TakeReport(
		ctx,
		delivery.Report{
			Via: delivery.ViaMail, DeliveryKey: leased[0].Key, Key: "r1", State: delivery.Arrived, Detail: "in the mailbox",
			OccurredAt: now,
		},
		now,
	)
	require.NoError(t, err)
	assert.Equal(t, m.ID, id)
	finish(t, s, store.Handover{Leased: leased[0].As(delivery.Carrier, "with the carrier")})
	kept, err := s.Deliveries(ctx, m.ID)
	require.NoError(t, err)
	for _, d := range kept {
		if d.ID == leased[0].ID {
			assert.Equal(t, delivery.Arrived, d.State)
			assert.Equal(t, "in the mailbox", d.Detail)
		}
	}
	_, err = s.TakeReport(
		ctx, delivery.Report{Via: delivery.ViaMail, DeliveryKey: "NOBODY", Key: "r1", State: delivery.Arrived}, now,
	)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestADeadAddressIsLearntWhereverItStands(t *testing.T) {
	s := open(t, "Id,Name,Email\n1,Ana,shared@example.org\n2,Bo,shared@example.org\n")
	m, _ := held(t, s, draft(audience.Part{Kind: audience.ByPerson, Person: 1}), now)
	_, err := s.Release(ctx, now)
	require.NoError(t, err)
	leased := lease(t, s, roster.Email, now, 1)
	before, err := s.Roster(ctx)
	require.NoError(t, err)
	finish(t, s, store.Handover{
		Leased: leased[0].As(delivery.Failed, "no such mailbox"), Gone: true, Blames: true,
	})
	after, err := s.Roster(ctx)
	require.NoError(t, err)
	assert.NotSame(t, before, after)
	for i := range after.Len() {
		assert.Equal(t, roster.Dead, after.At(i).Addresses[0].Health)
	}
	m, err = s.Message(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Sent, m.State, "nothing is left to do")
}

func TestReadersDoNotWaitForWriters(t *testing.T) {
	s := open(t, testkit.Roster)
	var all sync.WaitGroup
	for n := range 8 {
		all.Go(func() {
			if n%2 == 0 {
				_, err := s.AddDraft(ctx, 1, message.Draft{
					Content: message.Content{Subject: fmt.Sprint(n)},
					Routing: message.Routing{Urgency: roster.Routine},
				}, now)
				assert.NoError(t, err)
			}
			_, _, err := s.Messages(ctx, []int64{1}, 0, 100)
			assert.NoError(t, err)
		})
	}
	all.Wait()
	list, _, err := s.Messages(ctx, []int64{1}, 0, 100)
	require.NoError(t, err)
	assert.Len(t, list, 4)
}

func TestATextConversationKeepsItsNumber(t *testing.T) {
	folder := testkit.Folder(t, testkit.Roster, nil)
	s, err := store.Open(folder)
	require.NoError(t, err)
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	d := draft(audience.Part{Kind: audience.ByPerson, Person: 2})
	m, err := s.AddDraft(ctx, 1, d, now)
	require.NoError(t, err)
	p := plan.Make(r, d, plan.Settings{
		Leaves: now,
		Fixed:  plan.Fixed{Language: "en", Identity: roster.Identity{Number: "+447700900110"}},
	})
	require.NoError(t, s.Hold(ctx, m.ID, m.Revision, store.Senders{Sender: 1}, r, p, now, now))
	_, err = s.Release(ctx, now)
	require.NoError(t, err)
	leased := lease(t, s, roster.Text, now, 1)
	require.Len(t, leased, 1)
	number, err := s.Conversations(ctx)
	require.NoError(t, err)
	assert.Empty(t, number(leased[0].Address))
	finish(t, s, store.Handover{Leased: leased[0].As(delivery.Carrier, "")})
	assert.Equal(t, "+447700900110", number(leased[0].Address))
	require.NoError(t, s.Close())

	again, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, again.Close()) }()
	number, err = again.Conversations(ctx)
	require.NoError(t, err)
	assert.Equal(t, "+447700900110", number(leased[0].Address))
}

func TestADatabaseOfANewerVersionIsRefused(t *testing.T) {
	folder := testkit.Folder(t, "", nil)
	db, err := sql.Open("sqlite", "file:"+filepath.Join(folder, store.FileName)+"?_pragma=busy_timeout(10000)")
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)")
	require.NoError(t, errors.Join(err, db.Close()))
	_, err = store.Open(folder)
	require.ErrorContains(t, err, "made by a newer version of the program (form 99")
	assert.NotContains(t, err.Error(), "\n")
}

// sentTo sends one person an email and returns its delivery.
func sentTo(t *testing.T, s *store.Store, person roster.PersonID) store.Leased {
	held(t, s, draft(audience.Part{Kind: audience.ByPerson, Person: person}), now)
	_, err := s.Release(ctx, now)
	require.NoError(t, err)
	leased := lease(t, s, roster.Email, now, 1)
	require.Len(t, leased, 1)
	finish(t, s, store.Handover{Leased: leased[0].As(delivery.Carrier, "")})
	return leased[0]
}

func healthOf(t *testing.T, s *store.Store, at int) roster.Health {
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	return r.At(at).Addresses[0].Health
}

// A return alone makes an address doubtful; only those of several different emails
// make it dead.
func TestAForgedReturnDoesNotKillAnAddress(t *testing.T) {
	s := open(t, "Id,Name,Email\n1,Ana,ana@example.org\n")
	gone := func(d store.Leased, key string) {
		_, err := s.TakeReport(
			ctx,
			delivery.Report{
				Via: delivery.ViaMail, DeliveryKey: d.Key, Key: key, State: delivery.Failed, Gone: true, Detail: "no such mailbox",
				OccurredAt: now,
			},
			now,
		)
		require.NoError(t, err)
	}
	first := sentTo(t, s, 1)
	for n := range 5 {
		gone(first, fmt.Sprint("r", n))
	}
	assert.NotEqual(t, roster.Dead, healthOf(t, s, 0), "one email that was forwarded is one email")
	gone(sentTo(t, s, 1), "r")
	assert.NotEqual(t, roster.Dead, healthOf(t, s, 0))
	gone(sentTo(t, s, 1), "r")
	assert.Equal(t, roster.Dead, healthOf(t, s, 0), "three different emails came back")
}

// Three deliveries in a row that failed for good make an address dead, one that arrived
// in between ends the row.
func TestAnAddressThatFailsThreeTimesInARow(t *testing.T) {
	s := open(t, "Id,Name,Email\n1,Ana,ana@example.org\n")
	fails := func() {
		h := store.Handover{Leased: sentTo(t, s, 1).As(delivery.Failed, "mailbox full"), Blames: true}
		_, err := s.Finish(ctx, 1, []store.Handover{h}, now)
		require.NoError(t, err)
	}
	fails()
	fails()
	assert.NotEqual(t, roster.Dead, healthOf(t, s, 0))
	_, err := s.TakeReport(ctx, delivery.Report{
		Via: delivery.ViaMail, DeliveryKey: sentTo(t, s, 1).Key, Key: "r", State: delivery.Arrived, OccurredAt: now,
	}, now)
	require.NoError(t, err)
	fails()
	fails()
	assert.NotEqual(t, roster.Dead, healthOf(t, s, 0), "two since it last worked")
	fails()
	assert.Equal(t, roster.Dead, healthOf(t, s, 0))
}

// A report moves deliveries of the channels of its way, and no others.
func TestReportsMoveDeliveriesOfTheirChannel(t *testing.T) {
	s := open(t, "Id,Name,Email\n1,Ana,ana@example.org\n")
	d := sentTo(t, s, 1)
	for _, via := range []delivery.Via{"", delivery.ViaGateway, delivery.ViaDevice} {
		_, err := s.TakeReport(
			ctx, delivery.Report{Via: via, DeliveryKey: d.Key, Key: "r", State: delivery.Arrived, OccurredAt: now}, now,
		)
		require.ErrorIs(t, err, store.ErrNotFound, string(via))
	}
}

// What fails for a reason that is not the address's leaves its health alone.
func TestOnlyWhatIsAboutTheAddressIsLearnt(t *testing.T) {
	for _, blames := range []bool{false, true} {
		folder := testkit.Folder(t, "Id,Name,Email\n1,Ana,ana@example.org\n", nil)
		s, err := store.Open(folder)
		require.NoError(t, err)
		held(t, s, draft(audience.Part{Kind: audience.ByPerson, Person: 1}), now)
		_, err = s.Release(ctx, now)
		require.NoError(t, err)
		leased := lease(t, s, roster.Email, now, 1)
		finish(t, s, store.Handover{Leased: leased[0].As(delivery.Failed, "spam"), Blames: blames})
		require.NoError(t, s.Close())
		again, err := store.Open(folder)
		require.NoError(t, err)
		assert.Equal(t, map[bool]roster.Health{true: roster.Failing, false: roster.Untried}[blames], healthOf(t, again, 0))
		require.NoError(t, again.Close())
	}
}

// Whoever is tried on a further step by two at once is tried once.
func TestARecipientMovesOnOnce(t *testing.T) {
	s := open(t, "Id,Name,Email,Mobile\n1,Ana,ana@example.org,07700 900001\n")
	m, p := held(t, s, draft(audience.Part{Kind: audience.ByPerson, Person: 1}), now)
	_, err := s.Release(ctx, now)
	require.NoError(t, err)
	h := store.Handover{Leased: lease(t, s, roster.Email, now, 1)[0].As(delivery.Failed, "no such mailbox")}
	_, err = s.Finish(ctx, 1, []store.Handover{h}, now)
	require.NoError(t, err)
	missed, err := s.Missed(ctx, m.ID)
	require.NoError(t, err)
	require.Len(t, missed, 1)
	moves := []store.Move{{Recipient: missed[0].ID, Step: 2, Why: "next", Deliveries: p.Deliveries}}
	require.NoError(t, s.MoveOn(ctx, m.ID, p, moves, now))
	require.ErrorIs(t, s.MoveOn(ctx, m.ID, p, moves, now), store.ErrConflict)
	list, err := s.Deliveries(ctx, m.ID)
	require.NoError(t, err)
	assert.Len(t, list, 2)
}

// What a carrier has that never reports may be at its address: a correction goes there.
func TestAChainKnowsWhatMayHaveArrived(t *testing.T) {
	s := open(t, "Id,Name,Email\n1,Ana,ana@example.org\n2,Bo,bo@example.org\n")
	sentTo(t, s, 1)
	first := headingOf(t, s, 1).ID
	c, err := s.Chain(ctx, first, 0)
	require.NoError(t, err)
	ana := c.People[1]
	assert.False(t, ana.Reached)
	assert.True(t, ana.Waiting)
	assert.Equal(t, []roster.Channel{roster.Email}, ana.Channels)
	got, err := s.WhoGot(ctx, first, "")
	require.NoError(t, err)
	assert.Equal(t, []roster.PersonID{1}, got.People)
}
