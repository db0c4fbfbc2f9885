package message_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
)

func TestQuestionsThatFit(t *testing.T) {
	answers := func(words ...string) *message.Question {
		q := &message.Question{}
		for _, w := range words {
			q.Choices = append(q.Choices, message.FixedAnswer{Words: w})
		}
		return q
	}
	for _, c := range []struct {
		name       string
		of         *message.Question
		keys       message.Voice
		fits       bool
		unfinished bool
	}{
		{"nothing is asked", nil, message.Voice{ConfirmKey: "1"}, true, false},
		{"two answers", answers("Yes", "No"), message.Voice{RepeatKey: "3", ConfirmKey: "#"}, true, false},
		{"nine", answers(strings.Split("abcdefghi", "")...), message.Voice{}, true, false},
		{"ten", answers(strings.Split("abcdefghij", "")...), message.Voice{}, false, false},
		{"one is not finished", answers("Yes"), message.Voice{}, true, true},
		{"without words it is not finished", answers("Yes", " "), message.Voice{}, true, true},
		{"two without words are not the same", answers("", ""), message.Voice{}, true, true},
		{"a field is no answer", answers("Yes", "{{first name}}"), message.Voice{}, true, true},
		{"twice the same", answers("Yes", "yes "), message.Voice{}, false, false},
		{"too long", answers("Yes", strings.Repeat("é", 61)), message.Voice{}, false, false},
		{"its key repeats", answers("Yes", "No"), message.Voice{RepeatKey: "2"}, false, false},
		{"its key confirms", answers("Yes", "No"), message.Voice{ConfirmKey: "1"}, false, false},
		{"too many are needed", &message.Question{Needed: message.MostNeeded + 1}, message.Voice{}, false, true},
		{"too much to say", &message.Question{Filled: strings.Repeat("x", 301)}, message.Voice{}, false, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := message.Empty()
			d.Urgency, d.Question, d.Voice = roster.Routine, c.of, c.keys
			assert.Equal(t, c.fits, d.Validate() == nil, "%v", d.Validate())
			assert.Equal(t, c.unfinished, c.of.Unfinished())
		})
	}
}

// The words of a question are cleaned, filled and put in other languages without changing
// the draft they come from.
func TestTheWordsOfAQuestion(t *testing.T) {
	d := message.Content{Question: &message.Question{
		Choices: []message.FixedAnswer{{Words: " I come\u200b on  {{ask: day}} ", Means: message.Counts}, {Words: "No"}}, Filled: "See you {{ask: day}}",
	}}
	assert.Equal(t, []string{"day"}, d.Blanks())
	filled := d.Cleaned().FillBlanks(map[string]string{"day": "Monday"})
	assert.Equal(t, "I come on Monday", filled.Question.Choices[0].Words)
	assert.Equal(t, "See you Monday", filled.Question.Filled)
	assert.Contains(t, d.Question.Choices[0].Words, "{{ask: day}}")
	assert.Equal(t, []string{"1", "2"}, d.Question.Keys())
	assert.Equal(t, []int{1}, d.Question.Filling())
}
