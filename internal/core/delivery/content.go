package delivery

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"strings"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/roster"
)

// Content is all that a delivery says, whoever it goes to. Deliveries of a message
// that say the same share one.
type Content struct {
	Channel  roster.Channel
	Language string // of the words, BCP 47
	Subject  string // of an email, the title of a push
	Body     string
	HTML     string // of a formatted email; its pictures are named as ContentID does
	Link     string // that a push opens
	Parts    Parts
}

// Parts go along with the words of a content.
type Parts struct {
	Mailbox    string            `json:"mailbox,omitempty"`   // from which an email comes
	ReplyTo    string            `json:"replyTo,omitempty"`   // the mailbox to which its replies go, if it is another
	Replies    bool              `json:"replies,omitempty"`   // to the email come back to the program
	OneClick   bool              `json:"oneClick,omitempty"`  // ends emails of its kind (RFC 8058)
	Files      []attachment.File `json:"files,omitempty"`     // of an email
	Recording  string            `json:"recording,omitempty"` // the hash of what a call plays instead of reading
	RepeatKey  string            `json:"repeatKey,omitempty"` // of a call
	ConfirmKey string            `json:"confirmKey,omitempty"`
	Badge      bool              `json:"badge,omitempty"` // of a push
	Quiet      bool              `json:"quiet,omitempty"`
	Urgency    roster.Urgency    `json:"urgency,omitempty"`
	Choices    []string          `json:"choices,omitempty"` // the answers of a question, numbered from 1
}

// Hash names a content by what it says: SHA-256.
func (c Content) Hash() ([sha256.Size]byte, error) {
	text, err := json.Marshal(c)
	if err != nil {
		return [sha256.Size]byte{}, fmt.Errorf("hashing a content: %w", err)
	}
	return sha256.Sum256(text), nil
}

// ContentID refers from an email to a picture that goes with it (RFC 2392).
func ContentID(hash string) string { return "cid:" + hash }

// AnswerPlace stands in a formatted email where the link to an answer leads, before its
// number: each recipient has their own.
const AnswerPlace = "answer:"

// Shows reports whether an email shows a file within its text.
func (c Content) Shows(f attachment.File) bool { return strings.Contains(c.HTML, ContentID(f.Hash)) }
