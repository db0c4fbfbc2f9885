package dispatch_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// crowd is a roster of people with a number and a mailbox each.
func crowd(n int) string {
	var b strings.Builder
	b.WriteString("Id,Name,Role,Mobile,Email\n")
	for i := range n {
		fmt.Fprintf(&b, "P%d,Bo Venn%d,member,07700 900%03d,bo%d@example.org\n", i, i, i, i)
	}
	return b.String()
}

var hugo = access.Principal{ID: 1, Name: "Hugo", Grant: access.Program.Grant}

// sendTo sends the first so many people of a crowd a message by one channel; its
// words are its subject.
func (b *bench) sendTo(t *testing.T, urgency roster.Urgency, words string, people int, channel roster.Channel) int64 {
	ctx := context.Background()
	d := message.Draft{
		Content: message.Content{Subject: words, Email: rich.Lines(words)},
		Routing: message.Routing{Urgency: urgency, Reason: "Water", Steps: precedence.Steps{{channel}}},
	}
	for i := range people {
		d.Audience.Parts = append(d.Audience.Parts, audience.Part{Kind: audience.ByPerson, Person: roster.PersonID(i + 1)})
	}
	m, err := b.store.AddDraft(ctx, 1, d, time.Now())
	require.NoError(t, err)
	_, err = b.service.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: people}, hugo)
	require.NoError(t, err)
	return m.ID
}

func (b *bench) figures(t *testing.T, id int64) store.Heading {
	m, err := b.store.Heading(context.Background(), id)
	require.NoError(t, err)
	return m
}

// count is how many of the items say something.
func count(items []carrier.Item, words string) (n int) {
	for _, item := range items {
		if strings.Contains(item.Body, words) {
			n++
		}
	}
	return n
}

func TestStopLetsNothingMoreLeave(t *testing.T) {
	const people = 120
	b := startWith(t, crowd(people), 20)
	id := b.sendTo(t, roster.Routine, "bring oars", people, roster.Text)
	testkit.Eventually(t, "some have left", func() bool { return len(b.texts.got()) >= 25 })
	stopped, err := b.service.Stop(context.Background(), id, hugo)
	require.NoError(t, err)
	left := len(b.texts.got())
	assert.Equal(t, sending.Stopped{Stopped: people - left}, stopped, "every one has left, or is said to be stopped")
	assert.Less(t, left, people)
	assert.Equal(t, store.Stopped, b.figures(t, id).State)
	assert.Equal(t, left, b.states(t, id)[delivery.Carrier])
}

func TestStopSaysWhatIsStillBeingHandedOver(t *testing.T) {
	b := startWith(t, crowd(60), 0)
	release := make(chan struct{})
	b.texts.answer = func(int) error {
		<-release
		return nil
	}
	id := b.sendTo(t, roster.Routine, "bring oars", 60, roster.Text)
	testkit.Eventually(t, "the carrier hangs", func() bool { return len(b.texts.got()) == 32 })
	stopped, err := b.service.Stop(context.Background(), id, hugo)
	require.NoError(t, err)
	assert.Equal(t, sending.Stopped{Stopped: 28, Leaving: 32}, stopped)
	close(release)
	testkit.Eventually(t, "it has ended", func() bool { return b.figures(t, id).State == store.Stopped })
	assert.Len(t, b.texts.got(), 32, "nothing left after Stop")
}

func TestAnEmergencyLeavesBeforeAllOthers(t *testing.T) {
	b := startWith(t, crowd(200), 20)
	routine := b.sendTo(t, roster.Routine, "bring oars", 200, roster.Text)
	testkit.Eventually(t, "the limit has all in hand that it takes", func() bool { return len(b.texts.got()) >= 22 })
	emergency := b.sendTo(t, roster.Emergency, "leave the path", 15, roster.Text)
	before := len(b.texts.got())
	testkit.Eventually(t, "the emergency has left", func() bool { return count(b.texts.got(), "leave the path") == 15 })
	items := b.texts.got()[before:]
	last := 0
	for i, item := range items {
		if strings.Contains(item.Body, "leave the path") {
			last = i + 1
		}
	}
	assert.LessOrEqual(t, last-15, 2, "no more of the others left meanwhile than were being handed over")
	for _, id := range []int64{routine, emergency} {
		_, err := b.service.Stop(context.Background(), id, hugo)
		require.NoError(t, err)
	}
}

func TestAnEmergencyFindsAHandWhenTheCarrierHangs(t *testing.T) {
	b := startWith(t, crowd(60), 0)
	release := make(chan struct{})
	var once sync.Once
	defer once.Do(func() { close(release) })
	b.texts.hangs = func(item carrier.Item) {
		if strings.Contains(item.Body, "oars") {
			<-release
		}
	}
	b.sendTo(t, roster.Timely, "bring oars", 60, roster.Text)
	testkit.Eventually(t, "the carrier hangs", func() bool { return len(b.texts.got()) == 32 })
	id := b.sendTo(t, roster.Emergency, "leave the path", 3, roster.Text)
	testkit.Eventually(t, "the emergency is with the carrier", func() bool { return b.states(t, id)[delivery.Carrier] == 3 })
	once.Do(func() { close(release) })
}

func TestASmallMessageDoesNotWaitForALargeOne(t *testing.T) {
	b := startWith(t, crowd(200), 20)
	large := b.sendTo(t, roster.Routine, "bring oars", 200, roster.Text)
	testkit.Eventually(t, "the large one leaves", func() bool { return len(b.texts.got()) >= 22 })
	before := len(b.texts.got())
	b.sendTo(t, roster.Routine, "keys found", 5, roster.Text)
	testkit.Eventually(t, "the small one has left", func() bool { return count(b.texts.got(), "keys found") == 5 })
	assert.LessOrEqual(t, len(b.texts.got())-before, 20+2*5+5, "after what lay ready they take turns")
	_, err := b.service.Stop(context.Background(), large, hugo)
	require.NoError(t, err)
}

func TestAnUncertainHandOver(t *testing.T) {
	for _, again := range []bool{false, true} {
		t.Run(fmt.Sprint("sent again ", again), func(t *testing.T) {
			b := startWith(t, crowd(1), 0)
			o, err := b.store.Organisation(context.Background())
			require.NoError(t, err)
			o.Sending.SendAgain = again
			require.NoError(t, b.store.PutOrganisation(context.Background(), o))
			b.mails.answer = func(int) error { return &carrier.Uncertain{Detail: "the connection broke"} }
			id := b.sendTo(t, roster.Routine, "bring oars", 1, roster.Email)
			want := delivery.Undecided
			if again {
				want = delivery.Retrying
			}
			testkit.Eventually(t, "it is "+string(want), func() bool { return b.states(t, id)[want] == 1 })
			assert.Equal(t, !again, b.figures(t, id).State == store.Sent, "nothing is left to be handed over by itself")
		})
	}
}
