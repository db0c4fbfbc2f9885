package own

import (
	"strings"
	"time"
)

const (
	// CodeHolds is how long the code that a vehicle terminal shows can be entered.
	CodeHolds = 15 * time.Minute
	codeLong  = 8
	// letters of codes: those of RFC 4648 §6, of which none is taken for another. Digits
	// that stand for no letter there are left out.
	letters  = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567"
	endpoint = "terminal:"
)

// Code is the beginning of a random text in base 32 as a terminal shows it.
func Code(random string) string { return random[:codeLong] }

// ReadCode is a code as somebody typed it: in any case, with dashes and blanks, and with a
// nought or a one for the letter that looks like it. What is no code is "".
func ReadCode(typed string) string {
	typed = strings.NewReplacer("0", "O", "1", "I", "8", "B").Replace(strings.ToUpper(typed))
	var code strings.Builder
	for _, r := range typed {
		switch {
		case strings.ContainsRune(letters, r):
			code.WriteRune(r)
		case r == ' ' || r == '-' || r == '\u00a0' || r == '–':
		default:
			return ""
		}
	}
	if code.Len() != codeLong {
		return ""
	}
	return code.String()
}

// Endpoint stands where other devices have the address of a push service: what is pushed
// to a paired terminal waits here until its page fetches it.
func Endpoint(hash string) string { return endpoint + hash }

// Fetches reports whether an endpoint is that of a paired terminal.
func Fetches(address string) bool { return strings.HasPrefix(address, endpoint) }
