package app_test

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

type figures struct{ Recipients, Reached, Waiting, NotReached, Stopped, LeftOut, Deliveries, Here int }

type record struct {
	Message struct {
		State   string
		Figures figures
	}
	Recipients []struct {
		Name, Outcome, State, Why string
		Step                      int
		Deliveries                []struct {
			Channel, Address, State, Detail string
			Attempts                        int
		}
	}
	LeftOut  []struct{ Name, Reason, Detail, WayOut string }
	Failures []struct {
		Detail     string
		Deliveries int
		Retrying   bool
	}
	Spent   string
	Planned string
}

// body is a draft for the junior squads and the coaches.
func body(urgency, text string) string {
	return fmt.Sprintf(`{"urgency":%q,"audience":{"parts":[{"kind":"group","group":1},{"kind":"group","group":4}],"receivers":"guardians"},
"subject":"Outing moved","email":%q,"ownText":false,"text":"","firstOnly":false}`, urgency, text)
}

// send keeps and sends a draft and returns the message's number.
func send(c *testkit.Client, draft string) int64 {
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	var kept struct{ Revision int64 }
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &kept)
	var plan struct{ Recipients int }
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", draft, &plan)
	c.Want(
		http.StatusOK, http.MethodPost, path+"/send",
		fmt.Sprintf(`{"revision":%d,"typed":%d}`, kept.Revision, plan.Recipients), nil,
	)
	return m.ID
}

func recordOf(c *testkit.Client, id int64) record {
	var r record
	c.Record(id, &r)
	return r
}

func settled(t *testing.T, c *testkit.Client, id int64) record {
	t.Helper()
	var r record
	testkit.Eventually(t, "every recipient is reported on", func() bool {
		r = recordOf(c, id)
		// A report can overtake the hand-over that it is about, and with it the message's end.
		return r.Message.Figures.Waiting == 0 && r.Message.State != "held" && r.Message.State != "sending"
	})
	return r
}

func start(t *testing.T, hold time.Duration) (*app.Instance, *testkit.Client) {
	folder := testkit.Folder(t, testkit.Roster, func(o *store.Organisation) { o.Hold = hold })
	i := testkit.Start(t, folder, nil)
	return i, testkit.SignedIn(t, i.URL)
}

func TestAMessageReachesHandsetsAndMailboxes(t *testing.T) {
	i, c := start(t, 0)
	require.NoError(t, i.Box.SetFault(context.Background(), "naya@quillmere.example", standin.Gone))
	require.NoError(t, i.Box.SetFault(context.Background(), "+447700900418", standin.Gone))

	r := settled(t, c, send(c, body("routine", "Dear {{first name}}, {{dependents, else your crew}} – “8:30”, ł")))
	assert.Equal(t, "sent", r.Message.State)
	assert.Equal(t, figures{Recipients: 4, Reached: 3, NotReached: 1, LeftOut: 2, Deliveries: 5}, r.Message.Figures)

	got := map[string]string{}
	for _, rec := range r.Recipients {
		for _, d := range rec.Deliveries {
			got[rec.Name+" "+d.Channel] = d.State + ": " + d.Detail
		}
	}
	assert.Equal(t, map[string]string{
		"Rania Haddad email":    "arrived: in the mailbox",
		"Piotr Zielony text":    "failed: no such number",
		"Lena Achterberg voice": "opened: picked up and heard",
		"Naya Osei email":       "failed: no such mailbox",
	}, got)
	left := map[string]string{}
	for _, l := range r.LeftOut {
		left[l.Name] = l.Reason
	}
	assert.Equal(t, map[string]string{"Tuan Vo": "opted-out", "Di Venn": "no-address"}, left)

	items, err := i.Box.Received(context.Background(), []string{"rania@example.org"})
	require.NoError(t, err)
	require.Len(t, items, 1)
	assert.Equal(t, "Outing moved", items[0].Subject)
	assert.Equal(t, "Dear Rania, Sami – “8:30”, ł", items[0].Body, "what was written is what arrives, letter by letter")
	assert.Equal(t, `"Quillmere Rowing Club" <office@quillmere.example>`, items[0].From)

	var bench []struct{ Channel, Body string }
	c.Want(http.StatusOK, http.MethodGet, "/api/bench/people/3", nil, &bench)
	require.Len(t, bench, 1)
	assert.Equal(t, "voice", bench[0].Channel)

	// What was learnt counts the next time: both addresses are dead.
	again := recordOf(c, send(c, body("routine", "Hello")))
	for _, rec := range again.Recipients {
		if rec.Name == "Naya Osei" {
			assert.Len(t, rec.Deliveries, 1, "the dead mailbox is not tried again")
		}
		if rec.Name == "Piotr Zielony" {
			assert.Equal(t, 3, rec.Step, "the text is dead, so he is called")
		}
	}
}

func TestStopDuringTheHoldLeavesNoTrace(t *testing.T) {
	i, c := start(t, time.Hour)
	id := send(c, body("timely", "Keep this"))
	var strip struct {
		Held []struct {
			ID     int64
			People int
		}
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	require.Len(t, strip.Held, 1)
	assert.Equal(t, 5, strip.Held[0].People)

	var stopped struct{ Draft bool }
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/stop", id), nil, &stopped)
	assert.True(t, stopped.Draft)
	all, err := i.Box.All(context.Background())
	require.NoError(t, err)
	assert.Empty(t, all)
	var m struct {
		State string
		Draft struct{ Email string }
	}
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d", id), nil, &m)
	assert.Equal(t, "draft", m.State)
	assert.Equal(t, "Keep this", m.Draft.Email)
	deliveries, err := i.Store.Deliveries(context.Background(), id)
	require.NoError(t, err)
	assert.Empty(t, deliveries)
}

func TestACarrierThatIsDownIsWaitedFor(t *testing.T) {
	i, c := start(t, 0)
	require.NoError(t, i.Box.SetDown(t.Context(), roster.Text, standin.Forever))
	id := send(c, body("routine", "Hello"))
	var r record
	testkit.Eventually(t, "the record says that the gateway is down", func() bool {
		r = recordOf(c, id)
		return len(r.Failures) == 1 && r.Message.Figures.Reached == 3
	})
	assert.Equal(t, "the gateway is down for now", r.Failures[0].Detail)
	assert.True(t, r.Failures[0].Retrying)
	assert.Equal(t, "sending", r.Message.State)
	assert.Equal(t, 1, r.Message.Figures.Waiting)

	require.NoError(t, i.Box.SetDown(t.Context(), roster.Text, time.Time{}))
	assert.Equal(t, 4, settled(t, c, id).Message.Figures.Reached)
}

func TestStopAfterTheHoldEndsWhatHasNotLeft(t *testing.T) {
	i, c := start(t, 0)
	require.NoError(t, i.Box.SetDown(t.Context(), roster.Text, standin.Forever))
	id := send(c, body("routine", "Hello"))
	testkit.Eventually(t, "the rest has arrived", func() bool {
		f := recordOf(c, id).Message.Figures
		return f.Reached == 3 && f.Here == 1
	})
	var stopped struct{ Stopped int }
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/stop", id), nil, &stopped)
	assert.Equal(t, 1, stopped.Stopped)
	r := recordOf(c, id)
	assert.Equal(t, "stopped", r.Message.State)
	assert.Equal(t, figures{Recipients: 4, Reached: 3, Stopped: 1, LeftOut: 2, Deliveries: 5}, r.Message.Figures)
}

func TestAScheduledMessageWaitsForItsTime(t *testing.T) {
	_, c := start(t, 0)
	at := time.Now().Add(1500 * time.Millisecond).UTC().Format(time.RFC3339Nano)
	id := send(c, strings.Replace(body("routine", "Later"), `"subject"`, fmt.Sprintf(`"sendAt":%q,"subject"`, at), 1))
	var m struct {
		State     string
		Scheduled bool
	}
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d", id), nil, &m)
	assert.Equal(t, "held", m.State)
	assert.True(t, m.Scheduled)
	settled(t, c, id)
}

func TestReportsThatComeTwiceOrLateChangeNothing(t *testing.T) {
	i, c := start(t, 0)
	id := send(c, body("routine", "Hello"))
	before := settled(t, c, id).Message.Figures
	deliveries, err := i.Store.Deliveries(context.Background(), id)
	require.NoError(t, err)
	for _, d := range deliveries {
		for range 2 {
			report := lateFailure(
				map[roster.Channel]delivery.Via{
					roster.Email: delivery.ViaMail, roster.Text: delivery.ViaGateway, roster.Voice: delivery.ViaGateway,
				}[d.Channel],
				d.Key,
			)
			_, err := i.Store.TakeReport(context.Background(), report, time.Now())
			require.NoError(t, err)
		}
	}
	assert.Equal(t, before, recordOf(c, id).Message.Figures)
}
