package carrier

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base32"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/mail"
	"net/textproto"
	"strings"
	"time"

	"bufio"

	"github.com/emersion/go-smtp"

	"upperlantern/internal/core/delivery"
)

// Sink takes a report to where deliveries are kept.
type Sink func(context.Context, delivery.Report) error

const returnPrefix = "d+"

// ReturnAddress is the envelope sender of a delivery's email, so that whatever
// comes back names the delivery. It is signed: a key that is known from elsewhere
// makes none.
func ReturnAddress(key, domain, secret string) string {
	return returnPrefix + key + "." + returnMark(key, secret) + "@" + domain
}

// returnMark signs a return address with 80 bits.
func returnMark(key, secret string) string { return derived("return address", key, secret) }

// messageID is the idempotency key of an email, which everybody may see: it does
// not tell the key of the delivery.
func messageID(key, domain, secret string) string {
	return derived("message id", key, secret) + "@" + domain
}

func derived(what, key, secret string) string {
	mac := hmac.New(sha256.New, []byte(secret))
	_, _ = mac.Write([]byte(what + "\n" + strings.ToUpper(key)))
	return base32.StdEncoding.EncodeToString(mac.Sum(nil)[:10])
}

// keyOf is the delivery that an address names which begins with a prefix, if we signed
// it as one of what it is.
func keyOf(address, prefix, what, secret string) (string, bool) {
	local, _, ok := strings.Cut(address, "@")
	if !ok || len(local) < len(prefix) || !strings.EqualFold(local[:len(prefix)], prefix) {
		return "", false
	}
	key, mark, _ := strings.Cut(strings.ToUpper(local[len(prefix):]), ".")
	return key, hmac.Equal([]byte(mark), []byte(derived(what, key, secret)))
}

// The most that is read of a notification that comes back, and of what people write, in
// bytes.
const (
	LargestReturnMail = 1 << 20
	LargestMail       = 25 << 20
)

// Inbox is what takes mail that comes to us.
type Inbox struct {
	Reports Sink  // delivery status notifications
	Unknown error // the sink's, of a delivery that there is not
	Take    Taker // what people write
	Secret  string
	Mailbox func() string // the organisation's, which is taken too
	Now     func() time.Time
}

// Server makes an SMTP server for what mail servers send back to the addresses that the
// secret signs, and for what people write to us.
func (b Inbox) Server() *smtp.Server {
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) {
		return &returnSession{Inbox: b}, nil
	}))
	s.Domain = "upper-lantern"
	s.MaxMessageBytes = LargestMail
	s.MaxRecipients = 1
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	return s
}

type returnSession struct {
	Inbox
	from    string
	key     string
	written bool // by people
}

func (s *returnSession) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

func (s *returnSession) Rcpt(to string, _ *smtp.RcptOptions) error {
	if key, ok := keyOf(to, returnPrefix, "return address", s.Secret); ok {
		s.key, s.written = key, false
		return nil
	}
	key, ok := keyOf(to, replyPrefix, "reply address", s.Secret)
	if !ok && (s.Mailbox == nil || s.Mailbox() == "" || !strings.EqualFold(to, s.Mailbox())) {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "nobody reads this mailbox"}
	}
	s.key, s.written = key, true
	return nil
}

func (s *returnSession) Data(r io.Reader) error {
	if s.written {
		return s.take(r)
	}
	content, err := io.ReadAll(io.LimitReader(r, LargestReturnMail+1))
	if err != nil {
		return err
	}
	if len(content) > LargestReturnMail {
		return smtp.ErrDataTooLarge
	}
	report, err := ParseStatus(content)
	if err != nil {
		return notRead(err)
	}
	report.Via, report.DeliveryKey, report.OccurredAt = delivery.ViaMail, s.key, s.Now()
	err = s.Reports(context.Background(), report)
	if errors.Is(err, s.Unknown) {
		return nil // the message was deleted; there is nothing to send it again for
	}
	return err
}

// take takes what somebody wrote.
func (s *returnSession) take(r io.Reader) error {
	content, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	item, err := ReadMail(content, s.from == "", s.Now())
	if err != nil {
		return notRead(err)
	}
	item.Delivery = s.key
	return s.Take(context.Background(), item)
}

func notRead(err error) error {
	return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: err.Error()}
}

func (s *returnSession) Reset()        { s.from, s.key, s.written = "", "", false }
func (s *returnSession) Logout() error { return nil }

// ErrNoStatus means that a mail that came back is no delivery status notification.
var ErrNoStatus = errors.New("this mail is no delivery status notification")

// ParseStatus reads a delivery status notification (RFC 3464).
func ParseStatus(content []byte) (delivery.Report, error) {
	msg, err := mail.ReadMessage(bytes.NewReader(content))
	if err != nil {
		return delivery.Report{}, fmt.Errorf("%w: %w", ErrNoStatus, err)
	}
	kind, parameters, err := mime.ParseMediaType(msg.Header.Get("Content-Type"))
	if err != nil || kind != "multipart/report" {
		return delivery.Report{}, ErrNoStatus
	}
	parts := multipart.NewReader(msg.Body, parameters["boundary"])
	for {
		part, err := parts.NextPart()
		if err != nil {
			return delivery.Report{}, ErrNoStatus
		}
		if kind, _, _ := mime.ParseMediaType(part.Header.Get("Content-Type")); kind != "message/delivery-status" {
			continue
		}
		report, err := readStatus(part)
		report.Key = reportKey(msg.Header.Get("Message-Id"), content)
		return report, err
	}
}

// readStatus reads the fields about the message and then those about its one
// recipient. Source: RFC 3464 §2.1.
func readStatus(r io.Reader) (delivery.Report, error) {
	fields := textproto.NewReader(bufio.NewReader(r))
	if _, err := fields.ReadMIMEHeader(); err != nil {
		return delivery.Report{}, fmt.Errorf("%w: %w", ErrNoStatus, err)
	}
	recipient, err := fields.ReadMIMEHeader()
	if err != nil && !errors.Is(err, io.EOF) {
		return delivery.Report{}, fmt.Errorf("%w: %w", ErrNoStatus, err)
	}
	status := recipient.Get("Status")
	report := delivery.Report{Code: status, Detail: diagnostic(recipient.Get("Diagnostic-Code"))}
	switch strings.ToLower(recipient.Get("Action")) {
	case "delivered", "relayed", "expanded":
		report.State = delivery.Arrived
		report.Detail = "in the mailbox"
	case "failed":
		report.State = delivery.Failed
		report.Gone = strings.HasPrefix(status, "5.1.")
	case "delayed":
		report.State = delivery.Carrier
	default:
		return delivery.Report{}, fmt.Errorf("%w: no action", ErrNoStatus)
	}
	return report, nil
}

// diagnostic is the text of a field such as “smtp; 550 5.1.1 no such mailbox”.
func diagnostic(field string) string {
	if _, text, ok := strings.Cut(field, ";"); ok {
		field = text
	}
	words := strings.Fields(field)
	for len(words) > 0 && strings.Trim(words[0], "0123456789.-") == "" {
		words = words[1:]
	}
	return strings.Join(words, " ")
}

func reportKey(messageID string, content []byte) string {
	if messageID != "" && len(messageID) <= delivery.LongestKey {
		return messageID
	}
	sum := sha256.Sum256(content)
	return hex.EncodeToString(sum[:16])
}
