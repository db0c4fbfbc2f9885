// Package carrier takes deliveries onward by open protocols, and takes the
// reports about them back: mail by SMTP, texts and calls by HTTP gateways,
// pushes by Web Push.
// docs/carriers.md describes both sides.
package carrier

import (
	"errors"
	"fmt"
	"net"
	"net/http"
	"strconv"
	"time"

	"upperlantern/internal/core/roster"
)

// Item is one delivery to hand over.
type Item struct {
	Key      string // idempotency key: a carrier that sees it twice takes it once
	To       string
	From     string // a mailbox or a number, as the channel has it
	FromName string
	OneClick string // the URL that ends emails of its kind with one click, or ""
	Answer   string // the URL of the page that takes an answer to the question of an email or a push, or ""
	Replies  bool   // to an email come back to the program
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
	Choices []string // the answers of a question, numbered from 1
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
	AnswerKeys []string // that choose an answer
}

// Refusal is a hand-over that the carrier answered and did not take, because of
// the address or of what was to be sent. An error that is neither a Refusal nor a
// Trouble means that the carrier could not be spoken to.
type Refusal struct {
	Detail     string
	Code       string        // an enhanced status code (RFC 3463), if it gives one
	Permanent  bool          // it will never take it
	Address    bool          // it is about the address
	Gone       bool          // there is no such address
	RetryAfter time.Duration // how long to wait before the next try, if it says so
}

func (r *Refusal) Error() string { return r.Detail }

// Trouble is the carrier's own trouble, or ours with it: credit, account, its
// address. Every delivery would be answered so, and no address is to blame.
type Trouble struct {
	Detail     string
	RetryAfter time.Duration // how long it asks us to wait, or 0
}

func (t *Trouble) Error() string { return t.Detail }

// Uncertain is a hand-over of which nobody can tell whether the carrier took it,
// and which it would take twice.
type Uncertain struct{ Detail string }

func (u *Uncertain) Error() string { return u.Detail }

// Down is a hand-over for which no connection could be made: nothing was taken.
type Down struct {
	what string
	err  error
}

func (d *Down) Error() string { return fmt.Sprintf("the %s does not answer: %s", d.what, d.err) }

func (d *Down) Unwrap() error { return d.err }

// longestRetryAfter bounds for how long a carrier can silence us.
const longestRetryAfter = time.Hour

// retryAfter reads how long an answer asks to wait: seconds, or a date (RFC 9110
// §10.2.3).
func retryAfter(h http.Header, now time.Time) time.Duration {
	said := h.Get("Retry-After")
	wait := time.Duration(0)
	if seconds, err := strconv.Atoi(said); err == nil {
		wait = time.Duration(min(max(seconds, 0), int(longestRetryAfter/time.Second))) * time.Second
	} else if at, err := http.ParseTime(said); err == nil {
		wait = at.Sub(now)
	}
	return min(max(wait, 0), longestRetryAfter)
}

// answerHere leaves redirects alone: what is handed over, and our token, go to the
// configured address and nowhere else.
func answerHere(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }

// unreachable words the error of a carrier that does not answer for the record.
func unreachable(what string, err error) error {
	var dialling *net.OpError
	if errors.As(err, &dialling) && dialling.Op == "dial" {
		return &Down{what, err}
	}
	return fmt.Errorf("the %s does not answer: %w", what, err)
}
