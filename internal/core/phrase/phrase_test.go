package phrase_test

import (
	"fmt"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/phrase"
)

var blank = regexp.MustCompile(`\{\w+\}`)

// Every language says everything that English says, with the same blanks.
func TestEveryLanguageIsComplete(t *testing.T) {
	english := phrase.In("en")
	assert.Greater(t, len(english.Phrase), 25)
	for _, tag := range phrase.Languages() {
		words := phrase.In(tag)
		assert.Equal(t, tag, words.Tag)
		assert.Len(t, words.Phrase, len(english.Phrase), tag)
		for key, text := range english.Phrase {
			assert.NotEmpty(t, words.Phrase[key], "%s: %s", tag, key)
			assert.ElementsMatch(
				t, blank.FindAllString(text, -1), blank.FindAllString(words.Phrase[key], -1), "%s: %s", tag, key,
			)
		}
	}
}

func TestTheNearestLanguageIsTaken(t *testing.T) {
	for _, c := range []struct {
		wanted []string
		tag    string
		rtl    bool
	}{
		{[]string{"ar"}, "ar", true}, {[]string{"pt-BR"}, "pt-BR", false}, {[]string{"pt-AO", "en"}, "pt-PT", false},
		{[]string{"zh-CN"}, "zh-Hans", false},
		{[]string{"ti", "pl"}, "pl", false}, {[]string{"", "not a tag"}, "en", false}, {nil, "en", false},
	} {
		got := phrase.In(c.wanted...)
		assert.Equal(t, c.tag, got.Tag, c.wanted)
		assert.Equal(t, c.rtl, got.Rtl)
	}
}

func ExampleWords_Say() {
	fmt.Println(phrase.In("pl").Say("hello", "name", "Kinga"))
	// Output: Dzień dobry, Kinga
}
