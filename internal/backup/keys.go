package backup

import (
	"fmt"
	"os"

	"filippo.io/age"
)

// ReadKey reads a public key of age (age1…); none for "".
func ReadKey(typed string) (age.Recipient, error) {
	if typed == "" {
		return nil, nil
	}
	key, err := age.ParseX25519Recipient(typed)
	if err != nil {
		return nil, fmt.Errorf("the key for backups: %w", err)
	}
	return key, nil
}

// ReadIdentity reads the secret key in a file of age; none for "".
func ReadIdentity(file string) (age.Identity, error) {
	if file == "" {
		return nil, nil
	}
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close() //nolint:errcheck // only read
	identities, err := age.ParseIdentities(f)
	if err != nil {
		return nil, fmt.Errorf("the key in %s: %w", file, err)
	}
	return identities[0], nil
}
