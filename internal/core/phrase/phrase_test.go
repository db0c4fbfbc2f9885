package phrase_test

import (
	"fmt"
	"regexp"
	"testing"
	"time"

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

func TestList(t *testing.T) {
	for _, c := range []struct {
		name, language string
		names          []string
		want           string
	}{
		{"nobody", "en", nil, ""},
		{"one", "en", []string{"Sami"}, "Sami"},
		{"two", "en", []string{"Sami", "Lina"}, "Sami and Lina"},
		{"three", "en-GB", []string{"Sami", "Lina", "Omar"}, "Sami, Lina and Omar"},
		{"Polish", "pl", []string{"Zofia", "Jakub"}, "Zofia i Jakub"},
		{"Chinese", "zh-Hans", []string{"伟", "静", "雨"}, "伟、静和雨"},
		{"Arabic", "ar", []string{"سامي", "لينا"}, "سامي ولينا"},
		{"a language without a pattern", "is", []string{"A", "B"}, "A, B"},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, phrase.List(c.language, c.names)) })
	}
}

func TestDate(t *testing.T) {
	day := time.Date(2026, 11, 5, 0, 0, 0, 0, time.UTC)
	for tag, want := range map[string]string{
		"en": "5 November 2026", "": "2026-11-05", "tlh": "2026-11-05", "pl": "5 listopada 2026",
		"pt": "5 de novembro de 2026", "uk": "5 листопада 2026 р.", "vi": "5 tháng 11, 2026",
		"zh-Hans": "2026年11月5日", "ar": "5 نوفمبر 2026", "es-MX": "5 de noviembre de 2026",
	} {
		assert.Equal(t, want, phrase.Date(tag, day), tag)
	}
	for _, tag := range phrase.Languages() {
		assert.NotEqual(t, "2026-11-05", phrase.Date(tag, day), "%s writes days", tag)
	}
}

// A mark stands right before the words, so each ends where they may begin.
func TestMarksEndWhereWordsBegin(t *testing.T) {
	for _, tag := range phrase.Languages() {
		for _, key := range []phrase.Key{"exercise", "trial"} {
			assert.Regexp(t, `^\S.*(: |：)$`, phrase.In(tag).Say(key), "%s in %s", key, tag)
		}
	}
}

func TestTagsAreTidied(t *testing.T) {
	for typed, want := range map[string]string{"PL": "pl", "zh-hant-hk": "zh-Hant-HK", "sr-latn": "sr-Latn", "pt": "pt", "x-klingon": "", "": "", "und": "", "../x": ""} {
		got, ok := phrase.Tag(typed)
		assert.Equal(t, want != "", ok, typed)
		if ok {
			assert.Equal(t, want, got)
		}
	}
}
