package delivery

import (
	"cmp"
	"slices"
	"strings"
	"time"
)

// Event is one thing that happened to a delivery: a hand-over, taken or not, or a
// report of its carrier.
type Event struct {
	At      time.Time
	State   State  // that it came to, or that was reported
	Carrier string // of a hand-over: what the one is called that it went to
	Code    string // an enhanced status code (RFC 3463), or ""
	Said    string // in the carrier's own words
	Report  bool
}

// SortEvents puts what happened first first; of what happened at once, what got
// further comes last.
func SortEvents(list []Event) {
	slices.SortStableFunc(list, func(a, b Event) int {
		return cmp.Or(a.At.Compare(b.At), rank[a.State]-rank[b.State])
	})
}

// plain are enhanced status codes by their subject and detail (RFC 3463 §3, and RFC
// 5248, RFC 7372 and RFC 7505 after it), in plain words.
var plain = map[string]string{
	"1.0":  "There is something wrong with the address.",
	"1.1":  "There is no such mailbox.",
	"1.2":  "There is no such mail domain.",
	"1.3":  "The address is not written as addresses are.",
	"1.6":  "The mailbox has moved, and it is not known where to.",
	"1.8":  "Our own sending address was refused.",
	"1.10": "The domain takes no mail at all.",
	"2.0":  "There is something wrong with the mailbox.",
	"2.1":  "The mailbox is closed.",
	"2.2":  "The mailbox is full.",
	"2.3":  "The email is larger than the mailbox takes.",
	"3.1":  "The other mail server has no room.",
	"3.2":  "The other mail server takes nothing at the moment.",
	"3.4":  "The email is larger than the other mail server takes.",
	"4.0":  "The other mail server could not be reached.",
	"4.1":  "The other mail server does not answer.",
	"4.2":  "The connection to the other mail server broke.",
	"4.3":  "The mail domain could not be looked up.",
	"4.4":  "No way to the other mail server was found.",
	"4.5":  "The other mail server is busy.",
	"4.7":  "It was tried for too long.",
	"5.3":  "The email had too many recipients at once.",
	"6.0":  "The other mail server cannot take this content.",
	"7.0":  "The other mail server refuses this for its own rules.",
	"7.1":  "The other mail server refuses this for its own rules.",
	"7.20": "The email's signature (DKIM) was not valid.",
	"7.23": "Our mail server may not send for our domain (SPF).",
	"7.25": "Our mail server's name and address do not fit together.",
	"7.26": "The email did not prove that it is from our domain (SPF, DKIM).",
}

// Plainly is what an enhanced status code comes to, in a plain sentence; "" when it
// is not known, and the carrier's own words must do.
func Plainly(code string) string {
	parts := strings.Split(code, ".")
	if len(parts) != 3 || parts[0] != "4" && parts[0] != "5" {
		return ""
	}
	return plain[parts[1]+"."+parts[2]]
}
