package measure

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"upperlantern/internal/app"
	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
)

// answers measures answers by text to one question, while somebody looks at its board.
// Where more answers come than people were asked, they change their minds.
func (b *bench) answers(ctx context.Context, i *app.Instance, by access.Principal) error {
	d := textDraft(roster.Routine, "are you safe?")
	d.Question = &message.Question{Choices: []message.FixedAnswer{
		{Words: "We are safe", Means: message.Counts}, {Words: "We need help", Means: message.Attend},
	}}
	id, w, err := b.send(ctx, i, by, d)
	if err != nil {
		return err
	}
	if err := left(ctx, i, id, func(f record.Figures) bool { return f.Here == 0 }); err != nil {
		return err
	}
	answers := make([]carrier.GatewayItem, b.Incoming)
	asked := numbersOf(w.Plan)
	for n := range answers {
		round, from := n/len(asked), asked[n%len(asked)]
		answers[n] = carrier.GatewayItem{
			Key: fmt.Sprint("answer ", n), Channel: roster.Text, From: from, Text: strconv.Itoa(1 + round%2), At: time.Now(),
		}
	}
	board := fmt.Sprintf("/api/messages/%d/board", id)
	stop, stopped := looksAt(ctx, i.URL+board)
	posts, all, err := posted(ctx, i.URL+"/carrier/incoming", answers)
	if err != nil {
		return err
	}
	stop()
	looked := <-stopped
	if looked.err != nil {
		return looked.err
	}
	var seen struct {
		Unclear int
		Tally   asking.Tally
	}
	if err := readsPage(ctx, i.URL, board, &seen); err != nil {
		return err
	}
	b.say("\nAnswers, %d by text from %d numbers to one question", len(answers), len(asked))
	b.say("  all taken in %s; a post: half within %s, 95 of 100 within %s", all.Round(10*time.Millisecond), posts.at(50), posts.at(95))
	b.say("  the board of %d people: half within %s, 95 of 100 within %s", seen.Tally.Asked, looked.took.at(50), looked.took.at(95))
	b.say("  %d have answered, %d have not; of %d numbers nobody knows who answered", seen.Tally.Answered(),
		seen.Tally.Asked-seen.Tally.Answered(), seen.Unclear)
	return nil
}

// numbersOf are the numbers to which a plan goes, each once: a made-up roster has few, and
// people share them.
func numbersOf(p *plan.Plan) []string {
	var list []string
	for _, d := range p.Deliveries {
		list = append(list, d.Address)
	}
	slices.Sort(list)
	return slices.Compact(list)
}
