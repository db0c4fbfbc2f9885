package httpapi_test

import (
	"net/http"
	"strings"
	"testing"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

func TestTheCalendarOfWhatIsScheduled(t *testing.T) {
	i, c := start(t)
	sendDraft(t, c, strings.Replace(
		draftOf(coaches, "Rota; \\n folded, and long enough that the line of the calendar has to be folded"),
		`"subject":"Outing"`, `"subject":"Rota, part 1","sendAt":"2031-07-01T17:00:00Z"`, 1,
	))
	sendDraft(t, c, draftOf(coaches, "At once"))
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
