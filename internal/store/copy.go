package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"upperlantern/internal/store/query"
)

// CopyTo writes a consistent copy of the database into a new file, while others read
// and write.
func (s *Store) CopyTo(ctx context.Context, file string) error {
	_, err := s.reader.ExecContext(ctx, `VACUUM INTO ?`, file)
	if err != nil {
		return fmt.Errorf("copying the database: %w", err)
	}
	return nil
}

// Examined is what a database holds.
type Examined struct {
	Form         int64
	Organisation string
	Files        []string // hashes of the files that it names
}

// Examine looks through a database in a file that nobody uses, without changing it.
// One that is damaged is an error.
func Examine(ctx context.Context, file string) (e Examined, err error) {
	db, err := sql.Open(driverName, "file:"+file+"?mode=ro")
	if err != nil {
		return e, err
	}
	defer db.Close() //nolint:errcheck // only read
	var sound string
	if err := db.QueryRowContext(ctx, `PRAGMA integrity_check(1)`).Scan(&sound); err != nil {
		return e, fmt.Errorf("the database cannot be read: %w", err)
	}
	if sound != "ok" {
		return e, fmt.Errorf("the database is damaged: %s", sound)
	}
	if err := db.QueryRowContext(ctx, `SELECT max(version_id) FROM goose_db_version`).Scan(&e.Form); err != nil {
		return e, fmt.Errorf("the database is not one of this program: %w", err)
	}
	err = db.QueryRowContext(ctx, `SELECT name FROM organisation`).Scan(&e.Organisation)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return e, fmt.Errorf("reading the organisation: %w", err)
	}
	e.Files, err = query.New(db).KnownFiles(ctx)
	return e, err
}

// Form is that of the databases that this program makes.
func Form() int64 {
	names, _ := fs.Glob(migrations, "migrations/*.sql")
	var newest int64
	for _, name := range names {
		number, _, _ := strings.Cut(path.Base(name), "_")
		n, _ := strconv.ParseInt(number, 10, 64)
		newest = max(newest, n)
	}
	return newest
}

// HoldRestored makes a database that was restored from a backup, which was made at an
// instant, wait: what was under way then may have left since. It ends all sessions, and
// returns how many messages wait for a yes.
func (s *Store) HoldRestored(ctx context.Context, made, now time.Time) (waiting int64, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		var err error
		if waiting, err = q.HoldRestored(ctx, query.HoldRestoredParams{Made: millis(made), Now: millis(now)}); err != nil {
			return err
		}
		if err := q.StopAwaitingRestored(ctx, "it was restored from a backup, and may have left since"); err != nil {
			return err
		}
		return q.EndAllSessions(ctx)
	})
	return waiting, err
}

// MoveInto moves a data folder that was made aside into place, the database last, so
// that what was interrupted is begun again.
func MoveInto(folder, aside string) error {
	entries, err := os.ReadDir(aside)
	if err != nil {
		return err
	}
	for _, log := range []string{"-wal", "-shm"} { // of a database without an organisation
		if err := os.RemoveAll(filepath.Join(folder, FileName+log)); err != nil {
			return err
		}
	}
	names := []string{}
	for _, e := range entries {
		if e.Name() != FileName {
			names = append(names, e.Name())
		}
	}
	for _, name := range append(names, FileName) {
		to := filepath.Join(folder, name)
		if err := os.RemoveAll(to); err != nil {
			return err
		}
		if err := os.Rename(filepath.Join(aside, name), to); err != nil {
			return fmt.Errorf("moving %s into the data folder: %w", name, err)
		}
	}
	return nil
}
