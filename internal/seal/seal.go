// Package seal keeps secrets of the database unreadable without a key that lies
// outside it, in the format of age (age-encryption.org/v1).
package seal

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"filippo.io/age"
)

// FileName is the key's file in a data folder, unless another is named.
const FileName = "secrets.key"

// ErrSealed means that a secret was sealed with another key, or damaged.
var ErrSealed = errors.New("the secret cannot be opened with the key at hand")

// Key seals and opens secrets.
type Key struct{ identity *age.X25519Identity }

// OpenKey reads the key in a file, and makes one where there is none.
func OpenKey(file string) (Key, error) {
	content, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		return makeKey(file)
	}
	if err != nil {
		return Key{}, fmt.Errorf("the key to the secrets: %w", err)
	}
	identity, err := age.ParseX25519Identity(strings.TrimSpace(string(content)))
	if err != nil {
		return Key{}, fmt.Errorf("the key to the secrets in %s: %w", file, err)
	}
	return Key{identity}, nil
}

// makeKey writes a new key so that it is whole or not there.
func makeKey(file string) (Key, error) {
	identity, err := age.GenerateX25519Identity()
	if err != nil {
		return Key{}, err
	}
	f, err := os.CreateTemp(filepath.Dir(file), FileName+".*") // readable by its owner only
	if err != nil {
		return Key{}, fmt.Errorf("the key to the secrets: %w", err)
	}
	defer os.Remove(f.Name()) //nolint:errcheck // it is renamed when all is well
	_, err = f.WriteString(identity.String() + "\n")
	if err = errors.Join(err, f.Sync(), f.Close()); err == nil {
		err = os.Rename(f.Name(), file)
	}
	if err != nil {
		return Key{}, fmt.Errorf("the key to the secrets: %w", err)
	}
	return Key{identity}, nil
}

// Seal makes a secret unreadable.
func (k Key) Seal(secret []byte) ([]byte, error) {
	var sealed bytes.Buffer
	w, err := age.Encrypt(&sealed, k.identity.Recipient())
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(secret); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return sealed.Bytes(), nil
}

// Open reads what Seal made; otherwise it is ErrSealed.
func (k Key) Open(sealed []byte) ([]byte, error) {
	r, err := age.Decrypt(bytes.NewReader(sealed), k.identity)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSealed, err)
	}
	secret, err := io.ReadAll(r)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSealed, err)
	}
	return secret, nil
}
