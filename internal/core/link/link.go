// Package link makes and reads the links that need no account: by which somebody
// corrects their own details, reads a copy, or subscribes to a calendar. They are
// signed for one purpose, and most hold until a moment.
package link

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"time"

	"upperlantern/internal/core/roster"
)

// Errors that a reader of links tells apart.
var (
	ErrNotOurs = errors.New("this link is not one of ours")
	ErrExpired = errors.New("this link has expired")
)

const (
	head = 12 // an identifier (8 bytes) and expiry in Unix minutes (4 bytes), big endian
	seal = 16 // of HMAC-SHA256 (RFC 2104), truncated
)

// encoding is strict: a token whose last unused bits were changed is another one.
var encoding = base64.RawURLEncoding.Strict()

// What a token is for; one for something else is of no use.
const (
	personal = "personal link"
	reading  = "reading"
)

// Make makes the token of a person, which holds until a moment, to the minute.
func Make(secret string, person roster.PersonID, until time.Time) string {
	return issue(secret, personal, int64(person), until)
}

// Read returns whom a token is for and until when it holds.
func Read(secret, token string, now time.Time) (person roster.PersonID, until time.Time, err error) {
	id, until, err := open(secret, personal, token, now)
	return roster.PersonID(id), until, err
}

// MakeReading makes the token of a reading, which holds until a moment, to the minute.
func MakeReading(secret string, id int64, until time.Time) string {
	return issue(secret, reading, id, until)
}

// ReadReading returns which reading a token is for and until when it holds.
func ReadReading(secret, token string, now time.Time) (id int64, until time.Time, err error) {
	return open(secret, reading, token, now)
}

func issue(secret, purpose string, id int64, until time.Time) string {
	token := make([]byte, head, head+seal)
	binary.BigEndian.PutUint64(token, uint64(id))
	binary.BigEndian.PutUint32(token[8:], uint32(until.Unix()/60))
	return encoding.EncodeToString(append(token, seals(secret, purpose, token)...))
}

func open(secret, purpose, token string, now time.Time) (id int64, until time.Time, err error) {
	content, err := encoding.DecodeString(token)
	if err != nil || len(content) != head+seal || secret == "" {
		return 0, until, ErrNotOurs
	}
	if !hmac.Equal(content[head:], seals(secret, purpose, content[:head])) {
		return 0, until, ErrNotOurs
	}
	until = time.Unix(int64(binary.BigEndian.Uint32(content[8:]))*60, 0)
	if !now.Before(until) {
		return 0, until, ErrExpired
	}
	return int64(binary.BigEndian.Uint64(content)), until, nil
}

// MakeFeed makes the token by which a calendar reads what an account has
// scheduled; it holds as long as the account does.
func MakeFeed(secret string, account int64) string {
	token := binary.BigEndian.AppendUint64(nil, uint64(account))
	return encoding.EncodeToString(append(token, seals(secret, "calendar feed", token)...))
}

// ReadFeed returns whose calendar a token is.
func ReadFeed(secret, token string) (account int64, err error) {
	const id = 8
	content, err := encoding.DecodeString(token)
	if err != nil || len(content) != id+seal || secret == "" || !hmac.Equal(content[id:], seals(
		secret, "calendar feed", content[:id],
	)) {
		return 0, ErrNotOurs
	}
	return int64(binary.BigEndian.Uint64(content)), nil
}

// seals signs a content for one purpose, so that a token for another is of no use.
func seals(secret, purpose string, content []byte) []byte {
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write([]byte(purpose + "\x00"))
	mac.Write(content)
	return mac.Sum(nil)[:seal]
}
