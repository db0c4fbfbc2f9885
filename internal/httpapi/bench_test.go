package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/readaloud"
	"upperlantern/internal/testkit"
)

type faultOf struct{ Channel, Address, Shown, Fault string }

// A fault of an address and an outage are what the next message runs into.
func TestTheWorldOfTheStandIns(t *testing.T) {
	i, c := start(t)
	var weather struct {
		Kind  string
		Seed  int64
		Kinds []struct {
			Kind  string
			Words []string
		}
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/bench/weather", nil, &weather)
	assert.Equal(t, "calm", weather.Kind)
	require.Len(t, weather.Kinds, 3)
	assert.Contains(t, weather.Kinds[2].Words[1], "One phone in ten is off")
	c.Want(http.StatusOK, http.MethodPut, "/api/bench/weather", `{"kind":"storm","seed":5}`, &weather)
	assert.Equal(t, "storm", weather.Kind)
	c.Want(http.StatusOK, http.MethodPut, "/api/bench/weather", `{"kind":"calm","seed":5}`, nil)

	var faults []faultOf
	path := "/api/bench/people/1/faults"
	c.Want(http.StatusOK, http.MethodPut, path, `{"address":"rania@example.org","fault":"gone"}`, nil)
	c.Want(http.StatusOK, http.MethodGet, path, nil, &faults)
	assert.Contains(t, faults, faultOf{"email", "rania@example.org", "rania@example.org", "gone"})
	id := sendDraft(t, c, draftOf(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Hello"))
	testkit.Eventually(t, "her mailbox is not there", func() bool {
		var s standingOf
		c.Record(id, &s)
		return s.Message.Figures.NotReached == 1
	})
	c.Want(http.StatusOK, http.MethodPut, path, `{"address":"rania@example.org","fault":""}`, &faults)
	assert.Empty(t, faults[0].Fault)

	var carriers []struct {
		Channel string
		Down    bool
		Until   *time.Time
	}
	c.Want(http.StatusOK, http.MethodPut, "/api/bench/carriers", `{"channel":"text","down":true,"minutes":15}`, &carriers)
	require.NotNil(t, carriers[1].Until)
	assert.WithinDuration(t, time.Now().Add(15*time.Minute), *carriers[1].Until, time.Minute)
	assert.False(t, i.Box.Down("text").IsZero())
	c.Want(http.StatusOK, http.MethodPut, "/api/bench/carriers", `{"channel":"text","down":false}`, &carriers)
	assert.False(t, carriers[1].Down)

	for _, b := range []struct{ name, path, body string }{
		{"weather that is none", "/api/bench/weather", `{"kind":"hail","seed":1}`},
		{"a fault that is none", path, `{"address":"rania@example.org","fault":"hiccups"}`},
		{"somebody else’s address", path, `{"address":"tuan@vo.example","fault":"gone"}`},
		{"an outage of a week", "/api/bench/carriers", `{"channel":"text","down":true,"minutes":10080}`},
	} {
		t.Run(b.name, func(t *testing.T) { c.Problem(http.StatusUnprocessableEntity, http.MethodPut, b.path, b.body) })
	}
	c.Problem(http.StatusNotFound, http.MethodGet, "/api/bench/people/999/faults", nil)

	_, _, una := startUnits(t, "Rowing", access.SeePeople)
	una.Want(http.StatusOK, http.MethodGet, "/api/bench/weather", nil, nil)
	una.Problem(http.StatusForbidden, http.MethodPut, "/api/bench/weather", `{"kind":"storm","seed":1}`)
	una.Problem(http.StatusForbidden, http.MethodPut, "/api/bench/people/1/faults", `{"address":"rania@example.org","fault":"gone"}`)
}

// A phone and a mailbox write to us though nothing came to them; so does somebody whom
// nobody knows.
func TestAnAddressWritesFromTheBench(t *testing.T) {
	o := atDesk(t, "")
	write := func(status int, channel, from, text string) {
		t.Helper()
		body := fmt.Sprintf(`{"channel":%q,"from":%q,"subject":"Saturday","text":%q}`, channel, from, text)
		o.c.Want(status, http.MethodPost, "/api/bench/write", body, nil)
	}
	said := func(thread threadSeen) []string {
		var list []string
		for _, e := range o.read(thread.ID).Entries {
			list = append(list, e.Channel+" "+e.Said)
		}
		return list
	}
	write(http.StatusNoContent, "text", "07700 900417", "We are late")
	write(http.StatusNoContent, "email", "Rania@example.org", "Is there a bus?")
	write(http.StatusNoContent, "text", "+447700900871", "Wrong number?")
	require.Len(t, o.threads(1, "").Threads, 2)
	stranger := o.threads(1, "find=900871").Threads
	require.Len(t, stranger, 1)
	assert.Equal(t, []string{"text Wrong number?"}, said(stranger[0]))
	list := o.threads(1, "find=Rania").Threads
	require.Len(t, list, 1)
	assert.Equal(t, []string{"text We are late", "email Is there a bus?"}, said(list[0]))

	if readaloud.Available() {
		write(http.StatusNoContent, "voice", "+447700900418", "Please call me back")
		list = o.threads(1, "find=Piotr").Threads
		require.Len(t, list, 1)
		spoken := o.read(list[0].ID).Entries[0]
		require.Len(t, spoken.Files, 1)
		assert.Equal(t, "after the beep.wav", spoken.Files[0].Name)
	}
	for _, b := range []struct{ name, channel, from, text string }{
		{"a number that is none", "text", "07", "Hello"},
		{"a mailbox that is none", "email", "rania@", "Hello"},
		{"nothing to send", "text", "+447700900417", " "},
		{"nothing to say", "voice", "+447700900417", ""},
		{"a channel that only comes", "push", "naya", "Hello"},
	} {
		t.Run(b.name, func(t *testing.T) { write(http.StatusUnprocessableEntity, b.channel, b.from, b.text) })
	}
	large := strings.Repeat("A", 7<<20)
	body := `{"channel":"text","from":"+447700900417","text":"x","files":[{"name":"a.txt","type":"text/plain","content":"` + large + `"}]}`
	o.c.Want(http.StatusNoContent, http.MethodPost, "/api/bench/write", body, nil)
	assert.Contains(t, strings.Join(o.read(o.threads(1, "find=Rania").Threads[0].ID).Entries[2].Dropped, " "), "a.txt")
}
