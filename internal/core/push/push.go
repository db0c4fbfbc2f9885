// Package push makes what a device is sent: a small JSON object that must fit
// into one push message once it is encrypted.
package push

import (
	"encoding/json"
	"sort"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Largest is how many bytes a payload may have. A push service takes bodies of
// 4096 bytes (RFC 8030 §7.2), of which the encryption needs 103: a header of
// 86, a delimiter and a tag of 16 (RFC 8291 §4).
const Largest = 4096 - 86 - 1 - 16

// envelope is kept free for what the carrier adds to every payload: under
// which key it is known, where to report to, and the page on which it is answered.
const envelope = 493

// Most is how many bytes are left for what a message says.
const Most = Largest - envelope

// Payload is what a device shows.
type Payload struct {
	Title    string `json:"title"`
	Body     string `json:"body,omitempty"`
	Link     string `json:"link,omitempty"`  // the page that opens
	Badge    bool   `json:"badge,omitempty"` // mark the icon until it was opened
	Quiet    bool   `json:"quiet,omitempty"` // neither sound nor vibration
	Language string `json:"lang,omitempty"`  // BCP 47
	// Choices are the answers of a question, numbered from 1; Answer is the page that takes
	// one, or what is written back.
	Choices []string `json:"choices,omitempty"`
	Answer  string   `json:"answer,omitempty"`
	Key     string   `json:"key,omitempty"` // one that comes twice is shown once
	Report  string   `json:"report,omitempty"`
}

// Encode is the payload as it is encrypted and sent.
func (p Payload) Encode() []byte {
	var text strings.Builder
	encoder := json.NewEncoder(&text)
	encoder.SetEscapeHTML(false)
	_ = encoder.Encode(p) // strings and booleans always can be
	return []byte(strings.TrimSuffix(text.String(), "\n"))
}

// Size is how many bytes a payload says, of Most.
func (p Payload) Size() int {
	p.Key, p.Report, p.Answer = "", "", ""
	return len(p.Encode())
}

// more stands where a body was shortened.
const more = "…"

// Fit shortens the body to whole words until the payload fits. One that fits
// stays as it is; so does a title or a link that is too long by itself.
func (p Payload) Fit() Payload {
	if p.Size() <= Most {
		return p
	}
	body := p.Body
	n := sort.Search(len(body), func(n int) bool {
		p.Body = upTo(body, n+1)
		return p.Size() > Most
	})
	p.Body = upTo(body, n)
	return p
}

// upTo is the beginning of a text, in whole words, of at most n bytes.
func upTo(text string, n int) string {
	if n >= len(text) {
		return text
	}
	for n > 0 && !utf8.RuneStart(text[n]) {
		n--
	}
	start := text[:n]
	if space := strings.LastIndexFunc(start, unicode.IsSpace); space > n/2 {
		start = start[:space]
	}
	return strings.TrimRightFunc(start, unicode.IsSpace) + more
}
