package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/store/query"
)

// ImportState is how far an import got.
type ImportState string

const (
	ImportProposed ImportState = "proposed"
	ImportLoading  ImportState = "loading"
	ImportLoaded   ImportState = "loaded"
)

// Import is a roster file that was given to us.
type Import struct {
	ID       int64
	FileName string
	File     []byte // nil once it is loaded
	Mapping  []intake.Column
	State    ImportState
	Result   string // what it came to, in words
}

// AddImport keeps a file until it is loaded.
func (s *Store) AddImport(ctx context.Context, account int64, i Import, now time.Time) (int64, error) {
	mapping, err := json.Marshal(i.Mapping)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.write(ctx, func(q *query.Queries) (err error) {
		id, err = q.AddImport(ctx, query.AddImportParams{
			AccountID: nullID(account), FileName: i.FileName, File: i.File, Mapping: string(mapping), CreatedAt: millis(now),
		})
		return err
	})
	return id, err
}

// Import returns one import.
func (s *Store) Import(ctx context.Context, id int64) (Import, error) {
	row, err := s.read().ImportByID(ctx, id)
	if err != nil {
		return Import{}, found(err)
	}
	i := Import{ID: row.ID, FileName: row.FileName, File: row.File, State: ImportState(row.State), Result: row.Result}
	if err := json.Unmarshal([]byte(row.Mapping), &i.Mapping); err != nil {
		return i, fmt.Errorf("reading the mapping: %w", err)
	}
	return i, nil
}

// SetMapping changes the meaning of the columns of an import not yet loaded.
func (s *Store) SetMapping(ctx context.Context, id int64, columns []intake.Column) error {
	mapping, err := json.Marshal(columns)
	if err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error {
		return q.SetMapping(ctx, query.SetMappingParams{ID: id, Mapping: string(mapping)})
	})
}

// StartImport claims an import for loading; a second claim is ErrConflict.
func (s *Store) StartImport(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.StartImport(ctx, id)
		if err == nil && n == 0 {
			return ErrConflict
		}
		return err
	})
}

// EndImport records what loading came to. An import that failed goes back to
// being proposed, with its file.
func (s *Store) EndImport(ctx context.Context, id int64, state ImportState, result string) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.EndImport(ctx, query.EndImportParams{ID: id, State: string(state), Result: result})
	})
}
