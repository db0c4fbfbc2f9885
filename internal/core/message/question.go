package message

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"upperlantern/internal/core/roster"
)

// Bounds of a question.
const (
	FewestChoices = 2
	MostChoices   = 9
	LongestChoice = 60 // characters
	MostNeeded    = 10_000
)

// Question asks recipients to choose one of its answers, which are numbered from 1.
type Question struct {
	Choices []FixedAnswer `json:"choices" maxItems:"9" doc:"Numbered from 1, in this order"`
	// Needed is 0 for however many.
	Needed int    `json:"needed,omitempty" minimum:"0" maximum:"10000" doc:"So many answers that count are needed; asking stops then"`
	Filled string `json:"filled,omitempty" maxLength:"300" doc:"What those are told who have not answered when enough did"`
	// Job is 0 for a question that is about no job.
	Job roster.GroupID `json:"job,omitempty" minimum:"0" doc:"Whoever gives an answer that counts comes into this job"`
}

// For is the job for which it is asked who is coming; 0 is none.
func (q *Question) For() roster.GroupID {
	if q == nil {
		return 0
	}
	return q.Job
}

// FixedAnswer is one of the answers of a question.
type FixedAnswer struct {
	Words string  `json:"words" maxLength:"60"`
	Means Meaning `json:"means,omitempty" enum:"counts,minutes,attend," doc:"It counts; it counts after some minutes; somebody has to look after who says it"`
}

// Meaning is what an answer means to whoever asked; "" is nothing in particular.
type Meaning string

// Meanings of answers.
const (
	Counts  Meaning = "counts"  // towards what is needed
	Minutes Meaning = "minutes" // as well, after some minutes that they say
	Attend  Meaning = "attend"  // somebody has to look after whoever says it
)

// Meanings lists them all.
var Meanings = []Meaning{"", Counts, Minutes, Attend}

// Fills reports whether an answer counts towards what is needed.
func (m Meaning) Fills() bool { return m == Counts || m == Minutes }

// Asks reports whether there is a question with answers to choose from.
func (q *Question) Asks() bool { return q != nil && len(q.Choices) >= FewestChoices }

// words are all words of the question.
func (q *Question) words() []string {
	if q == nil {
		return nil
	}
	list := []string{q.Filled}
	for _, c := range q.Choices {
		list = append(list, c.Words)
	}
	return list
}

// Choice is an answer by its number; false for none of them.
func (q *Question) Choice(number int) (FixedAnswer, bool) {
	if q == nil || number < 1 || number > len(q.Choices) {
		return FixedAnswer{}, false
	}
	return q.Choices[number-1], true
}

// Keys are the keys of a call that choose an answer.
func (q *Question) Keys() []string {
	if !q.Asks() {
		return nil
	}
	keys := make([]string, len(q.Choices))
	for i := range keys {
		keys[i] = strconv.Itoa(i + 1)
	}
	return keys
}

// Unfinished reports whether an answer has no words yet, or a field: everybody chooses from
// the same answers.
func (q *Question) Unfinished() bool {
	return q != nil && (len(q.Choices) < FewestChoices || slices.ContainsFunc(q.Choices, func(c FixedAnswer) bool {
		return strings.TrimSpace(c.Words) == "" || strings.Contains(c.Words, "{{")
	}))
}

// Map is the question with all of its words changed.
func (q *Question) Map(change func(string) string) *Question {
	if q == nil {
		return nil
	}
	changed := *q
	changed.Choices = slices.Clone(q.Choices)
	for i := range changed.Choices {
		changed.Choices[i].Words = change(changed.Choices[i].Words)
	}
	changed.Filled = change(q.Filled)
	return &changed
}

func (d Content) validateQuestion() error {
	q := d.Question
	if q == nil {
		return nil
	}
	if len(q.Choices) > MostChoices {
		return fmt.Errorf("question: %d answers, and there can be %d", len(q.Choices), MostChoices)
	}
	said := map[string]bool{}
	for i, c := range q.Choices {
		words := strings.ToLower(strings.TrimSpace(c.Words))
		switch {
		case !slices.Contains(Meanings, c.Means):
			return fmt.Errorf("question: %q is not what an answer can mean", c.Means)
		case utf8.RuneCountInString(c.Words) > LongestChoice:
			return fmt.Errorf("question: answer %d has more than %d characters", i+1, LongestChoice)
		case words != "" && said[words]:
			return fmt.Errorf("question: two answers say “%s”", strings.TrimSpace(c.Words))
		}
		said[words] = true
	}
	if q.Needed < 0 || q.Needed > MostNeeded {
		return fmt.Errorf("question: %d people are needed, and it can be %d at most", q.Needed, MostNeeded)
	}
	if utf8.RuneCountInString(q.Filled) > LongestSubject {
		return fmt.Errorf("question: what the others are told has more than %d characters", LongestSubject)
	}
	for _, key := range []string{d.Voice.RepeatKey, d.Voice.ConfirmKey} {
		if key != "" && slices.Contains(q.Keys(), key) {
			return fmt.Errorf("voice: key %s chooses an answer, so it can neither repeat nor confirm", key)
		}
	}
	return nil
}

// Filling are the numbers of the answers that count towards what is needed.
func (q *Question) Filling() []int {
	numbers := []int{}
	for i, c := range q.Choices {
		if c.Means.Fills() {
			numbers = append(numbers, i+1)
		}
	}
	return numbers
}
