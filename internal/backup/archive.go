// Package backup makes archives of a data folder while it is served, keeps them, and
// makes a data folder of one.
package backup

import (
	"archive/tar"
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"time"

	"filippo.io/age"
	"github.com/klauspost/compress/zstd"

	"upperlantern/internal/store"
)

// manifest is the first entry of an archive: what it holds.
type manifest struct {
	Form         int64     `json:"form"` // of the database
	Organisation string    `json:"organisation"`
	MadeAt       time.Time `json:"madeAt"`
	Entries      []entry   `json:"entries"`
}

type entry struct {
	Name   string `json:"name"`
	Size   int64  `json:"size"`
	SHA256 string `json:"sha256"`
}

const (
	manifestName = "manifest.json"
	partial      = ".partial"
	mostManifest = 64 << 20
	mostMemory   = 64 << 20 // of the decompressor
)

// entryName is what may stand in an archive: nothing else reaches a folder.
var entryName = regexp.MustCompile(`^(lantern\.db|files/[0-9a-f]{2}/[0-9a-f]{64})$`)

var (
	// ErrUnfit means that a file is no whole backup that this program can restore.
	ErrUnfit = errors.New("cannot be restored")
	// ErrUsed means that a folder holds something already.
	ErrUsed = errors.New("holds something already; name an empty one")
)

// Source is a data folder that is served.
type Source interface {
	CopyTo(ctx context.Context, file string) error
	FilePath(hash string) string
}

// Write writes an archive of a data folder into a file: tar (POSIX.1-2001), compressed
// (zstd, RFC 8878) and, for a key, encrypted (age). It is there when it is whole and was
// read back; before that the file has another name.
func Write(ctx context.Context, s Source, file string, key age.Recipient, now time.Time) (err error) {
	folder, err := os.MkdirTemp(filepath.Dir(file), ".copying-*")
	if err != nil {
		return fmt.Errorf("the backup %s cannot be made: %w", file, err)
	}
	defer func() { err = errors.Join(err, os.RemoveAll(folder)) }()
	db := filepath.Join(folder, store.FileName)
	if err := s.CopyTo(ctx, db); err != nil {
		return err
	}
	m, sources, err := listOf(ctx, s, db, now)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, removed(file+partial)) }()
	keys, once, err := keysFor(key)
	if err != nil {
		return err
	}
	if err := writeFile(file+partial, m, sources, keys); err != nil {
		return fmt.Errorf("the backup %s cannot be made: %w", file, err)
	}
	if err := Verify(file+partial, once); err != nil {
		return fmt.Errorf("the backup %s was made and cannot be read: %w", file, err)
	}
	if err := os.Rename(file+partial, file); err != nil {
		return fmt.Errorf("the backup %s cannot be made: %w", file, err)
	}
	return nil
}

// keysFor are the keys that an archive is encrypted for: that of its owner, and one of
// the program's own, with which it is read back once and which is kept nowhere.
func keysFor(key age.Recipient) (keys []age.Recipient, once age.Identity, err error) {
	if key == nil {
		return nil, nil, nil
	}
	own, err := age.GenerateX25519Identity()
	if err != nil {
		return nil, nil, err
	}
	return []age.Recipient{key, own.Recipient()}, own, nil
}

func removed(file string) error {
	if err := os.Remove(file); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// listOf is what an archive will hold, with where it is now. A file that the database
// names and that is gone is left out: it was gone before.
func listOf(ctx context.Context, s Source, db string, now time.Time) (m manifest, sources []string, err error) {
	held, err := store.Examine(ctx, db)
	if err != nil {
		return m, nil, err
	}
	m = manifest{Form: held.Form, Organisation: held.Organisation, MadeAt: now.UTC()}
	add := func(name, source string) error {
		sum, size, err := sumOf(source)
		if err != nil {
			return err
		}
		m.Entries, sources = append(m.Entries, entry{name, size, sum}), append(sources, source)
		return nil
	}
	if err := add(store.FileName, db); err != nil {
		return m, nil, err
	}
	for _, h := range held.Files {
		err := add("files/"+h[:2]+"/"+h, s.FilePath(h))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return m, nil, err
		}
	}
	return m, sources, nil
}

func sumOf(file string) (sum string, size int64, err error) {
	f, err := os.Open(file)
	if err != nil {
		return "", 0, err
	}
	defer f.Close() //nolint:errcheck // only read
	h := sha256.New()
	size, err = io.Copy(h, f)
	return hex.EncodeToString(h.Sum(nil)), size, err
}

func writeFile(file string, m manifest, sources []string, keys []age.Recipient) (err error) {
	f, err := os.OpenFile(file, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	buffered := bufio.NewWriterSize(f, 1<<20)
	var sealed io.WriteCloser = nopCloser{buffered}
	if keys != nil {
		if sealed, err = age.Encrypt(buffered, keys...); err != nil {
			return err
		}
	}
	packed, err := zstd.NewWriter(sealed)
	if err != nil {
		return err
	}
	if err := writeTar(packed, m, sources); err != nil {
		return err
	}
	return errors.Join(packed.Close(), sealed.Close(), buffered.Flush(), f.Sync())
}

type nopCloser struct{ io.Writer }

func (nopCloser) Close() error { return nil }

func writeTar(w io.Writer, m manifest, sources []string) error {
	archive := tar.NewWriter(w)
	text, err := json.Marshal(m)
	if err != nil {
		return err
	}
	head := func(name string, size int64) error {
		return archive.WriteHeader(&tar.Header{Name: name, Size: size, Mode: 0o600, ModTime: m.MadeAt, Format: tar.FormatPAX})
	}
	if err := head(manifestName, int64(len(text))); err != nil {
		return err
	}
	if _, err := archive.Write(text); err != nil {
		return err
	}
	for i, e := range m.Entries {
		if err := head(e.Name, e.Size); err != nil {
			return err
		}
		if err := copyInto(archive, sources[i]); err != nil {
			return fmt.Errorf("%s: %w", e.Name, err)
		}
	}
	return archive.Close()
}

func copyInto(w io.Writer, file string) error {
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close() //nolint:errcheck // only read
	_, err = io.Copy(w, f)
	return err
}

// Verify reads a whole archive and compares all of it with what it says that it holds.
func Verify(file string, identity age.Identity) error {
	_, err := read(file, identity, func(entry) (io.WriteCloser, error) { return nopCloser{io.Discard}, nil })
	return err
}

// read reads an archive and writes each entry where open says.
func read(file string, identity age.Identity, open func(entry) (io.WriteCloser, error)) (m manifest, err error) {
	f, err := os.Open(file)
	if err != nil {
		return m, err
	}
	defer f.Close() //nolint:errcheck // only read
	plain, err := opened(bufio.NewReaderSize(f, 1<<20), identity)
	if err != nil {
		return m, fmt.Errorf("%s %w: %w", file, ErrUnfit, err)
	}
	unpacked, err := zstd.NewReader(plain, zstd.WithDecoderMaxMemory(mostMemory))
	if err != nil {
		return m, fmt.Errorf("%s %w: %w", file, ErrUnfit, err)
	}
	defer unpacked.Close()
	if m, err = readTar(tar.NewReader(unpacked), open); err != nil {
		return m, fmt.Errorf("%s %w: %w", file, ErrUnfit, err)
	}
	return m, nil
}

// ageHeader begins an encrypted file.
const ageHeader = "age-encryption.org/"

func opened(r *bufio.Reader, identity age.Identity) (io.Reader, error) {
	begins, _ := r.Peek(len(ageHeader))
	switch {
	case string(begins) != ageHeader:
		return r, nil
	case identity == nil:
		return nil, errors.New("it is encrypted; name the key with --identity")
	}
	plain, err := age.Decrypt(r, identity)
	if err != nil {
		return nil, fmt.Errorf("it cannot be decrypted with this key: %w", err)
	}
	return plain, nil
}

func readTar(archive *tar.Reader, open func(entry) (io.WriteCloser, error)) (m manifest, err error) {
	first, err := archive.Next()
	if err != nil || first.Name != manifestName || first.Size > mostManifest {
		return m, errors.New("it is no backup of this program")
	}
	if err := json.NewDecoder(io.LimitReader(archive, first.Size)).Decode(&m); err != nil {
		return m, errors.New("it does not say what it holds")
	}
	for _, e := range m.Entries {
		if !entryName.MatchString(e.Name) {
			return m, fmt.Errorf("it holds something else: %q", e.Name)
		}
		next, err := archive.Next()
		if err != nil {
			return m, fmt.Errorf("%s is missing: the file ends early", e.Name)
		}
		if next.Name != e.Name || next.Size != e.Size {
			return m, fmt.Errorf("%s is missing", e.Name)
		}
		if err := readEntry(archive, e, open); err != nil {
			return m, err
		}
	}
	if _, err := archive.Next(); !errors.Is(err, io.EOF) {
		return m, errors.New("it holds more than it says, or ends early")
	}
	return m, nil
}

func readEntry(from io.Reader, e entry, open func(entry) (io.WriteCloser, error)) error {
	to, err := open(e)
	if err != nil {
		return err
	}
	var sum hash.Hash = sha256.New()
	n, err := io.Copy(io.MultiWriter(to, sum), from)
	err = errors.Join(err, to.Close())
	switch {
	case err != nil:
		return fmt.Errorf("%s: %w", e.Name, err)
	case n != e.Size || hex.EncodeToString(sum.Sum(nil)) != e.SHA256:
		return fmt.Errorf("%s is damaged", e.Name)
	}
	return nil
}
