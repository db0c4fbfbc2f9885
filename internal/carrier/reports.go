package carrier

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"upperlantern/internal/core/delivery"
)

// GatewayReport is what a gateway posts about a text or a call it took.
type GatewayReport struct {
	Key    string         `json:"key"`   // the Idempotency-Key of the hand-over
	State  delivery.State `json:"state"` // carrier, arrived, opened, answered, failed or expired
	Detail string         `json:"detail,omitempty"`
	Gone   bool           `json:"gone,omitempty"`
	// Pressed is the key that was pressed during a call, of those that it took.
	Pressed string    `json:"pressed,omitempty"`
	At      time.Time `json:"at"`
}

// Header names of a signed report, as in the Standard Webhooks specification.
const (
	headerID        = "Webhook-Id"
	headerTime      = "Webhook-Timestamp"
	headerSignature = "Webhook-Signature"
)

const (
	largestReport = 1 << 16
	// oldestReport bounds how long a signed report can be replayed.
	oldestReport = 5 * time.Minute
)

// Sign signs a report: v1, and the base64 of an HMAC-SHA256 over identifier,
// time and body. Source: Standard Webhooks, “Signature scheme”.
func Sign(h http.Header, secret, id string, at time.Time, body []byte) {
	stamp := strconv.FormatInt(at.Unix(), 10)
	h.Set(headerID, id)
	h.Set(headerTime, stamp)
	h.Set(headerSignature, "v1,"+signature(secret, id, stamp, body))
}

func signature(secret, id, stamp string, body []byte) string {
	mac := hmac.New(sha256.New, []byte(secret))
	_, _ = fmt.Fprintf(mac, "%s.%s.", id, stamp)
	_, _ = mac.Write(body)
	return base64.StdEncoding.EncodeToString(mac.Sum(nil))
}

// verify accepts a report that is signed with one of the secrets.
func verify(h http.Header, secrets []string, now time.Time, body []byte) error {
	stamp := h.Get(headerTime)
	seconds, err := strconv.ParseInt(stamp, 10, 64)
	if err != nil {
		return errors.New("the report has no time")
	}
	if age := now.Sub(time.Unix(seconds, 0)); age > oldestReport || age < -oldestReport {
		return errors.New("the report's time is too far from now")
	}
	given := strings.Fields(h.Get(headerSignature))
	for _, secret := range secrets {
		want := []byte("v1," + signature(secret, h.Get(headerID), stamp, body))
		if secret != "" && slices.ContainsFunc(given, func(one string) bool { return hmac.Equal([]byte(one), want) }) {
			return nil
		}
	}
	return errors.New("the report is not signed with our secret")
}

// Reports takes the signed reports of gateways, each of which has one of the secrets.
func Reports(secrets func() []string, sink Sink, unknown error, now func() time.Time) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, largestReport))
		if err != nil {
			http.Error(w, "the report is too large", http.StatusRequestEntityTooLarge)
			return
		}
		if err := verify(r.Header, secrets(), now(), body); err != nil {
			http.Error(w, err.Error(), http.StatusUnauthorized)
			return
		}
		report, err := readReport(body, r.Header.Get(headerID))
		if err != nil {
			http.Error(w, err.Error(), http.StatusUnprocessableEntity)
			return
		}
		kept(w, sink(r.Context(), report), unknown)
	})
}

// kept answers whether a report was kept.
func kept(w http.ResponseWriter, err, unknown error) {
	switch {
	case errors.Is(err, unknown):
		http.Error(w, "there is no such delivery", http.StatusNotFound)
	case err != nil:
		http.Error(w, "the report could not be kept; send it again", http.StatusServiceUnavailable)
	default:
		w.WriteHeader(http.StatusNoContent)
	}
}

func readReport(body []byte, id string) (delivery.Report, error) {
	var g GatewayReport
	if err := json.Unmarshal(body, &g); err != nil {
		return delivery.Report{}, fmt.Errorf("the report cannot be read: %w", err)
	}
	if g.State.Here() || !g.State.Valid() || g.State == delivery.Stopped {
		return delivery.Report{}, fmt.Errorf("%q is no state that a carrier reports", g.State)
	}
	if id == "" || len(id) > delivery.LongestKey || len(g.Key) > delivery.LongestKey {
		return delivery.Report{}, fmt.Errorf(
			"the report needs an identifier (%s) and a key, of at most %d characters each", headerID, delivery.LongestKey,
		)
	}
	return delivery.Report{
		Via: delivery.ViaGateway, DeliveryKey: g.Key, Key: id, State: g.State, Detail: g.Detail, Gone: g.Gone,
		Pressed: g.Pressed, OccurredAt: g.At,
	}, nil
}
