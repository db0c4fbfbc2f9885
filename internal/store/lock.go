package store

import (
	"errors"
	"fmt"
	"path/filepath"

	"github.com/gofrs/flock"
)

// LockName is the file in the data folder that the program which serves it holds.
const LockName = "lantern.lock"

// ErrServed means that another program serves a data folder.
var ErrServed = errors.New("is served by another upper-lantern; end that one first")

// Lock keeps a data folder for this process until release is called, or the
// process ends in whatever way. Two that send from one folder would send twice.
func Lock(folder string) (release func() error, err error) {
	lock := flock.New(filepath.Join(folder, LockName))
	held, err := lock.TryLock()
	switch {
	case err != nil:
		return nil, fmt.Errorf("the data folder %s cannot be locked: %w", folder, err)
	case !held:
		return nil, fmt.Errorf("the data folder %s %w", folder, ErrServed)
	}
	return lock.Close, nil
}
