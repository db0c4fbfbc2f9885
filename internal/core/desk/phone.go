package desk

import (
	"fmt"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// How somebody of a desk is told by text, and answers from their phone.
const (
	CodeHolds = 48 * time.Hour   // a code counts after it was told last
	TellAgain = 10 * time.Minute // what was said further in a thread waits so long
	MostTold  = 10               // things, within TellAgain
	firstCode = 11
	lastCode  = 99
	beginsFor = 90 // characters of what was said
)

// FreeCode is the code for one more thread: the first that is not used, or 0.
func FreeCode(used map[int]bool) int {
	for code := firstCode; code <= lastCode; code++ {
		if !used[code] {
			return code
		}
	}
	return 0
}

// ReadCode takes a text from a phone apart: the code with which it begins, and the words
// after it. It is not ok without either.
func ReadCode(text string) (code int, words string, ok bool) {
	text = strings.TrimSpace(text)
	digits := strings.IndexFunc(text, func(r rune) bool { return r < '0' || r > '9' })
	if digits != 2 {
		return 0, "", false
	}
	code, err := strconv.Atoi(text[:digits])
	words = strings.TrimLeftFunc(text[digits:], func(r rune) bool {
		return unicode.IsSpace(r) || strings.ContainsRune(":.,;–-", r)
	})
	return code, strings.TrimSpace(words), err == nil && code >= firstCode && words != ""
}

// Notice tells by text that something came in. The name is "" of somebody who is not on
// the roster: nobody's number is named.
func Notice(desk, name, said string, code int) string {
	if name == "" {
		name = "Somebody who is not on the roster"
	}
	said = strings.Join(strings.Fields(said), " ")
	if said == "" {
		said = "something without words"
	} else {
		if runes := []rune(said); len(runes) > beginsFor {
			said = strings.TrimSpace(string(runes[:beginsFor])) + "…"
		}
		said = "“" + said + "”"
	}
	return fmt.Sprintf("%s: %s wrote %s. To answer, send %d and your words.", desk, name, said, code)
}
