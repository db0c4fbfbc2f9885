package delivery_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/delivery"
)

func TestACarriersWordsPlainly(t *testing.T) {
	for code, plainly := range map[string]string{
		"5.1.1":  "There is no such mailbox.",
		"4.2.2":  "The mailbox is full.",
		"5.7.26": "The email did not prove that it is from our domain (SPF, DKIM).",
		"2.1.5":  "", // it arrived
		"5.9.9":  "", // it stands in no standard
		"5.1":    "",
		"":       "",
	} {
		assert.Equal(t, plainly, delivery.Plainly(code), code)
	}
}

func TestEventsStandInTheirOrder(t *testing.T) {
	at := func(seconds int) time.Time { return time.Date(2026, 11, 27, 9, 0, seconds, 0, time.UTC) }
	list := []delivery.Event{
		{At: at(5), State: delivery.Arrived}, {At: at(9), State: delivery.Opened}, {At: at(5), State: delivery.Carrier},
		{At: at(1), State: delivery.Retrying},
	}
	delivery.SortEvents(list)
	var states []delivery.State
	for _, e := range list {
		states = append(states, e.State)
	}
	assert.Equal(t, []delivery.State{delivery.Retrying, delivery.Carrier, delivery.Arrived, delivery.Opened}, states)
}
