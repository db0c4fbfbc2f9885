// Package testkit starts the real program with a small roster for tests, and
// speaks to it as a browser would.
package testkit

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"runtime"
	"sync"
	"sync/atomic"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/demo"
	"upperlantern/internal/password"
	"upperlantern/internal/store"
)

// Patience is how long a condition is waited for.
const Patience = time.Minute

// Password is that of the test account.
const Password = "a password for tests"

// Login is that of the test account.
const Login = "office@quillmere.example"

// Roster is a small file: three guardians, two juniors, a coach, and somebody
// whom nothing reaches.
const Roster = `Id,Name,Role,Language,Mobile,Landline,Email,Groups,Guardians,Opted out of
G1,Rania Haddad,guardian,ar,07700 900417,,rania@example.org,,,
G2,Piotr Zielony,guardian,pl,07700 900418,,,,,
G3,Lena Achterberg,guardian,en,,07700 900188,,,,
G4,Tuan Vo,guardian,vi,,,tuan@vo.example,,,routine
J1,Sami Haddad,junior,ar,,,,Junior squads > U14,G1,
J2,Kinga Zielony,junior,pl,,,,Junior squads > U12,G2;G3;G4,
C1,Naya Osei,coach,en,07700 900999,,naya@example.org;naya@quillmere.example,Coaches,,
M1,Di Venn,member,en,,,,Coaches,,
`

// PasswordCost is what a hash takes in tests: nearly nothing.
var PasswordCost = &password.Cost{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// quickHash is a hash of the test account's password that takes no time to compute;
// the program reads from a hash what it takes.
var quickHash = sync.OnceValues(func() (string, error) {
	return password.Hash(Password, PasswordCost)
})

// newest is an empty database in the newest form. Making one takes longer than most tests.
var newest = sync.OnceValues(func() ([]byte, error) {
	folder, err := os.MkdirTemp("", "newest-*")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(folder) //nolint:errcheck // it is a temporary one
	s, err := store.Open(folder)
	if err != nil {
		return nil, err
	}
	if err := s.Close(); err != nil {
		return nil, err
	}
	return os.ReadFile(filepath.Join(folder, store.FileName))
})

// Folder makes a data folder with an organisation without a hold, the test
// account and a roster.
func Folder(t testing.TB, csv string, change func(*store.Organisation)) string {
	t.Helper()
	folder := t.TempDir()
	empty, err := newest()
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(folder, store.FileName), empty, 0o600))
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	o := demo.Organisation()
	o.Hold = 0
	if change != nil {
		change(&o)
	}
	ctx := context.Background()
	require.NoError(t, s.PutOrganisation(ctx, o))
	hash, err := quickHash()
	require.NoError(t, err)
	_, err = s.PutAccount(ctx, store.Account{
		Login: Login, Name: "Hugo Farrowby", Duty: "Club office", PasswordHash: hash, Active: true,
		Grant: access.Program.Grant,
	})
	require.NoError(t, err)
	if csv != "" {
		files := fstest.MapFS{"roster.csv": {Data: []byte(csv)}}
		require.NoError(t, demo.Load(ctx, s, []string{"roster.csv"}, files, time.Now()))
	}
	return folder
}

// Config is how tests run the program on a folder, with stand-ins that report at once.
func Config(folder string, change func(*app.Config)) app.Config {
	c := app.Config{
		Data: folder, Address: "127.0.0.1:0", Carriers: app.Carriers{StandIns: true}, Log: slog.New(slog.DiscardHandler),
		Files: fstest.MapFS{
			"index.html": {Data: []byte("<!doctype html><title>Upper Lantern</title>")}, "assets/a.js": {Data: []byte("1")},
		},
		Delay: func() time.Duration { return 0 }, PasswordCost: PasswordCost,
	}
	if change != nil {
		change(&c)
	}
	return c
}

// Start runs the program on a folder until the test ends.
func Start(t testing.TB, folder string, change func(*app.Config)) *app.Instance {
	t.Helper()
	i, err := app.Start(context.Background(), Config(folder, change))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, i.Close()) })
	return i
}

// Clock is a clock that a test sets.
type Clock struct{ at atomic.Int64 }

// NewClock is a clock that stands still at an instant.
func NewClock(at time.Time) *Clock {
	c := &Clock{}
	c.at.Store(at.UnixNano())
	return c
}

// Now is what the clock shows.
func (c *Clock) Now() time.Time { return time.Unix(0, c.at.Load()).UTC() }

// Pass lets time pass.
func (c *Clock) Pass(d time.Duration) { c.at.Add(int64(d)) }

// Client speaks to a running program.
type Client struct {
	t    testing.TB
	URL  string
	HTTP *http.Client
	// Forwarded is the address for which a proxy would speak; "" is none.
	Forwarded string
}

// Stranger is a client that has not signed in.
func Stranger(t testing.TB, url string) *Client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &Client{t: t, URL: url, HTTP: &http.Client{Jar: jar, Timeout: 3 * time.Minute}}
}

// SignedIn is a client of the test account.
func SignedIn(t testing.TB, url string) *Client {
	c := Stranger(t, url)
	c.Want(http.StatusOK, http.MethodPost, "/api/sign-in", map[string]string{"login": Login, "password": Password}, nil)
	return c
}

// Do sends a request. A body that is bytes is sent as it is, others as JSON.
func (c *Client) Do(method, path string, body any) (int, []byte) {
	c.t.Helper()
	var reader io.Reader
	kind := "application/json"
	switch b := body.(type) {
	case nil:
	case []byte:
		reader, kind = bytes.NewReader(b), "application/octet-stream"
	case string:
		reader = bytes.NewReader([]byte(b))
	default:
		text, err := json.Marshal(b)
		require.NoError(c.t, err)
		reader = bytes.NewReader(text)
	}
	req, err := http.NewRequest(method, c.URL+path, reader)
	require.NoError(c.t, err)
	req.Header.Set("Content-Type", kind)
	if c.Forwarded != "" {
		req.Header.Set("X-Forwarded-For", c.Forwarded)
	}
	resp, err := c.HTTP.Do(req)
	require.NoError(c.t, err)
	defer resp.Body.Close() //nolint:errcheck // it is read to the end
	content, err := io.ReadAll(resp.Body)
	require.NoError(c.t, err)
	return resp.StatusCode, content
}

// Text gets what is no JSON.
func (c *Client) Text(path string) (int, string) {
	c.t.Helper()
	status, content := c.Do(http.MethodGet, path, nil)
	return status, string(content)
}

// Want sends a request, requires its status and decodes the answer into out.
func (c *Client) Want(status int, method, path string, body, out any) {
	c.t.Helper()
	got, content := c.Do(method, path, body)
	require.Equal(c.t, status, got, "%s %s: %s", method, path, content)
	if out != nil {
		require.NoError(c.t, json.Unmarshal(content, out), "%s", content)
	}
}

// Record reads what became of a message, with its recipients and who was left out,
// into one value.
func (c *Client) Record(id int64, out any) {
	c.t.Helper()
	var whole map[string]json.RawMessage
	var left struct{ People json.RawMessage }
	path := fmt.Sprintf("/api/messages/%d", id)
	c.Want(http.StatusOK, http.MethodGet, path+"/record", nil, &whole)
	c.Want(http.StatusOK, http.MethodGet, path+"/recipients?count=500", nil, &whole)
	c.Want(http.StatusOK, http.MethodGet, path+"/left-out?count=500", nil, &left)
	whole["leftOut"] = left.People
	text, err := json.Marshal(whole)
	require.NoError(c.t, err)
	require.NoError(c.t, json.Unmarshal(text, out), "%s", text)
}

// Problem sends a request and returns the words of the problem it is answered with.
func (c *Client) Problem(status int, method, path string, body any) string {
	c.t.Helper()
	var problem struct{ Detail string }
	c.Want(status, method, path, body, &problem)
	require.NotEmpty(c.t, problem.Detail)
	return problem.Detail
}

// Eventually waits until a condition holds.
func Eventually(t testing.TB, what string, holds func() bool) {
	t.Helper()
	require.Eventually(t, holds, Patience, 10*time.Millisecond, what)
}

// Root is the folder of the module.
func Root() string {
	_, file, _, _ := runtime.Caller(0)
	return filepath.Join(filepath.Dir(file), "..", "..")
}

// Write writes a file into a test's own folder and returns its path.
func Write(t testing.TB, name string, content []byte) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, content, 0o600))
	return path
}
