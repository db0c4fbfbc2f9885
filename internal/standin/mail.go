package standin

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"html"
	"io"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/jhillyerd/enmime/v2"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

// MailServer is the stand-in mail server. It takes mail for everybody and
// sends delivery status notifications to whoever asks for them.
func (b *Box) MailServer() *smtp.Server {
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &mailSession{box: b}, nil }))
	s.Domain = "mail.stand-in.example"
	s.EnableDSN = true
	s.MaxRecipients = 100
	s.MaxMessageBytes = 128 << 20
	s.ReadTimeout, s.WriteTimeout = 5*time.Minute, time.Minute
	return s
}

type mailSession struct {
	box  *Box
	from string
	to   []mailRecipient
}

type mailRecipient struct {
	address string
	fault   Fault
	notify  bool
}

func (s *mailSession) Mail(from string, _ *smtp.MailOptions) error {
	if s.box.throttled(roster.Email) {
		return &smtp.SMTPError{Code: 421, EnhancedCode: smtp.EnhancedCode{4, 7, 0}, Message: "too many at once"}
	}
	if !s.box.Down(roster.Email).IsZero() {
		return &smtp.SMTPError{
			Code: 421, EnhancedCode: smtp.EnhancedCode{4, 3, 2}, Message: "the mail server is down for now",
		}
	}
	s.from = from
	return nil
}

func (s *mailSession) Rcpt(to string, options *smtp.RcptOptions) error {
	fault := s.box.fault(roster.Email, to)
	if fault == Gone {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "no such mailbox"}
	}
	notify := options != nil && slices.Contains(options.Notify, smtp.DSNNotifySuccess)
	s.to = append(s.to, mailRecipient{to, fault, notify})
	return nil
}

func (s *mailSession) Data(r io.Reader) error {
	item, err := readMail(r)
	if err != nil {
		return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: err.Error()}
	}
	for _, to := range s.to {
		t := taking{Item: item, state: delivery.Arrived, detail: "in the mailbox"}
		t.Channel, t.Address = roster.Email, to.address
		if to.fault == Full {
			t.state, t.detail = delivery.Failed, "mailbox full"
		}
		if to.notify {
			t.reportTo = s.from
		}
		if err := s.box.take(t); err != nil {
			return err
		}
	}
	return nil
}

func (s *mailSession) Reset()        { s.from, s.to = "", nil }
func (s *mailSession) Logout() error { return nil }

// answerLink is a button of an email that asks something: where it leads, the number of
// its answer, and its words.
var answerLink = regexp.MustCompile(`<a href="([^"?]+/answer/[^"?]+)\?say=([1-9])"[^>]*>[1-9] ([^<]*)</a>`)

// readMail reads a message as a mailbox shows it.
func readMail(r io.Reader) (Item, error) {
	mail, err := enmime.ReadEnvelope(r)
	if err != nil {
		return Item{}, fmt.Errorf("the mail cannot be read: %w", err)
	}
	item := Item{
		Key: strings.Trim(mail.GetHeader("Message-Id"), "<>"), From: mail.GetHeader("From"),
		OneClick: strings.Trim(mail.GetHeader("List-Unsubscribe"), "<>"),
		Subject:  mail.GetHeader("Subject"), ReplyTo: mail.GetHeader("Reply-To"),
		Body: strings.TrimRight(strings.ReplaceAll(mail.Text, "\r\n", "\n"), "\n"), HTML: mail.HTML, Files: []ItemFile{},
	}
	if item.Key == "" {
		return Item{}, errors.New("the mail has no Message-ID")
	}
	for _, to := range answerLink.FindAllStringSubmatch(mail.HTML, -1) {
		item.Answer = to[1]
		item.Choices = append(item.Choices, Button{Key: to[2], Words: html.UnescapeString(to[3])})
	}
	for _, part := range slices.Concat(mail.Attachments, mail.Inlines) {
		sum := sha256.Sum256(part.Content)
		item.Files = append(item.Files, ItemFile{
			Name: part.FileName, Type: part.ContentType, Size: len(part.Content), Shown: part.ContentID != "",
			Hash: hex.EncodeToString(sum[:]), content: part.Content,
		})
	}
	return item, nil
}

// notification writes a delivery status notification (RFC 3464).
func notification(t taking, id string, at time.Time) string {
	action, status := "delivered", "2.1.5"
	if t.state == delivery.Failed {
		action, status = "failed", "5.2.2"
	}
	lines := []string{
		"From: Mail server <postmaster@mail.stand-in.example>",
		"To: <" + t.reportTo + ">",
		"Subject: Delivery status",
		"Date: " + at.Format(time.RFC1123Z),
		"Message-ID: <" + id + "@mail.stand-in.example>",
		"MIME-Version: 1.0",
		`Content-Type: multipart/report; report-type=delivery-status; boundary="status"`,
		"",
		"--status",
		"Content-Type: text/plain; charset=utf-8",
		"",
		"Your message to " + t.Address + ": " + t.detail,
		"--status",
		"Content-Type: message/delivery-status",
		"",
		"Reporting-MTA: dns; mail.stand-in.example",
		"",
		"Final-Recipient: rfc822; " + t.Address,
		"Action: " + action,
		"Status: " + status,
		"Diagnostic-Code: smtp; " + status + " " + t.detail,
		"",
		"--status--",
		"",
	}
	return strings.Join(lines, "\r\n")
}
