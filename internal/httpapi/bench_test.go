package httpapi_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
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
