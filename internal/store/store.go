// Package store keeps everything in one SQLite file: the roster, the
// messages and what became of them.
//
// There is one writing connection and there are many reading ones (WAL mode),
// so that reading never waits for a long write.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/pressly/goose/v3"
	"modernc.org/sqlite" // also the database/sql driver
	sqlite3 "modernc.org/sqlite/lib"

	"upperlantern/internal/batch"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

//go:embed migrations/*.sql
var migrations embed.FS

// FileName is the database's name in the data folder.
const FileName = "lantern.db"

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("not found")
	// ErrConflict means that somebody else changed it in the meantime.
	ErrConflict = errors.New("changed in the meantime")
	// ErrTaken means that a name or an identifier that is there once is there already.
	ErrTaken = errors.New("taken already")
	// ErrFull means that the disk is full: nothing was written.
	ErrFull = errors.New("the disk is full")
	// ErrInUse means that something else still refers to it.
	ErrInUse = errors.New("still in use")
)

// Store is safe for use by many goroutines.
type Store struct {
	folder   string
	writer   *sql.DB
	reader   *sql.DB
	prepared *query.Queries
	moveAll  *sql.Stmt // for the writer's transactions

	mu       sync.Mutex
	snapshot *roster.Roster
	revision int64 // of the snapshot
	loaded   time.Time
	limited  map[string]*roster.Roster // what scopes see of the snapshot

	conversations sync.Map // of numbers by address; see Conversations
	conversing    bool

	writing sync.Map // of messages whose plans are being written or cleared

	sent   atomic.Int64 // grows whenever something is sent or stopped
	lately lately

	good goodAddresses

	trigrams trigramCounts

	full atomic.Bool // the last write found the disk full

	reports batch.Group[*taking]
	arrived atomic.Bool // somebody was reached whom the snapshot does not know to be
}

// today is the day in a time zone.
func today(zone string) roster.Date {
	location, err := time.LoadLocation(zone)
	if err != nil {
		location = time.UTC
	}
	return roster.Date(time.Now().In(location).Format(time.DateOnly))
}

// Open opens the database in a data folder, making the folder and the tables
// if need be.
func Open(folder string) (*Store, error) {
	if err := os.MkdirAll(folder, 0o750); err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be made: %w", folder, err)
	}
	path := filepath.Join(folder, FileName)
	if err := addFunctions(); err != nil {
		return nil, fmt.Errorf("adding functions to SQLite: %w", err)
	}
	writer, err := open(path, 1)
	if err != nil {
		return nil, err
	}
	if err := migrate(writer, folder); err != nil {
		return nil, errors.Join(fmt.Errorf("the data folder %s cannot be used: %w", folder, err), writer.Close())
	}
	reader, err := open(path, 8)
	if err != nil {
		return nil, errors.Join(err, writer.Close())
	}
	prepared, err := query.Prepare(context.Background(), writer)
	if err != nil {
		return nil, errors.Join(err, reader.Close(), writer.Close())
	}
	moveAll, err := writer.Prepare(moveAll)
	if err != nil {
		return nil, errors.Join(err, prepared.Close(), reader.Close(), writer.Close())
	}
	s := &Store{folder: folder, writer: writer, reader: reader, prepared: prepared, moveAll: moveAll}
	s.reports = batch.Group[*taking]{Do: s.takeReports, Most: mostTogether}
	return s, nil
}

// ErrNoOrganisation means that a data folder holds nothing that could be served.
var ErrNoOrganisation = errors.New("holds no organisation yet; begin with: upper-lantern serve --data")

// OpenServed opens a data folder that holds an organisation. In any other it
// makes nothing; the error is ErrNoOrganisation.
func OpenServed(ctx context.Context, folder string) (*Store, error) {
	empty := fmt.Errorf("the data folder %s %w %s", folder, ErrNoOrganisation, folder)
	if _, err := os.Stat(filepath.Join(folder, FileName)); errors.Is(err, os.ErrNotExist) {
		return nil, empty
	}
	s, err := Open(folder)
	if err != nil {
		return nil, err
	}
	if _, err := s.Organisation(ctx); err != nil {
		if errors.Is(err, ErrNotFound) {
			err = empty
		}
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// addFunctions gives SQLite what it lacks: folded makes words equal that people
// would call the same (roster.Fold).
var addFunctions = sync.OnceValue(func() error {
	return sqlite.RegisterDeterministicScalarFunction("folded", 1, func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
		text, _ := args[0].(string)
		return roster.Fold(text), nil
	})
})

var driverName = "sqlite"

func open(path string, connections int) (*sql.DB, error) {
	options := url.Values{
		"_pragma": {"journal_mode(WAL)", "busy_timeout(10000)", "foreign_keys(1)", "synchronous(NORMAL)", "cache_size(-65536)", "wal_autocheckpoint(8000)"},
		"_txlock": {"immediate"},
	}
	db, err := sql.Open(driverName, "file:"+path+"?"+options.Encode())
	if err != nil {
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	db.SetMaxOpenConns(connections)
	db.SetMaxIdleConns(connections)
	return db, nil
}

// migrate brings a database to the present form. One of an earlier form is copied
// first, so that the program that made it can go on with the copy.
func migrate(db *sql.DB, folder string) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, files)
	if err != nil {
		return err
	}
	ctx := context.Background()
	made, known, err := provider.GetVersions(ctx)
	if err != nil {
		return err
	}
	if made > known {
		return fmt.Errorf(
			"it was made by a newer version of the program (form %d, and this one knows %d); run that version, or restore a backup",
			made, known,
		)
	}
	if made > 0 && made < known {
		if err := keepForm(ctx, db, filepath.Join(folder, fmt.Sprintf("before-form-%d.db", known))); err != nil {
			return fmt.Errorf("it cannot be copied before it is brought to form %d: %w", known, err)
		}
	}
	for form := made; form < known; {
		if made > 0 { // whoever waits for it sees how far it is
			slog.Info("bringing the data to the form of this version", "folder", folder, "from", form, "to", known)
		}
		done, err := provider.UpByOne(ctx)
		if err != nil {
			return err
		}
		form = done.Source.Version
	}
	return nil
}

// keepForm copies a database to a file that is there only when it is whole.
func keepForm(ctx context.Context, db *sql.DB, file string) error {
	if _, err := os.Stat(file); err == nil {
		return nil // an earlier start made it, and ended before it was done
	}
	half := file + ".partial"
	if err := os.Remove(half); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if _, err := db.ExecContext(ctx, `VACUUM INTO ?`, half); err != nil {
		return err
	}
	return os.Rename(half, file)
}

// Close ends all connections.
func (s *Store) Close() error {
	return errors.Join(s.moveAll.Close(), s.prepared.Close(), s.reader.Close(), s.writer.Close())
}

// Sessions are the databases for the session manager, whose table is
// “sessions”: one to read, which never waits, and one to write.
func (s *Store) Sessions() (reader, writer *sql.DB) { return s.reader, s.writer }

// Ping reports whether the database answers and is where it was.
func (s *Store) Ping(ctx context.Context) error {
	if _, err := os.Stat(filepath.Join(s.folder, FileName)); err != nil {
		return fmt.Errorf("the database is gone: %w", err)
	}
	return s.reader.PingContext(ctx)
}

// Ready reports whether the database can be written to, by writing to it.
func (s *Store) Ready(ctx context.Context) error {
	if err := s.Ping(ctx); err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error {
		return errors.Join(q.Probe(ctx), q.EmptyProbes(ctx))
	})
}

// Full reports whether the last write found the disk full.
func (s *Store) Full() bool { return s.full.Load() }

func (s *Store) read() *query.Queries { return query.New(s.reader) }

// write runs do in one transaction: all of it happens, or none.
func (s *Store) write(ctx context.Context, do func(*query.Queries) error) error {
	return s.writeRows(ctx, func(q *query.Queries, _ *sql.Tx) error { return do(q) })
}

// writeRows is write for what also takes statements that are made as they are needed.
func (s *Store) writeRows(ctx context.Context, do func(*query.Queries, *sql.Tx) error) error {
	err := s.writeOnce(ctx, do)
	if err != nil {
		s.good.forget()
	}
	full := errors.Is(err, ErrFull)
	if full || err == nil {
		s.full.Store(full)
	}
	return err
}

func (s *Store) writeOnce(ctx context.Context, do func(*query.Queries, *sql.Tx) error) error {
	tx, err := s.writer.BeginTx(ctx, nil)
	if err != nil {
		return fmt.Errorf("beginning: %w", named(err))
	}
	if err := do(s.prepared.WithTx(tx), tx); err != nil {
		return errors.Join(named(err), ignoreDone(tx.Rollback()))
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("committing: %w", errors.Join(named(err), ignoreDone(tx.Rollback())))
	}
	return nil
}

// named says which constraint a statement ran into, or that the disk is full.
func named(err error) error {
	if errors.Is(err, syscall.ENOSPC) {
		return fmt.Errorf("%w: %w", ErrFull, err)
	}
	var broken *sqlite.Error
	if !errors.As(err, &broken) {
		return err
	}
	switch code := broken.Code(); {
	case code == sqlite3.SQLITE_CONSTRAINT_UNIQUE, code == sqlite3.SQLITE_CONSTRAINT_PRIMARYKEY:
		return fmt.Errorf("%w: %w", ErrTaken, err)
	case code == sqlite3.SQLITE_CONSTRAINT_FOREIGNKEY:
		return fmt.Errorf("%w: %w", ErrInUse, err)
	case code&0xff == sqlite3.SQLITE_FULL: // the primary code of an extended one
		return fmt.Errorf("%w: %w", ErrFull, err)
	}
	return err
}

func ignoreDone(err error) error {
	if errors.Is(err, sql.ErrTxDone) {
		return nil
	}
	return err
}

// found turns the absence of a row into ErrNotFound.
func found(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// millis and at convert times; the zero time is 0.
func millis(t time.Time) int64 {
	if t.IsZero() {
		return 0
	}
	return t.UnixMilli()
}

func at(ms int64) time.Time {
	if ms == 0 {
		return time.Time{}
	}
	return time.UnixMilli(ms).UTC()
}

func nullID(id int64) sql.NullInt64 { return sql.NullInt64{Int64: id, Valid: id != 0} }
