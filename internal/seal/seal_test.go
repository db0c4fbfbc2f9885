package seal_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/seal"
)

func TestSecretsAreOpenedWithTheirKeyOnly(t *testing.T) {
	file := filepath.Join(t.TempDir(), seal.FileName)
	made, err := seal.OpenKey(file)
	require.NoError(t, err)
	sealed, err := made.Seal([]byte("otter gravel"))
	require.NoError(t, err)
	assert.NotContains(t, string(sealed), "otter")
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	again, err := seal.OpenKey(file)
	require.NoError(t, err)
	secret, err := again.Open(sealed)
	require.NoError(t, err)
	assert.Equal(t, "otter gravel", string(secret))

	other, err := seal.OpenKey(filepath.Join(t.TempDir(), seal.FileName))
	require.NoError(t, err)
	_, err = other.Open(sealed)
	require.ErrorIs(t, err, seal.ErrSealed)
	sealed[len(sealed)-1] ^= 1
	_, err = again.Open(sealed)
	require.ErrorIs(t, err, seal.ErrSealed)
}

func TestAKeyThatCannotBeReadIsNotReplaced(t *testing.T) {
	file := filepath.Join(t.TempDir(), seal.FileName)
	require.NoError(t, os.WriteFile(file, []byte("no key"), 0o600))
	_, err := seal.OpenKey(file)
	require.ErrorContains(t, err, file)
	content, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, "no key", string(content))
}
