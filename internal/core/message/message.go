// Package message holds what a sender writes.
package message

import (
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
)

// Longest content that is kept, in characters.
const (
	LongestSubject = 300
	LongestBody    = 20_000
)

// Draft is a message as its sender wrote it. The zero value is addressed to
// nobody and says nothing.
type Draft struct {
	Urgency  roster.Urgency    `json:"urgency" enum:"routine,timely,emergency"`
	Audience audience.Audience `json:"audience"`
	Subject  string            `json:"subject"`
	Email    string            `json:"email" doc:"The main text, and the body of the email"`
	OwnText  bool              `json:"ownText" doc:"The text no longer follows the email"`
	Text     string            `json:"text" doc:"The text to send when ownText is set"`
	// Steps are nil while the organisation's default for the urgency applies.
	Steps     precedence.Steps `json:"steps,omitempty"`
	FirstOnly bool             `json:"firstOnly" doc:"Use only the first usable address of each channel"`
	// Unwished passes over what recipients wish for, so that the steps alone decide.
	Unwished bool       `json:"unwished,omitempty" doc:"Do not try the channel first that a recipient asked for; only routine messages do"`
	Spare    bool       `json:"spare,omitempty" doc:"Leave out those whom a routine message takes over the organisation's weekly limit"`
	SendAt   *time.Time `json:"sendAt,omitempty" doc:"When it may leave; absent means now"`
}

// Validate refuses what no message can mean. An unfinished draft is valid.
func (d Draft) Validate() error {
	if !d.Urgency.Valid() {
		return fmt.Errorf("urgency: %q is none of routine, timely, emergency", d.Urgency)
	}
	if err := d.Audience.Validate(); err != nil {
		return fmt.Errorf("audience: %w", err)
	}
	if err := d.Steps.Validate(); err != nil {
		return fmt.Errorf("steps: %w", err)
	}
	for _, c := range []struct {
		name, value string
		longest     int
	}{
		{"subject", d.Subject, LongestSubject}, {"email", d.Email, LongestBody}, {"text", d.Text, LongestBody},
	} {
		if n := utf8.RuneCountInString(c.value); n > c.longest {
			return fmt.Errorf("%s: %d characters, and no more than %d can be sent", c.name, n, c.longest)
		}
	}
	return nil
}

// TextBody is the text as it applies: its own, or the email's body.
func (d Draft) TextBody() string {
	if d.OwnText {
		return strings.TrimSpace(d.Text)
	}
	return strings.TrimSpace(d.Email)
}

// Has reports whether there is content for a channel. Voice reads the text aloud.
func (d Draft) Has(c roster.Channel) bool {
	switch c {
	case roster.Email:
		return strings.TrimSpace(d.Email) != ""
	case roster.Push:
		return false
	}
	return d.TextBody() != ""
}

// Title names the message in lists: its subject, or else how it begins.
func (d Draft) Title() string {
	if s := strings.TrimSpace(d.Subject); s != "" {
		return s
	}
	for _, body := range []string{d.Email, d.Text} {
		line, _, _ := strings.Cut(strings.TrimSpace(body), "\n")
		if line == "" {
			continue
		}
		if r := []rune(line); len(r) > 60 {
			return strings.TrimSpace(string(r[:60])) + "…"
		}
		return line
	}
	return "Untitled"
}
