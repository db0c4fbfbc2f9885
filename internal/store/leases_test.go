package store_test

import (
	"compress/gzip"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

const leaseTime = 5 * time.Minute

// lease leases deliveries of any urgency for the first run.
func lease(t require.TestingT, s *store.Store, channel roster.Channel, at time.Time, most int) []store.Leased {
	leased, err := s.Lease(ctx, 1, channel, store.Room{Most: most, Others: most}, 0, at, at.Add(leaseTime))
	require.NoError(t, err)
	return leased
}

func finish(t require.TestingT, s *store.Store, done ...store.Handover) {
	_, err := s.Finish(ctx, 1, done, now)
	require.NoError(t, err)
}

func takenBy(leased []store.Leased) []store.Handover {
	done := make([]store.Handover, len(leased))
	for i, one := range leased {
		done[i] = store.Handover{Leased: one.As(delivery.Carrier, "with the carrier")}
	}
	return done
}

// crowd is a roster of people with a number and a mailbox each.
func crowd(n int) string {
	var b strings.Builder
	b.WriteString("Id,Name,Role,Mobile,Email\n")
	for i := range n {
		fmt.Fprintf(&b, "P%d,Bo Venn%d,member,07700 900%03d,bo%d@example.org\n", i, i, i%1000, i)
	}
	return b.String()
}

// toSome is a message to the first so many people of a crowd, by one channel.
func toSome(urgency roster.Urgency, n int, channel roster.Channel) message.Draft {
	d := message.Draft{
		Content: message.Content{Subject: "Hello", Email: rich.Lines("Hello")},
		Routing: message.Routing{Urgency: urgency, Reason: "Water", Steps: precedence.Steps{{channel}}},
	}
	for i := range n {
		d.Audience.Parts = append(d.Audience.Parts, audience.Part{Kind: audience.ByPerson, Person: roster.PersonID(i + 1)})
	}
	return d
}

// released puts a message on hold that leaves at once.
func released(t *testing.T, s *store.Store, d message.Draft) store.Message {
	m, _ := held(t, s, d, now)
	_, err := s.Release(ctx, now)
	require.NoError(t, err)
	return m
}

func byMessage(leased []store.Leased) map[int64]int {
	n := map[int64]int{}
	for _, one := range leased {
		n[one.Message]++
	}
	return n
}

func headingOf(t require.TestingT, s *store.Store, id int64) store.Heading {
	m, err := s.Heading(ctx, id)
	require.NoError(t, err)
	return m
}

func TestNothingLeavesDuringTheHold(t *testing.T) {
	s := open(t, crowd(2))
	m, _ := held(t, s, toSome(roster.Routine, 2, roster.Text), now.Add(time.Minute))
	list, err := s.Release(ctx, now)
	require.NoError(t, err)
	assert.Empty(t, list, "the hold is not over")
	assert.Empty(t, lease(t, s, roster.Text, now, 10))
	next, err := s.NextRelease(ctx, now)
	require.NoError(t, err)
	assert.Equal(t, now.Add(time.Minute), next)
	list, err = s.Release(ctx, next)
	require.NoError(t, err)
	assert.Equal(t, []int64{m.ID}, list)
	assert.Len(t, lease(t, s, roster.Text, next, 10), 2)
}

func TestWhatIsLeasedIsLeasedOnce(t *testing.T) {
	s := open(t, crowd(3))
	m := released(t, s, toSome(roster.Routine, 3, roster.Text))
	first := lease(t, s, roster.Text, now, 2)
	require.Len(t, first, 2)
	second, err := s.Lease(ctx, 2, roster.Text, store.Room{Most: 9, Others: 9}, 0, now, now.Add(leaseTime))
	require.NoError(t, err)
	require.Len(t, second, 1, "another run takes nothing of it")
	_, err = s.Finish(ctx, 1, []store.Handover{
		{Leased: first[0].As(delivery.Carrier, "with the carrier")},
		{Leased: first[1].As(delivery.Retrying, "down"), Due: now.Add(5 * time.Second)},
	}, now)
	require.NoError(t, err)
	assert.Empty(t, lease(t, s, roster.Text, now.Add(4*time.Second), 10), "not before it is due")
	due, err := s.NextDue(ctx, roster.Text)
	require.NoError(t, err)
	assert.Equal(t, now.Add(5*time.Second), due)
	again := lease(t, s, roster.Text, now.Add(5*time.Second), 10)
	require.Len(t, again, 1)
	assert.Equal(t, first[1].Key, again[0].Key, "the key stays")
	assert.Equal(t, 1, again[0].Attempts)
	assert.Equal(t, 2, headingOf(t, s, m.ID).Figures.Here)
}

func TestTheMostUrgentLeavesFirst(t *testing.T) {
	s := open(t, crowd(20))
	routine := released(t, s, toSome(roster.Routine, 20, roster.Text))
	timely := released(t, s, toSome(roster.Timely, 4, roster.Text))
	emergency := released(t, s, toSome(roster.Emergency, 3, roster.Text))
	leased := lease(t, s, roster.Text, now, 10)
	assert.Equal(t, map[int64]int{emergency.ID: 3, timely.ID: 4, routine.ID: 3}, byMessage(leased))
	assert.Equal(t, roster.Emergency, leased[0].Urgency)
	assert.Equal(t, roster.Routine, leased[9].Urgency)
	full, err := s.Lease(ctx, 1, roster.Text, store.Room{Most: 10}, 0, now, now.Add(leaseTime))
	require.NoError(t, err)
	assert.Empty(t, full, "there is room for emergencies alone")
	another := released(t, s, toSome(roster.Emergency, 2, roster.Text))
	full, err = s.Lease(ctx, 1, roster.Text, store.Room{Most: 1}, 0, now, now.Add(leaseTime))
	require.NoError(t, err)
	assert.Equal(t, map[int64]int{another.ID: 1}, byMessage(full))
}

func TestEqualsShareACarrier(t *testing.T) {
	s := open(t, crowd(20))
	large := released(t, s, toSome(roster.Routine, 20, roster.Text))
	small := released(t, s, toSome(roster.Routine, 2, roster.Text))
	leased := lease(t, s, roster.Text, now, 8)
	assert.Equal(t, map[int64]int{large.ID: 6, small.ID: 2}, byMessage(leased))
	assert.Equal(t, small.ID, leased[1].Message, "in turn")

	third := released(t, s, toSome(roster.Routine, 5, roster.Text))
	one, err := s.Lease(ctx, 1, roster.Text, store.Room{Most: 1, Others: 1}, large.ID, now, now.Add(leaseTime))
	require.NoError(t, err)
	assert.Equal(t, map[int64]int{third.ID: 1}, byMessage(one), "it goes on after the one that had the last turn")
}

func TestALeaseThatRanOut(t *testing.T) {
	for _, c := range []struct {
		channel roster.Channel
		again   bool
		want    delivery.State
	}{
		{roster.Text, false, delivery.Queued},
		{roster.Email, false, delivery.Undecided},
		{roster.Email, true, delivery.Queued},
	} {
		t.Run(fmt.Sprint(c.channel, c.again), func(t *testing.T) {
			s := open(t, crowd(2))
			run, err := s.BeginRun(ctx, now)
			require.NoError(t, err)
			m := released(t, s, toSome(roster.Routine, 2, c.channel))
			leased := lease(t, s, c.channel, now, 9)
			require.Len(t, leased, 2)
			list, err := s.RunOut(ctx, run, nil, c.again, now.Add(leaseTime))
			require.NoError(t, err)
			assert.Empty(t, list, "it has not run out")
			list, err = s.RunOut(ctx, run, []int64{leased[0].ID, leased[1].ID}, c.again, now.Add(leaseTime+time.Second))
			require.NoError(t, err)
			assert.Empty(t, list, "the run has them in hand: it knows what became of them")
			list, err = s.RunOut(ctx, run, nil, c.again, now.Add(leaseTime+time.Second))
			require.NoError(t, err)
			assert.Equal(t, []int64{m.ID}, list)
			kept, err := s.Deliveries(ctx, m.ID)
			require.NoError(t, err)
			assert.Equal(t, c.want, kept[0].State)
			f := headingOf(t, s, m.ID).Figures
			assert.Equal(t, 2, f.Waiting)
			assert.Equal(t, map[bool]int{true: 2}[c.want == delivery.Undecided], f.Undecided)
		})
	}
}

// The carrier reported on a delivery before the program had written down that it
// was handed over, and then the program ended.
func TestALeaseThatRanOutAfterItsReport(t *testing.T) {
	for _, channel := range []roster.Channel{roster.Email, roster.Text} {
		for _, stopped := range []bool{false, true} {
			t.Run(fmt.Sprint(channel, " stopped ", stopped), func(t *testing.T) {
				s := open(t, crowd(1))
				run, err := s.BeginRun(ctx, now)
				require.NoError(t, err)
				m := released(t, s, toSome(roster.Routine, 1, channel))
				leased := lease(t, s, channel, now, 1)
				require.Len(t, leased, 1)
				via := map[roster.Channel]delivery.Via{roster.Email: delivery.ViaMail, roster.Text: delivery.ViaGateway}[channel]
				_, err = s.TakeReport(ctx, delivery.Report{
					Via: via, DeliveryKey: leased[0].Key, Key: "r", State: delivery.Arrived, OccurredAt: now,
				}, now)
				require.NoError(t, err)
				if stopped {
					_, err = s.Stop(ctx, m.ID, "Hugo", now)
					require.NoError(t, err)
				}
				_, err = s.RunOut(ctx, run+1, nil, false, now)
				require.NoError(t, err)
				requireFigures(t, s, m.ID)
				assert.Equal(t, record.Figures{Recipients: 1, Reached: 1, Deliveries: 1}, headingOf(t, s, m.ID).Figures)
			})
		}
	}
}

// A run that ended on this machine holds no lease; one elsewhere does until it runs out.
func TestLeasesOfAnEarlierRun(t *testing.T) {
	s := open(t, crowd(1))
	_, err := s.BeginRun(ctx, now)
	require.NoError(t, err)
	m := released(t, s, toSome(roster.Routine, 1, roster.Text))
	leased := lease(t, s, roster.Text, now, 1)
	require.Len(t, leased, 1)
	_, writer := s.Sessions()
	_, err = writer.Exec(`UPDATE runs SET host = 'elsewhere.example'`)
	require.NoError(t, err)
	run, err := s.BeginRun(ctx, now)
	require.NoError(t, err)
	list, err := s.RunOut(ctx, run, nil, false, now)
	require.NoError(t, err)
	assert.Empty(t, list)
	_, err = writer.Exec(`UPDATE runs SET host = (SELECT host FROM runs WHERE id = ?)`, run)
	require.NoError(t, err)
	list, err = s.RunOut(ctx, run, nil, false, now)
	require.NoError(t, err)
	assert.Equal(t, []int64{m.ID}, list)

	// The earlier run lived after all: what it knows for certain counts, what it would try again does not.
	_, err = s.Lease(ctx, run, roster.Text, store.Room{Most: 1, Others: 1}, 0, now, now.Add(leaseTime))
	require.NoError(t, err)
	_, err = s.Finish(
		ctx, 1, []store.Handover{{Leased: leased[0].As(delivery.Retrying, "down"), Due: now}}, now,
	)
	require.NoError(t, err)
	assert.Empty(t, lease(t, s, roster.Text, now.Add(time.Hour), 1))
	_, err = s.Finish(ctx, 1, takenBy(leased), now)
	require.NoError(t, err)
	assert.Equal(t, store.Sent, headingOf(t, s, m.ID).State)
}

func TestStopReachesAllThatIsNotLeased(t *testing.T) {
	s := open(t, crowd(5))
	m := released(t, s, toSome(roster.Routine, 5, roster.Text))
	leased := lease(t, s, roster.Text, now, 3)
	draft, err := s.Stop(ctx, m.ID, "Hugo", now)
	require.NoError(t, err)
	assert.False(t, draft)
	assert.Equal(t, 2, headingOf(t, s, m.ID).Figures.StoppedDeliveries)
	assert.Empty(t, lease(t, s, roster.Text, now, 9), "nothing more is leased")
	finish(t, s, store.Handover{Leased: leased[0].As(delivery.Carrier, "")}, store.Handover{
		Leased: leased[1].As(delivery.Retrying, "down"), Due: now,
	})
	assert.Equal(t, store.Sending, headingOf(t, s, m.ID).State, "one is still being handed over")
	require.NoError(t, s.GiveBack(ctx, []int64{leased[2].ID}, nil, now))
	after := headingOf(t, s, m.ID)
	assert.Equal(t, store.Stopped, after.State)
	assert.Equal(t, record.Figures{
		Recipients: 5, Waiting: 1, Stopped: 4, Deliveries: 5, StoppedDeliveries: 4,
	}, after.Figures)
	_, err = s.Stop(ctx, m.ID, "Hugo", now)
	require.NoError(t, err, "once more changes nothing")
	assert.Equal(t, after.Figures, headingOf(t, s, m.ID).Figures)
}

// Stop was pressed, and the program ended before all of it was written.
func TestAStopIsGoneThroughWith(t *testing.T) {
	s := open(t, crowd(3))
	m := released(t, s, toSome(roster.Routine, 3, roster.Text))
	_, writer := s.Sessions()
	_, err := writer.Exec(`UPDATE messages SET stopped_at = 1 WHERE id = ?`, m.ID)
	require.NoError(t, err)
	assert.Empty(t, lease(t, s, roster.Text, now, 9))
	_, err = s.BeginRun(ctx, now)
	require.NoError(t, err)
	assert.Equal(t, store.Stopped, headingOf(t, s, m.ID).State)
}

func TestDecidingWhatNobodyCanTell(t *testing.T) {
	for _, again := range []bool{true, false} {
		t.Run(fmt.Sprint("again ", again), func(t *testing.T) {
			s := open(t, crowd(2))
			m := released(t, s, toSome(roster.Routine, 2, roster.Email))
			leased := lease(t, s, roster.Email, now, 1)
			finish(t, s, store.Handover{Leased: leased[0].As(delivery.Undecided, "the connection broke")})
			finish(t, s, takenBy(lease(t, s, roster.Email, now, 1))...)
			require.Equal(t, store.Sent, headingOf(t, s, m.ID).State)
			n, err := s.Decide(ctx, m.ID, again, "Hugo", now)
			require.NoError(t, err)
			assert.Equal(t, 1, n)
			f := headingOf(t, s, m.ID)
			assert.Zero(t, f.Figures.Undecided)
			if !again {
				assert.Equal(t, store.Sent, f.State)
				assert.Equal(t, 1, f.Figures.NotReached)
				return
			}
			assert.Equal(t, store.Sending, f.State)
			once := lease(t, s, roster.Email, now, 9)
			require.Len(t, once, 1)
			assert.Equal(t, leased[0].Key, once[0].Key, "under the same key")
		})
	}
}

func TestWhatWasStoppedIsNotSentAgain(t *testing.T) {
	s := open(t, crowd(2))
	m := released(t, s, toSome(roster.Routine, 2, roster.Email))
	leased := lease(t, s, roster.Email, now, 1)
	_, err := s.Stop(ctx, m.ID, "Hugo", now)
	require.NoError(t, err)
	finish(t, s, store.Handover{Leased: leased[0].As(delivery.Undecided, "")})
	_, err = s.Decide(ctx, m.ID, true, "Hugo", now)
	require.ErrorIs(t, err, store.ErrConflict)
	n, err := s.Decide(ctx, m.ID, false, "Hugo", now)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
}

// A message ends with the last word about its deliveries, whoever has it.
func TestAReportMayHaveTheLastWord(t *testing.T) {
	s := open(t, crowd(1))
	m := released(t, s, toSome(roster.Routine, 1, roster.Text))
	leased := lease(t, s, roster.Text, now, 1)
	_, err := s.TakeReport(
		ctx,
		delivery.Report{
			Via: delivery.ViaGateway, DeliveryKey: leased[0].Key, Key: "r", State: delivery.Arrived, OccurredAt: now,
		},
		now,
	)
	require.NoError(t, err)
	assert.Equal(t, store.Sent, headingOf(t, s, m.ID).State)
	finish(t, s, takenBy(leased)...)
	after := headingOf(t, s, m.ID)
	assert.Equal(t, store.Sent, after.State)
	assert.Equal(t, record.Figures{Recipients: 1, Reached: 1, Deliveries: 1}, after.Figures)
}

func TestIdenticalDeliveriesShareOneContent(t *testing.T) {
	s := open(t, crowd(30))
	released(t, s, toSome(roster.Routine, 30, roster.Text))
	var contents int
	reader, _ := s.Sessions()
	require.NoError(t, reader.QueryRow(`SELECT count(*) FROM contents`).Scan(&contents))
	assert.Equal(t, 1, contents)
	leased := lease(t, s, roster.Text, now, 30)
	read, err := s.Contents(ctx, []int64{leased[7].ContentID})
	require.NoError(t, err)
	assert.Equal(t, "Hello", read[leased[7].ContentID].Body)
}

// A plan that was not written to its end counts for nothing and is cleared.
func TestAPlanThatWasNotWrittenToItsEnd(t *testing.T) {
	s := open(t, crowd(3))
	m, _ := held(t, s, toSome(roster.Routine, 3, roster.Text), now.Add(time.Hour))
	_, writer := s.Sessions()
	_, err := writer.Exec(`UPDATE messages SET state = 'draft' WHERE id = ?`, m.ID) // as if killed just before
	require.NoError(t, err)
	assert.Empty(t, lease(t, s, roster.Text, now.Add(2*time.Hour), 9))
	_, err = s.BeginRun(ctx, now)
	require.NoError(t, err)
	for _, table := range []string{"recipients", "deliveries", "delivery_recipients", "contents", "figures", "sendings"} {
		var n int
		require.NoError(t, writer.QueryRow(`SELECT count(*) FROM `+table).Scan(&n))
		assert.Zero(t, n, table)
	}
	assert.Zero(t, headingOf(t, s, m.ID).Figures)
}

// A program that begins leaves alone what is just being sent.
func TestAPlanThatIsJustBeingWrittenIsNotCleared(t *testing.T) {
	s := open(t, crowd(3000))
	d := toSome(roster.Routine, 0, roster.Email)
	d.Audience.Parts = []audience.Part{{Kind: audience.ByRole, Role: roster.Member}}
	ended, stop := make(chan error), make(chan struct{})
	go func() {
		for {
			select {
			case <-stop:
				close(ended)
				return
			default:
				if _, err := s.BeginRun(ctx, now); err != nil {
					ended <- err
					return
				}
			}
		}
	}()
	m, _ := held(t, s, d, now)
	close(stop)
	require.NoError(t, <-ended)
	f := headingOf(t, s, m.ID).Figures
	assert.Equal(t, 3000, f.Deliveries)
	assert.Len(t, deliveriesOf(t, s, m.ID), 3000)
}

func deliveriesOf(t require.TestingT, s *store.Store, id int64) []store.DeliveryRecord {
	list, err := s.Deliveries(ctx, id)
	require.NoError(t, err)
	return list
}

// A draft that changes, or is deleted, while its plan is being written is not sent,
// and nothing is left of the plan.
func TestADraftThatChangesWhileItsPlanIsWritten(t *testing.T) {
	s := open(t, crowd(3000))
	_, writer := s.Sessions()
	count := func(table string) (n int) {
		require.NoError(t, writer.QueryRow(`SELECT count(*) FROM `+table).Scan(&n))
		return n
	}
	for name, change := range map[string]func(store.Message, message.Draft) error{
		"saved": func(m store.Message, d message.Draft) error {
			_, err := s.SaveDraft(ctx, m.ID, m.Revision, 1, d, now)
			return err
		},
		"deleted": func(m store.Message, _ message.Draft) error { return s.DeleteDraft(ctx, m.ID) },
	} {
		t.Run(name, func(t *testing.T) {
			d := toSome(roster.Routine, 0, roster.Email)
			d.Audience.Parts = []audience.Part{{Kind: audience.ByRole, Role: roster.Member}}
			m, err := s.AddDraft(ctx, 1, d, now)
			require.NoError(t, err)
			r, err := s.Roster(ctx)
			require.NoError(t, err)
			p := plan.Make(r, d, plan.Settings{Fixed: plan.Fixed{Language: "en"}})
			sent := make(chan error)
			go func() { sent <- s.Hold(ctx, m.ID, m.Revision, store.Senders{Sender: 1}, r, p, now, now) }()
			testkit.Eventually(t, "some of the plan is there", func() bool { return count("recipients") > 0 })
			require.NoError(t, change(m, d))
			require.ErrorIs(t, <-sent, store.ErrConflict)
			for _, table := range []string{"recipients", "deliveries", "contents", "figures"} {
				assert.Zero(t, count(table), table)
			}
		})
	}
}

// Whatever happens in whatever order, the kept figures are what counting anew
// comes to, every delivery is in one place, and a message that has nothing left has
// ended.
func TestKeptFiguresAlwaysAddUp(t *testing.T) {
	s := open(t, crowd(4))
	_, err := s.BeginRun(ctx, now)
	require.NoError(t, err)
	rapid.Check(t, func(rt *rapid.T) {
		m := released(t, s, toSome(roster.Routine, 4, roster.Email))
		var leased []store.Leased
		at := now
		defer func() { // the next one begins with nothing on its way, and with sound addresses
			_, err := s.Stop(ctx, m.ID, "Hugo", at)
			require.NoError(rt, err)
			list, err := s.Deliveries(ctx, m.ID)
			require.NoError(rt, err)
			for _, d := range list {
				_, err := s.TakeReport(ctx, delivery.Report{
					Via: delivery.ViaMail, DeliveryKey: d.Key, Key: "at last", State: delivery.Arrived, OccurredAt: at,
				}, at)
				require.NoError(rt, err)
			}
		}()
		reported := 0
		reached := map[int64]bool{}
		for range rapid.IntRange(1, 14).Draw(rt, "steps") {
			at = at.Add(time.Minute)
			switch rapid.SampledFrom(
				[]string{"lease", "finish", "back", "report", "stop", "run out", "decide"},
			).Draw(rt, "step") {
			case "lease":
				leased = append(leased, lease(rt, s, roster.Email, at, rapid.IntRange(1, 3).Draw(rt, "most"))...)
			case "finish":
				if len(leased) > 0 {
					state := rapid.SampledFrom(
						[]delivery.State{delivery.Carrier, delivery.Retrying, delivery.Failed, delivery.Expired, delivery.Undecided},
					).Draw(rt, "became")
					_, err := s.Finish(ctx, 1, []store.Handover{{Leased: leased[0].As(state, string(state)), Due: at}}, at)
					require.NoError(rt, err)
					leased = leased[1:]
				}
			case "back":
				if len(leased) > 0 {
					require.NoError(rt, s.GiveBack(ctx, []int64{leased[0].ID}, nil, at))
					leased = leased[1:]
				}
			case "report":
				list, err := s.Deliveries(ctx, m.ID)
				require.NoError(rt, err)
				d := rapid.SampledFrom(list).Draw(rt, "of")
				reported++
				state := rapid.SampledFrom(
					[]delivery.State{delivery.Arrived, delivery.Failed, delivery.Opened, delivery.Answered},
				).Draw(rt, "says")
				_, err = s.TakeReport(
					ctx,
					delivery.Report{
						Via: delivery.ViaMail, DeliveryKey: d.Key, Key: fmt.Sprint(reported), State: state, OccurredAt: at,
					},
					at,
				)
				require.NoError(rt, err)
			case "stop":
				_, err := s.Stop(ctx, m.ID, "Hugo", at)
				require.NoError(rt, err)
			case "run out":
				_, err := s.RunOut(ctx, 1, nil, rapid.Bool().Draw(rt, "again"), at.Add(leaseTime+time.Second))
				require.NoError(rt, err)
				leased = nil
			case "decide":
				_, err := s.Decide(ctx, m.ID, rapid.Bool().Draw(rt, "again"), "Hugo", at)
				if err != nil {
					require.ErrorIs(rt, err, store.ErrConflict)
				}
			}
			requireFigures(rt, s, m.ID)
			requireReached(rt, s, m.ID, reached)
		}
	})
}

// requireReached checks that what had arrived still has, and adds what has by now.
func requireReached(t require.TestingT, s *store.Store, id int64, reached map[int64]bool) {
	list, err := s.Deliveries(ctx, id)
	require.NoError(t, err)
	for _, d := range list {
		require.True(t, d.State.Reached() || !reached[d.ID], "it had arrived, and is %s", d.State)
		reached[d.ID] = d.State.Reached()
	}
}

func requireFigures(t require.TestingT, s *store.Store, id int64) {
	m := headingOf(t, s, id)
	list, err := s.Deliveries(ctx, id)
	require.NoError(t, err)
	var anew record.Figures
	for _, d := range list {
		anew.AddDelivery(d.State, d.Cost)
		anew.AddRecipients(record.Of([]delivery.State{d.State}), 1) // one each
	}
	require.Equal(t, anew, m.Figures)
	require.Equal(t, anew.Here > 0, m.State == store.Sending)
	rows, all, err := s.Recipients(ctx, m, store.Wanted{Count: 100})
	require.NoError(t, err)
	require.Equal(t, anew.Recipients, all)
	for _, r := range rows {
		require.Equal(t, record.Of([]delivery.State{r.Deliveries[0].State}), r.Outcome)
	}
}

// A folder of an earlier version is taken over with everything that it says.
func TestAFolderOfAnEarlierVersion(t *testing.T) {
	folder := t.TempDir()
	unpack(t, "testdata/form-4.db.gz", filepath.Join(folder, store.FileName))
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	before, err := store.Examine(ctx, filepath.Join(folder, fmt.Sprintf("before-form-%d.db", store.Form())))
	require.NoError(t, err, "it was copied first")
	assert.EqualValues(t, 4, before.Form)
	for id, want := range map[int64]struct {
		title string
		state store.MessageState
		f     record.Figures
	}{
		1: {"Outing", store.Sent, record.Figures{Recipients: 4, Reached: 4, LeftOut: 1, Deliveries: 5, Planned: 14100, Spent: 14100}},
		2: {"Flood", store.Sending, record.Figures{Recipients: 4, Reached: 4, LeftOut: 1, Deliveries: 7, Here: 2, Planned: 27100, Spent: 19500}},
		3: {"Stopped", store.Stopped, record.Figures{Recipients: 2, Stopped: 2, LeftOut: 3, Deliveries: 2, StoppedDeliveries: 2, Planned: 7600, Saved: 7600}},
		4: {"Next term", store.Held, record.Figures{Recipients: 3, Waiting: 3, LeftOut: 2, Deliveries: 3, Here: 3, Planned: 10300}},
		5: {"A draft", store.Draft, record.Figures{}},
		6: {"On its way", store.Sending, record.Figures{Recipients: 2, Waiting: 2, LeftOut: 3, Deliveries: 3, Here: 2, Undecided: 1, Planned: 7600}},
	} {
		m := headingOf(t, s, id)
		assert.Equal(t, want.title, m.Title)
		assert.Equal(t, want.state, m.State, m.Title)
		assert.Equal(t, want.f, m.Figures, m.Title)
	}
	assert.True(t, headingOf(t, s, 4).Scheduled)
	assert.Equal(t, roster.Emergency, headingOf(t, s, 2).Urgency)

	recent := headingOf(t, s, 6).UpdatedAt.Add(time.Hour)
	texts := lease(t, s, roster.Text, recent, 10)
	require.Len(t, texts, 4, "what was waiting leaves, the emergency first")
	assert.Equal(t, int64(2), texts[0].Message)
	assert.Equal(t, "+447700900100", texts[0].Sender)
	contents, err := s.Contents(ctx, []int64{texts[0].ContentID, texts[3].ContentID})
	require.NoError(t, err)
	assert.Contains(t, contents[texts[0].ContentID].Body, "Leave the lower path.")
	assert.Contains(t, contents[texts[3].ContentID].Body, "Bring oars.")

	list, err := s.Deliveries(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, "Dear Rania, the outing begins at 9.", list[1].Content.Body)
	mail := list[1]
	_, err = s.TakeReport(
		ctx,
		delivery.Report{
			Via: delivery.ViaMail, DeliveryKey: mail.Key, Key: "late", State: delivery.Opened, OccurredAt: recent,
		},
		recent,
	)
	require.NoError(t, err, "its reports are still taken")
	_, err = s.Sending(ctx, 1)
	require.ErrorIs(t, err, store.ErrNotFound, "nobody knows with what it was sent")
}

func unpack(t *testing.T, from, to string) {
	f, err := os.Open(from)
	require.NoError(t, err)
	defer f.Close() //nolint:errcheck // it was only read
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	content, err := io.ReadAll(z)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(to, content, 0o600))
}
