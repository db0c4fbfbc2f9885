package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/bits"
	"slices"
	"strings"
	"sync"
	"time"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Copies are those of a message, by language, with the lines that are stale.
func (s *Store) Copies(ctx context.Context, message int64) ([]copies.Copy, error) {
	rows, err := s.read().CopyLines(ctx, message)
	if err != nil {
		return nil, fmt.Errorf("reading the copies of message %d: %w", message, err)
	}
	var list []copies.Copy
	for _, row := range rows {
		if len(list) == 0 || list[len(list)-1].Language != row.Language {
			list = append(list, copies.Copy{Language: row.Language, Targets: map[string]copies.Target{}})
		}
		original, err := lineOf(row.Original, row.Places)
		if err != nil {
			return nil, err
		}
		list[len(list)-1].Targets[row.Key] = copies.Target{
			Original: original, Text: row.Target, Source: copies.Source(row.Source), By: row.FilledBy, At: at(row.FilledAt),
			CheckedBy: row.CheckedBy, CheckedAt: at(row.CheckedAt),
		}
	}
	return list, nil
}

func lineOf(text, places string) (lines.Line, error) {
	l := lines.Line{Text: text}
	if err := json.Unmarshal([]byte(places), &l.Places); err != nil {
		return l, fmt.Errorf("reading the places of a line: %w", err)
	}
	return l, nil
}

// Filled is a line of a copy as it is to be. Was is the target that was seen before,
// "" for none; another one since then is a conflict.
type Filled struct {
	copies.Target
	Was string
}

// ConflictError is a line that somebody else filled meanwhile.
type ConflictError struct{ Is, By string }

func (e *ConflictError) Error() string { return fmt.Sprintf("%s wrote “%s” meanwhile", e.By, e.Is) }

// Fill keeps lines of a copy of a draft. What a person checked is remembered for other
// messages; from is the language of the originals.
func (s *Store) Fill(
	ctx context.Context, message int64, language, from string, unit roster.UnitID, filled []Filled,
) error {
	return s.write(ctx, func(q *query.Queries) error {
		for _, f := range filled {
			if err := fillLine(ctx, q, message, language, f); err != nil {
				return err
			}
			if f.Source == copies.Memory || !f.Checked() {
				continue
			}
			if err := remember(ctx, q, from, language, unit, f.Target); err != nil {
				return err
			}
		}
		return nil
	})
}

func fillLine(ctx context.Context, q *query.Queries, message int64, language string, f Filled) error {
	key := f.Original.Key()
	is, err := q.CopyLine(ctx, query.CopyLineParams{MessageID: message, Language: language, Key: key})
	if err != nil && !errors.Is(found(err), ErrNotFound) {
		return err
	}
	if err == nil && is.Target != f.Was && is.Target != f.Text {
		return &ConflictError{Is: is.Target, By: is.FilledBy}
	}
	return setLine(ctx, q, message, language, f.Target)
}

func millisOrNever(t time.Time) int64 {
	if t.IsZero() {
		return 0
	}
	return millis(t)
}

func remember(ctx context.Context, q *query.Queries, from, language string, unit roster.UnitID, t copies.Target) error {
	places, err := json.Marshal(t.Original.Places)
	if err != nil {
		return err
	}
	id, err := q.Remember(ctx, query.RememberParams{
		Language: from, Key: t.Original.Key(), Original: t.Original.Text, Places: string(places),
		Shape: copies.Shape(t.Original.Text, from),
	})
	if err != nil {
		return fmt.Errorf("remembering a line: %w", err)
	}
	return q.RememberTarget(ctx, query.RememberTargetParams{
		OriginalID: id, Language: language, Target: t.Text, UnitID: int64(unit), CheckedBy: t.CheckedBy,
		CheckedAt: millis(t.CheckedAt),
	})
}

// DropCopy forgets a copy of a draft.
func (s *Store) DropCopy(ctx context.Context, message int64, language string) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.DropCopy(ctx, query.DropCopyParams{MessageID: message, Language: language})
	})
}

// CopyCopies gives a new draft the copies of a message that it says the same as.
func (s *Store) CopyCopies(ctx context.Context, from, into int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.CopyCopies(ctx, query.CopyCopiesParams{FromID: from, IntoID: into})
	})
}

// Recalled is a line of the memory.
type Recalled struct {
	copies.Remembered
	CheckedBy string
	CheckedAt time.Time
}

// mostAsked is how many lines are looked up in one statement.
const mostAsked = 500

// RecallSame are remembered lines with given keys, in every language.
func (s *Store) RecallSame(ctx context.Context, from string, keys []string) (list []Recalled, err error) {
	for some := range slices.Chunk(keys, mostAsked) {
		rows, err := s.read().RecallSame(ctx, query.RecallSameParams{Language: from, Keys: some})
		if err != nil {
			return nil, fmt.Errorf("recalling lines: %w", err)
		}
		for _, row := range rows {
			if list, err = addRecalled(list, query.TargetsRow(row)); err != nil {
				return nil, err
			}
		}
	}
	return list, nil
}

// RecallShaped are remembered lines of given shapes, in every language, newest first.
func (s *Store) RecallShaped(ctx context.Context, from string, shapes []string) (list []Recalled, err error) {
	for some := range slices.Chunk(shapes, mostAsked) {
		rows, err := s.read().RecallShaped(ctx, query.RecallShapedParams{Language: from, Shapes: some})
		if err != nil {
			return nil, fmt.Errorf("recalling lines: %w", err)
		}
		for _, row := range rows {
			if list, err = addRecalled(list, query.TargetsRow(row)); err != nil {
				return nil, err
			}
		}
	}
	return list, nil
}

func addRecalled(list []Recalled, row query.TargetsRow) ([]Recalled, error) {
	r, err := recalled(row.Original, row.Places, row.Language, row.Target, row.CheckedBy, row.CheckedAt)
	return append(list, r), err
}

func recalled(original, places, language, target, by string, checked int64) (Recalled, error) {
	l, err := lineOf(original, places)
	return Recalled{
		Remembered: copies.Remembered{Original: l, Language: language, Text: target}, CheckedBy: by, CheckedAt: at(checked),
	}, err
}

const (
	mostLikely   = 40 // candidates that share all of the rarest trigrams of a line, and as many of the others
	quarters     = 4  // parts of a line, each of which gives its rarest trigram
	fewestShared = 2  // of those, by which a line is a candidate
	mostTrigrams = 300
)

// likely finds candidates by the trigrams that they share with a line. Nothing is
// sorted: how alike they are is for the core to say, and SQLite's own rank takes most
// of the time.
const likely = `SELECT r.id, r.original FROM remembered_words w CROSS JOIN remembered r ON r.id = w.rowid AND r.language = ?2
WHERE w.original MATCH ?1 AND EXISTS (
	SELECT 1 FROM remembered_targets t WHERE t.original_id = r.id AND (?3 = '' OR t.language = ?3)
)
LIMIT ?4`

// Candidate is a remembered line that may be like another.
type Candidate struct {
	ID       int64
	Original string
}

// LikeLines are remembered lines that share much with a line and are said in a
// language, or in any for "". Those that share all of its rarest trigrams come first.
func (s *Store) LikeLines(ctx context.Context, from, language, text string) ([]Candidate, error) {
	all := trigrams(text)
	if len(all) == 0 { // of two characters, which are like nothing
		return nil, nil
	}
	asked, err := s.rarest(ctx, all)
	if err != nil {
		return nil, err
	}
	var list []Candidate
	for _, shared := range []int{len(asked), min(fewestShared, len(asked))} {
		if list, err = s.linesSharing(ctx, from, language, sharing(asked, shared), list); err != nil {
			return nil, fmt.Errorf("looking for like lines: %w", err)
		}
	}
	return list, nil
}

// linesSharing adds the lines that a search finds to those that were found before.
func (s *Store) linesSharing(
	ctx context.Context, from, language, search string, list []Candidate,
) (_ []Candidate, err error) {
	rows, err := s.reader.QueryContext(ctx, likely, search, from, language, mostLikely)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var c Candidate
		if err := rows.Scan(&c.ID, &c.Original); err != nil {
			return nil, err
		}
		if !slices.Contains(list, c) {
			list = append(list, c)
		}
	}
	return list, rows.Err()
}

// Targets are how some remembered lines are said, by the lines' ids, in a language, or
// in every one for "".
func (s *Store) Targets(ctx context.Context, ids []int64, language string) (map[int64][]Recalled, error) {
	rows, err := s.read().Targets(ctx, query.TargetsParams{Ids: idsText(ids), Language: language})
	if err != nil {
		return nil, fmt.Errorf("recalling lines: %w", err)
	}
	list := map[int64][]Recalled{}
	for _, row := range rows {
		if list[row.ID], err = addRecalled(list[row.ID], row); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// sharing asks for lines that have so many of some quoted trigrams.
func sharing(list []string, count int) string {
	var ways []string
	for set := range 1 << len(list) {
		if bits.OnesCount(uint(set)) != count {
			continue
		}
		var all []string
		for i, t := range list {
			if set&(1<<i) != 0 {
				all = append(all, t)
			}
		}
		ways = append(ways, "("+strings.Join(all, " AND ")+")")
	}
	return strings.Join(ways, " OR ")
}

// trigrams are the groups of three characters in a text, each once.
func trigrams(text string) []string {
	r := []rune(strings.ToLower(lines.Words(text)))
	var list []string
	seen := map[string]bool{}
	for i := 0; i+3 <= len(r) && len(list) < mostTrigrams; i++ {
		if t := string(r[i : i+3]); !seen[t] {
			seen[t], list = true, append(list, t)
		}
	}
	return list
}

// trigramCounts are how many remembered lines have each trigram, as of some time ago:
// which ones are rare changes slowly.
type trigramCounts struct {
	mu     sync.Mutex
	counts map[string]int
	read   time.Time
}

// countsFor is how long the counts of trigrams are believed.
const countsFor = time.Minute

// rarest are the trigrams that the fewest remembered lines have, one of each part of a
// line, so that a part that differs hides no line. They are quoted for SQLite's
// full-text search; those that no line has are left out.
func (s *Store) rarest(ctx context.Context, list []string) ([]string, error) {
	c := &s.trigrams
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.counts == nil || time.Since(c.read) > countsFor {
		counts, err := s.countTrigrams(ctx)
		if err != nil {
			return nil, err
		}
		c.counts, c.read = counts, time.Now()
	}
	known := slices.DeleteFunc(slices.Clone(list), func(t string) bool { return c.counts[t] == 0 })
	if len(known) > 0 {
		list = known
	}
	var quoted []string
	for part := range slices.Chunk(list, (len(list)+quarters-1)/quarters) {
		rarest := slices.MinFunc(part, func(a, b string) int { return c.counts[a] - c.counts[b] })
		quoted = append(quoted, `"`+strings.ReplaceAll(rarest, `"`, `""`)+`"`)
	}
	return quoted, nil
}

func (s *Store) countTrigrams(ctx context.Context) (counts map[string]int, err error) {
	rows, err := s.reader.QueryContext(ctx, `SELECT term, doc FROM remembered_trigrams`)
	if err != nil {
		return nil, fmt.Errorf("counting trigrams: %w", err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	counts = map[string]int{}
	for rows.Next() {
		var term string
		var n int
		if err := rows.Scan(&term, &n); err != nil {
			return nil, err
		}
		counts[term] = n
	}
	return counts, rows.Err()
}

// KeptTerm is a term of the glossary.
type KeptTerm struct {
	ID int64
	copies.Term
}

// Terms is the glossary.
func (s *Store) Terms(ctx context.Context) ([]KeptTerm, error) {
	rows, err := s.read().Terms(ctx)
	list := make([]KeptTerm, len(rows))
	for i, r := range rows {
		list[i] = KeptTerm{ID: r.ID, Term: copies.Term{Term: r.Term, Language: r.Language, Says: r.Says, Note: r.Note}}
	}
	return list, err
}

// SetTerm keeps how a term is said in a language.
func (s *Store) SetTerm(ctx context.Context, t copies.Term) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.SetTerm(ctx, query.SetTermParams{Term: t.Term, Language: t.Language, Says: t.Says, Note: t.Note})
	})
}

// SetTerms keeps many terms at once.
func (s *Store) SetTerms(ctx context.Context, terms []copies.Term) error {
	return s.write(ctx, func(q *query.Queries) error {
		for _, t := range terms {
			err := q.SetTerm(ctx, query.SetTermParams{Term: t.Term, Language: t.Language, Says: t.Says, Note: t.Note})
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// DropTerm forgets a term.
func (s *Store) DropTerm(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.DropTerm(ctx, id)
		if err == nil && n == 0 {
			return ErrNotFound
		}
		return err
	})
}
