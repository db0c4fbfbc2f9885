package standin

import (
	"encoding/json"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

// Gateway is the stand-in for texts (POST /texts), calls (POST /calls), pushes
// (POST /push/DEVICE) and translations (POST /translations).
func (b *Box) Gateway() http.Handler {
	r := chi.NewRouter()
	r.Post("/texts", b.accept(roster.Text))
	r.Post("/calls", b.accept(roster.Voice))
	r.Post("/push/{device}", b.acceptPush)
	r.Post("/translations", b.translate)
	return r
}

func (b *Box) accept(channel roster.Channel) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if !b.Down(channel).IsZero() {
			answer(w, http.StatusServiceUnavailable, carrier.GatewayAnswer{Reason: "the gateway is down for now"})
			return
		}
		if b.throttled(channel) {
			w.Header().Set("Retry-After", "1")
			answer(w, http.StatusTooManyRequests, carrier.GatewayAnswer{Reason: "too many at once"})
			return
		}
		if r.Header.Get("Authorization") != "Bearer "+b.Token {
			answer(w, http.StatusUnauthorized, carrier.GatewayAnswer{Reason: "wrong token"})
			return
		}
		key := r.Header.Get("Idempotency-Key")
		var req carrier.GatewayRequest
		if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<18)).Decode(&req); err != nil || key == "" {
			answer(w, http.StatusBadRequest, carrier.GatewayAnswer{Reason: "the request cannot be read"})
			return
		}
		if !strings.HasPrefix(req.To, "+") || req.Text == "" && req.Recording == "" {
			answer(w, http.StatusUnprocessableEntity, carrier.GatewayAnswer{
				Reason: "a number in international form and a text are needed",
			})
			return
		}
		t := outcome(channel, b.fault(channel, req.To))
		if t.state == delivery.Opened && req.ConfirmKey != "" && !b.forgets(req.To) {
			t.state, t.detail = delivery.Answered, "heard, and confirmed with key "+req.ConfirmKey
		}
		t.Item = Item{
			Key: key, Channel: channel, Address: req.To, From: req.From, Body: req.Text, Offers: callOffers(req),
			Confirm: req.ConfirmKey,
		}
		for _, key := range req.AnswerKeys {
			t.Choices = append(t.Choices, Button{Key: key})
		}
		t.reportTo = req.Reports
		if err := b.take(t); err != nil {
			answer(w, http.StatusInternalServerError, carrier.GatewayAnswer{Reason: err.Error()})
			return
		}
		answer(w, http.StatusAccepted, carrier.GatewayAnswer{ID: key})
	}
}

// callOffers says what a call does besides reading a text aloud.
func callOffers(r carrier.GatewayRequest) string {
	var said []string
	if r.Recording != "" {
		said = append(said, "plays a recording")
	}
	if r.RepeatKey != "" {
		said = append(said, "key "+r.RepeatKey+" repeats it")
	}
	if r.ConfirmKey != "" {
		said = append(said, "key "+r.ConfirmKey+" confirms it")
	}
	return strings.Join(said, ", ")
}

// outcome is what becomes of a text or a call to a number with a fault.
func outcome(channel roster.Channel, fault Fault) taking {
	switch {
	case fault == Gone:
		return taking{state: delivery.Failed, detail: "no such number", gone: true}
	case fault == NoAnswer && channel == roster.Voice:
		return taking{state: delivery.Failed, detail: "nobody picked up"}
	case fault == Machine && channel == roster.Voice:
		return taking{state: delivery.Arrived, detail: "an answering machine picked up"}
	case fault == Full && channel == roster.Text:
		return taking{state: delivery.Expired, detail: "phone switched off for too long"}
	case channel == roster.Voice:
		return taking{state: delivery.Opened, detail: "picked up and heard"}
	}
	return taking{state: delivery.Arrived, detail: "on the phone"}
}

func answer(w http.ResponseWriter, status int, a carrier.GatewayAnswer) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(a) // the caller is gone if this fails
}
