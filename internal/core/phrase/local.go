package phrase

import (
	"strings"
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
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
)

// writers write days, by the tag of the words.
var writers = map[string]locales.Translator{
	"ar": ar.New(), "en": en_GB.New(), "es": es.New(), "pl": pl.New(), "pt-BR": pt_BR.New(), "pt-PT": pt_PT.New(),
	"so": so.New(), "uk": uk.New(), "vi": vi.New(), "zh-Hans": zh.New(),
}

// Date writes a day in full in a language (BCP 47): “25 November 2026”. A language
// that has no words here gets it as ISO 8601 does.
func Date(tag string, day time.Time) string {
	words, known := of(tag)
	if !known {
		return day.Format(time.DateOnly)
	}
	return writers[words.Tag].FmtDateLong(day)
}

// Month is the name of a month beside a day in a language (BCP 47) that has words
// here, English otherwise.
func Month(tag string, m time.Month) string { return writers[In(tag).Tag].MonthWide(m) }

// Weekday is the name of a weekday in a language (BCP 47) that has words here, English
// otherwise.
func Weekday(tag string, d time.Weekday) string { return writers[In(tag).Tag].WeekdayWide(d) }

// List writes names as a list in a language (BCP 47), such as “Sami, Lina and Omar”
// (Unicode CLDR, listPattern type “standard”). A language that has no words here
// gets commas.
func List(tag string, names []string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	words, known := of(tag)
	if !known {
		return strings.Join(names, ", ")
	}
	last := len(names) - 1
	if last == 1 {
		return names[0] + words.Phrase["list two"] + names[1]
	}
	return strings.Join(names[:last], words.Phrase["list comma"]) + words.Phrase["list last"] + names[last]
}

// LanguageName is what a language (BCP 47) is called in another one, or in itself where
// that is not known.
func LanguageName(in, tag string) string {
	if namer := display.Tags(language.Make(in)); namer != nil {
		if name := namer.Name(language.Make(tag)); name != "" {
			return name
		}
	}
	return display.Self.Name(language.Make(tag))
}

// Tag is a language as it is kept: BCP 47 in its usual form. It is false for what is
// no language that anything could be translated into.
func Tag(typed string) (string, bool) {
	parsed, err := language.Parse(typed)
	if err != nil || parsed.IsRoot() || strings.HasPrefix(parsed.String(), "x-") {
		return "", false
	}
	return parsed.String(), true
}
