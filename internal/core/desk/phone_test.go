package desk_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/desk"
)

// A text from a phone is a code of two digits, and words after it.
func TestReadCode(t *testing.T) {
	for name, c := range map[string]struct {
		text  string
		code  int
		words string
		ok    bool
	}{
		"a code and words":            {"27 We come at eight", 27, "We come at eight", true},
		"with a colon and lines":      {" 27:\nWe come\nat eight ", 27, "We come\nat eight", true},
		"without a blank":             {"27We come", 27, "We come", true},
		"a time that stands first":    {"27, 28 and 29 are full", 27, "28 and 29 are full", true},
		"a code alone":                {"27", 0, "", false},
		"a code and a full stop":      {"27.", 27, "", false},
		"three digits":                {"270 people came", 0, "", false},
		"one digit answers questions": {"1 with a key", 0, "", false},
		"no code":                     {"We come at 27", 0, "", false},
		"below the first code":        {"10 We come", 10, "We come", false},
		"digits of another script":    {"٢٧ نعم", 0, "", false},
		"nothing":                     {"", 0, "", false},
	} {
		t.Run(name, func(t *testing.T) {
			code, words, ok := desk.ReadCode(c.text)
			assert.Equal(t, c.ok, ok)
			if c.ok {
				assert.Equal(t, c.code, code)
				assert.Equal(t, c.words, words)
			}
		})
	}
}

func FuzzReadCode(f *testing.F) {
	f.Add("27 We come")
	f.Fuzz(func(t *testing.T, text string) {
		code, words, ok := desk.ReadCode(text)
		if ok && (code < 11 || code > 99 || strings.TrimSpace(words) == "" || !strings.Contains(text, words)) {
			t.Fatalf("%q became %d and %q", text, code, words)
		}
	})
}

// Codes are used from the first on, until there is none left.
func TestFreeCode(t *testing.T) {
	used := map[int]bool{}
	for n := range 89 {
		code := desk.FreeCode(used)
		assert.Equal(t, 11+n, code)
		used[code] = true
	}
	assert.Zero(t, desk.FreeCode(used))
	used[50] = false
	assert.Equal(t, 50, desk.FreeCode(used))
}

func TestNotice(t *testing.T) {
	for name, c := range map[string]struct{ who, said, notice string }{
		"words":           {"Piotr", "Where do\nwe meet?", "Office: Piotr wrote “Where do we meet?”. To answer, send 27 and your words."},
		"no words":        {"Piotr", "", "Office: Piotr wrote something without words. To answer, send 27 and your words."},
		"nobody we know":  {"", "Hello", "Office: Somebody who is not on the roster wrote “Hello”. To answer, send 27 and your words."},
		"very many words": {"Piotr", strings.Repeat("boat ", 40), "Office: Piotr wrote “" + strings.TrimSpace(strings.Repeat("boat ", 18)) + "…”. To answer, send 27 and your words."},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.notice, desk.Notice("Office", c.who, c.said, 27)) })
	}
}
