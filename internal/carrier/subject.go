package carrier

import (
	"encoding/base64"
	"strings"
	"unicode"
	"unicode/utf8"
)

const (
	// wordBytes is how many bytes of a subject go into one encoded word, so that
	// with its marks it stays within a line (RFC 2047 §2).
	wordBytes = 36
	lineBytes = 70
)

// subjectLines encodes and folds a subject. The first line always holds the
// beginning: some mailboxes show nothing when it is empty.
func subjectLines(subject string) string {
	subject = strings.Join(strings.Fields(subject), " ")
	odd := func(r rune) bool { return r > unicode.MaxASCII || unicode.IsControl(r) }
	if strings.ContainsFunc(subject, odd) || strings.Contains(subject, "=?") {
		return strings.Join(encodedWords(subject), "\r\n ")
	}
	var b strings.Builder
	room := lineBytes - len("Subject: ")
	for i, word := range strings.Fields(subject) {
		switch {
		case i == 0:
		case len(word)+1 > room:
			b.WriteString("\r\n ")
			room = lineBytes
		default:
			b.WriteByte(' ')
		}
		b.WriteString(word)
		room -= len(word) + 1
	}
	return b.String()
}

// encodedWords writes a text as encoded words (RFC 2047 §4.1), none of which cuts
// a character.
func encodedWords(text string) []string {
	var words []string
	for len(text) > 0 {
		end := 0
		for end < len(text) {
			_, size := utf8.DecodeRuneInString(text[end:])
			if end+size > wordBytes {
				break
			}
			end += size
		}
		words = append(words, "=?utf-8?B?"+base64.StdEncoding.EncodeToString([]byte(text[:end]))+"?=")
		text = text[end:]
	}
	return words
}
