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
	"upperlantern/internal/core/carrying"
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
		{"delivered", notification("delivered", "2.1.5", "smtp; 250 ok"), delivery.Report{State: delivery.Arrived, Code: "2.1.5", Detail: "in the mailbox"}},
		{"no such mailbox", notification("Failed", "5.1.1", "smtp; 550 5.1.1 no such mailbox"),
			delivery.Report{State: delivery.Failed, Code: "5.1.1", Detail: "no such mailbox", Gone: true}},
		{"mailbox full", notification("failed", "5.2.2", "smtp; 552 5.2.2 mailbox full"), delivery.Report{State: delivery.Failed, Code: "5.2.2", Detail: "mailbox full"}},
		{"delayed", notification("delayed", "4.4.1", "smtp; 421 later"), delivery.Report{State: delivery.Carrier, Code: "4.4.1", Detail: "later"}},
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

// gateway is a gateway that answers one way.
func gateway(t *testing.T, status int, header http.Header, body string) *carrier.Gateway {
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		assert.Equal(t, "K1", r.Header.Get("Idempotency-Key"))
		for name, values := range header {
			w.Header()[name] = values
		}
		w.WriteHeader(status)
		_, _ = w.Write([]byte(body))
	}))
	t.Cleanup(s.Close)
	return carrier.NewGateway("text gateway", s.URL, "token", "")
}

var text = carrier.Item{Key: "K1", To: "+447700900001", Body: "x"}

func TestGatewayTellsAnswersApart(t *testing.T) {
	for _, c := range []struct {
		status int
		body   string
		want   error
	}{
		{http.StatusAccepted, `{"id":"T1"}`, nil},
		{http.StatusOK, `<html>Sign in</html>`, &carrier.Trouble{Detail: "the text gateway answered 200 OK without an id, so that it is not known to have taken anything"}},
		{http.StatusOK, `{}`, &carrier.Trouble{Detail: "the text gateway answered 200 OK without an id, so that it is not known to have taken anything"}},
		{http.StatusUnauthorized, `{"reason":"wrong token"}`, &carrier.Trouble{Detail: "wrong token"}},
		{http.StatusPaymentRequired, ``, &carrier.Trouble{Detail: "the text gateway answered 402 Payment Required"}},
		{http.StatusForbidden, `{"reason":"account closed"}`, &carrier.Trouble{Detail: "account closed"}},
		{http.StatusNotFound, ``, &carrier.Trouble{Detail: "the text gateway answered 404 Not Found"}},
		{http.StatusMethodNotAllowed, ``, &carrier.Trouble{Detail: "the text gateway answered 405 Method Not Allowed"}},
		{http.StatusTooManyRequests, ``, &carrier.Trouble{Detail: "the text gateway answered 429 Too Many Requests"}},
		{http.StatusServiceUnavailable, `{"reason":"down for now"}`, &carrier.Refusal{Detail: "down for now"}},
		{http.StatusRequestTimeout, ``, &carrier.Refusal{Detail: "the text gateway answered 408 Request Timeout"}},
		{http.StatusUnprocessableEntity, `{"reason":"no such number","gone":true}`, &carrier.Refusal{Detail: "no such number", Permanent: true, Address: true, Gone: true}},
		{http.StatusBadRequest, `not json`, &carrier.Refusal{Detail: "the text gateway answered 400 Bad Request", Permanent: true}},
	} {
		t.Run(fmt.Sprint(c.status, c.body), func(t *testing.T) {
			err := gateway(t, c.status, nil, c.body).Hand(context.Background(), text)
			assert.Equal(t, c.want, err)
		})
	}
}

func TestGatewayIsWaitedForAsLongAsItAsks(t *testing.T) {
	for said, want := range map[string]time.Duration{
		"90": 90 * time.Second, "100000": time.Hour, "-5": 0, "soon": 0, "Mon, 01 Jan 2001 00:00:00 GMT": 0,
	} {
		err := gateway(t, http.StatusTooManyRequests, http.Header{"Retry-After": {said}}, "").Hand(context.Background(), text)
		var trouble *carrier.Trouble
		require.ErrorAs(t, err, &trouble, said)
		assert.Equal(t, want, trouble.RetryAfter, said)
		err = gateway(
			t, http.StatusServiceUnavailable, http.Header{"Retry-After": {said}}, "",
		).Hand(context.Background(), text)
		var refusal *carrier.Refusal
		require.ErrorAs(t, err, &refusal, said)
		assert.Equal(t, want, refusal.RetryAfter, said)
	}
}

// A redirect is not followed: neither the text nor the token goes elsewhere.
func TestGatewayIsNotFollowedElsewhere(t *testing.T) {
	visited := 0
	elsewhere := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		visited++
		_, _ = w.Write([]byte(`{"id":"T1"}`))
	}))
	defer elsewhere.Close()
	for _, status := range []int{
		http.StatusFound, http.StatusMovedPermanently, http.StatusTemporaryRedirect, http.StatusPermanentRedirect,
	} {
		err := gateway(t, status, http.Header{"Location": {elsewhere.URL}}, "").Hand(context.Background(), text)
		var trouble *carrier.Trouble
		require.ErrorAs(t, err, &trouble, "%d", status)
	}
	assert.Zero(t, visited)
}

func TestGatewayThatDoesNotAnswerIsNoRefusal(t *testing.T) {
	err := carrier.NewGateway(
		"text gateway", "http://127.0.0.1:1/texts", "", "",
	).Hand(context.Background(), carrier.Item{Key: "K1"})
	var refusal *carrier.Refusal
	require.False(t, errors.As(err, &refusal))
	require.ErrorContains(t, err, "the text gateway does not answer")
	var down *carrier.Down
	require.ErrorAs(t, err, &down, "nothing was taken")
}

// The connection was made, so that nobody can tell what became of the text.
func TestGatewayThatHangsUpIsNotDown(t *testing.T) {
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		conn, _, err := http.NewResponseController(w).Hijack()
		assert.NoError(t, err)
		assert.NoError(t, conn.Close())
	}))
	defer s.Close()
	err := carrier.NewGateway("text gateway", s.URL, "token", "").Hand(context.Background(), text)
	require.ErrorContains(t, err, "the text gateway does not answer")
	var down *carrier.Down
	require.NotErrorAs(t, err, &down)
}

func TestAGatewayThatATemplateDescribes(t *testing.T) {
	for name, c := range map[string]struct {
		status int
		answer string
		want   error
	}{
		"taken":   {http.StatusOK, `{"message":{"id":17}}`, nil},
		"refused": {http.StatusOK, `{"message":{},"problem":"no such number"}`, &carrier.Refusal{Detail: "no such number"}},
		"account": {http.StatusForbidden, `{"problem":"no credit"}`, &carrier.Trouble{Detail: "no credit"}},
	} {
		t.Run(name, func(t *testing.T) {
			s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				assert.Equal(t, "k y", r.Header.Get("X-Key"))
				assert.Equal(t, "447700900001", r.PostFormValue("n"))
				assert.Equal(t, "a&b=c", r.PostFormValue("words"))
				w.WriteHeader(c.status)
				_, _ = w.Write([]byte(c.answer))
			}))
			defer s.Close()
			template, err := carrying.ParseTemplate(fmt.Sprintf(
				`{"url":%q,"headers":{"X-Key":"{token}"},"form":{"n":"{to-digits}","words":"{text}"},
				"answer":{"id":"/message/id","error":"/problem"}}`, s.URL+"/send"))
			require.NoError(t, err)
			err = carrier.NewTemplated("text gateway", template, "k\ny", "").Hand(
				context.Background(), carrier.Item{Key: "K1", To: "+447700900001", Body: "a&b=c"},
			)
			assert.Equal(t, c.want, err)
		})
	}
}

// What cannot be reached is said without the address, which may hold the token.
func TestErrorsHoldNoToken(t *testing.T) {
	template, err := carrying.ParseTemplate(`{"method":"GET","url":"http://127.0.0.1:1/?to={to}&pw={token}","answer":{}}`)
	require.NoError(t, err)
	err = carrier.NewTemplated("text gateway", template, "gravel", "").Hand(context.Background(), text)
	require.Error(t, err)
	assert.NotContains(t, err.Error(), "gravel")
}

func TestReadingWhatAMailServerFound(t *testing.T) {
	said, err := carrier.ReadResults("Received: by mx.example.org\r\nAuthentication-Results: mx.example.org;\r\n" +
		" spf=pass smtp.mailfrom=quillmere.example;\r\n dkim=fail header.d=quillmere.example;\r\n" +
		" dmarc=none header.from=quillmere.example\r\nSubject: Trial")
	require.NoError(t, err)
	assert.Equal(t, []carrying.Verdict{
		{Of: carrying.SPF, Result: "pass"},
		{Of: carrying.DKIM, Result: "fail"},
		{Of: carrying.DMARC, Result: "none"},
	}, said)
	for _, other := range []string{"", "Hello", "Subject: Trial", "Authentication-Results: ;;;"} {
		_, err := carrier.ReadResults(other)
		require.ErrorIs(t, err, carrier.ErrNoResults, other)
	}
}

func FuzzReadResults(f *testing.F) {
	f.Add("Authentication-Results: mx.example.org; spf=pass smtp.mailfrom=a.example; dkim=fail")
	f.Fuzz(func(t *testing.T, source string) {
		said, err := carrier.ReadResults(source)
		assert.Equal(t, err == nil, len(said) > 0)
	})
}

func TestNewMailRefusesOtherAddresses(t *testing.T) {
	_, err := carrier.NewMail("mail.example:25", "returns.example", "secret")
	require.Error(t, err)
}

func TestReportsTakesOnlyWhatIsSigned(t *testing.T) {
	now := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	unknown := errors.New("unknown")
	var taken []delivery.Report
	handler := carrier.Reports(func() []string { return []string{"", "secret"} }, func(_ context.Context, r delivery.Report) error {
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
		{"no secret", "", good, now, http.StatusUnauthorized},
		{"another secret", "guess", good, now, http.StatusUnauthorized},
		{"replayed much later", "secret", good, now.Add(-time.Hour), http.StatusUnauthorized},
		{"no state a carrier reports", "secret", `{"key":"K1","state":"held"}`, now, http.StatusUnprocessableEntity},
		{"an unknown state", "secret", `{"key":"K1","state":"lost"}`, now, http.StatusUnprocessableEntity},
		{"no JSON", "secret", `arrived`, now, http.StatusUnprocessableEntity},
		{"a key of enormous length", "secret", `{"key":"` + strings.Repeat("K", 300) + `","state":"arrived"}`, now, http.StatusUnprocessableEntity},
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
		Via: delivery.ViaGateway, DeliveryKey: "K1", Key: "r1", State: delivery.Arrived, Detail: "on the phone",
		OccurredAt: time.Date(2026, 11, 24, 7, 59, 58, 0, time.UTC),
	}, taken[0])

	nameless := httptest.NewRequest(http.MethodPost, "/carrier/reports", strings.NewReader(good))
	carrier.Sign(nameless.Header, "secret", "", now, []byte(good))
	answer := httptest.NewRecorder()
	handler.ServeHTTP(answer, nameless)
	assert.Equal(t, http.StatusUnprocessableEntity, answer.Code, "a report without an identifier")

	unsigned := httptest.NewRecorder()
	handler.ServeHTTP(unsigned, httptest.NewRequest(http.MethodPost, "/carrier/reports", strings.NewReader(good)))
	assert.Equal(t, http.StatusUnauthorized, unsigned.Code)
}

func FuzzReports(f *testing.F) {
	f.Add([]byte(`{"key":"K1","state":"arrived","at":"2026-11-24T07:59:58Z"}`))
	now := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	handler := carrier.Reports(func() []string { return []string{"", "secret"} }, func(_ context.Context, r delivery.Report) error {
		if !r.State.Valid() || r.Key == "" || len(r.DeliveryKey) > delivery.LongestKey {
			panic("a report out of bounds")
		}
		return nil
	}, errors.New("unknown"), func() time.Time { return now })
	f.Fuzz(func(t *testing.T, body []byte) {
		req := httptest.NewRequest(http.MethodPost, "/carrier/reports", bytes.NewReader(body))
		carrier.Sign(req.Header, "secret", "r1", now, body)
		answer := httptest.NewRecorder()
		handler.ServeHTTP(answer, req)
		if answer.Code >= 500 {
			t.Fatalf("%d", answer.Code)
		}
	})
}
