package core_test

import (
	"encoding/json"
	"io"
	"os/exec"
	"strings"
	"testing"

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
		"google.golang.org/protobuf/",      // phonenumbers' own
	}
	forbidden := []string{"net/http", "database/sql", "os/exec", "math/rand", "math/rand/v2", "crypto/rand", "log/slog"}

	out, err := exec.Command("go", "list", "-deps", "-json=ImportPath,Standard,Imports", "./...").Output()
	require.NoError(t, err)
	decoder := json.NewDecoder(strings.NewReader(string(out)))
	core := 0
	for {
		var p struct {
			ImportPath string
			Standard   bool
			Imports    []string
		}
		if err := decoder.Decode(&p); err == io.EOF {
			break
		} else {
			require.NoError(t, err)
		}
		if p.Standard {
			continue
		}
		fine := false
		for _, prefix := range allowed {
			fine = fine || strings.HasPrefix(p.ImportPath, prefix)
		}
		require.True(t, fine, "the core depends on %s", p.ImportPath)
		if !strings.HasPrefix(p.ImportPath, "upperlantern/internal/core/") {
			continue
		}
		core++
		for _, imported := range p.Imports {
			require.NotContains(t, forbidden, imported, "%s imports %s", p.ImportPath, imported)
		}
	}
	require.Greater(t, core, 8, "the packages of the core were looked at")
}
