package standin_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

// party is one carrier with what is peculiar to its channel.
type party struct {
	channel roster.Channel
	hand    func(context.Context, carrier.Item) error
	to      string
	as      func(carrier.Item) carrier.Item // how the channel has an item
	late    bool                            // that an address is gone is reported, not answered
}

func same(i carrier.Item) carrier.Item { return i }

func (r *rig) parties() []party {
	toDevice := func(i carrier.Item) carrier.Item {
		i.Push.Device = standin.Device(i.To)
		return i
	}
	fromNumber := func(i carrier.Item) carrier.Item {
		i.From = "+447700900000"
		return i
	}
	return []party{
		{channel: roster.Email, hand: r.mail.Hand, to: "rania@example.org", as: same},
		{channel: roster.Text, hand: r.text.Hand, to: "+447700900001", as: fromNumber, late: true},
		{channel: roster.Voice, hand: r.voice.Hand, to: "+447700900001", as: fromNumber, late: true},
		{channel: roster.Push, hand: r.push.Hand, to: "Rania’s phone", as: toDevice},
	}
}

// Every carrier and its stand-in keep to the same: what a dispatcher relies on.
func TestContract(t *testing.T) {
	for _, clause := range []struct {
		name string
		hold func(*testing.T, *rig, party)
	}{
		{"what is handed over is there as it was sent", handsOver},
		{"a key is taken once", takesAKeyOnce},
		{"a carrier that is down is not to blame on an address", isDown},
		{"an address that is gone is known", isGone},
		{"giving up ends a hand-over at once", givesUp},
		{"what became of it is reported", reports},
	} {
		t.Run(clause.name, func(t *testing.T) {
			for at, channel := range roster.Channels {
				t.Run(string(channel), func(t *testing.T) {
					r := newRig(t)
					p := r.parties()[at]
					require.Equal(t, channel, p.channel)
					clause.hold(t, r, p)
				})
			}
		})
	}
}

func (p party) item(key string) carrier.Item {
	return p.as(item(key, p.to, "Śluza is open — 水位 3 m"))
}

func handsOver(t *testing.T, r *rig, p party) {
	require.NoError(t, p.hand(ctx, p.item("A")))
	got, err := r.box.Received(ctx, []string{p.to})
	require.NoError(t, err)
	require.Len(t, got, 1)
	assert.Equal(t, p.channel, got[0].Channel)
	assert.Equal(t, "Śluza is open — 水位 3 m", got[0].Body)
	if p.channel == roster.Email || p.channel == roster.Push {
		assert.Equal(t, "Śluza – 水位", got[0].Subject)
	}
}

func takesAKeyOnce(t *testing.T, r *rig, p party) {
	for range 3 {
		require.NoError(t, p.hand(ctx, p.item("A")))
	}
	require.NoError(t, p.hand(ctx, p.item("B")))
	got, err := r.box.Received(ctx, []string{p.to})
	require.NoError(t, err)
	require.Len(t, got, 2, "it shows once")
	times := []int{got[0].Times, got[1].Times}
	assert.ElementsMatch(t, []int{3, 1}, times, "and how often it came is counted")
}

func isDown(t *testing.T, r *rig, p party) {
	require.NoError(t, r.box.SetDown(t.Context(), p.channel, standin.Forever))
	err := p.hand(ctx, p.item("A"))
	require.Error(t, err)
	var refusal *carrier.Refusal
	if errors.As(err, &refusal) {
		assert.False(t, refusal.Permanent || refusal.Gone || refusal.Address, "%v", err)
	}
	var uncertain *carrier.Uncertain
	assert.False(t, errors.As(err, &uncertain), "it certainly took nothing")
	require.NoError(t, r.box.SetDown(t.Context(), p.channel, time.Time{}))
	require.NoError(t, p.hand(ctx, p.item("A")), "and takes it when it is up again")
}

func isGone(t *testing.T, r *rig, p party) {
	require.NoError(t, r.box.SetFault(ctx, p.to, standin.Gone))
	err := p.hand(ctx, p.item("A"))
	if p.late {
		require.NoError(t, err)
		testkit.Eventually(t, "the report that the address is gone", func() bool { return r.last("A").Gone })
		assert.Equal(t, delivery.Failed, r.last("A").State)
		return
	}
	var refusal *carrier.Refusal
	require.ErrorAs(t, err, &refusal)
	assert.True(t, refusal.Permanent && refusal.Gone && refusal.Address, "%+v", refusal)
}

func givesUp(t *testing.T, _ *rig, p party) {
	gone, cancel := context.WithCancel(ctx)
	cancel()
	ended := make(chan error, 1)
	go func() { ended <- p.hand(gone, p.item("A")) }()
	select {
	case err := <-ended:
		require.Error(t, err)
		var refusal *carrier.Refusal
		assert.False(t, errors.As(err, &refusal), "nobody refused it")
	case <-time.After(10 * time.Second):
		t.Fatal("it goes on although nobody waits")
	}
}

func reports(t *testing.T, r *rig, p party) {
	require.NoError(t, p.hand(ctx, p.item("A")))
	testkit.Eventually(t, "the report", func() bool { return r.last("A").State.Reached() })
}

// last is the newest report of a delivery.
func (r *rig) last(key string) (last delivery.Report) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, report := range r.reports {
		if report.DeliveryKey == key {
			last = report
		}
	}
	return last
}
