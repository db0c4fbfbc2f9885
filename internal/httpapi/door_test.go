package httpapi_test

import (
	"bufio"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/httpapi"
	"upperlantern/internal/testkit"
)

func credentials(password string) map[string]string {
	return map[string]string{"login": testkit.Login, "password": password}
}

// startBehindProxy runs the program behind a named proxy, so that clients can
// come from different networks.
func startBehindProxy(t *testing.T, proxies ...string) (from func(address string) *testkit.Client) {
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(c *app.Config) {
		for _, p := range proxies {
			c.Proxies = append(c.Proxies, netip.MustParsePrefix(p))
		}
	})
	return func(address string) *testkit.Client {
		c := testkit.Stranger(t, i.URL)
		c.Forwarded = address
		return c
	}
}

// tries gives wrong passwords until it has to wait, and returns how many it gave.
func tries(c *testkit.Client, most int) int {
	for n := range most {
		if status, _ := c.Do(http.MethodPost, "/api/sign-in", credentials("wrong")); status == http.StatusTooManyRequests {
			return n
		}
	}
	return most
}

func TestWrongPasswordsAreSlowedDownByAccountAndByNetwork(t *testing.T) {
	from := startBehindProxy(t, "127.0.0.1/32")
	office := from("192.0.2.10")
	office.Want(http.StatusOK, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)

	assert.Equal(t, 5, tries(from("198.51.100.7"), 20), "by account")
	elsewhere := from("203.0.113.9")
	problem := elsewhere.Problem(http.StatusTooManyRequests, http.MethodPost, "/api/sign-in", credentials(
		testkit.Password,
	))
	assert.Contains(t, problem, "Try again in", "from another network too")

	again := from("192.0.2.77") // the same network as the office
	again.Want(http.StatusOK, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)
	assert.Equal(t, 5, tries(from("192.0.2.10"), 20), "tries from there are counted too")
}

func TestWrongPasswordsOfOneNetworkAreSlowedDown(t *testing.T) {
	from := startBehindProxy(t, "127.0.0.1/32")
	refused := 0
	for n := range 40 {
		status, _ := from("198.51.100.7").Do(http.MethodPost, "/api/sign-in", map[string]string{
			"login": fmt.Sprintf("a%d@example.org", n), "password": "wrong",
		})
		if status == http.StatusTooManyRequests {
			refused++
		}
	}
	assert.Equal(t, 10, refused, "thirty are free")
	from("203.0.113.9").Want(http.StatusOK, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)
}

// Who is no named proxy cannot say that they come from elsewhere.
func TestAnUnnamedProxyIsNotBelieved(t *testing.T) {
	from := startBehindProxy(t, "10.0.0.0/8")
	given := 0
	for n := range 10 {
		status, _ := from(fmt.Sprintf("198.51.%d.7", n)).Do(http.MethodPost, "/api/sign-in", map[string]string{
			"login": fmt.Sprintf("b%d@example.org", n), "password": "wrong",
		})
		require.Equal(t, http.StatusUnauthorized, status)
		given++
	}
	for n := range 40 {
		from(fmt.Sprintf("198.51.100.%d", n)).Do(http.MethodPost, "/api/sign-in", map[string]string{
			"login": fmt.Sprintf("c%d@example.org", n), "password": "wrong",
		})
	}
	status, _ := from("203.0.113.1").Do(http.MethodPost, "/api/sign-in", map[string]string{
		"login": "d@example.org", "password": "wrong",
	})
	assert.Equal(t, http.StatusTooManyRequests, status, "all came from one network")
}

// Many at once are refused early, and the account is let in afterwards from where
// it was before.
func TestManyWrongPasswordsAtOnce(t *testing.T) {
	from := startBehindProxy(t, "127.0.0.1/32")
	from("192.0.2.10").Want(http.StatusOK, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)
	var all sync.WaitGroup
	var mu sync.Mutex
	answers := map[int]int{}
	for n := range 120 {
		all.Go(func() {
			status, _ := from(fmt.Sprintf("203.%d.113.9", n)).Do(http.MethodPost, "/api/sign-in", map[string]string{
				"login": fmt.Sprintf("%d@example.org", n), "password": "wrong",
			})
			mu.Lock()
			defer mu.Unlock()
			answers[status]++
		})
	}
	all.Wait()
	assert.Equal(t, 120, answers[http.StatusUnauthorized]+answers[http.StatusServiceUnavailable], "%v", answers)
	from("192.0.2.10").Want(http.StatusOK, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil)
}

func TestANewPasswordEndsOtherSessions(t *testing.T) {
	i, here := start(t)
	there := testkit.SignedIn(t, i.URL)
	all := `["see-people","edit-people","write","write-emergencies","read-records","run-reports","change-settings"]`
	here.Want(http.StatusOK, http.MethodPost, "/api/accounts", fmt.Sprintf(
		`{"id":1,"login":%q,"name":"Hugo","duty":"","active":true,"password":"another teapot gravel","scope":{"whole":true,"units":[]},"rights":%s}`, testkit.Login, all), nil)
	here.Want(http.StatusOK, http.MethodGet, "/api/session", nil, nil)
	there.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
	testkit.Stranger(t, i.URL).Want(
		http.StatusUnauthorized, http.MethodPost, "/api/sign-in", credentials(testkit.Password), nil,
	)
}

// listen reads a stream of events; the channel is closed when it ends.
func listen(t *testing.T, c *testkit.Client) <-chan string {
	resp, err := c.HTTP.Get(c.URL + "/api/events")
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, resp.StatusCode)
	lines := make(chan string, 100)
	go func() {
		defer close(lines)
		defer resp.Body.Close() //nolint:errcheck // it has ended
		for scanner := bufio.NewScanner(resp.Body); scanner.Scan(); {
			if strings.HasPrefix(scanner.Text(), "data:") {
				lines <- scanner.Text()
			}
		}
	}()
	return lines
}

// next is the next event, or "" when the stream has ended.
func next(t *testing.T, events <-chan string) string {
	select {
	case line := <-events:
		return line
	case <-time.After(testkit.Patience):
		t.Fatal("nothing comes")
		return ""
	}
}

func TestEventsTellWhatTheAccountMaySeeAndEndWithItsSession(t *testing.T) {
	i, office, una := startUnits(t, "Flood watch", access.SeePeople, access.Write)
	events := listen(t, una)
	next(t, events) // it is there
	var theirs, hers struct{ ID int64 }
	office.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &theirs)
	una.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &hers)
	assert.Contains(t, next(t, events), fmt.Sprintf(`"message":%d`, hers.ID), "nothing of a message that she may not see")

	other := testkit.Stranger(t, i.URL)
	other.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "unit@quillmere.example", "password": testkit.Password}, nil,
	)
	others := listen(t, other)
	next(t, others)
	una.Want(http.StatusNoContent, http.MethodDelete, "/api/session", nil, nil)
	for next(t, events) != "" { // what was on its way
	}
	office.Want(
		http.StatusOK, http.MethodPost, "/api/accounts",
		`{"id":2,"login":"unit@quillmere.example","name":"Una","duty":"","active":true,"password":"another teapot gravel","scope":{"whole":false,"units":[2]},"rights":["see-people"]}`,
		nil,
	)
	for next(t, others) != "" { // the stream ends with the old password
	}
}

// Bodies that trickle in from one network get a few places and no more, and the
// interface answers meanwhile.
func TestTricklingBodiesDoNotTakeTheProgramDown(t *testing.T) {
	i, c := start(t)
	address := strings.TrimPrefix(i.URL, "http://")
	refused := 0
	for range 100 {
		conn, err := net.Dial("tcp", address)
		require.NoError(t, err)
		defer conn.Close() //nolint:errcheck // the test is over
		_, err = fmt.Fprint(conn, "POST /carrier/reports HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n\r\n{")
		require.NoError(t, err)
		if err := conn.SetReadDeadline(time.Now().Add(50 * time.Millisecond)); err != nil {
			t.Fatal(err)
		}
		if answer, err := bufio.NewReader(conn).ReadString('\n'); err == nil {
			assert.Contains(t, answer, "503")
			refused++
		}
	}
	assert.GreaterOrEqual(t, refused, 30, "64 of one network are read at a time")
	c.Want(http.StatusOK, http.MethodGet, "/api/session", nil, nil)
	testkit.Stranger(t, i.URL).Want(http.StatusOK, http.MethodGet, "/api/sign-in", nil, nil)
}

// A deadline that stayed on the connection after the body would end a request
// that waits for its turn or takes long.
func TestNothingBoundsARequestAfterItsBody(t *testing.T) {
	_, description := httpapi.New(httpapi.Options{})
	for path, item := range description.Paths {
		for _, operation := range []*huma.Operation{item.Post, item.Put, item.Delete} {
			if operation != nil {
				assert.Negative(t, operation.BodyReadTimeout, path)
			}
		}
	}
}

func TestAnswersAreNotKept(t *testing.T) {
	for _, secure := range []bool{false, true} {
		i := testkit.Start(t, testkit.Folder(t, "", nil), func(c *app.Config) { c.Secure = secure })
		resp, err := http.Get(i.URL + "/api/sign-in")
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, "no-store", resp.Header.Get("Cache-Control"))
		assert.Equal(t, secure, resp.Header.Get("Strict-Transport-Security") != "")
	}
}
