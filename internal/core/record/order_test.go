package record_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/record"
)

// The state that says most, whatever the order in which the deliveries stand.
func TestBest(t *testing.T) {
	for at, better := range []delivery.State{
		delivery.Failed, delivery.Expired, delivery.Stopped, delivery.Held, delivery.Queued, delivery.Retrying,
		delivery.Undecided, delivery.Carrier, delivery.Arrived, delivery.Opened, delivery.Answered,
	} {
		if at == 0 {
			assert.Equal(t, better, record.Best(nil), "nothing was sent")
			continue
		}
		for _, other := range delivery.States {
			best := record.Best([]delivery.State{other, better})
			assert.Equal(t, best, record.Best([]delivery.State{better, other}), "%s and %s", other, better)
		}
		assert.Equal(t, better, record.Best([]delivery.State{delivery.Failed, better}))
		assert.Equal(t, better, record.Best([]delivery.State{better}))
	}
	assert.Equal(t, delivery.Carrier, record.Best([]delivery.State{delivery.Failed, delivery.Carrier, delivery.Queued}))
}

func TestWhatChangesNoOutcome(t *testing.T) {
	assert.True(t, record.SameOutcome(delivery.Queued, delivery.Carrier))
	assert.True(t, record.SameOutcome(delivery.Arrived, delivery.Opened))
	assert.True(t, record.SameOutcome(delivery.Failed, delivery.Expired))
	assert.False(t, record.SameOutcome(delivery.Opened, delivery.Answered))
	assert.False(t, record.SameOutcome(delivery.Carrier, delivery.Arrived))
	assert.False(t, record.SameOutcome(delivery.Queued, delivery.Stopped))
}

func TestMoneyAndCountsFollowADelivery(t *testing.T) {
	var f record.Figures
	f.AddDelivery(delivery.Queued, 300)
	assert.Equal(t, record.Figures{Deliveries: 1, Here: 1, Planned: 300}, f)
	f.MoveDelivery(delivery.Queued, delivery.Undecided, 300)
	assert.Equal(t, record.Figures{Deliveries: 1, Undecided: 1, Planned: 300, Spent: 300}, f)
	f.MoveDelivery(delivery.Undecided, delivery.Carrier, 300)
	assert.Equal(t, record.Figures{Deliveries: 1, Planned: 300, Spent: 300}, f)
	f.AddDelivery(delivery.Stopped, 100)
	assert.Equal(t, record.Figures{Deliveries: 2, Planned: 400, Spent: 300, Saved: 100, StoppedDeliveries: 1}, f)
}

func TestPeopleAreCountedOnceAndTakenAway(t *testing.T) {
	for _, o := range record.Outcomes {
		var f record.Figures
		f.AddRecipients(o, 3)
		assert.Equal(t, 3, f.Reached+f.Waiting+f.NotReached+f.Stopped, o)
		assert.Equal(t, o == record.Answered, f.Answered == 3, o)
		f.AddRecipients(o, -3)
		assert.Equal(t, record.Figures{}, f, o)
	}
}

func TestFailuresAreInOrder(t *testing.T) {
	list := []record.Failure{{Detail: "b", Deliveries: 2}, {Detail: "c", Deliveries: 9}, {Detail: "a", Deliveries: 2}}
	record.SortFailures(list)
	assert.Equal(t, []record.Failure{{Detail: "c", Deliveries: 9}, {Detail: "a", Deliveries: 2}, {Detail: "b", Deliveries: 2}}, list)
}
