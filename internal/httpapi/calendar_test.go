package httpapi_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

func TestTheCalendarOfWhatIsScheduled(t *testing.T) {
	i, c := start(t)
	sendDraft(t, c, strings.Replace(
		draftOf(coaches, "Rota; \\n folded, and long enough that the line of the calendar has to be folded"),
		`"subject":"Outing"`, `"subject":"Rota, part 1","sendAt":"2031-07-01T17:00:00Z"`, 1,
	))
	atOnce := sendDraft(t, c, draftOf(coaches, "At once"))
	testkit.Eventually(t, "it has left", func() bool {
		m, err := i.Store.Heading(t.Context(), atOnce)
		return err == nil && m.State != store.Held
	})
	var feed struct{ Path string }
	c.Want(http.StatusOK, http.MethodGet, "/api/calendar", nil, &feed)

	calendar := testkit.Stranger(t, i.URL)
	status, content := calendar.Do(http.MethodGet, feed.Path, nil)
	require.Equal(t, http.StatusOK, status, "a calendar does not sign in")
	read, err := ics.ParseCalendar(strings.NewReader(string(content)))
	require.NoError(t, err)
	require.Len(t, read.Events(), 1, "only what waits for its time")
	event := read.Events()[0]
	assert.Equal(t, "Message: Rota, part 1", event.GetProperty(ics.ComponentPropertySummary).Value)
	at, err := event.GetStartAt()
	require.NoError(t, err)
	assert.Equal(t, "2031-07-01T17:00:00Z", at.UTC().Format("2006-01-02T15:04:05Z07:00"))
	status, _ = calendar.Do(http.MethodGet, "/calendar/nobody.ics", nil)
	assert.Equal(t, http.StatusNotFound, status)
}

// Thursday afternoon in London.
var typedAt = time.Date(2026, 11, 26, 15, 0, 0, 0, time.UTC)

func startAt(t *testing.T, now time.Time) (*testkit.Client, string) {
	folder := testkit.Folder(t, testkit.Roster, nil)
	i := testkit.Start(t, folder, func(c *app.Config) { c.Now = testkit.NewClock(now).Now })
	return testkit.SignedIn(t, i.URL), i.URL
}

func TestWhatATypedMomentMeans(t *testing.T) {
	c, _ := startAt(t, typedAt)
	for _, m := range []struct{ name, typed, before, at, note string }{
		{"a day and a time", "28 Nov 2026, 18:00", "", "2026-11-28T18:00:00Z", ""},
		{"a time that is still to come", "18:00", "", "2026-11-26T18:00:00Z", ""},
		{"a time that has passed", "7:30", "", "2026-11-27T07:30:00Z", ""},
		{"a day alone", "saturday", "", "2026-11-28T08:00:00Z", ""},
		{"a day alone where a time stood", "saturday", "2026-11-27T17:15:00Z", "2026-11-28T17:15:00Z", ""},
		{"summer time", "1 July 2027 18:00", "", "2027-07-01T17:00:00Z", ""},
		{"skipped by the clocks", "28/3/2027 01:30", "", "2027-03-28T01:30:00Z", "skipped"},
		{"shown twice by the clocks", "31/10/2027 01:30", "", "2027-10-31T00:30:00Z", "twice"},
	} {
		t.Run(m.name, func(t *testing.T) {
			query := url.Values{"typed": {m.typed}}
			if m.before != "" {
				query.Set("before", m.before)
			}
			var got struct {
				At   time.Time
				Note string
			}
			c.Want(http.StatusOK, http.MethodGet, "/api/moments?"+query.Encode(), nil, &got)
			assert.Equal(t, m.at, got.At.UTC().Format(time.RFC3339))
			assert.Equal(t, m.note, got.Note)
		})
	}
	for typed, want := range map[string]string{
		"soon": "This cannot be read: this is no day or time", "30 Feb": "there is no day 30 Feb",
		"%00": "This cannot be read",
	} {
		assert.Contains(
			t, c.Problem(http.StatusUnprocessableEntity, http.MethodGet, "/api/moments?typed="+url.PathEscape(typed), nil), want,
		)
	}
	c.Problem(http.StatusUnprocessableEntity, http.MethodGet, "/api/moments?typed="+strings.Repeat("9", 61), nil)
}

func TestWhatATypedDayMeans(t *testing.T) {
	c, _ := startAt(t, typedAt)
	var got struct{ Day string }
	c.Want(http.StatusOK, http.MethodGet, "/api/days?typed=12+May+2014", nil, &got)
	assert.Equal(t, "2014-05-12", got.Day)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodGet, "/api/days?typed=18:00", nil), "this is no day",
	)
}

type month struct {
	First, Today string
	Days         []struct {
		Day, Holiday string
		Leaves       []struct{ Title string }
	}
	Usual []string
}

func (m month) titles(day string) (titles []string) {
	for _, d := range m.Days {
		for _, l := range d.Leaves {
			if d.Day == day {
				titles = append(titles, l.Title)
			}
		}
	}
	return titles
}

func TestWhatAMonthHolds(t *testing.T) {
	c, _ := startAt(t, typedAt)
	// Half past eleven at night in UTC is the next day on summer clocks.
	sendDraft(t, c, strings.Replace(draftOf(coaches, "Rota"), `"subject":"Outing"`,
		`"subject":"Night rota","sendAt":"2027-07-01T23:30:00Z"`, 1))
	var july month
	c.Want(http.StatusOK, http.MethodGet, "/api/months?of=2027-07-15", nil, &july)
	assert.Equal(t, "2027-07-01", july.First)
	assert.Len(t, july.Days, 31)
	assert.Empty(t, july.titles("2027-07-01"))
	assert.Equal(t, []string{"Night rota"}, july.titles("2027-07-02"))

	var now month
	c.Want(http.StatusOK, http.MethodGet, "/api/months", nil, &now)
	assert.Equal(t, "2026-11-26", now.Today)
	assert.Equal(t, []string{"today 18:00", "tomorrow 07:30", "tomorrow 18:00", "Monday 07:30"}, now.Usual)
	var december month
	c.Want(http.StatusOK, http.MethodGet, "/api/months?of=2026-12-01", nil, &december)
	assert.Equal(t, "Christmas Day", december.Days[24].Holiday)
	c.Problem(http.StatusUnprocessableEntity, http.MethodGet, "/api/months?of=soon", nil)
}

// What somebody else's unit sends is no business of an account of another.
func TestAMonthHidesWhatAnAccountMayNotSee(t *testing.T) {
	_, office, watch := startUnits(t, "Flood watch", access.Rights...)
	sendDraft(t, office, strings.Replace(draftOf(`{"kind":"person","person":3}`, "Rota"), `"subject":"Outing"`,
		`"subject":"Ours","sendAt":"2031-07-01T17:00:00Z"`, 1))
	var own, other month
	office.Want(http.StatusOK, http.MethodGet, "/api/months?of=2031-07-01", nil, &own)
	watch.Want(http.StatusOK, http.MethodGet, "/api/months?of=2031-07-01", nil, &other)
	assert.Equal(t, []string{"Ours"}, own.titles("2031-07-01"))
	assert.Empty(t, other.titles("2031-07-01"))
}
