package asking_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/message"
)

var coming = &message.Question{Choices: []message.FixedAnswer{
	{Words: "I am coming", Means: message.Counts}, {Words: "Later", Means: message.Minutes},
	{Words: "I cannot", Means: ""}, {Words: "I need help", Means: message.Attend},
}}

var said = [][]string{
	{"I am coming", "Przyjdę", "أنا قادم"}, {"Later", "Później", "لاحقاً"}, {"I cannot", "Nie mogę"}, {"I need help"},
}

func TestReadingAReply(t *testing.T) {
	for _, c := range []struct {
		reply string
		want  asking.Given
	}{
		{"1", asking.Given{Number: 1}}, {" 1. ", asking.Given{Number: 1}}, {"#1", asking.Given{Number: 1}}, {"(3)", asking.Given{Number: 3}},
		{"١", asking.Given{Number: 1}}, {"３", asking.Given{Number: 3}}, {"४", asking.Given{Number: 4}}, {"𝟜", asking.Given{Number: 4}},
		{"1 I am coming!", asking.Given{Number: 1}}, {"i am COMING", asking.Given{Number: 1}}, {"Przyjdę.", asking.Given{Number: 1}},
		{"przyjdę", asking.Given{Number: 1}}, {"أنا قادم", asking.Given{Number: 1}},
		{"2 20", asking.Given{Number: 2, Minutes: 20}}, {"2, 20 min", asking.Given{Number: 2, Minutes: 20}},
		{"2 20分钟", asking.Given{Number: 2, Minutes: 20}}, {"2 ٢٠ دقيقة", asking.Given{Number: 2, Minutes: 20}},
		{"2 20 minutes", asking.Given{Number: 2, Minutes: 20}}, {"2 20' by bike", asking.Given{Number: 2, Minutes: 20, Remark: "by bike"}},
		{"2, at six", asking.Given{Number: 2, Remark: "at six"}}, {"2 - 3000", asking.Given{Number: 2, Remark: "3000"}},
		{"4, my son too", asking.Given{Number: 4, Remark: "my son too"}}, {"4\nThe bridge is gone", asking.Given{Number: 4, Remark: "The bridge is gone"}},
		{"3。我不在", asking.Given{Number: 3, Remark: "我不在"}},
		{"2 people are with me", asking.Given{}}, {"2nd floor", asking.Given{}}, {"10", asking.Given{}}, {"0", asking.Given{}},
		{"12345678", asking.Given{}}, {"5", asking.Given{}}, {"", asking.Given{}}, {"coming", asking.Given{}}, {"-1", asking.Given{}},
		{"1 or 2", asking.Given{}}, {"2 20 30", asking.Given{}}, {"07700 900123", asking.Given{}}, {"👍", asking.Given{}},
	} {
		t.Run(c.reply, func(t *testing.T) {
			got, ok := asking.Read(coming, said, c.reply)
			assert.Equal(t, c.want.Number > 0, ok, "%+v", got)
			if ok {
				assert.Equal(t, c.want, got)
			}
		})
	}
	_, ok := asking.Read(nil, nil, "1")
	assert.False(t, ok, "nothing was asked")
}

// The number of an answer, and its words, are always that answer.
func TestEveryAnswerIsRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		q := &message.Question{}
		var words [][]string
		for i := range rapid.IntRange(2, 9).Draw(t, "answers") {
			w := fmt.Sprintf("%c %s", 'a'+rune(i), rapid.StringMatching(`[a-zżół]{0,8}`).Draw(t, "words"))
			q.Choices = append(q.Choices, message.FixedAnswer{Words: w, Means: rapid.SampledFrom(message.Meanings).Draw(t, "means")})
			words = append(words, []string{w})
		}
		n := rapid.IntRange(1, len(q.Choices)).Draw(t, "number")
		for _, reply := range []string{fmt.Sprint(n), fmt.Sprintf("%d.", n), q.Choices[n-1].Words, fmt.Sprintf("%d %s", n, words[n-1][0])} {
			got, ok := asking.Read(q, words, reply)
			if !ok || got != (asking.Given{Number: n}) {
				t.Fatalf("%q is read as %+v, %v", reply, got, ok)
			}
		}
	})
}

func FuzzRead(f *testing.F) {
	for _, seed := range []string{"1", "2 20 min", "٣", "4, help", "\xff1", "1\u0300"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, reply string) {
		got, ok := asking.Read(coming, said, reply)
		if ok && (got.Number < 1 || got.Number > len(coming.Choices) || got.Minutes < 0 || got.Minutes > asking.MostMinutes) {
			t.Fatalf("%q is read as %+v", reply, got)
		}
	})
}

func ExampleRead() {
	given, ok := asking.Read(coming, said, "2, 20 min")
	fmt.Println(given.Number, given.Minutes, ok)
	// Output: 2 20 true
}
