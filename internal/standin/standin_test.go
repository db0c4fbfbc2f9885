package standin_test

import (
	"context"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

var ctx = context.Background()

// rig is our carriers, the stand-ins behind them, and where reports end.
type rig struct {
	box         *standin.Box
	mail        *carrier.Mail
	text, voice *carrier.Gateway
	push        *carrier.WebPush

	mu      sync.Mutex
	reports []delivery.Report
}

func (r *rig) take(_ context.Context, report delivery.Report) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.reports = append(r.reports, report)
	return nil
}

func (r *rig) said() map[string]string {
	r.mu.Lock()
	defer r.mu.Unlock()
	said := map[string]string{}
	for _, report := range r.reports {
		said[report.DeliveryKey] = string(report.State) + ": " + report.Detail
	}
	return said
}

func listen(t *testing.T) net.Listener {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	return l
}

func newRig(t *testing.T) *rig {
	r := &rig{}
	returns, mails := listen(t), listen(t)
	returnServer := carrier.Inbox{Reports: r.take, Unknown: context.Canceled, Secret: "secret", Now: time.Now}.Server()
	go returnServer.Serve(returns) //nolint:errcheck // it ends with the test
	box, err := standin.Open(t.TempDir(), standin.Options{
		ReturnMail: returns.Addr().String(), Token: "token", Secret: "secret", Now: time.Now,
		Log:   slog.New(slog.DiscardHandler),
		Delay: func() time.Duration { return 0 },
	})
	require.NoError(t, err)
	r.box = box
	mailServer := box.MailServer()
	go mailServer.Serve(mails) //nolint:errcheck // it ends with the test
	gateway := httptest.NewServer(box.Gateway())
	listening := chi.NewRouter()
	listening.Method(http.MethodPost, "/reports", carrier.Reports(func() []string { return []string{"", "secret"} }, r.take, context.Canceled, time.Now))
	listening.Method(http.MethodPost, "/pushes/{key}", carrier.Shown(r.take, context.Canceled, time.Now))
	reports := httptest.NewServer(listening)
	private, public, err := carrier.NewPushKeys()
	require.NoError(t, err)
	r.push = carrier.NewWebPush(private, public, "office@quillmere.example", reports.URL+"/pushes/", standin.PushTransport(
		gateway.Listener.Addr().String(),
	))
	r.mail, err = carrier.NewMail("smtp://"+mails.Addr().String(), "returns.example", "secret")
	require.NoError(t, err)
	r.text = carrier.NewGateway("text gateway", gateway.URL+"/texts", "token", reports.URL+"/reports")
	r.voice = carrier.NewGateway("voice gateway", gateway.URL+"/calls", "token", reports.URL+"/reports")
	running, stop := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() {
		box.Run(running)
		close(done)
	}()
	t.Cleanup(func() {
		stop()
		<-done
		gateway.Close()
		reports.Close()
		require.NoError(t, mailServer.Close())
		require.NoError(t, returnServer.Close())
		require.NoError(t, box.Close())
	})
	return r
}

func item(key, to, body string) carrier.Item {
	return carrier.Item{
		Key: key, To: to, From: "office@quillmere.example", FromName: "Łódka & Café", Subject: "Śluza – 水位", Body: body,
		Language: "en",
	}
}

func TestEverythingComesBackByTheRealProtocols(t *testing.T) {
	r := newRig(t)
	require.NoError(t, r.box.SetFault(ctx, "full@example.org", standin.Full))
	require.NoError(t, r.box.SetFault(ctx, "+447700900009", standin.Gone))
	require.NoError(t, r.box.SetFault(ctx, "+447700900008", standin.NoAnswer))
	require.NoError(t, r.mail.Hand(ctx, item("M1", "ana@example.org", "Line one\n.\nLine two with ł")))
	require.NoError(t, r.mail.Hand(ctx, item("M2", "full@example.org", "x")))
	require.NoError(t, r.text.Hand(ctx, item("T1", "+447700900001", "x")))
	require.NoError(t, r.text.Hand(ctx, item("T2", "+447700900009", "x")))
	require.NoError(t, r.voice.Hand(ctx, item("V1", "+447700900001", "x")))
	require.NoError(t, r.voice.Hand(ctx, item("V2", "+447700900008", "x")))
	require.NoError(t, r.push.Hand(ctx, pushItem("P1", "Ana’s phone")))
	testkit.Eventually(t, "seven reports", func() bool { return len(r.said()) == 7 })
	assert.Equal(t, map[string]string{
		"M1": "arrived: in the mailbox", "M2": "failed: mailbox full", "T1": "arrived: on the phone",
		"T2": "failed: no such number",
		"V1": "opened: picked up and heard", "V2": "failed: nobody picked up",
		"P1": "arrived: on the device",
	}, r.said())

	got, err := r.box.Received(ctx, []string{"ana@example.org", "full@example.org", "+447700900009"})
	require.NoError(t, err)
	require.Len(t, got, 1, "what failed was not received")
	assert.Equal(t, "Śluza – 水位", got[0].Subject)
	assert.Contains(t, got[0].From, "Łódka & Café")
	assert.Equal(t, "Line one\n.\nLine two with ł", got[0].Body)
}

func TestMailToNobodyIsRefusedAtOnce(t *testing.T) {
	r := newRig(t)
	require.NoError(t, r.box.SetFault(ctx, "gone@example.org", standin.Gone))
	err := r.mail.Hand(ctx, item("M1", "gone@example.org", "x"))
	var refusal *carrier.Refusal
	require.ErrorAs(t, err, &refusal)
	assert.Equal(t, carrier.Refusal{Detail: "no such mailbox", Code: "5.1.1", Permanent: true, Address: true, Gone: true}, *refusal)

	require.NoError(t, r.box.SetFault(ctx, "gone@example.org", ""))
	require.NoError(t, r.mail.Hand(ctx, item("M2", "gone@example.org", "x")))
}

func TestTheSameKeyIsTakenOnce(t *testing.T) {
	r := newRig(t)
	for range 3 {
		require.NoError(t, r.mail.Hand(ctx, item("M1", "ana@example.org", "x")))
		require.NoError(t, r.text.Hand(ctx, item("T1", "+447700900001", "x")))
		require.NoError(t, r.push.Hand(ctx, pushItem("P1", "Ana’s phone")))
	}
	all, err := r.box.All(ctx)
	require.NoError(t, err)
	require.Len(t, all, 3)
	assert.Equal(t, 3, all[2].Times)
	assert.Equal(t, 3, all[0].Times)
	assert.Equal(t, 3, all[1].Times)
}

func TestGatewayRefusesWhatItCannotSend(t *testing.T) {
	r := newRig(t)
	for _, bad := range []carrier.Item{item("T1", "07700 900001", "x"), item("T2", "+447700900001", "")} {
		var refusal *carrier.Refusal
		require.ErrorAs(t, r.text.Hand(ctx, bad), &refusal)
		assert.True(t, refusal.Permanent)
	}
}

func pushItem(key, device string) carrier.Item {
	i := item(key, device, "Low water – 水位")
	i.Push = carrier.Push{
		Device: standin.Device(device), Link: "https://quillmere.example/rota", Badge: true, Quiet: true,
		Urgency: roster.Routine,
	}
	return i
}

func TestAPushIsShownOnItsDevice(t *testing.T) {
	r := newRig(t)
	require.NoError(t, r.push.Hand(ctx, pushItem("P1", "Ana’s phone")))
	got, err := r.box.Received(ctx, []string{"Ana’s phone"})
	require.NoError(t, err)
	require.Len(t, got, 1)
	assert.Equal(t, "Śluza – 水位", got[0].Subject)
	assert.Equal(t, "Low water – 水位", got[0].Body)
	assert.Equal(t, "quiet, the icon is marked, opens https://quillmere.example/rota", got[0].Offers)
}

func TestTheLargestPushArrives(t *testing.T) {
	r := newRig(t)
	p := pushItem("P1", "Ana’s phone")
	payload := push.Payload{
		Title: p.Subject, Link: p.Push.Link, Badge: true, Quiet: true, Language: "en", Body: strings.Repeat("word ", 2000),
	}
	p.Body = payload.Fit().Body
	require.NoError(t, r.push.Hand(ctx, p))
	p.Body = payload.Body
	var refusal *carrier.Refusal
	require.ErrorAs(t, r.push.Hand(ctx, p), &refusal)
	assert.True(t, refusal.Permanent)
}

func TestPushesThatNoDeviceTakes(t *testing.T) {
	r := newRig(t)
	require.NoError(t, r.box.SetFault(ctx, "Bo’s phone", standin.Gone))
	broken := pushItem("P3", "Cy’s phone")
	broken.Push.Device.P256dh = "AAAA"
	unconnected := pushItem("P2", "Di’s phone")
	unconnected.Push.Device = carrier.Device{}
	others := pushItem("P4", "Ana’s phone")
	others.Push.Device.P256dh, others.Push.Device.Auth = standin.Device("Bo’s phone").P256dh, standin.Device("Bo’s phone").Auth
	for _, c := range []struct {
		name string
		item carrier.Item
		want carrier.Refusal
	}{
		{"gone", pushItem("P1", "Bo’s phone"), carrier.Refusal{Detail: "the device is no longer connected", Permanent: true, Address: true, Gone: true}},
		{"never connected", unconnected, carrier.Refusal{Detail: "the device is not connected", Permanent: true, Address: true}},
		{"broken keys", broken, carrier.Refusal{Detail: "the device's keys cannot be used: Unmarshal Error: Public key is not a valid point on the curve", Permanent: true, Address: true}},
		{"encrypted for another device", others, carrier.Refusal{Detail: "the push service answered 400 Bad Request", Permanent: true}},
	} {
		t.Run(c.name, func(t *testing.T) {
			var refusal *carrier.Refusal
			require.ErrorAs(t, r.push.Hand(ctx, c.item), &refusal)
			assert.Equal(t, c.want, *refusal)
		})
	}
}

func TestAPushServiceAsksWhoSends(t *testing.T) {
	r := newRig(t)
	gateway := httptest.NewServer(r.box.Gateway())
	defer gateway.Close()
	for name, authorization := range map[string]string{
		"nobody": "", "no token": "vapid k=BAAA", "a key that is none": "vapid t=a.b.c, k=BAAA",
		"another scheme": "Bearer token",
	} {
		t.Run(name, func(t *testing.T) {
			req, err := http.NewRequest(http.MethodPost, gateway.URL+"/push/QW5h", strings.NewReader("x"))
			require.NoError(t, err)
			req.Header.Set("Authorization", authorization)
			resp, err := http.DefaultClient.Do(req)
			require.NoError(t, err)
			require.NoError(t, resp.Body.Close())
			assert.Equal(t, http.StatusForbidden, resp.StatusCode)
		})
	}
}
