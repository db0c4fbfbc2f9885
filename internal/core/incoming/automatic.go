package incoming

import (
	"slices"
	"strings"
)

// Automatic reports whether nobody wrote an email: an answering program did, or a list
// sent it on. Source: RFC 3834 §2 and §5.
func (h Header) Automatic() bool {
	submitted, _, _ := strings.Cut(h.AutoSubmitted, ";")
	submitted = strings.ToLower(strings.TrimSpace(submitted))
	bulk := []string{"bulk", "junk", "list", "auto_reply"}
	return h.Nobody || h.List || submitted != "" && submitted != "no" ||
		slices.Contains(bulk, strings.ToLower(strings.TrimSpace(h.Precedence)))
}
