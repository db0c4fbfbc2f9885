package demo_test

import (
	"bytes"
	"context"
	"log/slog"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	files "upperlantern/demo"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/twins"
	"upperlantern/internal/demo"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
)

func TestTheShippedFilesAreThoseOfTheGenerator(t *testing.T) {
	set := demo.Generate(0)
	assert.Equal(t, files.Names, set.Names)
	for _, name := range set.Names {
		shipped, err := files.Files.ReadFile(name)
		require.NoError(t, err)
		assert.True(t, bytes.Equal(shipped, set.Files[name]), "%s is stale: make generate", name)
	}
}

func TestEveryNumberAndMailboxIsMadeUp(t *testing.T) {
	set := demo.Generate(0)
	for name, content := range set.Files {
		table, err := exchange.ReadCSV(content)
		require.NoError(t, err)
		for _, row := range table.Rows {
			for i, cell := range row.Cells {
				heading := strings.ToLower(table.Header[i])
				if strings.Contains(heading, "mail") && cell != "" {
					for _, mailbox := range strings.Split(cell, ";") {
						mailbox = strings.TrimSpace(mailbox)
						assert.True(
							t, strings.HasSuffix(mailbox, "@example.org") || strings.HasSuffix(mailbox, ".example"), "%s: %s", name, mailbox,
						)
					}
				}
				if heading == "mobile" && cell != "" {
					digits := strings.Map(func(r rune) rune {
						if r >= '0' && r <= '9' {
							return r
						}
						return -1
					}, cell)
					assert.Contains(t, digits, "7700900", "%s: %s", name, cell)
				}
			}
		}
	}
}

func TestGenerateAnySize(t *testing.T) {
	people := 0
	for _, content := range demo.Generate(5000).Files {
		table, err := exchange.ReadCSV(content)
		require.NoError(t, err)
		people += len(table.Rows)
	}
	assert.InDelta(t, 5000, people, 500)
}

// The demo has something on every page, and its roster the faults of a real one.
func TestCreate(t *testing.T) {
	ctx, folder := context.Background(), t.TempDir()
	require.NoError(t, demo.Create(ctx, folder, "", time.Now(), slog.New(slog.DiscardHandler)))
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()

	r, err := s.Roster(ctx)
	require.NoError(t, err)
	assert.InDelta(t, 620, r.Len(), 40)
	counts := map[string]int{}
	values := map[string]int{}
	for i := range r.Len() {
		p := r.At(i)
		if len(p.Addresses) == 0 && !p.Has(roster.Dependent) {
			counts["nothing on file"]++
		}
		if strings.ContainsAny(p.Name(), "ąćęłńóśźż") {
			counts["diacritics"]++
		}
		if strings.ContainsAny(p.Name(), "ابتجحدرسعكلمني") {
			counts["right to left"]++
		}
		for _, tie := range r.Guardians(i) {
			if tie.Barred {
				counts["barred"]++
			}
		}
		if p.Has(roster.Dependent) && len(r.Guardians(i)) == 0 {
			counts["no guardian"]++
		}
		for _, a := range p.Addresses {
			values[string(a.Channel)+a.Value]++
			if a.DeclinesRoutine {
				counts["opted out"]++
			}
			if a.Health == roster.Dead {
				counts["dead"]++
			}
		}
	}
	for _, n := range values {
		if n >= 5 {
			counts["shared by a family"]++
		}
	}
	for _, fault := range []string{
		"nothing on file", "diacritics", "right to left", "barred", "no guardian", "opted out", "dead", "shared by a family",
	} {
		assert.Positive(t, counts[fault], fault)
	}

	messages, _, err := s.Messages(ctx, []int64{1, 2, 3, 4, 5, 6}, 0, 100)
	require.NoError(t, err)
	states, notReached := map[store.MessageState]int{}, 0
	for _, m := range messages {
		states[m.State]++
		f, err := s.Figures(ctx, m.ID)
		require.NoError(t, err)
		assert.Equal(t, f.Recipients, f.Reached+f.Waiting+f.NotReached+f.Stopped)
		if m.State == store.Sent {
			assert.Zero(t, f.Waiting)
			notReached += f.NotReached
		}
	}
	assert.Positive(t, notReached)
	assert.Equal(t, map[store.MessageState]int{store.Sent: 31, store.Held: 1, store.Draft: 1}, states)

	newest := slices.IndexFunc(messages, func(m store.Heading) bool { return m.Title == "Are you safe?" })
	require.GreaterOrEqual(t, newest, 0, "a roll call is under way")
	board, err := s.Board(ctx, messages[newest].ID)
	require.NoError(t, err)
	stands := map[asking.Stand]int{}
	inArabic := 0
	for _, a := range board.Asked {
		stands[a.Stand()]++
		if r.Person(a.Person).Language != "ar" {
			continue
		}
		got, err := s.Received(ctx, a.Person, time.Time{})
		require.NoError(t, err)
		asked := slices.IndexFunc(got, func(g own.Received) bool { return g.Message == messages[newest].ID })
		require.GreaterOrEqual(t, asked, 0)
		assert.Contains(t, got[asked].Body, "جسر المشاة", "they are asked in their language")
		inArabic++
	}
	assert.Positive(t, inArabic)
	assert.Greater(t, stands[asking.Answered], 20)
	assert.Greater(t, stands[asking.Silent], 5)
}

// The demo shows what the roster can be: units with accounts, rules, jobs,
// twins, gaps, terminals, a correction that waits and somebody who is away.
func TestTheDemosRosterIsArranged(t *testing.T) {
	ctx, folder := context.Background(), t.TempDir()
	require.NoError(t, demo.Create(ctx, folder, "", time.Now(), slog.New(slog.DiscardHandler)))
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	r, err := s.Roster(ctx)
	require.NoError(t, err)

	kinds := map[roster.Kind]int{}
	for _, g := range r.Groups() {
		kinds[g.Kind]++
		assert.NotEmpty(t, r.In(g.ID), g.Name)
	}
	assert.Equal(t, 3, kinds[roster.ByRule])
	assert.Equal(t, 4, kinds[roster.Job])
	for _, gap := range r.CountGaps() {
		if gap.Gap != roster.DeclinesAll {
			assert.Positive(t, gap.People, gap.Gap)
		}
	}
	likely := 0
	for _, p := range twins.Find(r, func(a, b roster.PersonID) bool { return false }) {
		if p.Weight > 3 {
			likely++
		}
	}
	assert.GreaterOrEqual(t, likely, 3)
	away, _ := r.Select(roster.Rule{{On: roster.OnStatus, Test: roster.Is, Value: "away"}})
	assert.NotEmpty(t, away)
	terminals, _ := r.Select(roster.Rule{{On: roster.OnChannel, Test: roster.Is, Value: "push"}})
	assert.GreaterOrEqual(t, len(terminals), 5)
	waiting, err := s.WaitingUpdates(ctx)
	require.NoError(t, err)
	assert.Len(t, waiting, 1)

	accounts, err := s.Accounts(ctx)
	require.NoError(t, err)
	require.Len(t, accounts, len(demo.Accounts))
	for _, a := range accounts {
		seen, err := s.RosterWithin(ctx, a.Scope)
		require.NoError(t, err)
		assert.Positive(t, seen.Len(), a.Name)
		assert.Equal(t, a.Scope.Whole, seen.Len() == r.Len(), a.Name)
	}
	for i := range r.Len() {
		assert.NotZero(t, r.At(i).Unit, r.At(i).Name())
	}
}
