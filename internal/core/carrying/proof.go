package carrying

import (
	"fmt"
	"strings"
)

// Line is one to publish in the domain name system, a TXT record.
type Line struct {
	Of    Proof  `json:"of"`
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Proof is a way in which a receiving mail server knows that an email is genuine.
type Proof string

// The ways.
const (
	SPF   Proof = "spf"   // RFC 7208: which servers send for a domain
	DKIM  Proof = "dkim"  // RFC 6376: a signature of the domain
	DMARC Proof = "dmarc" // RFC 7489: that one of both fits the sender that people see
)

// Proofs are all of them.
var Proofs = []Proof{SPF, DKIM, DMARC}

// Lines are what a domain publishes so that its emails count as genuine. The public
// key is base64; without one there is nothing to publish about signatures.
func Lines(mailbox, host, selector, public string) []Line {
	_, domain, ok := strings.Cut(mailbox, "@")
	if !ok {
		return nil
	}
	lines := []Line{{SPF, domain, fmt.Sprintf("v=spf1 mx a:%s ~all", host)}}
	if selector != "" && public != "" {
		lines = append(lines, Line{DKIM, selector + "._domainkey." + domain, "v=DKIM1; k=rsa; p=" + public})
	}
	return append(lines, Line{DMARC, "_dmarc." + domain, "v=DMARC1; p=none; rua=mailto:" + mailbox})
}

// Verdict is what a receiving mail server found.
type Verdict struct {
	Of     Proof  `json:"of"`
	Result string `json:"result" doc:"pass, fail, none and others of RFC 8601"`
}

// Passed reports whether the server was content.
func (v Verdict) Passed() bool { return v.Result == "pass" }

// Words says what a verdict means and what to do about it.
func (v Verdict) Words() string {
	switch {
	case v.Passed():
		return "Good: the receiving server accepts this."
	case v.Result == "none":
		return "Nothing is published, or not yet: a new line can take a day until everybody sees it."
	case v.Of == SPF:
		return "The server that handed the email over is not among those that the domain names. Add it to the line."
	case v.Of == DKIM:
		return "The signature does not fit what is published. Compare the line with what stands here, letter by letter."
	}
	return "Neither the signature nor the server fits the domain that people see as the sender. Mend the others first."
}
