package own_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/roster"
)

var now = time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC)

func left(id int64, channel roster.Channel, state delivery.State, ago time.Duration) own.Received {
	return own.Received{
		Message: id, Delivery: id * 100, Key: string(channel), Channel: channel, State: state, Left: now.Add(-ago),
	}
}

// A message stands on the page once, in the form that says most and did not fail.
func TestAMessageStandsThereOnce(t *testing.T) {
	for name, c := range map[string]struct {
		by    []own.Received
		shows roster.Channel
		isNew bool
	}{
		"the email says most": {
			[]own.Received{
				left(1, roster.Push, delivery.Arrived, 0), left(1, roster.Text, delivery.Arrived, 0),
				left(1, roster.Email, delivery.Carrier, 0),
			},
			roster.Email, true,
		},
		"a call says least": {
			[]own.Received{left(1, roster.Voice, delivery.Arrived, 0), left(1, roster.Push, delivery.Arrived, 0)},
			roster.Push, true,
		},
		"an email that failed comes last": {
			[]own.Received{left(1, roster.Email, delivery.Failed, 0), left(1, roster.Voice, delivery.Arrived, 0)},
			roster.Voice, true,
		},
		"what failed alone is shown": {[]own.Received{left(1, roster.Email, delivery.Failed, 0)}, roster.Email, true},
		"opened by another delivery": {
			[]own.Received{left(1, roster.Push, delivery.Opened, 0), left(1, roster.Email, delivery.Carrier, 0)},
			roster.Email, false,
		},
		"older than two days": {[]own.Received{left(1, roster.Email, delivery.Arrived, 49*time.Hour)}, roster.Email, false},
	} {
		t.Run(name, func(t *testing.T) {
			items, others := own.Page(c.by, nil, nil, "", now)
			require.Len(t, items, 1)
			assert.Empty(t, others)
			assert.Equal(t, c.shows, items[0].Channel)
			assert.Equal(t, c.isNew, items[0].New)
		})
	}
}

// What is answered is not new, and what confirms by any delivery is confirmed.
func TestAnsweredAndConfirmed(t *testing.T) {
	answered := left(1, roster.Text, delivery.Arrived, 0)
	answered.Answer = 2
	items, _ := own.Page([]own.Received{
		answered, left(2, roster.Email, delivery.Arrived, time.Hour), left(2, roster.Voice, delivery.Answered, time.Hour),
	}, nil, nil, "", now)
	assert.False(t, items[0].New)
	assert.True(t, items[1].Confirmed)
	assert.False(t, items[0].Confirmed)
}

// Foremost is an emergency, what interrupts, and what belongs to an open job of theirs.
func TestForemost(t *testing.T) {
	pushed := func(id int64) own.Received { return left(id, roster.Push, delivery.Arrived, time.Minute) }
	emergency, interrupts, ours, theirs := pushed(1), pushed(2), pushed(3), pushed(4)
	emergency.Urgency, interrupts.Interrupts, ours.Job, theirs.Job = roster.Emergency, true, 7, 8
	all := []own.Received{emergency, interrupts, ours, theirs, pushed(5)}
	items, _ := own.Page(all, nil, []roster.GroupID{7}, "", now)
	got := map[int64]bool{}
	for _, i := range items {
		got[i.Message] = i.Foremost
		assert.False(t, i.Waits, "only a terminal shows what waits")
	}
	assert.Equal(t, map[int64]bool{1: true, 2: true, 3: true, 4: false, 5: false}, got)
}

// On a terminal, what is foremost waits until it is touched there.
func TestWaitsOnATerminal(t *testing.T) {
	at := func(address string, state delivery.State, ago time.Duration) own.Received {
		r := left(1, roster.Push, state, ago)
		r.Address, r.Urgency = address, roster.Emergency
		return r
	}
	for name, c := range map[string]struct {
		by    own.Received
		waits bool
		key   string
	}{
		"shown":                   {at("Van", delivery.Arrived, 0), true, "push"},
		"not fetched before":      {at("Van", delivery.Carrier, 0), true, "push"},
		"touched":                 {at("Van", delivery.Opened, 0), false, "push"},
		"too old":                 {at("Van", delivery.Arrived, 49*time.Hour), false, "push"},
		"on another device":       {at("Boat", delivery.Arrived, 0), false, ""},
		"nothing of all pressing": {left(1, roster.Email, delivery.Arrived, 0), false, ""},
	} {
		t.Run(name, func(t *testing.T) {
			items, _ := own.Page([]own.Received{c.by}, nil, nil, "Van", now)
			assert.Equal(t, c.waits, items[0].Waits)
			assert.Equal(t, c.key, items[0].OnDevice)
		})
	}
}

// What a terminal fetched has arrived there, and nothing else.
func TestFetched(t *testing.T) {
	at := func(channel roster.Channel, address string, state delivery.State) own.Received {
		r := left(1, channel, state, 0)
		r.Address = address
		return r
	}
	all := []own.Received{
		at(roster.Push, "Van", delivery.Carrier), at(roster.Push, "Boat", delivery.Carrier),
		at(roster.Push, "Van", delivery.Opened), at(roster.Text, "Van", delivery.Carrier), at(roster.Push, "", delivery.Carrier),
	}
	assert.Equal(t, all[:1], own.Fetched(all, "Van"))
	assert.Empty(t, own.Fetched(all, ""), "a page that is no terminal")
}

// Nothing that somebody wrote gets lost: it stands with what it answers, or beside it.
func TestWhatWasWrittenStandsSomewhere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 120).Draw(t, "messages")
		var received []own.Received
		for i := range n {
			received = append(received, left(int64(i+1), roster.Text, delivery.Arrived, time.Duration(i)*time.Minute))
		}
		wrote := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) own.Wrote {
			return own.Wrote{Message: rapid.Int64Range(0, 130).Draw(t, "of")}
		}), 0, 20).Draw(t, "wrote")
		items, others := own.Page(received, wrote, nil, "", now)
		count := len(others)
		for i, item := range items {
			count += len(item.Wrote)
			if i > 0 && item.Left.After(items[i-1].Left) {
				t.Fatalf("item %d is newer than the one before", i)
			}
		}
		if count != len(wrote) || len(items) != min(n, 100) {
			t.Fatalf("%d of %d written, %d of %d messages", count, len(wrote), len(items), n)
		}
	})
}

func TestReadCode(t *testing.T) {
	for name, c := range map[string]struct{ typed, code string }{
		"as it is shown":        {"M7MU 77CB", "M7MU77CB"},
		"small, with a dash":    {"m7mu-77cb", "M7MU77CB"},
		"nought, one and eight": {"M0MU 118B", "MOMUIIBB"},
		"too short":             {"M7MU 77C", ""},
		"too long":              {"M7MU 77CBX", ""},
		"other letters":         {"M7MÜ 77CB", ""},
		"nothing":               {"", ""},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.code, own.ReadCode(c.typed)) })
	}
}

// Every code that is shown is read as it is.
func TestCodesAreRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		random := rapid.StringOfN(rapid.RuneFrom([]rune("ABCDEFGHIJKLMNOPQRSTUVWXYZ234567")), 26, 26, -1).Draw(t, "random")
		code := own.Code(random)
		if own.ReadCode(strings.ToLower(code[:4]+" "+code[4:])) != code {
			t.Fatalf("%q is not read", code)
		}
	})
}

func FuzzReadCode(f *testing.F) {
	f.Add("M7MU 77CB")
	f.Fuzz(func(t *testing.T, typed string) {
		if code := own.ReadCode(typed); code != "" && own.ReadCode(code) != code {
			t.Fatalf("%q became %q, which is no code", typed, code)
		}
	})
}
