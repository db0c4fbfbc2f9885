// Package phrase holds the fixed words that people who are written to see, in
// their languages.
package phrase

import (
	"embed"
	"encoding/json"
	"fmt"
	"path"
	"slices"
	"strings"

	"golang.org/x/text/language"
)

//go:embed words/*.json
var files embed.FS

// Key names one phrase; the English text of each is in words/en.json.
type Key string

// Words are the phrases of one language.
type Words struct {
	Tag    string         `json:"tag" doc:"BCP 47"`
	Rtl    bool           `json:"rtl" doc:"Written from right to left"`
	Phrase map[Key]string `json:"phrase"`
}

// Say returns a phrase with {name}s replaced: pairs of name and value.
func (w Words) Say(k Key, pairs ...string) string {
	for i, p := range pairs {
		if i%2 == 0 {
			pairs[i] = "{" + p + "}"
		}
	}
	return strings.NewReplacer(pairs...).Replace(w.Phrase[k])
}

var (
	all     = load()
	tags    = tagsOf(all)
	matcher = language.NewMatcher(tags)
)

// load reads the shipped files; a broken one is a mistake of ours that every
// test finds.
func load() []Words {
	entries, err := files.ReadDir("words")
	if err != nil {
		panic(err)
	}
	var list []Words
	for _, e := range entries {
		content, err := files.ReadFile("words/" + e.Name())
		if err != nil {
			panic(err)
		}
		w := Words{Tag: strings.TrimSuffix(e.Name(), path.Ext(e.Name()))}
		if err := json.Unmarshal(content, &w.Phrase); err != nil {
			panic(fmt.Sprintf("%s: %v", e.Name(), err))
		}
		w.Rtl = RightToLeft(w.Tag)
		list = append(list, w)
	}
	slices.SortFunc(list, func(a, b Words) int { // what nothing else matches is English
		switch {
		case a.Tag == "en":
			return -1
		case b.Tag == "en":
			return 1
		}
		return strings.Compare(a.Tag, b.Tag)
	})
	return list
}

func tagsOf(words []Words) []language.Tag {
	list := make([]language.Tag, len(words))
	for i, w := range words {
		list[i] = language.MustParse(w.Tag)
	}
	return list
}

// RightToLeft reports whether a language (BCP 47) is written from right to left.
func RightToLeft(tag string) bool {
	script, _ := language.Make(tag).Script()
	return slices.Contains([]string{"Arab", "Hebr", "Thaa", "Syrc", "Nkoo"}, script.String())
}

// Languages lists the languages that have words.
func Languages() []string {
	list := make([]string, len(all))
	for i, w := range all {
		list[i] = w.Tag
	}
	return list
}

// In returns the words of the nearest language there is, the first of the
// wanted ones before the next; English if there is none.
func In(wanted ...string) Words {
	for _, tag := range wanted {
		if words, known := of(tag); known {
			return words
		}
	}
	return all[0]
}

// Accepted are the languages of an Accept-Language header, the one liked best first
// (RFC 9110 §12.5.4); none of one that cannot be read.
func Accepted(header string) []string {
	tags, _, err := language.ParseAcceptLanguage(header)
	if err != nil {
		return nil
	}
	list := make([]string, len(tags))
	for i, t := range tags {
		list[i] = t.String()
	}
	return list
}

// of returns the words of the nearest language, if one is near.
func of(tag string) (words Words, known bool) {
	parsed, err := language.Parse(tag)
	if err != nil || tag == "" {
		return Words{}, false
	}
	base, _ := parsed.Base()
	_, i, confidence := matcher.Match(parsed)
	matched, _ := tags[i].Base()
	return all[i], confidence >= language.High && matched == base
}
