// Package carrying holds the rules of carriers: how one is set up, and which takes
// the next delivery.
package carrying

import (
	"errors"
	"fmt"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
)

// ErrUnfit means that a carrier cannot be set up so.
var ErrUnfit = errors.New("this carrier cannot be kept")

// Setup is how a carrier is spoken to, without its secrets. Email has a server, texts
// and calls have a gateway.
type Setup struct {
	Channel   roster.Channel `json:"channel"`
	Name      string         `json:"name" maxLength:"200"`
	Rests     bool           `json:"rests" doc:"It is set up and not used"`
	PerSecond float64        `json:"perSecond" minimum:"0" maximum:"10000" doc:"The most deliveries in a second; 0 is no limit"`
	PerDay    int            `json:"perDay" minimum:"0" maximum:"100000000" doc:"The most deliveries in a day; 0 is no limit"`
	PerDomain int            `json:"perDomain,omitempty" minimum:"0" maximum:"100000" doc:"Of email: the most in a minute to mailboxes of one domain; 0 is no limit"`
	Server    *Server        `json:"server,omitempty"`
	Gateway   *Gateway       `json:"gateway,omitempty"`
}

// mostPerDomain is beyond what any domain takes in a minute.
const mostPerDomain = 100_000

// Server is a mail server.
type Server struct {
	Host     string   `json:"host" maxLength:"253"`
	Port     int      `json:"port" minimum:"1" maximum:"65535"`
	Security Security `json:"security"`
	User     string   `json:"user" maxLength:"200" doc:"Empty when it asks for none"`
	Selector string   `json:"selector" readOnly:"true" doc:"Of the DKIM key that emails are signed with, or empty"`
}

// Security is how a connection to a mail server is made safe.
type Security string

// The ways of making a connection safe.
const (
	StartTLS Security = "starttls" // RFC 3207, usual at port 587
	TLS      Security = "tls"      // RFC 8314 §3.3, usual at port 465
	Open     Security = "open"     // not at all
)

// Securities are all of them.
var Securities = []Security{StartTLS, TLS, Open}

// Valid reports whether there is such a way.
func (s Security) Valid() bool { return s == StartTLS || s == TLS || s == Open }

// Gateway is an HTTP gateway: in our own form at a URL, or in that of a template.
type Gateway struct {
	URL      string `json:"url" maxLength:"2000" doc:"Empty with a template, which holds it"`
	Template string `json:"template" maxLength:"20000" doc:"JSON; empty for the program's own form"`
}

// Checked is a set-up as it is kept. What does not fit is ErrUnfit; the error says
// what, and what to do.
func (s Setup) Checked() (Setup, error) {
	s.Name = entry.Name(s.Name)
	switch {
	case s.Name == "" || len([]rune(s.Name)) > entry.LongestName:
		return s, unfit("a carrier needs a name of at most %d characters", entry.LongestName)
	case s.PerSecond < 0 || s.PerDay < 0 || s.PerDomain < 0 || s.PerDomain > mostPerDomain:
		return s, unfit("a limit is a number above nought, or nought for none")
	}
	switch s.Channel {
	case roster.Email:
		return s.withServer()
	case roster.Text, roster.Voice:
		return s.withGateway()
	}
	return s, unfit("carriers are set up for email, texts and calls; pushes need none")
}

func (s Setup) withServer() (Setup, error) {
	if s.Server == nil || s.Gateway != nil {
		return s, unfit("email needs a mail server")
	}
	to := *s.Server
	to.Host, to.User = strings.ToLower(entry.Clean(to.Host)), entry.Clean(to.User)
	switch {
	case !isHost(to.Host):
		return s, unfit("%q is no name of a server; name one such as mail.example.org", to.Host)
	case to.Port < 1 || to.Port > 65535:
		return s, unfit("a port is a number from 1 to 65535; mail servers usually take mail at 587")
	case !to.Security.Valid():
		return s, unfit("%q is no way of making a connection safe", to.Security)
	}
	s.Server = &to
	return s, nil
}

func (s Setup) withGateway() (Setup, error) {
	if s.Gateway == nil || s.Server != nil {
		return s, unfit("texts and calls need a gateway")
	}
	to := Gateway{URL: entry.Clean(s.Gateway.URL), Template: strings.TrimSpace(s.Gateway.Template)}
	s.Gateway, s.PerDomain = &to, 0
	if to.Template != "" {
		to.URL = ""
		if _, err := ParseTemplate(to.Template); err != nil {
			return s, fmt.Errorf("%w: %w", ErrUnfit, err)
		}
		return s, nil
	}
	return s, checkURL(to.URL)
}

func checkURL(typed string) error {
	u, err := url.Parse(typed)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || !isHost(u.Hostname()) || u.User != nil {
		return unfit("%q is no address of a gateway; name one such as https://gateway.example.org/texts", typed)
	}
	return nil
}

// isHost reports whether a name is one of a host: an address, or letters, digits,
// hyphens and dots (RFC 1123 §2.1).
func isHost(name string) bool {
	if _, err := netip.ParseAddr(name); err == nil {
		return true
	}
	if name == "" || len(name) > 253 {
		return false
	}
	for label := range strings.SplitSeq(name, ".") {
		if label == "" || len(label) > 63 || label[0] == '-' || label[len(label)-1] == '-' {
			return false
		}
		for _, r := range label {
			if !('a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || '0' <= r && r <= '9' || r == '-' || r == '_') {
				return false
			}
		}
	}
	return true
}

// Readable reports whether secrets would travel so that others on the way can read
// them: without TLS, and not on this machine.
func (s Setup) Readable() bool {
	switch {
	case s.Server != nil:
		return s.Server.Security == Open && !onThisMachine(s.Server.Host)
	case s.Gateway == nil:
		return false
	}
	typed := s.Gateway.URL
	if t, err := ParseTemplate(s.Gateway.Template); err == nil {
		typed = t.URL
	}
	u, err := url.Parse(typed)
	return err == nil && u.Scheme == "http" && !onThisMachine(u.Hostname())
}

func onThisMachine(host string) bool {
	address, err := netip.ParseAddr(host)
	return host == "localhost" || err == nil && address.Unmap().IsLoopback()
}

func unfit(format string, args ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrUnfit}, args...)...)
}

// Changes are in words what differs between two set-ups of a carrier. Secrets and
// templates are named, not shown.
func (s Setup) Changes(to Setup) []string {
	var said []string
	say := func(what string, before, after any) {
		if before != after {
			said = append(said, fmt.Sprintf("%s %v, was %v", what, after, before))
		}
	}
	say("name", s.Name, to.Name)
	say("rests", s.Rests, to.Rests)
	say("most in a second", s.PerSecond, to.PerSecond)
	say("most in a day", s.PerDay, to.PerDay)
	say("most in a minute to one domain", s.PerDomain, to.PerDomain)
	if s.Server != nil && to.Server != nil {
		say("server", fmt.Sprintf("%s:%d", s.Server.Host, s.Server.Port), fmt.Sprintf("%s:%d", to.Server.Host, to.Server.Port))
		say("security", s.Server.Security, to.Server.Security)
		say("user", s.Server.User, to.Server.User)
	}
	if s.Gateway != nil && to.Gateway != nil {
		say("address", s.Gateway.URL, to.Gateway.URL)
		if s.Gateway.Template != to.Gateway.Template {
			said = append(said, "another template")
		}
	}
	return said
}

// State is how a carrier of a channel is.
type State struct {
	Troubled bool
	RetryAt  time.Time // when it is tried again, if it is troubled
	Trying   bool      // a delivery is trying it, if it is troubled
	Full     bool      // it took as many deliveries today as it may
}

// Pick is the carrier that takes the next delivery of a channel, or -1 when none
// does now.
func Pick(line []State, emergency bool, now time.Time) int {
	for i, s := range line {
		if s.Full && !emergency {
			continue
		}
		if !s.Troubled || !s.Trying && !now.Before(s.RetryAt) {
			return i
		}
	}
	return -1
}

// AllTroubled reports whether every carrier of a channel is in trouble, and when the
// first of them is tried.
func AllTroubled(line []State) (first time.Time, all bool) {
	for i, s := range line {
		if !s.Troubled {
			return time.Time{}, false
		}
		if i == 0 || s.RetryAt.Before(first) {
			first = s.RetryAt
		}
	}
	return first, len(line) > 0
}
