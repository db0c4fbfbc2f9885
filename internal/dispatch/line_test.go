package dispatch_test

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/dispatch"
	"upperlantern/internal/testkit"
)

// carry gives the texts of a bench to carriers, in their order.
func (b *bench) carry(posts ...dispatch.Post) {
	b.d.Carry(dispatch.Lines{roster.Text: posts, roster.Email: {{Carrier: b.mails}}}, time.UTC)
}

func (b *bench) troubles(t *testing.T) (ids []int64) {
	list, err := b.store.Troubles(context.Background())
	require.NoError(t, err)
	for _, one := range list {
		ids = append(ids, one.Carrier)
	}
	return ids
}

func refuses(err error) func(int) error { return func(int) error { return err } }

func TestTheNextCarrierTakesOver(t *testing.T) {
	closed, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	require.NoError(t, closed.Close())
	_, dialled := http.Get("http://" + closed.Addr().String()) //nolint:bodyclose // nobody answers
	down := carrier.NewGateway("text gateway", "http://"+closed.Addr().String(), "", "")
	for name, c := range map[string]struct {
		first dispatch.Carrier
		over  bool
	}{
		"its own trouble":        {&recorder{answer: refuses(&carrier.Trouble{Detail: "no credit"})}, true},
		"nobody is there":        {down, true},
		"a refused address":      {&recorder{answer: refuses(&carrier.Refusal{Detail: "no such number", Permanent: true})}, false},
		"a broken answer":        {&recorder{answer: refuses(errors.New("broke"))}, false},
		"nobody can tell of it":  {&recorder{answer: refuses(&carrier.Uncertain{Detail: "broke"})}, false},
		"an error while talking": {&recorder{answer: refuses(fmt.Errorf("wrapped: %w", errors.New(dialled.Error())))}, false},
	} {
		t.Run(name, func(t *testing.T) {
			b := start(t, 0)
			b.carry(dispatch.Post{ID: 7, Carrier: c.first}, dispatch.Post{ID: 8, Carrier: b.texts})
			id := b.send(t, roster.Text)
			if !c.over {
				testkit.Eventually(t, "the first answered about both", func() bool {
					return b.states(t, id)[delivery.Queued] == 0 && b.states(t, id)[delivery.Carrier] == 0
				})
				assert.Empty(t, b.texts.got())
				assert.Empty(t, b.troubles(t))
				return
			}
			testkit.Eventually(t, "both left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
			assert.Len(t, b.texts.got(), 2)
			testkit.Eventually(t, "the trouble is kept", func() bool { return assert.ObjectsAreEqual([]int64{7}, b.troubles(t)) })
			assert.Equal(t, map[int64]dispatch.Condition{7: {}, 8: {Next: true, Taken: 2}}, b.d.Conditions(roster.Text))
		})
	}
}

func TestTheFirstCarrierIsTriedAgain(t *testing.T) {
	b := start(t, 0)
	well := false
	first := &recorder{answer: func(int) error {
		if well {
			return nil
		}
		return &carrier.Trouble{Detail: "no credit"}
	}}
	b.carry(dispatch.Post{ID: 7, Carrier: first}, dispatch.Post{ID: 8, Carrier: b.texts})
	id := b.send(t, roster.Text)
	testkit.Eventually(t, "both left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
	testkit.Eventually(t, "the trouble is kept", func() bool { return len(b.troubles(t)) == 1 })
	first.mu.Lock()
	well = true
	first.mu.Unlock()
	b.d.TryNow(roster.Text)
	id = b.send(t, roster.Text)
	testkit.Eventually(t, "both left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
	testkit.Eventually(t, "the trouble is forgotten", func() bool { return len(b.troubles(t)) == 0 })
	assert.True(t, b.d.Conditions(roster.Text)[7].Next)
}

func TestWhatACarrierTakesInADay(t *testing.T) {
	b := startWith(t, crowd(3), 0)
	second := &recorder{}
	b.carry(dispatch.Post{ID: 7, Carrier: b.texts, PerDay: 3}, dispatch.Post{ID: 8, Carrier: second, PerDay: 1})
	first := b.sendTo(t, roster.Routine, "One", 2, roster.Text)
	testkit.Eventually(t, "both left", func() bool { return b.states(t, first)[delivery.Carrier] == 2 })
	more := b.sendTo(t, roster.Routine, "Two", 3, roster.Text)
	testkit.Eventually(t, "as many left as may", func() bool { return b.states(t, more)[delivery.Carrier] == 2 })
	assert.Len(t, b.texts.got(), 3)
	assert.Len(t, second.got(), 1)

	urgent := b.sendTo(t, roster.Emergency, "Water", 2, roster.Text)
	testkit.Eventually(t, "an emergency left", func() bool { return b.states(t, urgent)[delivery.Carrier] == 2 })
	assert.Equal(t, 1, b.states(t, more)[delivery.Queued], "the rest waits for tomorrow")
	assert.Empty(t, b.troubles(t))

	testkit.Eventually(t, "all of them are counted", func() bool { // soon after they left
		taken, err := b.store.TakenOn(t.Context(), time.Now().UTC().Format(time.DateOnly))
		require.NoError(t, err)
		sum := 0
		for _, one := range taken {
			sum += one.Count
		}
		return sum == 6
	})

	b.carry(dispatch.Post{ID: 7, Carrier: b.texts}) // without a limit
	testkit.Eventually(t, "the rest left", func() bool { return b.states(t, more)[delivery.Carrier] == 3 })
}

// What waited for its first carrier leaves when there is one.
func TestACarrierIsAddedWhileTheProgramRuns(t *testing.T) {
	b := start(t, 0)
	b.carry()
	assert.Equal(t, []roster.Channel{roster.Text, roster.Voice, roster.Push}, without(b.d.Off(), roster.Email))
	id := b.send(t, roster.Text)
	assert.Zero(t, b.states(t, id)[delivery.Carrier])
	b.carry(dispatch.Post{ID: 9, Carrier: b.texts, PerSecond: 1000})
	testkit.Eventually(t, "both left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
	assert.NotContains(t, b.d.Off(), roster.Text)
}

func without(list []roster.Channel, one roster.Channel) (rest []roster.Channel) {
	for _, c := range list {
		if c != one {
			rest = append(rest, c)
		}
	}
	return rest
}

// The trouble of a carrier that is removed is not shown for ever.
func TestATroubleGoesWithItsCarrier(t *testing.T) {
	b := start(t, 0)
	b.carry(dispatch.Post{ID: 7, Carrier: &recorder{answer: refuses(&carrier.Trouble{Detail: "no credit"})}})
	id := b.send(t, roster.Text)
	testkit.Eventually(t, "the trouble is kept", func() bool { return len(b.troubles(t)) == 1 })
	b.carry(dispatch.Post{ID: 8, Carrier: b.texts})
	testkit.Eventually(t, "both left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
	testkit.Eventually(t, "the trouble is forgotten", func() bool { return len(b.troubles(t)) == 0 })
}

// Emails to one domain leave in turn; others, and emergencies, do not wait for them.
func TestEmailsToOneDomainAreSpaced(t *testing.T) {
	b := startWith(t, crowd(4)+"Q,Cy Venn,member,,cy@example.net\n", 0)
	b.d.Carry(dispatch.Lines{roster.Email: {{ID: 7, Carrier: b.mails, PerDomain: 1}}}, time.UTC)
	id := b.sendTo(t, roster.Routine, "One", 5, roster.Email)
	testkit.Eventually(t, "one to each domain left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
	testkit.Eventually(t, "the others wait for their turns", func() bool {
		due, err := b.store.NextDue(t.Context(), roster.Email)
		require.NoError(t, err)
		return due.After(time.Now().Add(30 * time.Second))
	})
	assert.Equal(t, 3, b.states(t, id)[delivery.Queued])
	urgent := b.sendTo(t, roster.Emergency, "Water", 4, roster.Email)
	testkit.Eventually(t, "an emergency left", func() bool { return b.states(t, urgent)[delivery.Carrier] == 4 })
	assert.Equal(t, 2, b.states(t, id)[delivery.Carrier])
}
