package copies

import (
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
)

func cut(text string) []lines.Standing {
	return lines.Cut(lines.Written{Content: message.Content{Email: rich.Lines(text)}, Language: "en"})
}

func line(text string) lines.Line { return cut(text)[0].Line }

// filled is a copy in which originals are said by targets; those with a ✓ are checked.
func filled(tag string, pairs ...string) Copy {
	c := Copy{Language: tag, Targets: map[string]Target{}}
	for i := 0; i < len(pairs); i += 2 {
		t := Target{Original: line(pairs[i]), At: time.Unix(0, 0), Source: Person}
		text, checked := strings.CutSuffix(pairs[i+1], "✓")
		if t.Text = text; checked {
			t.CheckedBy = "Ola Nowak"
		}
		c.Targets[t.Original.Key()] = t
	}
	return c
}

var english = Examiner{From: "en"}

// Rule “Lines and copies” 3.
func TestHowFarACopyIs(t *testing.T) {
	message := cut("Come now.\nBring a hat.")
	for _, c := range []struct {
		name string
		copy Copy
		want Standing
	}{
		{"nothing filled", filled("pl"), Standing{State: Incomplete, Lines: 2}},
		{"a line is missing", filled("pl", "Come now.", "Chodź teraz.✓"), Standing{State: Incomplete, Lines: 2, Filled: 1, Checked: 1, By: []string{"Ola Nowak"}}},
		{
			"one was not read", filled("pl", "Come now.", "Chodź teraz.✓", "Bring a hat.", "Weź czapkę."),
			Standing{State: Unchecked, Lines: 2, Filled: 2, Checked: 1, By: []string{"Ola Nowak"}},
		},
		{
			"all were read", filled("pl", "Come now.", "Chodź teraz.✓", "Bring a hat.", "Weź czapkę.✓", "Gone.", "Nie ma."),
			Standing{State: Checked, Lines: 2, Filled: 2, Checked: 2, By: []string{"Ola Nowak"}},
		},
		{
			"one is doubtful", filled("pl", "Come now.", "Chodź teraz 5.", "Bring a hat.", "Weź czapkę 5.✓"),
			Standing{State: Unchecked, Lines: 2, Filled: 2, Checked: 1, Doubtful: 1, By: []string{"Ola Nowak"}},
		},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, c.copy.Standing(message, english.Doubtful)) })
	}
	assert.Equal(t, Checked, filled("pl").Standing(nil, english.Doubtful).State, "a message without words needs no copy")
}

// Rule 4.
func TestWhatChangedIsStaleAndNothingElse(t *testing.T) {
	c := filled("pl", "Meet at the lock on Friday.", "Spotkanie przy śluzie w piątek.✓", "Bring a hat.", "Weź czapkę.✓")
	changed := cut("Bring a hat.\nMeet at the lock on Saturday.\nSomething else entirely, and new.")
	stale := c.Stale(changed)
	require.Len(t, stale, 1)
	was := stale[line("Meet at the lock on Saturday.").Key()]
	assert.Equal(t, "Meet at the lock on Friday.", was.Original.Text)
	assert.Equal(t, Standing{State: Incomplete, Lines: 3, Filled: 1, Checked: 1, By: []string{"Ola Nowak"}}, c.Standing(changed, english.Doubtful))
	assert.Empty(t, c.Stale(cut("Bring a hat.\n\nMeet at the lock on Friday.")), "moved lines stay as they were")
}

// Rule 5; the tags are those of RFC 4647 §3.4 and others that rosters hold.
func TestTheCopyForAReader(t *testing.T) {
	for _, c := range []struct{ reads, there, want string }{
		{"zh-Hant-HK", "zh zh-Hant", "zh-Hant"}, {"zh-Hant-CN-x-private1-private2", "zh-Hant-CN zh", "zh-Hant-CN"},
		{"pt-BR", "pt-PT pt", "pt"}, {"pt", "pt-PT", ""}, {"sr-Latn", "sr", "sr"}, {"PL", "pl", "pl"}, {"pl_PL", "pl", "pl"},
		{"x-klingon", "pl", ""}, {"", "pl", ""}, {"not a tag", "pl", ""},
	} {
		got, found := Lookup(c.reads, func(tag string) bool { return strings.Contains(" "+c.there+" ", " "+tag+" ") })
		assert.Equal(t, c.want, got, c.reads)
		assert.Equal(t, c.want != "", found, c.reads)
	}
}

// Rule 14: what is the same in both languages raises no doubt.
var right = []struct{ tag, original, target string }{
	{"pl", "Meet at Harrow Lock at 8:30 pm on Friday 28 November 2026.", "Spotkanie przy Harrow Lock o 20:30 w piątek 28 listopada 2026."},
	{"pl", "The fee is £1,200.50.", "Opłata wynosi 1200,50 £."},
	{"pl", "We need two boats.", "Potrzebujemy 2 łodzi."},
	{"ar", "Meet at 8:30 on Friday 28 November.", "نلتقي الساعة ٨:٣٠ يوم الجمعة ٢٨ نوفمبر."},
	{"ar", "Call +44 7700 900123 before 6 pm.", "اتصلوا على \u200e+44 7700 900123 قبل الساعة ٦ مساءً."},
	{"vi", "Training starts at 7:15 on Saturday 5 December.", "Buổi tập bắt đầu lúc 7:15 thứ Bảy, ngày 5 tháng 12."},
	{"zh-Hans", "The gates open at 6 pm on Friday 28 November 2026.", "大门于2026年11月28日星期五下午6点开放。"},
	{"pt-PT", "The coach leaves at 18:00 on Monday.", "O autocarro parte às 18h00 de segunda-feira."},
	{"pt-BR", "The coach leaves at 6 pm on Monday.", "O ônibus sai às 18h na segunda."},
	{"es", "It costs 4.50 and starts at 9:00 on 3 March.", "Cuesta 4,50 y empieza a las 9:00 el 3 de marzo."},
	{"uk", "Come on Wednesday at 19:45.", "Приходьте в середу о 19:45."},
	{"so", "Training is on Sunday at 10:00.", "Tababarku waa Axad saacaddu markay tahay 10:00."},
	{"es", "See https://club.example/plan or write to office@quillmere.example.", "Consulte https://club.example/plan o escriba a office@quillmere.example."},
	{"pl", "Dear {{first name}}, thank you.", "{1}, dziękujemy."},
	{"ar", "The 14th boat is called “Heron”.", "اسم القارب الـ14 هو «Heron»."},
	{"pl", "Bring a hat (and gloves).", "Weź czapkę (i rękawiczki)."},
	{"vi", "Thank you", "Cảm ơn"},
	{"pl", "Training may move on Mondays.", "Trening może być przesunięty w poniedziałki."},
	{"es", "Saturdays at 9", "Los sábados a las 9"},
	{"es", "They may come with 3 boats.", "Pueden venir con 3 barcos."},
}

func TestWhatIsRightRaisesNoDoubt(t *testing.T) {
	for _, c := range right {
		assert.Empty(t, english.Doubts(line(c.original), c.target, c.tag), "%s: %s", c.tag, c.target)
	}
}

func TestWhatIsWrongIsDoubted(t *testing.T) {
	terms := Examiner{From: "en", Terms: []Term{
		{Term: "Harrow Lock", Language: "pl", Says: "Harrow Lock"}, {Term: "capsize drill", Language: "pl", Says: "ćwiczenie wywrotki"},
	}}
	for _, c := range []struct {
		name, tag, original, target string
		want                        Doubt
	}{
		{"another time", "pl", "Meet at 8:30.", "Spotkanie o 9:30.", Doubt{FiguresDiffer, []string{"8:30"}, []string{"9:30"}}},
		{"the evening is lost", "pl", "Meet at 8:30 pm.", "Spotkanie o 8:30.", Doubt{FiguresDiffer, []string{"8:30"}, []string{"8:30"}}},
		{"another weekday", "pl", "Meet on Friday.", "Spotkanie we wtorek.", Doubt{FiguresDiffer, []string{"Friday"}, []string{"wtorek"}}},
		{"another month", "es", "It is on 3 March.", "Es el 3 de mayo.", Doubt{FiguresDiffer, []string{"March"}, []string{"mayo"}}},
		{"another amount", "pl", "The fee is £4.50.", "Opłata wynosi 45 £.", Doubt{FiguresDiffer, []string{"4.50"}, []string{"45"}}},
		{"a digit of another script", "ar", "Meet at 8:30.", "نلتقي الساعة ٨:٤٠.", Doubt{FiguresDiffer, []string{"8:30"}, []string{"٨:٤٠"}}},
		{"a number is lost", "pl", "Bring 2 oars.", "Weź wiosła.", Doubt{FiguresDiffer, []string{"2"}, nil}},
		{"another telephone number", "pl", "Call 07700 900123.", "Zadzwoń: 07700 900124.", Doubt{PhonesDiffer, []string{"07700 900123"}, []string{"07700 900124"}}},
		{"a link is lost", "pl", "See https://club.example/a now.", "Zobacz teraz tutaj.", Doubt{LinksDiffer, []string{"https://club.example/a"}, nil}},
		{"a field is lost", "pl", "Dear {{first name}}, come.", "Chodźcie wszyscy.", Doubt{PlacesDiffer, []string{"{1}"}, nil}},
		{"a field is doubled", "pl", "Dear {{first name}}, come.", "{1}, {1}, chodź.", Doubt{PlacesDiffer, nil, []string{"{1}"}}},
		{"a term is missed", "pl", "The capsize drill is at Harrow Lock.", "Trening jest przy Harrow Lock.", Doubt{Code: TermMissed, Missing: []string{"ćwiczenie wywrotki"}}},
		{"still the original", "es", "Please bring warm clothes and water.", "Please bring warm clothes and water.", Doubt{Code: StillOriginal}},
		{"another script", "ar", "Please bring warm clothes.", "Ubierzcie się ciepło.", Doubt{Code: OtherScript}},
		{"far too short", "pl", "Please bring warm clothes and water for the day.", "Weź wodę.", Doubt{Code: OddLength}},
		{"far too long", "zh-Hans", "Bring water, please.", "请带水，并且请不要忘记带上你的帽子和手套还有衣服。", Doubt{Code: OddLength}},
		{"a bracket left open", "pl", "Bring a hat (and gloves).", "Weź czapkę (i rękawiczki.", Doubt{Code: Unbalanced}},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, []Doubt{c.want}, terms.Doubts(line(c.original), c.target, c.tag))
		})
	}
}

func TestFormattingMustNotCross(t *testing.T) {
	l := lines.Line{Text: "{1}a{/1} {2}b{/2}", Places: []lines.Placeholder{{Kind: lines.Bold}, {Kind: lines.Italic}}}
	assert.Empty(t, english.Doubts(l, "{2}b{/2} {1}a{/1}", "pl"))
	for _, crossed := range []string{"{1}a{2}b{/1}{/2}", "{/1}a{1} {2}b{/2}"} {
		assert.Equal(t, []Doubt{{Code: PlacesDiffer}}, english.Doubts(l, crossed, "pl"), crossed)
	}
}

// Every digit that is changed in a right target is found.
func TestAChangedDigitIsFound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := rapid.SampledFrom(right).Draw(t, "pair")
		text := []rune(c.target)
		var at []int
		for i, r := range text {
			if digit(r) >= 0 && digit(r) <= 9 && strings.ContainsRune("0123456789٠١٢٣٤٥٦٧٨٩", r) && !(i > 0 && text[i-1] == '{') {
				at = append(at, i)
			}
		}
		if len(at) == 0 || strings.Contains(c.original, "two") {
			t.Skip("no digits")
		}
		i := rapid.SampledFrom(at).Draw(t, "digit")
		text[i] = text[i] - digit(text[i]) + (digit(text[i])+rapid.Int32Range(1, 9).Draw(t, "more"))%10
		require.NotEmpty(t, english.Doubts(line(c.original), string(text), c.tag), string(text))
	})
}

// Rule “The memory” 2.
func TestALineIsAdapted(t *testing.T) {
	for _, c := range []struct{ name, tag, was, said, is, want string }{
		{"a time", "pl", "Meet at 8:30.", "Spotkanie o 8:30.", "Meet at 9:15.", "Spotkanie o 9:15."},
		{"a leading zero stays", "pl", "Meet at 08:30.", "Spotkanie o 08:30.", "Meet at 9:15.", "Spotkanie o 09:15."},
		{"a full hour", "pt-BR", "It leaves at 6 pm.", "Sai às 18h.", "It leaves at 7 pm.", "Sai às 19h."},
		{"minutes where the target has none", "pt-BR", "It leaves at 6 pm.", "Sai às 18h.", "It leaves at 7:30 pm.", ""},
		{"24 hours stay", "pl", "Meet at 8:30 pm.", "Spotkanie o 20:30.", "Meet at 9:15 pm.", "Spotkanie o 21:15."},
		{"digits of a script stay", "ar", "Bring 12 oars.", "أحضروا ١٢ مجدافًا.", "Bring 15 oars.", "أحضروا ١٥ مجدافًا."},
		{"a date", "es", "It is on 3 March.", "Es el 3 de marzo.", "It is on 14 May.", "Es el 14 de mayo."},
		{"a weekday", "es", "Come on Friday.", "Venga el viernes.", "Come on Monday.", "Venga el lunes."},
		{"an inflected weekday is left to people", "pl", "Come on Saturday.", "Przyjdź w sobotę.", "Come on Friday.", ""},
		{"which of two cannot be told", "pl", "Row 8, seat 8.", "Rząd 8, miejsce 8.", "Row 9, seat 8.", ""},
		{"other words", "pl", "Meet at 8:30.", "Spotkanie o 8:30.", "Come at 9:15.", ""},
		{"a field", "pl", "Dear {{first name}}, come.", "{1}, chodź.", "Dear {{full name}}, come.", "{1}, chodź."},
		{"a number that the target does not have", "pl", "Bring 2 oars.", "Weź dwa wiosła.", "Bring 3 oars.", ""},
		{"a telephone number", "pl", "Call 07700 900123.", "Zadzwoń: 07700 900123.", "Call 07700 900555.", "Zadzwoń: 07700 900555."},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, ok := Adapt(Remembered{line(c.was), c.tag, c.said}, line(c.is), "en")
			assert.Equal(t, c.want, got)
			assert.Equal(t, c.want != "", ok)
		})
	}
}

// What is adapted raises no doubt that the remembered line did not.
func TestWhatIsAdaptedIsRight(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		hour, minute := rapid.IntRange(1, 23).Draw(t, "hour"), rapid.IntRange(10, 59).Draw(t, "minute")
		is := line(strings.NewReplacer("20:30", itoa(hour)+":"+itoa(minute), "28", itoa(rapid.IntRange(1, 31).Draw(t, "day"))).Replace("Meet at 20:30 on 28 March."))
		for tag, said := range map[string]string{"es": "Reunión a las 20:30 el 28 de marzo.", "uk": "Зустріч о 20:30 28 березня.", "pl": "Spotkanie o 20:30 28 marca."} {
			text, ok := Adapt(Remembered{line("Meet at 20:30 on 28 March."), tag, said}, is, "en")
			require.True(t, ok)
			require.Empty(t, english.Doubts(is, text, tag), text)
		}
	})
}

func itoa(n int) string {
	return strings.TrimSpace(strings.Join(strings.Fields(string(rune('0'+n/10))+string(rune('0'+n%10))), ""))
}

func TestHowAlikeTwoLinesAre(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{{"", "", 100}, {"Come now.", "COME NOW.", 100}, {"kitten", "sitting", 57}, {"abcd", "abce", 75}, {"a", "b", 0}} {
		assert.Equal(t, c.want, Likeness(c.a, c.b), "%s, %s", c.a, c.b)
		assert.Equal(t, c.want, Likeness(c.b, c.a), "%s, %s", c.b, c.a)
	}
}

func TestDifferencesAreShown(t *testing.T) {
	assert.Equal(t, []Piece{{"Meet on ", ""}, {"Friday.", "before"}, {"Saturday.", "now"}}, Difference("Meet on Friday.", "Meet on Saturday."))
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(rapid.SampledFrom([]string{"a ", "b ", "c", " "}), 0, 12)
		a, b := strings.Join(words.Draw(t, "a"), ""), strings.Join(words.Draw(t, "b"), "")
		before, now := "", ""
		for _, p := range Difference(a, b) {
			if p.Only != "now" {
				before += p.Text
			}
			if p.Only != "before" {
				now += p.Text
			}
		}
		require.Equal(t, a, before)
		require.Equal(t, b, now)
	})
}

func FuzzFigures(f *testing.F) {
	for _, c := range right {
		f.Add(c.original, c.tag)
		f.Add(c.target, c.tag)
	}
	f.Fuzz(func(t *testing.T, text, tag string) {
		last := 0
		for _, g := range figures(text, tag) {
			if g.from < 0 || g.to > len(text) || g.from > g.to || g.from < last {
				t.Fatalf("%+v in %q", g, text)
			}
			last = g.from
		}
		english.Doubts(lines.Line{Text: text}, text, tag)
	})
}

// Rule “The memory” 3: leaving out what cannot be alike leaves out nothing that is.
func TestTheLikestAreFound(t *testing.T) {
	word := rapid.SampledFrom([]string{"bring", "towels", "Żółw", "رحلة", "8:30", "crew", "翻船", "İ", "to", "the"})
	text := rapid.Custom(func(t *rapid.T) string { return strings.Join(rapid.SliceOfN(word, 0, 8).Draw(t, "words"), " ") })
	rapid.Check(t, func(t *rapid.T) {
		line, among := text.Draw(t, "line"), rapid.SliceOfN(text, 0, 6).Draw(t, "among")
		var want []Like
		for i, other := range among {
			if n := Likeness(line, other); n >= Alike {
				want = append(want, Like{i, n})
			}
		}
		got := Likest(line, among)
		require.ElementsMatch(t, want, got)
		require.True(t, slices.IsSortedFunc(got, func(a, b Like) int { return b.Likeness - a.Likeness }))
	})
}

// Rule “The memory” 2: a name in another's place, where the target holds it as it is.
func TestALineWithAnotherName(t *testing.T) {
	for _, c := range []struct {
		name, original, target, line, want string
	}{
		{"a name", "Naya Osei meets you at the gate.", "Naya Osei czeka przy bramie.", "Tamsin Rushmere meets you at the gate.", "Tamsin Rushmere czeka przy bramie."},
		{"at the end", "Ask Hugo Farrowby.", "Pregunte a Hugo Farrowby.", "Ask Naya Osei.", "Pregunte a Naya Osei."},
		{"one of its words", "Ask Hugo Farrowby.", "Pregunte a Hugo Farrowby.", "Ask Hugo Venn.", "Pregunte a Hugo Venn."},
		{"a place", "We meet at Harrow Lock at 8:30.", "Spotykamy się przy Harrow Lock o 8:30.", "We meet at Sluice Lane at 8:30.", "Spotykamy się przy Sluice Lane o 8:30."},
		{"in another script", "Ask Naya Osei.", "اسأل Naya Osei.", "Ask Ðorđe Łoś-Żak.", "اسأل Ðorđe Łoś-Żak."},
		{"an inflected name", "Ask Naya Osei.", "Zapytaj Nayę Osei.", "Ask Tamsin Rushmere.", ""},
		{"a part of a longer word", "Ask Ana.", "Zapytaj Anastazję.", "Ask Eva.", ""},
		{"twice in the original", "Ana, ask Ana.", "Ana, zapytaj siebie.", "Eva, ask Ana.", ""},
		{"twice in the target", "Ask Ana.", "Ana! Ana!", "Ask Eva.", ""},
		{"no name", "Bring towels to the pool.", "Weź towels.", "Bring gloves to the pool.", ""},
		{"a word that is translated", "Coaches meet at six.", "Trenerzy spotykają się o szóstej.", "Guardians meet at six.", ""},
		{"a day", "We meet on Friday.", "Spotkanie Friday.", "We meet on Saturday.", ""},
		{"in two places", "Ana asks Eva.", "Ana pyta Eva.", "Ola asks Ida.", ""},
		{"nothing before", "Ask.", "Pytaj.", "Ask Eva.", ""},
		{"the same", "Ask Eva.", "Pytaj Eva.", "Ask Eva.", ""},
		{"too long a name", "Ask Ana.", "Pytaj Ana.", "Ask One Two Three Four Five.", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, ok := AdaptName(Remembered{Original: line(c.original), Language: "pl", Text: c.target}, line(c.line), "en")
			assert.Equal(t, c.want, got)
			assert.Equal(t, c.want != "", ok)
		})
	}
}

// Whatever the two texts: what stands between is cut at characters, and putting it back
// gives the texts.
func TestWhatStandsBetween(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.RuneFrom([]rune("ab ÀŻ.,ł翻")), 0, 12, -1)
		a, b := text.Draw(t, "before"), text.Draw(t, "now")
		was, is := between(a, b)
		at := strings.Index(a, was)
		require.True(t, utf8.ValidString(was) && utf8.ValidString(is))
		require.GreaterOrEqual(t, at, 0)
		require.LessOrEqual(t, len(a)-len(was), len(b))
		require.Equal(t, len(a)-len(was), len(b)-len(is), "what both share is as long in both")
	})
}
