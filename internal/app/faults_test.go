package app_test

import (
	"database/sql"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// crew is how many people get a text each.
const crew = 60

func crewFile() string {
	var csv strings.Builder
	csv.WriteString("Id,Name,Role,Mobile,Group\n")
	for n := range crew {
		fmt.Fprintf(&csv, "P%d,Bo Venn%d,member,07700 900%03d,Crew\n", n, n, n)
	}
	return csv.String()
}

const toCrew = `{"urgency":"routine","audience":{"parts":[{"kind":"group","group":1}],"receivers":"guardians"},
	"subject":"All","email":"Dear {{full name}}","ownText":false,"text":"","firstOnly":false}`

// faulty stands between the program and a gateway: it does something of its own with
// some requests.
type faulty struct {
	gateway string
	n       atomic.Int64
	does    func(n int64, pass func() *http.Response, w http.ResponseWriter, r *http.Request) (done bool)
}

func (f *faulty) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	pass := func() *http.Response {
		on, err := http.NewRequestWithContext(r.Context(), r.Method, "http://"+f.gateway+r.URL.Path, r.Body)
		if err != nil {
			panic(http.ErrAbortHandler)
		}
		on.Header = r.Header
		answer, err := http.DefaultClient.Do(on)
		if err != nil {
			panic(http.ErrAbortHandler)
		}
		return answer
	}
	if f.does(f.n.Add(1), pass, w, r) {
		return
	}
	answer := pass()
	defer answer.Body.Close() //nolint:errcheck // it is passed on
	w.WriteHeader(answer.StatusCode)
	_, _ = io.Copy(w, answer.Body)
}

// Whatever a gateway does, each text gets there once, and its log agrees with ours.
func TestAGatewayWithFaults(t *testing.T) {
	for _, f := range []struct {
		name string
		does func(n int64, pass func() *http.Response, w http.ResponseWriter, r *http.Request) bool
	}{
		{"it hangs", func(n int64, _ func() *http.Response, _ http.ResponseWriter, r *http.Request) bool {
			if n > 2 {
				return false
			}
			_, _ = io.Copy(io.Discard, r.Body)
			<-r.Context().Done() // until the program gives up
			return true
		}},
		{"it drops the connection after taking", func(n int64, pass func() *http.Response, _ http.ResponseWriter, _ *http.Request) bool {
			if n%3 != 0 {
				return false
			}
			_ = pass().Body.Close()
			panic(http.ErrAbortHandler)
		}},
		{"it answers garbage after taking", func(n int64, pass func() *http.Response, w http.ResponseWriter, _ *http.Request) bool {
			if n%3 != 0 {
				return false
			}
			_ = pass().Body.Close()
			w.WriteHeader(http.StatusBadGateway)
			_, _ = io.WriteString(w, "<html>\x00{{{")
			return true
		}},
		{"it throttles", func(n int64, _ func() *http.Response, w http.ResponseWriter, _ *http.Request) bool {
			if n%25 != 0 {
				return false
			}
			w.Header().Set("Retry-After", "1")
			w.WriteHeader(http.StatusTooManyRequests)
			return true
		}},
	} {
		t.Run(f.name, func(t *testing.T) {
			t.Parallel()
			s := newSite(t, testkit.Folder(t, crewFile(), nil))
			between := httptest.NewServer(&faulty{gateway: s.gateway, does: f.does})
			t.Cleanup(between.Close)
			behind := s
			behind.gateway = strings.TrimPrefix(between.URL, "http://")
			p := behind.serve(t)
			t.Cleanup(p.kill)
			id := send(testkit.SignedIn(t, p.url), toCrew)
			kept, err := store.Open(s.folder)
			require.NoError(t, err)
			defer kept.Close() //nolint:errcheck // only read
			allReached(t, kept, id)
			agrees(t, kept, id, s.carriersLog(t))
		})
	}
}

// allReached waits until a message has reached everybody.
func allReached(t *testing.T, kept *store.Store, id int64) {
	t.Helper()
	testkit.Eventually(t, "everybody is reached", func() bool {
		f, err := kept.Figures(t.Context(), id)
		return err == nil && f.Reached == crew
	})
}

// agrees compares the carriers' log with the deliveries of a message, one by one.
func agrees(t *testing.T, kept *store.Store, id int64, log map[string]standin.Item) {
	t.Helper()
	list, err := kept.Deliveries(t.Context(), id)
	require.NoError(t, err)
	require.Len(t, list, crew)
	for _, d := range list {
		_, taken := log[about(d.Channel, d.Address, d.Content.Body)]
		assert.True(t, taken, "the carrier knows of %s", d.Address)
		assert.Equal(t, delivery.Arrived, d.State)
	}
	assert.Len(t, log, crew, "and of nothing else")
}

// logOf is what the stand-ins of an instance took, each once.
func logOf(t *testing.T, i *app.Instance) map[string]standin.Item {
	t.Helper()
	items, err := i.Box.All(t.Context())
	require.NoError(t, err)
	log := map[string]standin.Item{}
	for _, item := range items {
		log[about(item.Channel, item.Address, item.Body)] = item
	}
	require.Len(t, log, len(items), "each once")
	return log
}

// While something goes wrong in the program itself, what is going out goes on and is
// written down as soon as that can be.
func TestAProgramInTrouble(t *testing.T) {
	slow := func(c *app.Config) { c.Delay = func() time.Duration { return 50 * time.Millisecond } }
	for _, f := range []struct {
		name string
		goes func(t *testing.T, i *app.Instance, folder string, clock *testkit.Clock)
	}{
		{"the disk is full for a while", func(t *testing.T, i *app.Instance, _ string, _ *testkit.Clock) {
			_, writer := i.Store.Sessions()
			_, err := writer.Exec("PRAGMA max_page_count = 1") // no less than there are
			require.NoError(t, err)
			t.Cleanup(func() { _, _ = writer.Exec("PRAGMA max_page_count = 1073741824") })
			testkit.Eventually(t, "nothing can be written", func() bool {
				long := message.Draft{Content: message.Content{Text: strings.Repeat("words ", 5000)}}
				_, err := i.Store.AddDraft(t.Context(), 1, long, time.Now())
				return err != nil
			})
			_, err = writer.Exec("PRAGMA max_page_count = 1073741824")
			require.NoError(t, err)
		}},
		{"the clock jumps an hour ahead, and back", func(_ *testing.T, _ *app.Instance, _ string, clock *testkit.Clock) {
			clock.Pass(time.Hour)
			clock.Pass(-2 * time.Hour)
			clock.Pass(2 * time.Hour)
		}},
		{"a backup holds the database", func(t *testing.T, i *app.Instance, folder string, _ *testkit.Clock) {
			other, err := sql.Open("sqlite", "file:"+filepath.Join(folder, store.FileName)+
				"?_pragma=busy_timeout(10000)&_txlock=immediate")
			require.NoError(t, err)
			defer other.Close() //nolint:errcheck // it only held a lock
			held, err := other.Begin()
			require.NoError(t, err)
			require.NoError(t, i.Store.CopyTo(t.Context(), filepath.Join(t.TempDir(), "copy.db")))
			file := filepath.Join(t.TempDir(), "lantern.tar.zst")
			out, err := exec.Command(program(t), "backup", "--data", folder, file).CombinedOutput()
			require.NoError(t, err, "%s", out)
			require.NoError(t, held.Rollback())
		}},
	} {
		t.Run(f.name, func(t *testing.T) {
			clock := testkit.NewClock(time.Now())
			folder := testkit.Folder(t, crewFile(), nil)
			i := testkit.Start(t, folder, func(c *app.Config) {
				slow(c)
				c.Now = clock.Now
			})
			id := send(testkit.SignedIn(t, i.URL), toCrew)
			testkit.Eventually(t, "it is going out", func() bool { // what is not by then could be late
				m, err := i.Store.Heading(t.Context(), id)
				return err == nil && m.State != store.Held
			})
			f.goes(t, i, folder, clock)
			looks := 0
			testkit.Eventually(t, "everybody is reached", func() bool {
				// Time goes on: a report that was signed by a clock that jumped is refused, and
				// comes again after a part of its age. It goes on slowly enough for a report to
				// be read within the minutes for which it is believed.
				if looks++; looks%20 == 0 {
					clock.Pass(time.Minute)
				}
				f, err := i.Store.Figures(t.Context(), id)
				return err == nil && f.Reached == crew
			})
			agrees(t, i.Store, id, logOf(t, i))
		})
	}
}
