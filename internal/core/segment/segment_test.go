package segment_test

import (
	"fmt"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/segment"
)

func TestMeasure(t *testing.T) {
	for _, c := range []struct {
		name string
		text string
		want segment.Count
	}{
		{"nothing", "", segment.Count{Alphabet: segment.GSM7, Units: 0, Parts: 0, Room: 160}},
		{"short", "Meet at Harrow Lock", segment.Count{Alphabet: segment.GSM7, Units: 19, Parts: 1, Room: 141}},
		{"160 septets are one part", strings.Repeat("a", 160), segment.Count{Alphabet: segment.GSM7, Units: 160, Parts: 1, Room: 0}},
		{"161 septets are two", strings.Repeat("a", 161), segment.Count{Alphabet: segment.GSM7, Units: 161, Parts: 2, Room: 145}},
		{"306 septets are two", strings.Repeat("a", 306), segment.Count{Alphabet: segment.GSM7, Units: 306, Parts: 2, Room: 0}},
		{"307 septets are three", strings.Repeat("a", 307), segment.Count{Alphabet: segment.GSM7, Units: 307, Parts: 3, Room: 152}},
		{"an extension character counts two", "€", segment.Count{Alphabet: segment.GSM7, Units: 2, Parts: 1, Room: 158}},
		{"80 of them fill one part", strings.Repeat("€", 80), segment.Count{Alphabet: segment.GSM7, Units: 160, Parts: 1, Room: 0}},
		{"an escape pair is not divided", strings.Repeat("a", 152) + "€" + strings.Repeat("a", 10),
			segment.Count{Alphabet: segment.GSM7, Units: 164, Parts: 2, Room: 141}},
		{"accents of the alphabet stay short", "àéùìòÇØøÅåÄÖÑÜäöñü§¿¡", segment.Count{Alphabet: segment.GSM7, Units: 21, Parts: 1, Room: 139}},
		{"an accent that is not in it does not", "á", segment.Count{Alphabet: segment.UCS2, Units: 1, Parts: 1, Room: 69}},
		{"70 code units are one part", strings.Repeat("ą", 70), segment.Count{Alphabet: segment.UCS2, Units: 70, Parts: 1, Room: 0}},
		{"71 are two", strings.Repeat("ą", 71), segment.Count{Alphabet: segment.UCS2, Units: 71, Parts: 2, Room: 63}},
		{"a surrogate pair counts two", "🚣", segment.Count{Alphabet: segment.UCS2, Units: 2, Parts: 1, Room: 68}},
		{"a surrogate pair is not divided", strings.Repeat("ą", 66) + "🚣" + strings.Repeat("ą", 10),
			segment.Count{Alphabet: segment.UCS2, Units: 78, Parts: 2, Room: 55}},
		{"Arabic", "تم نقل تدريب السبت", segment.Count{Alphabet: segment.UCS2, Units: 18, Parts: 1, Room: 52}},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, segment.Measure(c.text)) })
	}
}

func TestSplitKeepsEveryCharacterAndFits(t *testing.T) {
	alphabets := []*rapid.Generator[rune]{
		rapid.RuneFrom([]rune("abc €[]{}|~^\\ xyz0123")),
		rapid.RuneFrom([]rune("abcą🚣🌊حداد林 ")),
	}
	rapid.Check(t, func(t *rapid.T) {
		runes := rapid.SliceOfN(rapid.SampledFrom(alphabets).Draw(t, "alphabet"), 0, 500).Draw(t, "runes")
		text := string(runes)
		parts := segment.Split(text)
		require.Equal(t, text, strings.Join(parts, ""))
		count := segment.Measure(text)
		require.Len(t, parts, count.Parts)
		for _, p := range parts {
			require.True(t, p == strings.ToValidUTF8(p, ""), "a character was divided")
			if len(parts) > 1 && count.Alphabet == segment.UCS2 {
				require.LessOrEqual(t, len(utf16.Encode([]rune(p))), 67)
			}
			if len(parts) > 1 && count.Alphabet == segment.GSM7 {
				require.LessOrEqual(t, segment.Measure(p).Units, 153)
			}
		}
	})
}

func TestMeasureReplacedIsMeasuringWhatWasReplaced(t *testing.T) {
	runes := rapid.RuneFrom([]rune("abc €–—“”’…• \u00a0\tł🚣"))
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(runes, 0, 400, -1).Draw(t, "text")
		require.Equal(t, segment.Measure(segment.Replace(text)), segment.MeasureReplaced(text))
	})
}

func TestForcesNamesTheCharactersAndTheirReplacement(t *testing.T) {
	assert.Equal(t, []segment.Forcing{
		{Character: "–", Times: 2, Replacement: "-"},
		{Character: "’", Times: 1, Replacement: "'"},
		{Character: "ł", Times: 1, Replacement: ""},
	}, segment.Forces("east side – Naya’s – Michał"))
	assert.Empty(t, segment.Forces("plain {€}"))
}

func TestReplaceNeverChangesLetters(t *testing.T) {
	assert.Equal(t, `Michał said "meet at 8..." - ok`, segment.Replace("Michał said “meet at 8…” – ok"))
}

func ExampleMeasure() {
	dash := "Meet at Harrow Lock, not the boathouse. Warm layer and a drink. Park east side – Naya"
	fmt.Println(segment.Measure(dash).Parts, segment.Measure(segment.Replace(dash)).Parts)
	// Output: 2 1
}

func TestOver(t *testing.T) {
	for _, c := range []struct {
		text string
		want int
	}{
		{"", 0}, {"short", 0}, {strings.Repeat("a", 160), 0}, {strings.Repeat("a", 163), 3}, {strings.Repeat("a", 306), 146},
		{strings.Repeat("a", 310), 4}, {strings.Repeat("ł", 71), 1}, {strings.Repeat("ł", 136), 2},
	} {
		over := segment.Measure(c.text).Over()
		assert.Equal(t, c.want, over, len(c.text))
		if over > 0 {
			shorter := []rune(c.text)
			assert.Less(t, segment.Measure(string(shorter[over:])).Parts, segment.Measure(c.text).Parts)
		}
	}
}
