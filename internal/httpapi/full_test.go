package httpapi_test

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// fill lets the database grow no further, as on a full disk, or grow again.
func fill(t *testing.T, i *app.Instance, full bool) {
	_, writer := i.Store.Sessions()
	most := map[bool]int{true: 1, false: 1 << 30}[full] // no less than there are
	_, err := writer.Exec(fmt.Sprintf("PRAGMA max_page_count = %d", most))
	require.NoError(t, err)
}

func ready(t *testing.T, url string) (int, string) {
	return testkit.Stranger(t, url).Text("/readyz")
}

// A full disk is said in words, reading goes on, and so does everything when
// there is room.
func TestAFullDiskIsSaidAndGoneOnFrom(t *testing.T) {
	i, c := start(t)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	long := fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draftOf("", strings.Repeat("words ", 3000)))
	path := fmt.Sprintf("/api/messages/%d", m.ID)

	fill(t, i, true)
	assert.Contains(
		t, c.Problem(http.StatusInsufficientStorage, http.MethodPut, path, long),
		"disk is full: nothing was saved. What you typed is still on your screen",
	)
	var strip struct{ Full bool }
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	assert.True(t, strip.Full)
	c.Want(http.StatusOK, http.MethodGet, "/api/people", nil, nil)
	status, said := ready(t, i.URL)
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, said, "the disk is full")

	fill(t, i, false)
	status, _ = ready(t, i.URL)
	assert.Equal(t, http.StatusOK, status)
	c.Want(http.StatusOK, http.MethodPut, path, long, nil)
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	assert.False(t, strip.Full)
}

func TestADatabaseThatIsGoneIsNotReady(t *testing.T) {
	folder := testkit.Folder(t, "", nil)
	i := testkit.Start(t, folder, nil)
	status, _ := ready(t, i.URL)
	require.Equal(t, http.StatusOK, status)
	away := filepath.Join(folder, "away.db")
	require.NoError(t, os.Rename(filepath.Join(folder, store.FileName), away))
	status, said := ready(t, i.URL)
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, said, "gone from the data folder")
	status, _ = testkit.Stranger(t, i.URL).Text("/healthz")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	require.NoError(t, os.Rename(away, filepath.Join(folder, store.FileName)))
	status, _ = ready(t, i.URL)
	assert.Equal(t, http.StatusOK, status)
}

// A name with an ending of any length is taken, without what turns its direction.
func TestUploadedNamesAreMadeSafe(t *testing.T) {
	_, c := start(t)
	var f struct{ Name string }
	c.Want(http.StatusOK, http.MethodPost, "/api/files?name=map%E2%80%AEx.pdf", []byte(pdf), &f)
	assert.Equal(t, "mapx.pdf", f.Name)
	problem := c.Problem(
		http.StatusUnprocessableEntity, http.MethodPost, "/api/files?name=a."+strings.Repeat("y", 900), []byte(pdf),
	)
	assert.Contains(t, problem, "files cannot be sent")
	assert.LessOrEqual(t, len(f.Name), attachment.LongestName)
}
