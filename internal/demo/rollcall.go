package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desks"
	"upperlantern/internal/store"
)

// called is how long before the demo begins the flood watch asked who is safe. It is an
// emergency, as the call-out is: they leave at whatever hour the demo begins.
const called = 38 * time.Minute

var rollCall = past{
	sender: floodDesk, group: "Flood watch", urgency: roster.Emergency, subject: "Are you safe?",
	reason: "The river is over the footbridge at Fen Row",
	text:   "The footbridge at Fen Row is closed. Tell us where you stand.",
	question: &message.Question{Choices: []message.FixedAnswer{
		{Words: "I am safe", Means: message.Counts}, {Words: "I need help", Means: message.Attend}, {Words: "I am not there"},
	}},
	copies: map[string][]string{
		"pl": {"Dzień dobry, {1},", "Czy jesteś bezpieczny?", "Kładka przy Fen Row jest zamknięta.", "Napisz nam, jak u Ciebie.", "Jestem bezpieczny", "Potrzebuję pomocy", "Nie ma mnie tam"},
		"ar": {"مرحباً {1}،", "هل أنت بخير؟", "جسر المشاة عند Fen Row مغلق.", "أخبرنا أين أنت وكيف حالك.", "أنا بخير", "أحتاج إلى مساعدة", "لست هناك"},
	},
}

// inTheirWords are the lines of a past message in other languages, each read by somebody.
func (h *historian) inTheirWords(ctx context.Context, m store.Message, p past) error {
	fixed, err := h.sender.SentWith(ctx, m)
	if err != nil {
		return err
	}
	list := lines.Cut(lines.Written{Content: m.Draft.Content, Signature: fixed.Signature, Language: "en"})
	by := h.accounts[p.sender].Name
	for tag, said := range p.copies {
		var filled []store.Filled
		for _, l := range list {
			text := l.Text // names and places stay as they are
			if at := slices.Index(p.originals(), l.Text); at >= 0 {
				text = said[at]
			}
			filled = append(filled, store.Filled{Target: copies.Target{
				Original: l.Line, Text: text, Source: copies.Person, By: by, At: h.now, CheckedBy: by, CheckedAt: h.now,
			}})
		}
		if err := h.Fill(ctx, m.ID, tag, "en", 0, filled); err != nil {
			return err
		}
	}
	return nil
}

// originals are the lines of a past message, in the order of its copies.
func (p past) originals() []string {
	said := []string{"Dear {1},", p.subject, "The footbridge at Fen Row is closed.", "Tell us where you stand."}
	for _, c := range p.question.Choices {
		said = append(said, c.Words)
	}
	return said
}

// answersRollCall lets most of those who were asked answer.
func (h *historian) answersRollCall(ctx context.Context, service *desks.Service, now time.Time) error {
	h.now = now.Add(-called)
	id, err := h.send(ctx, rollCall)
	if err != nil || id == 0 {
		return err
	}
	board, err := h.Board(ctx, id)
	if err != nil {
		return err
	}
	r, err := h.Roster(ctx)
	if err != nil {
		return err
	}
	left := inOwnWords
	for n, asked := range board.Asked {
		p := r.Person(asked.Person)
		if p == nil || asked.Stand() != asking.Silent {
			continue
		}
		at := slices.IndexFunc(p.Addresses, func(a roster.Address) bool { return a.Channel == roster.Text && a.Usable() })
		said := h.saysToRollCall(&left)
		if at < 0 || said == "" {
			continue
		}
		h.now = now.Add(-called + time.Minute + time.Duration(h.random.ExpFloat64()*float64(6*time.Minute)))
		if h.now.After(now) {
			continue
		}
		err := service.Take(ctx, incoming.Item{
			Via: delivery.ViaOf(roster.Text), Key: fmt.Sprintf("roll call %d", n), Channel: roster.Text, From: p.Addresses[at].Value,
			Text: said, At: h.now,
		})
		if err != nil {
			return fmt.Errorf("the answer of %s: %w", p.Name(), err)
		}
	}
	return nil
}

// saysToRollCall is what one of those who were asked answers; "" is nothing yet.
func (h *historian) saysToRollCall(left *ownWords) string {
	switch n := h.random.IntN(40); {
	case n < 25:
		return "1"
	case n < 29:
		return "3"
	case n < 30:
		return next(&left.remarks)
	case n < 32:
		return next(&left.needs)
	}
	return ""
}

// ownWords are what people say in words of their own; no two say the same.
type ownWords struct{ remarks, needs []string }

var inOwnWords = ownWords{
	remarks: []string{
		"At the lock with two others, all fine", "All good on the island", "Who asks?", "At my sister's in Mossby, all well",
		"Just home, the road is closed behind me",
	},
	needs: []string{
		"2, my van is stuck behind the bridge", "2. Water in the cellar, the pump has stopped", "2. The boat has come loose",
		"2, I cannot get across to the island", "2, Gran will not leave her flat", "2. No power since three, and no torch",
		"2, we are four on the roof of the store",
	},
}

// next takes the first that is left of what can be said; after the last, nothing is.
func next(left *[]string) string {
	if len(*left) == 0 {
		return ""
	}
	first := (*left)[0]
	*left = (*left)[1:]
	return first
}
