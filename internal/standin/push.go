package standin

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/ecdh"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/hkdf"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/golang-jwt/jwt/v5"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/roster"
)

// PushHost is the name under which the stand-in push service is known to
// devices; PushTransport leads there.
const PushHost = "push.stand-in.example"

// Device is a simulated device under a name, subscribed to the stand-in. The
// same name is always the same device.
func Device(name string) carrier.Device {
	private, auth := deviceKeys(name)
	return carrier.Device{
		Endpoint: "https://" + PushHost + "/" + base64.RawURLEncoding.EncodeToString([]byte(name)),
		P256dh:   base64.RawURLEncoding.EncodeToString(private.PublicKey().Bytes()),
		Auth:     base64.RawURLEncoding.EncodeToString(auth),
	}
}

// deviceKeys are what a simulated device keeps to itself.
func deviceKeys(name string) (private *ecdh.PrivateKey, auth []byte) {
	sum := sha256.Sum256([]byte("device " + name))
	private, err := ecdh.P256().NewPrivateKey(sum[:])
	if err != nil { // one in 2^32 names
		return deviceKeys(name + "'")
	}
	secret := sha256.Sum256(append([]byte("secret "), name...))
	return private, secret[:16]
}

// PushTransport takes requests for PushHost to where the stand-in listens.
func PushTransport(address string) http.RoundTripper {
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.MaxIdleConnsPerHost = pushesAtOnce
	return toStandIn{address, transport}
}

const pushesAtOnce = 40

type toStandIn struct {
	address   string
	transport http.RoundTripper
}

func (t toStandIn) RoundTrip(r *http.Request) (*http.Response, error) {
	if r.URL.Host != PushHost {
		return nil, fmt.Errorf("the stand-in is not the push service %s", r.URL.Host)
	}
	to := r.Clone(r.Context())
	to.URL = &url.URL{Scheme: "http", Host: t.address, Path: "/push" + r.URL.Path}
	return t.transport.RoundTrip(to)
}

// largestPush is the most that a push service takes (RFC 8030 §7.2).
const largestPush = 4096

func (b *Box) acceptPush(w http.ResponseWriter, r *http.Request) {
	refuse := func(status int, reason string) { http.Error(w, reason, status) }
	name, err := base64.RawURLEncoding.DecodeString(chi.URLParam(r, "device"))
	if err != nil {
		refuse(http.StatusNotFound, "there is no such device")
		return
	}
	if !b.Down(roster.Push).IsZero() {
		refuse(http.StatusServiceUnavailable, "the push service is down for now")
		return
	}
	if b.throttled(roster.Push) {
		w.Header().Set("Retry-After", "1")
		refuse(http.StatusTooManyRequests, "too many at once")
		return
	}
	if err := identified(r.Header.Get("Authorization")); err != nil {
		refuse(http.StatusForbidden, err.Error())
		return
	}
	if ttl, err := strconv.Atoi(r.Header.Get("TTL")); err != nil || ttl < 0 {
		refuse(http.StatusBadRequest, "TTL is missing") // RFC 8030 §5.2
		return
	}
	body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, largestPush))
	if err != nil || r.Header.Get("Content-Encoding") != "aes128gcm" {
		refuse(http.StatusRequestEntityTooLarge, "the push is too large, or not encrypted")
		return
	}
	t, err := b.shown(string(name), body)
	if err != nil {
		refuse(http.StatusBadRequest, err.Error())
		return
	}
	fault := b.fault(roster.Push, t.Address)
	if fault == Gone {
		refuse(http.StatusGone, "the device is no longer subscribed")
		return
	}
	if fault == Full { // switched off: taken, and never heard of again
		t.reportTo = ""
	}
	if err := b.take(t); err != nil {
		refuse(http.StatusInternalServerError, err.Error())
		return
	}
	w.WriteHeader(http.StatusCreated)
}

// identified checks who sends (RFC 8292 §2): a token signed with the key beside it.
func identified(authorization string) error {
	scheme, values, _ := strings.Cut(authorization, " ")
	var token, key string
	for _, v := range strings.Split(values, ",") {
		switch name, value, _ := strings.Cut(strings.TrimSpace(v), "="); name {
		case "t":
			token = value
		case "k":
			key = value
		}
	}
	if scheme != "vapid" || token == "" {
		return errors.New("it is not said who sends")
	}
	point, err := base64.RawURLEncoding.DecodeString(key)
	if err != nil {
		return fmt.Errorf("the key cannot be read: %w", err)
	}
	public, err := ecdsa.ParseUncompressedPublicKey(elliptic.P256(), point)
	if err != nil {
		return err
	}
	_, err = jwt.Parse(token, func(*jwt.Token) (any, error) { return public, nil },
		jwt.WithValidMethods([]string{"ES256"}), jwt.WithAudience("https://"+PushHost), jwt.WithExpirationRequired())
	return err
}

// shown is what a device makes of a push.
func (b *Box) shown(name string, body []byte) (taking, error) {
	plain, err := decrypt(name, body)
	if err != nil {
		return taking{}, err
	}
	var p push.Payload
	if err := json.Unmarshal(plain, &p); err != nil {
		return taking{}, fmt.Errorf("the payload cannot be read: %w", err)
	}
	item := Item{
		Key: p.Key, Channel: roster.Push, Address: name, Subject: p.Title, Body: p.Body, Offers: pushOffers(p),
		Answer: p.Answer,
	}
	for i, words := range p.Choices {
		item.Choices = append(item.Choices, Button{Key: strconv.Itoa(i + 1), Words: words})
	}
	return taking{Item: item, state: delivery.Arrived, reportTo: p.Report}, nil
}

func pushOffers(p push.Payload) string {
	said := []string{map[bool]string{true: "quiet", false: "with a sound"}[p.Quiet]}
	if p.Badge {
		said = append(said, "the icon is marked")
	}
	if p.Link != "" {
		said = append(said, "opens "+p.Link)
	}
	return strings.Join(said, ", ")
}

// decrypt undoes RFC 8291 with the keys of a device: one record of RFC 8188.
func decrypt(name string, body []byte) ([]byte, error) {
	const header, point = 21, 65
	if len(body) < header+point || int(body[20]) != point ||
		binary.BigEndian.Uint32(body[16:20]) < uint32(len(body)-header-point) {
		return nil, errors.New("the push has no header of RFC 8188")
	}
	salt, sender := body[:16], body[header:header+point]
	private, auth := deviceKeys(name)
	theirs, err := ecdh.P256().NewPublicKey(sender)
	if err != nil {
		return nil, fmt.Errorf("the sender's key: %w", err)
	}
	shared, err := private.ECDH(theirs)
	if err != nil {
		return nil, fmt.Errorf("the sender's key: %w", err)
	}
	info := "WebPush: info\x00" + string(private.PublicKey().Bytes()) + string(sender)
	secret, err := hkdf.Key(sha256.New, shared, auth, info, 32)
	if err != nil {
		return nil, err
	}
	key, err := hkdf.Key(sha256.New, secret, salt, "Content-Encoding: aes128gcm\x00", 16)
	if err != nil {
		return nil, err
	}
	nonce, err := hkdf.Key(sha256.New, secret, salt, "Content-Encoding: nonce\x00", 12)
	if err != nil {
		return nil, err
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	gcm, err := cipher.NewGCM(block)
	if err != nil {
		return nil, err
	}
	padded, err := gcm.Open(nil, nonce, body[header+point:], nil)
	if err != nil {
		return nil, errors.New("the push is not for this device")
	}
	text := strings.TrimRight(string(padded), "\x00")
	plain, last := strings.CutSuffix(text, "\x02")
	if !last {
		return nil, errors.New("the push has more than one record")
	}
	return []byte(plain), nil
}
