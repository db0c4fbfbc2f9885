package carrier_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
)

func notification(action, status, diagnostic string) []byte {
	return []byte(strings.ReplaceAll(fmt.Sprintf(`From: postmaster@mail.example
Message-ID: <r1@mail.example>
Content-Type: multipart/report; report-type=delivery-status; boundary=b

--b
Content-Type: text/plain

Sorry.
--b
Content-Type: message/delivery-status

Reporting-MTA: dns; mail.example

Final-Recipient: rfc822; rania@example.org
Action: %s
Status: %s
Diagnostic-Code: %s

--b--
`, action, status, diagnostic), "\n", "\r\n"))
}

func TestParseStatus(t *testing.T) {
	for _, c := range []struct {
		name    string
		content []byte
		want    delivery.Report
	}{
		{"delivered", notification("delivered", "2.1.5", "smtp; 250 ok"), delivery.Report{State: delivery.Arrived, Detail: "in the mailbox"}},
		{"no such mailbox", notification("Failed", "5.1.1", "smtp; 550 5.1.1 no such mailbox"),
			delivery.Report{State: delivery.Failed, Detail: "no such mailbox", Gone: true}},
		{"mailbox full", notification("failed", "5.2.2", "smtp; 552 5.2.2 mailbox full"), delivery.Report{State: delivery.Failed, Detail: "mailbox full"}},
		{"delayed", notification("delayed", "4.4.1", "smtp; 421 later"), delivery.Report{State: delivery.Carrier, Detail: "later"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.want.Key = "<r1@mail.example>"
			got, err := carrier.ParseStatus(c.content)
			require.NoError(t, err)
			assert.Equal(t, c.want, got)
		})
	}
}

func TestParseStatusRefusesOtherMail(t *testing.T) {
	for name, content := range map[string][]byte{
		"nothing":           nil,
		"an ordinary mail":  []byte("From: a@example.org\r\nContent-Type: text/plain\r\n\r\nHello"),
		"no status part":    []byte("Content-Type: multipart/report; boundary=b\r\n\r\n--b\r\n\r\nx\r\n--b--\r\n"),
		"an unknown action": notification("pondered", "2.0.0", "x"),
	} {
		t.Run(name, func(t *testing.T) {
			_, err := carrier.ParseStatus(content)
			require.ErrorIs(t, err, carrier.ErrNoStatus)
		})
	}
}

func FuzzParseStatus(f *testing.F) {
	f.Add(notification("failed", "5.1.1", "smtp; 550 gone"))
	f.Add([]byte("Content-Type: multipart/report; boundary=\r\n\r\n"))
	f.Fuzz(func(t *testing.T, content []byte) {
		if r, err := carrier.ParseStatus(content); err == nil && !r.State.Valid() {
			t.Fatal("a report without a state")
		}
	})
}

func TestGatewayTellsRefusalsApart(t *testing.T) {
	for _, c := range []struct {
		status    int
		body      string
		permanent bool
		gone      bool
		detail    string
	}{
		{http.StatusServiceUnavailable, `{"reason":"down for now"}`, false, false, "down for now"},
		{http.StatusTooManyRequests, ``, false, false, "the text gateway answered 429 Too Many Requests"},
		{http.StatusUnauthorized, `{"reason":"wrong token"}`, false, false, "wrong token"},
		{http.StatusUnprocessableEntity, `{"reason":"no such number","gone":true}`, true, true, "no such number"},
		{http.StatusBadRequest, `not json`, true, false, "the text gateway answered 400 Bad Request"},
	} {
		t.Run(fmt.Sprint(c.status), func(t *testing.T) {
			s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				assert.Equal(t, "K1", r.Header.Get("Idempotency-Key"))
				w.WriteHeader(c.status)
				_, _ = w.Write([]byte(c.body))
			}))
			defer s.Close()
			err := carrier.NewGateway("text gateway", s.URL, "token", "").Hand(context.Background(), carrier.Item{Key: "K1", To: "+447700900001", Body: "x"})
			var refusal *carrier.Refusal
			require.ErrorAs(t, err, &refusal)
			assert.Equal(t, carrier.Refusal{Detail: c.detail, Permanent: c.permanent, Gone: c.gone}, *refusal)
		})
	}
}

func TestGatewayThatDoesNotAnswerIsNoRefusal(t *testing.T) {
	err := carrier.NewGateway("text gateway", "http://127.0.0.1:1/texts", "", "").Hand(context.Background(), carrier.Item{Key: "K1"})
	var refusal *carrier.Refusal
	require.False(t, errors.As(err, &refusal))
	require.ErrorContains(t, err, "the text gateway does not answer")
}

func TestNewMailRefusesOtherAddresses(t *testing.T) {
	_, err := carrier.NewMail("mail.example:25", "returns.example")
	require.Error(t, err)
}

func TestReportsTakesOnlyWhatIsSigned(t *testing.T) {
	now := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	unknown := errors.New("unknown")
	var taken []delivery.Report
	handler := carrier.Reports("secret", func(_ context.Context, r delivery.Report) error {
		if r.DeliveryKey == "NOBODY" {
			return unknown
		}
		taken = append(taken, r)
		return nil
	}, unknown, func() time.Time { return now })

	good := `{"key":"K1","state":"arrived","detail":"on the phone","at":"2026-11-24T07:59:58Z"}`
	for _, c := range []struct {
		name, secret, body string
		signed             time.Time
		want               int
	}{
		{"signed", "secret", good, now, http.StatusNoContent},
		{"another secret", "guess", good, now, http.StatusUnauthorized},
		{"replayed much later", "secret", good, now.Add(-time.Hour), http.StatusUnauthorized},
		{"no state a carrier reports", "secret", `{"key":"K1","state":"held"}`, now, http.StatusUnprocessableEntity},
		{"an unknown state", "secret", `{"key":"K1","state":"lost"}`, now, http.StatusUnprocessableEntity},
		{"no JSON", "secret", `arrived`, now, http.StatusUnprocessableEntity},
		{"a delivery nobody knows", "secret", `{"key":"NOBODY","state":"arrived"}`, now, http.StatusNotFound},
	} {
		t.Run(c.name, func(t *testing.T) {
			req := httptest.NewRequest(http.MethodPost, "/carrier/reports", bytes.NewReader([]byte(c.body)))
			carrier.Sign(req.Header, c.secret, "r1", c.signed, []byte(c.body))
			answer := httptest.NewRecorder()
			handler.ServeHTTP(answer, req)
			assert.Equal(t, c.want, answer.Code, answer.Body)
		})
	}
	require.Len(t, taken, 1)
	assert.Equal(t, delivery.Report{
		DeliveryKey: "K1", Key: "r1", State: delivery.Arrived, Detail: "on the phone", OccurredAt: time.Date(2026, 11, 24, 7, 59, 58, 0, time.UTC),
	}, taken[0])

	unsigned := httptest.NewRecorder()
	handler.ServeHTTP(unsigned, httptest.NewRequest(http.MethodPost, "/carrier/reports", strings.NewReader(good)))
	assert.Equal(t, http.StatusUnauthorized, unsigned.Code)
}
