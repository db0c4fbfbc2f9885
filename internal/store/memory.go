package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// MemoryLine is a line of the memory in one language.
type MemoryLine struct {
	ID   int64 // of its original
	From string
	Unit roster.UnitID
	Recalled
}

// MemoryAsked is which lines of the memory are looked for; the zero value is all.
type MemoryAsked struct {
	Search   string // in the original or the target
	Language string
	Unit     roster.UnitID
	By       string
	Before   time.Time // checked before
}

const memoryFrom = ` FROM remembered r JOIN remembered_targets t ON t.original_id = r.id WHERE 1 = 1`

// where writes what is looked for as SQL.
func (a MemoryAsked) where() (string, []any) {
	var b strings.Builder
	var values []any
	add := func(condition string, given bool, of ...any) {
		if given {
			b.WriteString(" AND " + condition)
			values = append(values, of...)
		}
	}
	like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(a.Search) + "%"
	add(`(r.original LIKE ? ESCAPE '\' OR t.target LIKE ? ESCAPE '\')`, a.Search != "", like, like)
	add("t.language = ?", a.Language != "", a.Language)
	add("t.unit_id = ?", a.Unit != 0, int64(a.Unit))
	add("t.checked_by = ?", a.By != "", a.By)
	add("t.checked_at < ?", !a.Before.IsZero(), a.Before.UnixMilli())
	return b.String(), values
}

// Memory lists lines of the memory, the newest first, and how many there are.
func (s *Store) Memory(ctx context.Context, a MemoryAsked, first, count int) (list []MemoryLine, all int, err error) {
	where, values := a.where()
	if err := s.reader.QueryRowContext(ctx, "SELECT count(*)"+memoryFrom+where, values...).Scan(&all); err != nil {
		return nil, 0, fmt.Errorf("counting the memory: %w", err)
	}
	rows, err := s.reader.QueryContext(ctx, `SELECT r.id, r.language, r.original, r.places, t.language, t.target, t.unit_id,
		t.checked_by, t.checked_at`+memoryFrom+where+` ORDER BY t.checked_at DESC, r.id DESC, t.language LIMIT ? OFFSET ?`,
		append(values, count, first)...)
	if err != nil {
		return nil, 0, fmt.Errorf("reading the memory: %w", err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var r query.EveryTargetRow
		err := rows.Scan(
			&r.ID, &r.Source, &r.Original, &r.Places, &r.Language, &r.Target, &r.UnitID, &r.CheckedBy, &r.CheckedAt,
		)
		if err != nil {
			return nil, 0, err
		}
		line, err := memoryLine(r)
		if err != nil {
			return nil, 0, err
		}
		list = append(list, line)
	}
	return list, all, rows.Err()
}

func memoryLine(r query.EveryTargetRow) (MemoryLine, error) {
	line, err := recalled(r.Original, r.Places, r.Language, r.Target, r.CheckedBy, r.CheckedAt)
	return MemoryLine{ID: r.ID, From: r.Source, Unit: roster.UnitID(r.UnitID), Recalled: line}, err
}

// memoryPage is how many lines are read in one go.
const memoryPage = 1000

// EachRemembered gives every line of the memory, in a fixed order.
func (s *Store) EachRemembered(ctx context.Context, give func(MemoryLine) error) error {
	var id int64
	language := ""
	for {
		rows, err := s.read().EveryTarget(ctx, query.EveryTargetParams{
			AfterID: id, AfterLanguage: language, Count: memoryPage,
		})
		if err != nil {
			return fmt.Errorf("reading the memory: %w", err)
		}
		for _, row := range rows {
			line, err := memoryLine(row)
			if err == nil {
				err = give(line)
			}
			if err != nil {
				return err
			}
			id, language = row.ID, row.Language
		}
		if len(rows) < memoryPage {
			return nil
		}
	}
}

// Remember keeps lines that somebody checked; what was kept of them is replaced.
func (s *Store) Remember(ctx context.Context, list []MemoryLine) error {
	return s.write(ctx, func(q *query.Queries) error {
		for _, l := range list {
			err := remember(ctx, q, l.From, l.Language, l.Unit, copies.Target{
				Original: l.Original, Text: l.Text, CheckedBy: l.CheckedBy, CheckedAt: l.CheckedAt,
			})
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// Correct changes what a line of the memory says. Was is what it said; anything else
// is ErrConflict.
func (s *Store) Correct(
	ctx context.Context, id int64, language, was, text, by string, now time.Time,
) (MemoryLine, error) {
	var line MemoryLine
	err := s.write(ctx, func(q *query.Queries) error {
		is, err := q.TargetOf(ctx, query.TargetOfParams{ID: id, Language: language})
		if err != nil {
			return found(err)
		}
		if is.Target != was {
			return ErrConflict
		}
		_, err = q.SetTarget(ctx, query.SetTargetParams{
			Target: text, CheckedBy: by, CheckedAt: millis(now), OriginalID: id, Language: language,
		})
		if err != nil {
			return err
		}
		line.Recalled, err = recalled(is.Original, is.Places, language, text, by, millis(now))
		return err
	})
	line.ID = id
	return line, err
}

// Forget drops a line of the memory in one language.
func (s *Store) Forget(ctx context.Context, id int64, language string) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.DropTarget(ctx, query.DropTargetParams{OriginalID: id, Language: language})
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrNotFound
		}
		return q.DropBareOriginal(ctx, id)
	})
}

// SayingSo are the drafts and scheduled messages that have a line in a language.
func (s *Store) SayingSo(ctx context.Context, key, language string) ([]MessageTitle, error) {
	rows, err := s.read().SayingSo(ctx, query.SayingSoParams{Key: key, Language: language})
	list := make([]MessageTitle, len(rows))
	for i, r := range rows {
		list[i] = MessageTitle{ID: r.ID, Title: r.Title}
	}
	return list, err
}

// MemoryFacets are the languages and the checkers that the memory has.
func (s *Store) MemoryFacets(ctx context.Context) (languages, checkers []string, err error) {
	if languages, err = s.read().MemoryLanguages(ctx); err != nil {
		return nil, nil, err
	}
	checkers, err = s.read().MemoryCheckers(ctx)
	return languages, checkers, err
}

// mergedAtOnce is how many pages of the search index are merged in one write, so that
// nobody waits long for it.
const mergedAtOnce = 500

// TidyMemory joins the parts that the search index of the memory has grown by: it then
// answers two or three times as fast (SQLite FTS5, “merge”).
func (s *Store) TidyMemory(ctx context.Context) error {
	for pages := -mergedAtOnce; ; pages = mergedAtOnce { // the negative number begins to join all of them
		var before, after int
		err := s.writeRows(ctx, func(_ *query.Queries, tx *sql.Tx) error {
			count := func(n *int) error { return tx.QueryRowContext(ctx, "SELECT total_changes()").Scan(n) }
			if err := count(&before); err != nil {
				return err
			}
			_, err := tx.ExecContext(ctx, "INSERT INTO remembered_words (remembered_words, rank) VALUES ('merge', ?)", pages)
			return errors.Join(err, count(&after))
		})
		if err != nil {
			return fmt.Errorf("tidying the memory: %w", err)
		}
		if after-before < 2 { // nothing was left to be joined
			return nil
		}
	}
}
