package plan_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// Every channel shows the answers of a question in its own way.
func TestEveryChannelShowsTheAnswers(t *testing.T) {
	r := crew(t)
	draft := everybody(message.Draft{Content: message.Content{
		Subject: "Low water", Email: rich.Lines("Are you coming?"), Question: &message.Question{
			Choices: []message.FixedAnswer{{Words: "Yes & no", Means: message.Counts}, {Words: "No, I stay"}},
		},
	}})
	draft.Urgency, draft.Reason = roster.Emergency, "a test"
	p := plan.Make(r, draft, settings)
	said := map[roster.Channel]delivery.Content{}
	for _, d := range p.Deliveries {
		if d.Channel != roster.Push || d.Address == "Ana’s phone" {
			said[d.Channel] = p.Content(d)
		}
	}
	require.Contains(t, said, roster.Email)
	require.Contains(t, said, roster.Text)
	assert.Equal(t, "Are you coming?\n\n1 Yes & no\n2 No, I stay\nReply with a number.", said[roster.Text].Body)
	mail := said[roster.Email]
	assert.Equal(t, "Are you coming?\n\n1 Yes & no\n2 No, I stay\nPress an answer, or reply with its number.", mail.Body)
	assert.Contains(t, mail.HTML, `<a href="answer:1"`)
	assert.Contains(t, mail.HTML, "1 Yes &amp; no</a>")
	assert.Contains(t, mail.HTML, "2 No, I stay</a>")
	pushed := said[roster.Push]
	assert.Equal(t, "Are you coming?", pushed.Body, "its buttons stand beneath it")
	for channel, c := range said {
		assert.Len(t, c.Parts.Choices, 2, channel)
	}
	if call, ok := said[roster.Voice]; ok {
		assert.Contains(t, call.Body, "Press 1 for: Yes & no.")
	}
}

// A push that asks something keeps room for where its answers go.
func TestAPushThatAsksFits(t *testing.T) {
	p := push.Payload{Title: "Safe?", Body: strings.Repeat("water ", 900), Choices: []string{"Yes", "No"}}.Fit()
	assert.LessOrEqual(t, p.Size(), push.Most)
	p.Answer = "https://" + strings.Repeat("x", 150)
	p.Key, p.Report = strings.Repeat("k", 26), "https://"+strings.Repeat("y", 200)
	assert.LessOrEqual(t, len(p.Encode()), push.Largest)
}

// A question that is not finished keeps the message here.
func TestAHalfQuestionBlocks(t *testing.T) {
	r := crew(t)
	draft := everybody(message.Draft{Content: message.Content{
		Email: rich.Lines("Coming?"), Question: &message.Question{Choices: []message.FixedAnswer{{Words: "Yes"}}},
	}})
	s := plan.Make(r, draft, settings).Summarise(r)
	require.NotEmpty(t, s.Problems)
	assert.Equal(t, plan.HalfQuestion, s.Problems[0].Code)
	assert.True(t, s.Problems[0].Blocks)
	assert.Equal(t, plan.InQuestion, s.Problems[0].Mend)
}

// The final check says what is asked, and when asking stops.
func TestTheFinalCheckSaysWhatIsAsked(t *testing.T) {
	r := crew(t)
	draft := everybody(message.Draft{Content: message.Content{
		Subject: "Sandbags", Email: rich.Lines("Coming?"), Question: &message.Question{
			Choices: []message.FixedAnswer{{Words: "Yes", Means: message.Counts}, {Words: "No"}}, Needed: 6, Filled: "Enough.",
		},
	}})
	p := plan.Make(r, draft, settings)
	assert.Contains(t, p.Check(p.Summarise(r), "now"),
		"It asks for one of 2 answers. Asking stops once 6 of them count, and the others are told so.")
	draft.Question = nil
	p = plan.Make(r, draft, settings)
	for _, line := range p.Check(p.Summarise(r), "now") {
		assert.NotContains(t, line, "asks")
	}
}
