package app_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/backup"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// A message was under way when a backup was made, and left after that. Restored, it
// waits for a yes and says why; what leaves later by itself still does.
func TestARestoredBackupSendsNothingAgain(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	folder := testkit.Folder(t, testkit.Roster, func(o *store.Organisation) { o.Hold = 10 * time.Minute })
	config := func(c *app.Config) { c.Now = clock.Now }
	i := testkit.Start(t, folder, config)
	c := testkit.SignedIn(t, i.URL)
	draft := `{"urgency":"timely","audience":{"parts":[{"kind":"group","group":1}],"receivers":"guardians"},
		"subject":"Lock","email":"Meet at the lock.","ownText":false,"text":"","firstOnly":false%s}`
	under := send(c, fmt.Sprintf(draft, ""))
	tomorrow := clock.Now().Add(24 * time.Hour).UTC().Format(time.RFC3339)
	later := send(c, fmt.Sprintf(draft, fmt.Sprintf(`,"sendAt":%q`, tomorrow)))
	file := filepath.Join(t.TempDir(), "backup.tar.zst")
	made := clock.Now()
	require.NoError(t, backup.Write(t.Context(), i.Store, file, nil, made))
	clock.Pass(20 * time.Minute)

	restored := filepath.Join(t.TempDir(), "restored")
	done, err := backup.Restore(t.Context(), file, restored, nil, clock.Now())
	require.NoError(t, err)
	assert.EqualValues(t, 1, done.Waiting)
	again := testkit.Start(t, restored, config)
	stranger := testkit.Stranger(t, again.URL)
	stranger.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
	c = testkit.SignedIn(t, again.URL)
	var strip struct{ Late, Sending, Next []struct{ ID int64 } }
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	require.Len(t, strip.Late, 1)
	assert.Equal(t, under, strip.Late[0].ID)
	require.Len(t, strip.Next, 1)
	assert.Equal(t, later, strip.Next[0].ID, "it cannot have left")
	var m struct {
		Message struct {
			Late     bool
			Restored *time.Time
		}
	}
	c.Record(under, &m)
	require.NotNil(t, m.Message.Restored)
	assert.WithinDuration(t, made, *m.Message.Restored, time.Second)
	all, err := again.Box.All(t.Context())
	require.NoError(t, err)
	assert.Empty(t, all)

	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/late", under), nil, nil)
	testkit.Eventually(t, "it leaves after a yes", func() bool {
		all, err := again.Box.All(t.Context())
		return err == nil && len(all) > 0
	})
	m.Message.Restored = nil
	c.Record(under, &m)
	assert.Nil(t, m.Message.Restored)
}

// Killed at any instant, backup and restore leave nothing that looks whole and is not.
func TestBackupAndRestoreAreKilled(t *testing.T) {
	binary, folder := program(t), testkit.Folder(t, testkit.Roster, nil)
	killed := func(arguments ...string) bool {
		ctx, cancel := context.WithTimeout(t.Context(), time.Duration(rand.IntN(150))*time.Millisecond)
		defer cancel()
		return exec.CommandContext(ctx, binary, arguments...).Run() != nil
	}
	whole := filepath.Join(t.TempDir(), "whole.tar.zst")
	require.NoError(t, exec.Command(binary, "backup", "--data", folder, whole).Run())
	for n := range 8 {
		file := filepath.Join(t.TempDir(), fmt.Sprintf("%d.tar.zst", n))
		killed("backup", "--data", folder, file)
		if _, err := os.Stat(file); err == nil {
			require.NoError(t, backup.Verify(file, nil))
		}
		to := filepath.Join(t.TempDir(), "restored")
		for killed("restore", whole, to) {
			if _, err := os.Stat(filepath.Join(to, store.FileName)); err == nil {
				break
			}
			if out, err := exec.Command(binary, "restore", whole, to).CombinedOutput(); err == nil {
				break
			} else {
				require.NoError(t, err, "%s", out)
			}
		}
		s, err := store.OpenServed(t.Context(), to)
		require.NoError(t, err)
		r, err := s.Roster(t.Context())
		require.NoError(t, err)
		assert.Equal(t, 8, r.Len())
		require.NoError(t, s.Close())
	}
}

// Killed at any instant while it brings a folder of an earlier form forward, the program
// goes on with it the next time.
func TestAMigrationIsKilled(t *testing.T) {
	binary := program(t)
	packed, err := os.ReadFile(filepath.Join(testkit.Root(), "internal/store/testdata/form-4.db.gz"))
	require.NoError(t, err)
	unpacked, err := gzip.NewReader(bytes.NewReader(packed))
	require.NoError(t, err)
	early, err := io.ReadAll(unpacked)
	require.NoError(t, err)
	for n := range 10 {
		folder := t.TempDir()
		require.NoError(t, os.WriteFile(filepath.Join(folder, store.FileName), early, 0o600))
		ctx, cancel := context.WithTimeout(t.Context(), time.Duration(10+n*12)*time.Millisecond)
		_ = exec.CommandContext(ctx, binary, "export", "--data", folder, filepath.Join(t.TempDir(), "people.csv")).Run()
		cancel()
		s, err := store.OpenServed(t.Context(), folder)
		require.NoError(t, err)
		require.NoError(t, s.Close())
		for _, file := range []string{store.FileName, fmt.Sprintf("before-form-%d.db", store.Form())} {
			held, err := store.Examine(t.Context(), filepath.Join(folder, file))
			require.NoError(t, err)
			assert.NotEmpty(t, held.Organisation)
		}
	}
}

// A backup for which there is no room says so and leaves nothing.
func TestABackupWithoutRoom(t *testing.T) {
	binary, folder := program(t), testkit.Folder(t, testkit.Roster, nil)
	to := t.TempDir()
	// A limit of the size of files breaks a writing off as a full disk does.
	out, err := exec.Command(
		"sh", "-c", `ulimit -f 400; exec "$0" backup --data "$1" "$2"`, binary, folder, filepath.Join(to, "backup.tar.zst"),
	).CombinedOutput()
	require.Error(t, err)
	assert.Regexp(t, `(?i)full|too large|cannot be made|copying the database`, string(out))
	left, err := os.ReadDir(to)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestBackupAndRestoreOnTheCommandLine(t *testing.T) {
	binary, folder := program(t), testkit.Folder(t, testkit.Roster, nil)
	file := filepath.Join(t.TempDir(), "backup.tar.zst")
	out, err := exec.Command(binary, "backup", "--data", folder, file).CombinedOutput()
	require.NoError(t, err, "%s", out)
	assert.Contains(t, refuse(t, binary, "backup", "--data", folder, file), "is there already")
	assert.Contains(t, refuse(t, binary, "backup", "--data", folder, "--key", "age1nothing", file+"2"), "the key for backups")
	assert.Contains(t, refuse(t, binary, "restore", file, folder), "holds something already")
	assert.Contains(t, refuse(t, binary, "restore", testkit.Write(t, "x", nil), t.TempDir()), "it is no backup")
	to := filepath.Join(t.TempDir(), "restored")
	out, err = exec.Command(binary, "restore", file, to).CombinedOutput()
	require.NoError(t, err, "%s", out)
	assert.Contains(t, string(out), "holds Quillmere Rowing Club & Flood Watch as it was on")
}
