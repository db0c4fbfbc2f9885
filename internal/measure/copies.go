package measure

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// What is measured of copies.
const (
	copyLines     = 60
	copyKeystroke = 60
	likeLines     = 5 // that are offered for a line
)

var copyLanguages = []string{"pl", "ar", "vi", "pt-PT", "pt-BR", "uk", "es", "zh-Hans", "so", "fr"}

// manyLines is a message of sixty lines, each with figures to be examined.
func manyLines() message.Draft {
	d := everybody()
	var b strings.Builder
	for n := range copyLines {
		fmt.Fprintf(&b, "On Friday 27 November crew %d meets {{first name}} at %d:%02d.\n", n, 6+n%12, n)
	}
	d.Email, d.Copies.Accept = rich.Lines(b.String()), message.UncheckedToo
	return d
}

// copying measures a message with ten copies: working it out while somebody types,
// opening a copy, and what the memory answers.
func (b *bench) copying(ctx context.Context, i *app.Instance, by access.Principal) error {
	short := everybody()
	short.Urgency, short.Copies.Accept = roster.Routine, message.UncheckedToo
	typed, err := b.copied(ctx, i, by, short)
	if err != nil {
		return err
	}
	took := make([]time.Duration, copyKeystroke)
	for n := range took {
		short.Reason = fmt.Sprint(n) // not a line: the copies stay whole, and are used
		began := time.Now()
		if _, err := i.Sending.Plan(ctx, typed.ID, short, by); err != nil {
			return err
		}
		took[n] = time.Since(began)
	}
	slices.Sort(took)
	b.say("the same with %d copies\n  half within %s, 95 of 100 within %s (bar 60 ms)", len(copyLanguages),
		took[copyKeystroke/2].Round(10*time.Microsecond), took[copyKeystroke*95/100].Round(10*time.Microsecond))
	m, err := b.copied(ctx, i, by, manyLines())
	if err != nil {
		return err
	}
	opening, err := median(9, func() error {
		_, err := i.Translation.Open(ctx, by, m.ID, "pl")
		return err
	})
	if err != nil {
		return err
	}
	b.say("opening a copy of %d lines              %8s (bar 100 ms)", copyLines, opening)
	return b.remembering(ctx, i, by)
}

// copiesOf are copies of a draft in each language, which nobody read.
func copiesOf(d message.Draft, from string) []copies.Copy {
	list := make([]copies.Copy, len(copyLanguages))
	for i, tag := range copyLanguages {
		list[i] = copies.Copy{Language: tag, Targets: map[string]copies.Target{}}
		for _, l := range lines.Cut(lines.Written{Content: d.Content, Language: from}) {
			list[i].Targets[l.Key()] = copies.Target{Original: l.Line, Text: l.Text, Source: copies.Machine, By: "bench"}
		}
	}
	return list
}

// copied keeps a draft with a copy in each language that nobody read.
func (b *bench) copied(
	ctx context.Context, i *app.Instance, by access.Principal, d message.Draft,
) (store.Message, error) {
	m, err := i.Store.AddDraft(ctx, by.ID, d, time.Now())
	if err != nil {
		return m, err
	}
	written, err := i.Sending.Written(ctx, m, by)
	if err != nil {
		return m, err
	}
	for _, tag := range copyLanguages {
		var filled []store.Filled
		for _, l := range lines.Cut(written) {
			filled = append(filled, store.Filled{Target: copies.Target{
				Original: l.Line, Text: l.Text, Source: copies.Machine, By: "bench", At: time.Now(),
			}})
		}
		if err := i.Store.Fill(ctx, m.ID, tag, written.Language, 0, filled); err != nil {
			return m, err
		}
	}
	return m, nil
}

// remembering measures what the memory answers for a message of sixty lines.
func (b *bench) remembering(ctx context.Context, i *app.Instance, by access.Principal) error {
	originals := b.Memory / len(copyLanguages)
	for some := range slices.Chunk(numbers(originals), 500) {
		var list []store.MemoryLine
		for _, n := range some {
			for _, tag := range copyLanguages {
				list = append(list, store.MemoryLine{From: "en", Recalled: store.Recalled{
					Remembered: copies.Remembered{Original: lines.Line{Text: memoryText(n)}, Language: tag, Text: memoryText(n)},
					CheckedBy:  "bench", CheckedAt: time.Now(),
				}})
			}
		}
		if err := i.Store.Remember(ctx, list); err != nil {
			return err
		}
	}
	if err := i.Store.TidyMemory(ctx); err != nil {
		return err
	}
	d := manyLines()
	var text strings.Builder
	for n := range copyLines {
		text.WriteString(strings.Replace(memoryText(n*7), "bring", "take", n%2) + "\n")
	}
	d.Email = rich.Lines(text.String())
	m, err := i.Store.AddDraft(ctx, by.ID, d, time.Now())
	if err != nil {
		return err
	}
	written, err := i.Sending.Written(ctx, m, by)
	if err != nil {
		return err
	}
	took, err := median(5, func() error { return b.askMemory(ctx, i.Store, lines.Cut(written)) })
	b.say("memory of %d lines, asked for %d lines in %d languages %8s (bar 100 ms)", b.Memory, copyLines, len(copyLanguages), took)
	return err
}

// askMemory asks for the same, shaped and like lines, in every language.
func (b *bench) askMemory(ctx context.Context, s *store.Store, asked []lines.Standing) error {
	keys, shapes := make([]string, len(asked)), make([]string, len(asked))
	for n, l := range asked {
		keys[n], shapes[n] = l.Key(), copies.Shape(l.Text, "en")
	}
	_, same := s.RecallSame(ctx, "en", keys)
	_, shaped := s.RecallShaped(ctx, "en", shapes)
	err := errors.Join(same, shaped)
	var ids []int64
	for _, l := range asked {
		candidates, failed := s.LikeLines(ctx, "en", "", l.Text)
		err = errors.Join(err, failed)
		originals := make([]string, len(candidates))
		for i, c := range candidates {
			originals[i] = c.Original
		}
		likest := copies.Likest(l.Text, originals)
		for _, like := range likest[:min(len(likest), likeLines)] {
			ids = append(ids, candidates[like.At].ID)
		}
	}
	_, targets := s.Targets(ctx, ids, "")
	err = errors.Join(err, targets)
	return err
}

var (
	memoryWho  = []string{"Coaches", "Guardians", "All crews", "The wardens", "New members", "Helpers", "Visitors", "Juniors"}
	memoryWhat = []string{"towels", "warm gloves", "a signed form", "their own drinks", "the spare oars", "a life jacket", "lunch"}
	memoryWhen = []string{"for the autumn race", "to the pool session", "when the river is high", "on the first evening", "to the weir", "for the sluice watch"}
)

// memoryText is one of many sentences that share their words, as an office's do.
func memoryText(n int) string {
	return fmt.Sprintf("%s should bring %s %s, crew %s, please.", memoryWho[n%8], memoryWhat[n/8%7], memoryWhen[n/56%6], crew(n/336))
}

// crew names a crew in letters.
func crew(n int) string {
	return string(rune('A'+n%26)) + string(rune('a'+n/26%26))
}

func numbers(n int) []int {
	list := make([]int, n)
	for i := range list {
		list[i] = i
	}
	return list
}
