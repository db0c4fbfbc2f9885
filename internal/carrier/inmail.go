package carrier

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"

	"github.com/jhillyerd/enmime/v2"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/roster"
)

const replyPrefix = "reply+"

// ReplyAddress is where replies to the email of a delivery come back to the program. It
// is signed, and its mark is no return address's.
func ReplyAddress(key, domain, secret string) string {
	return replyPrefix + key + "." + derived("reply address", key, secret) + "@" + domain
}

// OneClick is the token of a delivery's email by which its recipients end emails of its
// kind (RFC 8058). It is signed.
func OneClick(key, secret string) string { return key + "." + derived("one click", key, secret) }

// OneClickKey is the delivery that a token names, if we signed it.
func OneClickKey(token, secret string) (string, bool) {
	return keyOf(token+"@", "", "one click", secret)
}

// AnswerToken is the token of a delivery by which its recipient answers a question on a
// page. It is signed.
func AnswerToken(key, secret string) string { return key + "." + derived("answer", key, secret) }

// AnswerKey is the delivery that a token of a page names, if we signed it.
func AnswerKey(token, secret string) (string, bool) { return keyOf(token+"@", "", "answer", secret) }

// mostParts is how many multiparts an email may have within each other: more is no
// email of anybody.
const mostParts = 30

// ErrNotRead means that an email cannot be read.
var ErrNotRead = errors.New("this email cannot be read")

// ReadMail reads an email that somebody sent to us. Nobody says that its envelope had no
// sender.
func ReadMail(content []byte, nobody bool, now time.Time) (incoming.Item, error) {
	if bytes.Count(bytes.ToLower(content), []byte("content-type: multipart/")) > mostParts {
		return incoming.Item{}, fmt.Errorf("%w: it has too many parts within each other", ErrNotRead)
	}
	read, err := enmime.NewParser(enmime.MaxStoredPartErrors(10)).ReadEnvelope(bytes.NewReader(content))
	if err != nil {
		return incoming.Item{}, fmt.Errorf("%w: %w", ErrNotRead, err)
	}
	from, err := mail.ParseAddress(read.GetHeader("From"))
	if err != nil || len(from.Address) > incoming.LongestFrom {
		return incoming.Item{}, fmt.Errorf("%w: it does not say who sent it", ErrNotRead)
	}
	header := incoming.Header{
		AutoSubmitted: read.GetHeader("Auto-Submitted"), Precedence: read.GetHeader("Precedence"),
		List: read.GetHeader("List-Id") != "", Nobody: nobody,
	}
	i := incoming.Item{
		Via: delivery.ViaMail, Key: "mail " + mailKey(read.GetHeader("Message-Id"), content), Channel: roster.Email,
		From: from.Address, Name: from.Name, Subject: read.GetHeader("Subject"), Automatic: header.Automatic(),
	}
	if at, err := read.Date(); err == nil {
		i.At = at
	}
	i.Text, i.Folded = incoming.Fold(read.Text)
	for _, part := range slices.Concat(read.Attachments, read.Inlines, read.OtherParts) {
		if len(i.Files) > incoming.MostFiles {
			break
		}
		i.Files = append(i.Files, incoming.File{Name: part.FileName, Type: part.ContentType, Content: part.Content})
	}
	return i.Bounded(now), nil
}

// mailKey is by what an email is known that comes twice.
func mailKey(messageID string, content []byte) string {
	id := strings.Trim(messageID, "<> ")
	if id != "" && len(id) <= delivery.LongestKey {
		return id
	}
	sum := sha256.Sum256(content)
	return hex.EncodeToString(sum[:16])
}
