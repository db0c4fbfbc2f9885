package letters

import (
	"time"

	"github.com/go-playground/locales"
	"github.com/go-playground/locales/ar"
	"github.com/go-playground/locales/en_GB"
	"github.com/go-playground/locales/es"
	"github.com/go-playground/locales/pl"
	"github.com/go-playground/locales/pt_BR"
	"github.com/go-playground/locales/pt_PT"
	"github.com/go-playground/locales/so"
	"github.com/go-playground/locales/uk"
	"github.com/go-playground/locales/vi"
	"github.com/go-playground/locales/zh"
	textlanguage "golang.org/x/text/language"
)

// writers write dates; a language without one has them in English.
var (
	writers = []struct {
		tag textlanguage.Tag
		in  locales.Translator
	}{
		{textlanguage.BritishEnglish, en_GB.New()}, {textlanguage.Arabic, ar.New()}, {textlanguage.Spanish, es.New()},
		{textlanguage.Polish, pl.New()},
		{textlanguage.BrazilianPortuguese, pt_BR.New()}, {textlanguage.EuropeanPortuguese, pt_PT.New()},
		{textlanguage.MustParse("so"), so.New()},
		{textlanguage.Ukrainian, uk.New()}, {textlanguage.Vietnamese, vi.New()}, {textlanguage.SimplifiedChinese, zh.New()},
	}
	dated = textlanguage.NewMatcher(datedTags())
)

func datedTags() []textlanguage.Tag {
	tags := make([]textlanguage.Tag, len(writers))
	for i, w := range writers {
		tags[i] = w.tag
	}
	return tags
}

// Date writes a day in full in a language (BCP 47): “25 November 2026”.
func Date(tag string, day time.Time) string {
	_, i, confidence := dated.Match(textlanguage.Make(tag))
	if confidence < textlanguage.Low {
		i = 0
	}
	return writers[i].in.FmtDateLong(day)
}
