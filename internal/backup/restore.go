package backup

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"filippo.io/age"

	"upperlantern/internal/store"
)

// Restored is what was restored.
type Restored struct {
	Organisation string
	MadeAt       time.Time
	Waiting      int64 // messages that may have left since, and wait for a yes
}

// aside is where a folder is made, before its parts are moved into place.
const aside = "restoring"

// Restore makes a data folder of a backup. The folder may not be there, or is empty. What
// was interrupted is begun again. The database is moved into place last, so that a folder
// that can be served is whole.
func Restore(ctx context.Context, file, folder string, identity age.Identity, now time.Time) (r Restored, err error) {
	if err := unused(folder); err != nil {
		return r, err
	}
	making := filepath.Join(folder, aside)
	if err := os.RemoveAll(making); err != nil {
		return r, fmt.Errorf("the folder %s cannot be used: %w", folder, err)
	}
	defer func() { err = errors.Join(err, os.RemoveAll(making)) }()
	m, err := read(file, identity, func(e entry) (io.WriteCloser, error) { return create(making, e.Name) })
	if err != nil {
		return r, err
	}
	r.Organisation, r.MadeAt = m.Organisation, m.MadeAt
	if r.Waiting, err = prepare(ctx, making, m, now); err != nil {
		return r, fmt.Errorf("%s %w: %w", file, ErrUnfit, err)
	}
	return r, store.MoveInto(folder, making)
}

// unused refuses a folder that holds anything but what an interrupted restoring left.
func unused(folder string) error {
	entries, err := os.ReadDir(folder)
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return fmt.Errorf("the folder %s cannot be used: %w", folder, err)
	}
	interrupted := false
	for _, e := range entries {
		interrupted = interrupted || e.Name() == aside
	}
	for _, e := range entries {
		if e.Name() == aside || interrupted && e.Name() == "files" {
			continue
		}
		return fmt.Errorf("the folder %s %w", folder, ErrUsed)
	}
	return nil
}

func create(folder, name string) (io.WriteCloser, error) {
	path := filepath.Join(folder, filepath.FromSlash(name))
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return nil, err
	}
	return os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
}

// prepare looks through what was unpacked, brings it to the present form, and makes wait
// what may have left since.
func prepare(ctx context.Context, folder string, m manifest, now time.Time) (waiting int64, err error) {
	if m.Form > store.Form() {
		return 0, fmt.Errorf(
			"it was made by a newer version of the program (form %d, and this one knows %d); restore it with that version",
			m.Form, store.Form(),
		)
	}
	if _, err := store.Examine(ctx, filepath.Join(folder, store.FileName)); err != nil {
		return 0, err
	}
	s, err := store.Open(folder)
	if err != nil {
		return 0, err
	}
	waiting, err = s.HoldRestored(ctx, m.MadeAt, now)
	return waiting, errors.Join(err, s.Close())
}
