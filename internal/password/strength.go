package password

import (
	"errors"
	"fmt"
	"unicode/utf8"

	"github.com/ccojocar/zxcvbn-go"
)

// Shortest is the fewest characters that a password may have, Longest the most.
const (
	Shortest = 10
	Longest  = 200
)

// ErrWeak means that a password is too short, too long, or found too soon.
var ErrWeak = errors.New("this password does not do")

// leastScore is 10⁶ guesses: sign-in is slowed down long before so many.
const leastScore = 2

// Check refuses a password that others would soon find: there are no rules about
// kinds of characters. Known is what others know of its owner, such as their name.
func Check(typed string, known ...string) error {
	n := utf8.RuneCountInString(typed)
	switch {
	case n < Shortest:
		return fmt.Errorf("%w: it has %d characters, and needs at least %d", ErrWeak, n, Shortest)
	case n > Longest:
		return fmt.Errorf("%w: it has %d characters, and can have %d at most", ErrWeak, n, Longest)
	case zxcvbn.PasswordStrength(typed, known).Score < leastScore:
		return fmt.Errorf("%w: it is among those that are tried first; take a few words that do not belong together", ErrWeak)
	}
	return nil
}
