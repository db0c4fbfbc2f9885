package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// ImportState is how far an import got.
type ImportState string

const (
	ImportProposed ImportState = "proposed"
	ImportLoading  ImportState = "loading"
	ImportLoaded   ImportState = "loaded"
)

// ImportStates lists every state of an import.
var ImportStates = []ImportState{ImportProposed, ImportLoading, ImportLoaded}

// Import is a roster file that was given to us.
type Import struct {
	ID       int64
	Account  int64 // who gave it, 0 for the program
	FileName string
	File     []byte // when it is added
	Mapping  []intake.Column
	Unit     roster.UnitID // where new people belong whose row names no unit
	MarkLeft bool          // marks as left who is missing from the file
	Reading  intake.Reading
	State    ImportState
	Result   string // what it came to, in words
	Edit     int64  // 0 until it is loaded
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
			AccountID: nullID(account), FileName: i.FileName, File: i.File, Mapping: string(mapping),
			UnitID: nullID(int64(i.Unit)), CreatedAt: millis(now),
		})
		return err
	})
	return id, err
}

// Import returns one import without its file.
func (s *Store) Import(ctx context.Context, id int64) (Import, error) {
	row, err := s.read().ImportByID(ctx, id)
	if err != nil {
		return Import{}, found(err)
	}
	i := Import{
		ID: row.ID, Account: row.AccountID.Int64, FileName: row.FileName, State: ImportState(row.State), Result: row.Result,
		Unit: roster.UnitID(row.UnitID.Int64), MarkLeft: row.MarkLeft, Edit: row.EditID.Int64,
	}
	if err := json.Unmarshal([]byte(row.Mapping), &i.Mapping); err != nil {
		return i, fmt.Errorf("reading the mapping: %w", err)
	}
	if err := json.Unmarshal([]byte(row.Reading), &i.Reading); err != nil {
		return i, fmt.Errorf("reading how the file is read: %w", err)
	}
	return i, nil
}

// ImportFile returns the file of an import; one that is loaded has none any more.
func (s *Store) ImportFile(ctx context.Context, id int64) ([]byte, error) {
	file, err := s.read().ImportFile(ctx, id)
	return file, found(err)
}

// ForgetImports drops the files that were given before an instant and never
// loaded, and returns how many that were.
func (s *Store) ForgetImports(ctx context.Context, before time.Time) (int, error) {
	var n int64
	err := s.write(ctx, func(q *query.Queries) (err error) {
		n, err = q.ForgetImports(ctx, millis(before))
		return err
	})
	return int(n), err
}

// SetImport changes how an import not yet loaded is understood: the meaning of
// its columns, its unit, what becomes of who is missing, and how its file is read.
func (s *Store) SetImport(ctx context.Context, i Import) error {
	mapping, err := json.Marshal(i.Mapping)
	if err != nil {
		return err
	}
	reading, err := json.Marshal(i.Reading)
	if err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error {
		_, err := q.SetImport(ctx, query.SetImportParams{
			ID: i.ID, Mapping: string(mapping), MarkLeft: i.MarkLeft, UnitID: nullID(int64(i.Unit)), Reading: string(reading),
		})
		return err
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
func (s *Store) EndImport(ctx context.Context, id int64, state ImportState, result string, edit int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.EndImport(ctx, query.EndImportParams{ID: id, State: string(state), Result: result, EditID: nullID(edit)})
	})
}

// LoadedImport is an import that can still be undone.
type LoadedImport struct {
	ID       int64
	FileName string
	Result   string
	Edit     int64
	By       string
	At       time.Time
}

// LastImport returns the newest import that was not undone, or ErrNotFound.
func (s *Store) LastImport(ctx context.Context) (LoadedImport, error) {
	row, err := s.read().LastImport(ctx)
	if err != nil {
		return LoadedImport{}, found(err)
	}
	return LoadedImport{row.ID, row.FileName, row.Result, row.EditID.Int64, row.ByName, at(row.MadeAt)}, nil
}
