package backup_test

import (
	"archive/tar"
	"bytes"
	"context"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"filippo.io/age"
	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/backup"
	"upperlantern/internal/core/message"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

var noon = time.Date(2026, 11, 27, 12, 0, 0, 0, time.UTC)

// served is a data folder with people and an uploaded file.
func served(t *testing.T) *store.Store {
	s, err := store.Open(testkit.Folder(t, testkit.Roster, nil))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	_, err = s.AddFile(t.Context(), 1, "map.txt", "text/plain", []byte("To the lock"), noon)
	require.NoError(t, err)
	return s
}

func written(t *testing.T, s *store.Store, key age.Recipient) string {
	file := filepath.Join(t.TempDir(), "backup.tar.zst")
	require.NoError(t, backup.Write(t.Context(), s, file, key, noon))
	return file
}

func names(t *testing.T, folder string) []string {
	entries, err := os.ReadDir(folder)
	require.NoError(t, err)
	var list []string
	for _, e := range entries {
		list = append(list, e.Name())
	}
	return list
}

func TestABackupIsRestored(t *testing.T) {
	file := written(t, served(t), nil)
	assert.Equal(t, []string{"backup.tar.zst"}, names(t, filepath.Dir(file)), "nothing else is left")
	folder := filepath.Join(t.TempDir(), "new")
	r, err := backup.Restore(t.Context(), file, folder, nil, noon)
	require.NoError(t, err)
	assert.Equal(t, backup.Restored{Organisation: "Quillmere Rowing Club & Flood Watch", MadeAt: noon}, r)
	assert.Equal(t, []string{"files", store.FileName}, names(t, folder))
	s, err := store.OpenServed(t.Context(), folder)
	require.NoError(t, err)
	defer s.Close() //nolint:errcheck // only read
	people, err := s.Roster(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 8, people.Len())
	files, err := filepath.Glob(filepath.Join(folder, "files", "*", "*"))
	require.NoError(t, err)
	require.Len(t, files, 1)
	content, err := os.ReadFile(files[0])
	require.NoError(t, err)
	assert.Equal(t, "To the lock", string(content))

	_, err = backup.Restore(t.Context(), file, folder, nil, noon)
	require.ErrorIs(t, err, backup.ErrUsed)
}

// Others write while a backup is made, and it holds a state that was.
func TestABackupWhileOthersWrite(t *testing.T) {
	s := served(t)
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() {
		for ctx.Err() == nil {
			if _, err := s.AddDraft(t.Context(), 1, message.Draft{}, noon); err != nil {
				done <- err
				return
			}
		}
		done <- nil
	}()
	file := written(t, s, nil)
	stop()
	require.NoError(t, <-done)
	_, err := backup.Restore(t.Context(), file, t.TempDir(), nil, noon)
	require.NoError(t, err)
}

// failing is a folder whose disk spoils the copy of the database once it was looked at.
type failing struct {
	*store.Store
	copied string
}

func (f *failing) CopyTo(ctx context.Context, file string) error {
	f.copied = file
	return f.Store.CopyTo(ctx, file)
}

func (f *failing) FilePath(hash string) string {
	content, err := os.ReadFile(f.copied)
	if err == nil {
		content[len(content)/2] ^= 0xff
		err = os.WriteFile(f.copied, content, 0o600)
	}
	if err != nil {
		panic(err)
	}
	return f.Store.FilePath(hash)
}

func TestABackupThatIsNotWhatItShouldBeIsNone(t *testing.T) {
	own, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	for name, key := range map[string]age.Recipient{"open": nil, "encrypted": own.Recipient()} {
		t.Run(name, func(t *testing.T) {
			folder := t.TempDir()
			err := backup.Write(t.Context(), &failing{Store: served(t)}, filepath.Join(folder, "backup.tar.zst"), key, noon)
			require.ErrorContains(t, err, "was made and cannot be read")
			assert.Empty(t, names(t, folder))
		})
	}
}

func TestAnEncryptedBackup(t *testing.T) {
	own, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	other, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	file := written(t, served(t), own.Recipient())
	content, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.NotContains(t, string(content), "Quillmere")
	_, err = backup.Restore(t.Context(), file, t.TempDir(), nil, noon)
	require.ErrorContains(t, err, "it is encrypted")
	_, err = backup.Restore(t.Context(), file, t.TempDir(), other, noon)
	require.ErrorContains(t, err, "cannot be decrypted with this key")
	_, err = backup.Restore(t.Context(), file, t.TempDir(), own, noon)
	require.NoError(t, err)
}

// repacked is an archive whose entries were changed.
func repacked(t *testing.T, file string, change func(name string, content []byte) (string, []byte)) string {
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close() //nolint:errcheck // only read
	from, err := zstd.NewReader(f)
	require.NoError(t, err)
	defer from.Close()
	var packed bytes.Buffer
	to, err := zstd.NewWriter(&packed)
	require.NoError(t, err)
	in, out := tar.NewReader(from), tar.NewWriter(to)
	for {
		h, err := in.Next()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		content, err := io.ReadAll(in)
		require.NoError(t, err)
		name, content := change(h.Name, content)
		if name == "" {
			continue
		}
		require.NoError(t, out.WriteHeader(&tar.Header{Name: name, Size: int64(len(content)), Mode: 0o600}))
		_, err = out.Write(content)
		require.NoError(t, err)
	}
	require.NoError(t, out.Close())
	require.NoError(t, to.Close())
	return testkit.Write(t, "changed.tar.zst", packed.Bytes())
}

func TestWhatCannotBeRestored(t *testing.T) {
	whole := written(t, served(t), nil)
	content, err := os.ReadFile(whole)
	require.NoError(t, err)
	same := func(name string, content []byte) (string, []byte) { return name, content }
	for name, c := range map[string]struct {
		file func(t *testing.T) string
		says string
	}{
		"it is no backup":            {func(t *testing.T) string { return testkit.Write(t, "x", []byte("no backup")) }, "it is no backup"},
		"it is empty":                {func(t *testing.T) string { return testkit.Write(t, "x", nil) }, "it is no backup"},
		"it ends early":              {func(t *testing.T) string { return testkit.Write(t, "x", content[:len(content)/2]) }, "cannot be restored"},
		"a byte at its end is gone":  {func(t *testing.T) string { return testkit.Write(t, "x", content[:len(content)-1]) }, "cannot be restored"},
		"a byte of it was changed":   {func(t *testing.T) string { return testkit.Write(t, "x", flipped(content)) }, "cannot be restored"},
		"it was made by a newer one": {func(t *testing.T) string { return repacked(t, whole, newer) }, "newer version of the program"},
		"a file in it is missing": {func(t *testing.T) string {
			return repacked(t, whole, func(name string, content []byte) (string, []byte) {
				if strings.HasPrefix(name, "files/") {
					return "", nil
				}
				return name, content
			})
		}, "is missing"},
		"a file in it was changed": {func(t *testing.T) string {
			return repacked(t, whole, func(name string, content []byte) (string, []byte) {
				if strings.HasPrefix(name, "files/") {
					content = bytes.ToUpper(content)
				}
				return name, content
			})
		}, "is damaged"},
		"it reaches out of the folder": {func(t *testing.T) string {
			return repacked(t, whole, func(name string, content []byte) (string, []byte) {
				if name == "manifest.json" {
					content = bytes.ReplaceAll(content, []byte(`"files/`), []byte(`"../../`))
				}
				return name, content
			})
		}, "it holds something else"},
		"it is not there": {func(t *testing.T) string { return filepath.Join(t.TempDir(), "none") }, "no such file"},
	} {
		t.Run(name, func(t *testing.T) {
			folder := t.TempDir()
			_, err := backup.Restore(t.Context(), c.file(t), folder, nil, noon)
			require.ErrorContains(t, err, c.says)
			assert.Empty(t, names(t, folder), "nothing is left")
		})
	}
	_, err = backup.Restore(t.Context(), repacked(t, whole, same), t.TempDir(), nil, noon)
	require.NoError(t, err, "another program may pack it again")
}

func newer(name string, content []byte) (string, []byte) {
	if name == "manifest.json" {
		content = bytes.Replace(content, []byte(`"form":`), []byte(`"form":9`), 1)
	}
	return name, content
}

func flipped(content []byte) []byte {
	changed := bytes.Clone(content)
	changed[len(changed)/2] ^= 1
	return changed
}

// A restoring that was killed is begun again; a folder with anything else is left alone.
func TestWhereABackupIsRestored(t *testing.T) {
	file := written(t, served(t), nil)
	interrupted := t.TempDir()
	for _, path := range []string{"restoring/files/ab", "files/ab"} {
		require.NoError(t, os.MkdirAll(filepath.Join(interrupted, path), 0o700))
	}
	_, err := backup.Restore(t.Context(), file, interrupted, nil, noon)
	require.NoError(t, err)
	assert.Equal(t, []string{"files", store.FileName}, names(t, interrupted))

	for _, name := range []string{store.FileName, "holiday pictures", "files"} {
		used := t.TempDir()
		require.NoError(t, os.Mkdir(filepath.Join(used, name), 0o700))
		_, err := backup.Restore(t.Context(), file, used, nil, noon)
		require.ErrorIs(t, err, backup.ErrUsed, name)
		assert.Equal(t, []string{name}, names(t, used))
	}
}

func TestBackupsAreKeptAndDropped(t *testing.T) {
	s := served(t)
	clock := testkit.NewClock(noon)
	b := &backup.Service{Store: s, Folder: filepath.Join(t.TempDir(), "backups"), Now: clock.Now, Log: slog.New(slog.DiscardHandler)}
	assert.True(t, b.Missing())
	for range 17 {
		require.NoError(t, b.Make(t.Context()))
		clock.Pass(24 * time.Hour)
	}
	assert.False(t, b.Missing())
	// What was interrupted is cleared away, and what is not ours is left.
	for _, name := range []string{"lantern-2026-01-01T000000Z.tar.zst.partial", "notes.txt"} {
		require.NoError(t, os.WriteFile(filepath.Join(b.Folder, name), nil, 0o600))
	}
	require.NoError(t, b.Make(t.Context()))
	state, err := b.State()
	require.NoError(t, err)
	assert.Len(t, state.List, 14+1)
	assert.Equal(t, noon.AddDate(0, 0, 17), state.Last())
	assert.Len(t, names(t, b.Folder), 14+1+1)
	clock.Pass(49 * time.Hour)
	assert.True(t, b.Missing())
}

// A folder that cannot be written says so, and what was there stays.
func TestABackupThatFails(t *testing.T) {
	folder := testkit.Write(t, "a file", nil)
	b := &backup.Service{Store: served(t), Folder: folder, Now: time.Now, Log: slog.New(slog.DiscardHandler)}
	require.Error(t, b.Make(t.Context()))
	_, err := b.State()
	require.Error(t, err)
	assert.True(t, b.Missing())
}

// Whatever a file holds, it is read or refused, and nothing but what it names is taken.
func FuzzArchive(f *testing.F) {
	f.Add([]byte("no backup"))
	var packed bytes.Buffer
	w, err := zstd.NewWriter(&packed)
	require.NoError(f, err)
	archive := tar.NewWriter(w)
	manifest := []byte(`{"form":9,"organisation":"X","entries":[{"name":"lantern.db","size":1,"sha256":""}]}`)
	require.NoError(f, archive.WriteHeader(&tar.Header{Name: "manifest.json", Size: int64(len(manifest)), Mode: 0o600}))
	_, err = archive.Write(manifest)
	require.NoError(f, err)
	require.NoError(f, archive.Close())
	require.NoError(f, w.Close())
	f.Add(packed.Bytes())
	f.Fuzz(func(t *testing.T, content []byte) {
		folder := t.TempDir()
		file := filepath.Join(folder, "backup")
		require.NoError(t, os.WriteFile(file, content, 0o600))
		_, err := backup.Restore(t.Context(), file, filepath.Join(folder, "new"), nil, noon)
		require.Error(t, err, "a whole one holds a database")
	})
}
