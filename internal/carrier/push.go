package carrier

import (
	"context"
	"crypto/ecdh"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"syscall"
	"time"

	webpush "github.com/SherClockHolmes/webpush-go"
	"github.com/go-chi/chi/v5"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/roster"
)

// WebPush hands pushes to the push services of devices: encrypted by RFC 8291,
// under our name by RFC 8292, as RFC 8030 has it.
type WebPush struct {
	private, public string
	contact         string
	reports         string
	client          *http.Client
}

// NewWebPush makes a carrier with our keys, base64url, and the mailbox at which
// push services can reach us. Devices report below the URL reports.
func NewWebPush(private, public, contact, reports string, transport http.RoundTripper) *WebPush {
	return &WebPush{
		private: private, public: public, contact: contact, reports: reports,
		client: &http.Client{Timeout: gatewayTimeout, Transport: transport, CheckRedirect: answerHere},
	}
}

// NewPushKeys makes a pair of keys by which push services know us.
func NewPushKeys() (private, public string, err error) { return webpush.GenerateVAPIDKeys() }

// urgencies as RFC 8030 §5.3 has them: a quiet push may wait for a device to wake.
func urgency(p Push) webpush.Urgency {
	switch {
	case p.Urgency == roster.Emergency:
		return webpush.UrgencyHigh
	case p.Quiet:
		return webpush.UrgencyLow
	}
	return webpush.UrgencyNormal
}

// topicLength is the longest topic (RFC 8030 §5.4). A push that is handed over
// twice replaces itself under it.
const topicLength = 32

// Hand hands over one push.
func (w *WebPush) Hand(ctx context.Context, item Item) error {
	if item.Push.Device == (Device{}) {
		return &Refusal{Detail: "the device is not connected", Permanent: true, Address: true}
	}
	if own.Fetches(item.Push.Device.Endpoint) {
		return nil // its page fetches it, and reports that it arrived
	}
	payload := push.Payload{
		Title: item.Subject, Body: item.Body, Link: item.Push.Link, Badge: item.Push.Badge, Quiet: item.Push.Quiet,
		Language: item.Language,
		Choices:  item.Push.Choices, Answer: item.Answer,
		Key: item.Key, Report: w.reports + item.Key,
	}
	device := webpush.Subscription{
		Endpoint: item.Push.Device.Endpoint, Keys: webpush.Keys{P256dh: item.Push.Device.P256dh, Auth: item.Push.Device.Auth},
	}
	resp, err := webpush.SendNotificationWithContext(ctx, payload.Encode(), &device, &webpush.Options{
		HTTPClient: w.client, Subscriber: w.contact, VAPIDPrivateKey: w.private, VAPIDPublicKey: w.public,
		TTL: int(delivery.GiveUpAfter / time.Second), Urgency: urgency(item.Push),
		Topic: item.Key[:min(len(item.Key), topicLength)],
	})
	var network *url.Error
	switch {
	case errors.As(err, &network):
		return unreachable("push service", err)
	case errors.Is(err, webpush.ErrMaxPadExceeded):
		return &Refusal{Detail: "the push is larger than a device takes", Permanent: true}
	case err != nil:
		return &Refusal{Detail: "the device's keys cannot be used: " + err.Error(), Permanent: true, Address: true}
	}
	defer resp.Body.Close() //nolint:errcheck // nothing is left to read
	_, _ = io.Copy(io.Discard, io.LimitReader(resp.Body, 1<<16))
	return pushAnswer(resp)
}

func pushAnswer(resp *http.Response) error {
	switch status := resp.StatusCode; {
	case status < 300:
		return nil
	case status == http.StatusNotFound, status == http.StatusGone: // RFC 8030 §7.3
		return &Refusal{Detail: "the device is no longer connected", Permanent: true, Address: true, Gone: true}
	// One of many push services: its trouble is not that of the others.
	case status >= 500, status < 400, ours(status),
		status == http.StatusTooManyRequests, status == http.StatusRequestTimeout:
		return &Refusal{Detail: "the push service answered " + resp.Status, RetryAfter: retryAfter(resp.Header, time.Now())}
	}
	return &Refusal{Detail: "the push service answered " + resp.Status, Permanent: true}
}

// ErrEndpoint means that what a device says is no address of a push service.
var ErrEndpoint = errors.New("that is no push service")

// CheckDevice refuses a device that nothing could be sent to.
func CheckDevice(d Device) error {
	endpoint, err := url.Parse(d.Endpoint)
	if err != nil || endpoint.Scheme != "https" || endpoint.Hostname() == "" || endpoint.User != nil || len(d.Endpoint) > 1000 {
		return fmt.Errorf("%w: its address must begin with https://", ErrEndpoint)
	}
	if _, err := netip.ParseAddr(endpoint.Hostname()); err == nil {
		return fmt.Errorf("%w: its address must be a name", ErrEndpoint)
	}
	key, err := base64.RawURLEncoding.DecodeString(strings.TrimRight(d.P256dh, "="))
	if err == nil {
		_, err = ecdh.P256().NewPublicKey(key)
	}
	if err != nil {
		return fmt.Errorf("%w: its key cannot be used: %w", ErrEndpoint, err)
	}
	if auth, err := base64.RawURLEncoding.DecodeString(strings.TrimRight(d.Auth, "=")); err != nil || len(auth) != authLength {
		return fmt.Errorf("%w: its authentication secret must be %d bytes", ErrEndpoint, authLength)
	}
	return nil
}

// authLength is how many bytes the secret of a device has (RFC 8291 §3.2).
const authLength = 16

// PublicOnly is a transport that reaches no private network: where push is
// handed to is what devices say, and they may lie.
func PublicOnly() http.RoundTripper {
	dialer := &net.Dialer{Timeout: 10 * time.Second, Control: func(_, address string, _ syscall.RawConn) error {
		to, err := netip.ParseAddrPort(address)
		if err != nil {
			return err
		}
		if ip := to.Addr().Unmap(); !ip.IsGlobalUnicast() || ip.IsPrivate() {
			return fmt.Errorf("%w: %s is not public", ErrEndpoint, ip)
		}
		return nil
	}}
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.DialContext, transport.Proxy = dialer.DialContext, nil
	return transport
}

const largestShown = 1 << 10

// Shown takes what devices say about pushes: a POST of {"state": "arrived"}, or
// opened, to a path that ends in the key of the delivery. Only the device
// could read that key, so nothing else proves who reports.
func Shown(sink Sink, unknown error, now func() time.Time) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var said struct {
			State delivery.State `json:"state"`
		}
		if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, largestShown)).Decode(&said); err != nil {
			http.Error(w, "the report cannot be read", http.StatusUnprocessableEntity)
			return
		}
		details := map[delivery.State]string{delivery.Arrived: "on the device", delivery.Opened: "opened on the device"}
		detail, known := details[said.State]
		if !known {
			http.Error(w, fmt.Sprintf("%q is no state that a device reports", said.State), http.StatusUnprocessableEntity)
			return
		}
		report := delivery.Report{
			Via: delivery.ViaDevice, DeliveryKey: chi.URLParam(r, "key"), Key: string(said.State), State: said.State,
			Detail: detail, OccurredAt: now(),
		}
		kept(w, sink(r.Context(), report), unknown)
	})
}
