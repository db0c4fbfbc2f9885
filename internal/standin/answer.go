package standin

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	netmail "net/mail"
	"slices"
	"strings"

	"github.com/emersion/go-smtp"
	"github.com/wneessen/go-mail"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/roster"
)

// ErrRefused means that what was posted to us was not taken.
var ErrRefused = errors.New("it was not taken")

// Written is what somebody writes to us, or says after the beep.
type Written struct {
	Subject   string // of an email that answers none
	Text      string
	Files     []carrier.GatewayMedia
	Automatic bool // an answering program writes it (RFC 3834)
}

// Answer lets somebody who has some addresses answer an item that they got: a text by a
// text, an email by an email to where its replies go.
func (b *Box) Answer(ctx context.Context, addresses []string, key string, w Written) error {
	items, err := b.Received(ctx, addresses)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(items, func(i Item) bool { return i.Key == key })
	if at < 0 {
		return ErrGone
	}
	switch item := items[at]; item.Channel {
	case roster.Text:
		return b.Write(ctx, roster.Text, item.Address, item.From, w)
	case roster.Email:
		return b.mailBack(item, w)
	}
	return fmt.Errorf("%w: only texts and emails can be answered here", ErrUnknown)
}

// Write lets an address write to one of ours, though it answers nothing: a text, a call
// that ends in words after the beep, or an email. Those to a number are posted to
// where the gateway was told to.
func (b *Box) Write(ctx context.Context, channel roster.Channel, from, to string, w Written) error {
	if channel == roster.Email {
		return b.mail(from, to, w)
	}
	return b.Post(ctx, carrier.GatewayItem{
		Key: rand.Text(), Channel: channel, From: from, To: to, Text: w.Text, Media: w.Files, At: b.Now(),
	})
}

// Post posts what somebody sent to one of our numbers, signed as reports are.
func (b *Box) Post(ctx context.Context, item carrier.GatewayItem) error {
	body, err := json.Marshal(item)
	if err != nil {
		return err
	}
	header := http.Header{}
	carrier.Sign(header, b.Secret, item.Key, b.Now(), body)
	return b.post(ctx, b.Incoming, header, body)
}

// mailBack sends an email to where the replies to another one go, with that quoted
// beneath.
func (b *Box) mailBack(item Item, w Written) error {
	to := item.From
	if item.ReplyTo != "" {
		to = item.ReplyTo
	}
	parsed, err := netmail.ParseAddress(to)
	if err != nil {
		return fmt.Errorf("where replies go: %w", err)
	}
	quoted := "> " + strings.ReplaceAll(strings.TrimSpace(item.Body), "\n", "\n> ")
	wrote := fmt.Sprintf("On %s, %s wrote:", item.At.Format("Mon 2 Jan 2006 15:04"), parsed.Address)
	w.Subject, w.Text = "Re: "+strings.TrimPrefix(item.Subject, "Re: "), w.Text+"\n\n"+wrote+"\n"+quoted
	return b.mail(item.Address, parsed.Address, w)
}

// mail sends an email to the server that takes our mail.
func (b *Box) mail(from, to string, w Written) error {
	msg := mail.NewMsg(mail.WithCharset(mail.CharsetUTF8), mail.WithNoDefaultUserAgent())
	if err := errors.Join(msg.From(from), msg.To(to)); err != nil {
		return err
	}
	msg.Subject(w.Subject)
	msg.SetMessageIDWithValue(rand.Text() + "@mail.stand-in.example")
	msg.SetDateWithValue(b.Now())
	if w.Automatic {
		msg.SetGenHeader("Auto-Submitted", "auto-replied")
	}
	msg.SetBodyString(mail.TypeTextPlain, w.Text)
	for _, f := range w.Files {
		err := msg.AttachReader(f.Name, bytes.NewReader(f.Content), mail.WithFileContentType(mail.ContentType(f.Type)))
		if err != nil {
			return err
		}
	}
	var content bytes.Buffer
	if _, err := msg.WriteTo(&content); err != nil {
		return err
	}
	return b.sendMail(from, to, &content)
}

// sendMail hands an email to the server that takes our mail.
func (b *Box) sendMail(from, to string, content io.Reader) error {
	client, err := smtp.Dial(b.ReturnMail)
	if err != nil {
		return err
	}
	defer client.Close() //nolint:errcheck // it was quit, or failed already
	var said *smtp.SMTPError
	if err := client.SendMail(from, []string{to}, content); errors.As(err, &said) {
		return fmt.Errorf("%w: %s", ErrRefused, said.Message)
	} else if err != nil {
		return err
	}
	return client.Quit()
}
