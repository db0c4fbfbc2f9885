package httpapi_test

import (
	"net/http"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/app"
	"upperlantern/internal/testkit"
)

type backupsOf struct {
	On, Missing bool
	Problem     string
	List        []struct{ Name string }
}

func TestBackupsAreMadeAndShown(t *testing.T) {
	folder := testkit.Folder(t, "", nil)
	i := testkit.Start(t, folder, func(c *app.Config) { c.Backups = filepath.Join(folder, "backups") })
	c := testkit.SignedIn(t, i.URL)
	var b backupsOf
	testkit.Eventually(t, "the first is made at once", func() bool {
		c.Want(http.StatusOK, http.MethodGet, "/api/backups", nil, &b)
		return len(b.List) == 1 && !b.Missing
	})
	var strip struct{ Unsaved bool }
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	assert.False(t, strip.Unsaved)
}

// Where backups cannot be written, it is said everywhere to those who can change it.
func TestBackupsThatFailAreSaid(t *testing.T) {
	folder := testkit.Folder(t, "", nil)
	i := testkit.Start(t, folder, func(c *app.Config) { c.Backups = testkit.Write(t, "a file", nil) })
	c := testkit.SignedIn(t, i.URL)
	var b backupsOf
	c.Want(http.StatusOK, http.MethodPost, "/api/backups", nil, &b)
	assert.True(t, b.Missing)
	assert.Contains(t, b.Problem, "backups cannot be")
	var strip struct{ Unsaved bool }
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	assert.True(t, strip.Unsaved)
}

func TestBackupsAreOff(t *testing.T) {
	_, c := start(t)
	var b backupsOf
	c.Want(http.StatusOK, http.MethodGet, "/api/backups", nil, &b)
	assert.False(t, b.On)
	c.Want(http.StatusConflict, http.MethodPost, "/api/backups", nil, nil)
}

func TestBackupsAreNotAUnits(t *testing.T) {
	_, _, unit := startUnits(t, "Rowing", "change-settings")
	unit.Want(http.StatusForbidden, http.MethodGet, "/api/backups", nil, nil)
	unit.Want(http.StatusForbidden, http.MethodPost, "/api/backups", nil, nil)
}
