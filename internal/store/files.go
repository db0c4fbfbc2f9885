package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"time"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/store/query"
)

// filesFolder holds the content of files, in the data folder.
const filesFolder = "files"

// AddFile keeps a file that was uploaded. The same content is kept once.
func (s *Store) AddFile(
	ctx context.Context, account int64, name, mediaType string, content []byte, now time.Time,
) (attachment.File, error) {
	sum := sha256.Sum256(content)
	f := attachment.File{Hash: hex.EncodeToString(sum[:]), Name: name, Type: mediaType, Size: int64(len(content))}
	if err := s.writeFile(f.Hash, content); err != nil {
		return f, fmt.Errorf("keeping %s: %w", name, named(err))
	}
	err := s.write(ctx, func(q *query.Queries) error {
		return q.AddFile(ctx, query.AddFileParams{
			Hash: f.Hash, MediaType: mediaType, Size: f.Size, AccountID: nullID(account), AddedAt: millis(now),
		})
	})
	return f, err
}

// writeFile writes a content that is not there yet, whole or not at all.
func (s *Store) writeFile(hash string, content []byte) error {
	path := s.FilePath(hash)
	if _, err := os.Stat(path); err == nil {
		return nil
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return err
	}
	temporary, err := os.CreateTemp(filepath.Dir(path), "new-*")
	if err != nil {
		return err
	}
	_, err = temporary.Write(content)
	if err = errors.Join(err, temporary.Close()); err == nil {
		err = os.Rename(temporary.Name(), path)
	}
	if err != nil {
		_ = os.Remove(temporary.Name()) // it is of no use
	}
	return err
}

// FilePath is where the content of a file lies.
func (s *Store) FilePath(hash string) string {
	return filepath.Join(s.folder, filesFolder, hash[:2], hash)
}

// File returns the media type of a file that was uploaded, and where it lies.
func (s *Store) File(ctx context.Context, hash string) (mediaType, path string, err error) {
	row, err := s.read().FileByHash(ctx, hash)
	if err != nil {
		return "", "", found(err)
	}
	path = s.FilePath(hash)
	if _, err := os.Stat(path); errors.Is(err, fs.ErrNotExist) {
		return "", "", fmt.Errorf("the content of file %s is missing: %w", hash, ErrNotFound)
	}
	return row.MediaType, path, nil
}

// Missing lists the files of a message that were never uploaded here.
func (s *Store) Missing(ctx context.Context, files []attachment.File) ([]string, error) {
	var missing []string
	for _, f := range files {
		if _, _, err := s.File(ctx, f.Hash); errors.Is(err, ErrNotFound) {
			missing = append(missing, f.Name)
		} else if err != nil {
			return nil, err
		}
	}
	return missing, nil
}

// hashes are the files that a draft names, in its JSON.
var hashes = regexp.MustCompile(`"hash":"([0-9a-f]{64})"`)

// SweepFiles removes files that were added before an instant and are in no
// message, no earlier version of one and nothing on the shelf. It returns how many.
func (s *Store) SweepFiles(ctx context.Context, before time.Time) (int, error) {
	old, err := s.read().OldFiles(ctx, millis(before))
	if err != nil || len(old) == 0 {
		return 0, err
	}
	drafts, err := s.read().DraftsWithFiles(ctx)
	if err != nil {
		return 0, err
	}
	used := map[string]bool{}
	for _, d := range drafts {
		for _, m := range hashes.FindAllStringSubmatch(d, -1) {
			used[m[1]] = true
		}
	}
	swept := 0
	for _, hash := range old {
		if used[hash] {
			continue
		}
		if err := s.write(ctx, func(q *query.Queries) error { return q.DropFile(ctx, hash) }); err != nil {
			return swept, err
		}
		if err := os.Remove(s.FilePath(hash)); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return swept, err
		}
		swept++
	}
	return swept, nil
}
