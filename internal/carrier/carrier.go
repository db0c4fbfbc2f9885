// Package carrier takes deliveries onward by open protocols, and takes the
// reports about them back: mail by SMTP, texts and calls by HTTP gateways,
// pushes by Web Push.
// docs/carriers.md describes both sides.
package carrier

import (
	"fmt"

	"upperlantern/internal/core/roster"
)

// Item is one delivery to hand over.
type Item struct {
	Key      string // idempotency key: a carrier that sees it twice takes it once
	To       string
	From     string // a mailbox or a number, as the channel has it
	FromName string
	ReplyTo  string // the mailbox to which replies to an email go, if it is not From
	Subject  string
	Body     string
	HTML     string // of a formatted email; Body is then its plain form
	Files    []File
	Language string // of the body, BCP 47
	Call     Call
	Push     Push
}

// Push is how a push is shown, and where.
type Push struct {
	Device  Device
	Link    string // that it opens
	Badge   bool
	Quiet   bool
	Urgency roster.Urgency
}

// Device is where push reaches a device; the zero value is one that is not connected.
type Device struct {
	Endpoint string
	P256dh   string // base64url
	Auth     string // base64url
}

// File goes with an email.
type File struct {
	Name  string
	Type  string // media type
	Path  string
	Shown string // the content identifier by which HTML shows it, or ""
}

// Call is what a call does besides reading a text aloud.
type Call struct {
	Recording  string // URL of what to play instead of reading
	RepeatKey  string
	ConfirmKey string
}

// Refusal is a hand-over that the carrier answered and did not take. Any other
// error means that the carrier could not be spoken to.
type Refusal struct {
	Detail    string
	Permanent bool // it will never take it
	Gone      bool // there is no such address
}

func (r *Refusal) Error() string { return r.Detail }

// unreachable words the error of a carrier that does not answer for the record.
func unreachable(what string, err error) error {
	return fmt.Errorf("the %s does not answer: %w", what, err)
}
