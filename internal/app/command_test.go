package app_test

import (
	"bufio"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// An account made on the command line signs in; one that is there gets the new
// password and keeps everything else.
func TestAccountsFromTheCommandLine(t *testing.T) {
	binary, folder := program(t), testkit.Folder(t, "", nil)
	run := func(arguments ...string) string {
		out, err := exec.Command(binary, append([]string{"user", "--data", folder}, arguments...)...).CombinedOutput()
		require.NoError(t, err, "%s", out)
		return string(out)
	}
	assert.Contains(
		t, run("Wren@Example.org", "--name", "Wren Ashby", "--password", "first teapot gravel"),
		"Wren Ashby can sign in as wren@example.org",
	)
	assert.Contains(t, run(testkit.Login, "--password", "a second teapot gravel"), "everything else of the account stays")
	i := testkit.Start(t, folder, nil)
	for login, password := range map[string]string{
		"wren@example.org": "first teapot gravel", testkit.Login: "a second teapot gravel",
	} {
		var s struct{ Rights []access.Right }
		c := testkit.Stranger(t, i.URL)
		c.Want(http.StatusOK, http.MethodPost, "/api/sign-in", map[string]string{"login": login, "password": password}, &s)
		assert.Len(t, s.Rights, len(access.Rights), login)
	}
	assert.Contains(
		t, refuse(t, binary, "user", "--data", folder, "new@example.org", "--password", "third teapot gravel"), "needs a name",
	)
}

// What is given a folder that holds nothing says what to do and makes nothing.
func TestNothingIsLeftInAnEmptyFolder(t *testing.T) {
	binary := program(t)
	file := testkit.Write(t, "people.csv", []byte(testkit.Roster))
	for name, arguments := range map[string][]string{
		"user":   {"user", "a@example.org", "--name", "A", "--password", "otter gravel teapot"},
		"import": {"import", file},
		"export": {"export", filepath.Join(t.TempDir(), "people.csv")},
	} {
		t.Run(name, func(t *testing.T) {
			folder := t.TempDir()
			said := refuse(t, binary, append(arguments, "--data", folder)...)
			assert.Contains(t, said, "holds no organisation yet; begin with: upper-lantern serve")
			left, err := os.ReadDir(folder)
			require.NoError(t, err)
			assert.Empty(t, left)
		})
	}
}

// A demo whose making was killed is made from the beginning.
func TestTheDemoIsBegunAgainWhenItsMakingWasKilled(t *testing.T) {
	binary, folder := program(t), t.TempDir()
	begin := func() (*exec.Cmd, *bufio.Reader) {
		_, port, err := net.SplitHostPort(freePort(t))
		require.NoError(t, err)
		command := exec.Command(binary, "demo", "--data", folder, "--port", port)
		out, err := command.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, command.Start())
		t.Cleanup(func() {
			_ = command.Process.Kill()
			_ = command.Wait()
		})
		return command, bufio.NewReader(out)
	}
	first, _ := begin()
	testkit.Eventually(t, "the making has begun", func() bool {
		_, err := os.Stat(filepath.Join(folder, "making", store.FileName))
		return err == nil
	})
	require.NoError(t, first.Process.Kill())
	_ = first.Wait()
	_, err := os.Stat(filepath.Join(folder, store.FileName))
	require.ErrorIs(t, err, os.ErrNotExist)

	_, out := begin()
	for {
		line, err := out.ReadString('\n')
		require.NoError(t, err)
		if at := strings.Index(line, "http://"); at >= 0 {
			resp, err := http.Get(strings.TrimSpace(line[at:]) + "/healthz")
			require.NoError(t, err)
			require.NoError(t, resp.Body.Close())
			assert.Equal(t, http.StatusOK, resp.StatusCode)
			break
		}
	}
	_, err = os.Stat(filepath.Join(folder, "making"))
	require.ErrorIs(t, err, os.ErrNotExist)
}
