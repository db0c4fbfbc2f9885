package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The rules are pure: they may use what computes, and nothing that reaches
// out of the program.
func TestCoreImportsOnlyWhatComputes(t *testing.T) {
	allowed := []string{
		"upperlantern/internal/core", "golang.org/x/text/", "github.com/nyaruka/phonenumbers",
		"github.com/go-playground/locales", // tables of how languages write days
		"github.com/agnivade/levenshtein",  // how alike two lines are
		"github.com/clipperhouse/",         // the ends of sentences
		"github.com/pquerna/otp",           // codes of an instant that is passed in
	}
	forbidden := []string{
		"net", "net/http", "net/smtp", "os", "database/sql", "os/exec", "math/rand", "math/rand/v2", "crypto/rand", "log/slog",
	}
	files := 0
	// Read here, and not by a command: what a command reads is no reason for Go to run a
	// test again.
	err := fs.WalkDir(os.DirFS("."), ".", func(path string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		read, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, i := range read.Imports {
			imported, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			assert.NotContains(t, forbidden, imported, path)
			first, _, _ := strings.Cut(imported, "/")
			standard := !strings.Contains(first, ".") && first != "upperlantern"
			fine := slices.ContainsFunc(allowed, func(prefix string) bool { return strings.HasPrefix(imported, prefix) })
			assert.True(t, standard || fine, "%s imports %s", path, imported)
		}
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, files, 50, "the packages of the core were looked at")
}
