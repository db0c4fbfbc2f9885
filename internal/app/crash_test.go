package app_test

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

func lateFailure(via delivery.Via, key string) delivery.Report {
	return delivery.Report{Via: via, DeliveryKey: key, Key: "late", State: delivery.Failed, Detail: "late", OccurredAt: time.Now()}
}

// program is the real binary, built once.
func program(t *testing.T) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "upper-lantern")
	build := exec.Command("go", "build", "-o", path, "./cmd/upper-lantern")
	build.Dir = testkit.Root()
	out, err := build.CombinedOutput()
	require.NoError(t, err, "%s", out)
	return path
}

// carriers are stand-ins that outlive the process that uses them.
type carriers struct {
	box           *standin.Box
	mail, gateway string
}

func startCarriers(t *testing.T, returnMail string) carriers {
	box, err := standin.Open(t.TempDir(), standin.Options{
		ReturnMail: returnMail, Token: "token", Secret: "secret", Now: time.Now, Log: slog.New(slog.DiscardHandler),
		Delay: func() time.Duration { return 5 * time.Millisecond },
	})
	require.NoError(t, err)
	mail, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	server := box.MailServer()
	go server.Serve(mail) //nolint:errcheck // it ends with the test
	gateway := httptest.NewServer(box.Gateway())
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() {
		box.Run(ctx)
		close(done)
	}()
	t.Cleanup(func() {
		stop()
		<-done
		gateway.Close()
		require.NoError(t, server.Close())
		require.NoError(t, box.Close())
	})
	return carriers{box, "smtp://" + mail.Addr().String(), gateway.URL}
}

func freePort(t *testing.T) string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close() //nolint:errcheck // it only held the port
	return l.Addr().String()
}

// process is one life of the program.
type process struct {
	command *exec.Cmd
	url     string
}

func launch(t *testing.T, binary, folder, address, returnMail string, c carriers) process {
	_, port, err := net.SplitHostPort(address)
	require.NoError(t, err)
	command := exec.Command(binary, "serve", "--data", folder, "--port", port, "--mail", c.mail, "--return-mail", returnMail,
		"--text-gateway", c.gateway+"/texts", "--voice-gateway", c.gateway+"/calls", "--token", "token", "--secret", "secret")
	out, err := command.StdoutPipe()
	require.NoError(t, err)
	var problems bytes.Buffer
	command.Stderr = &problems
	require.NoError(t, command.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err, "%s", problems.String())
	return process{command, strings.TrimSpace(line[strings.Index(line, "http"):])}
}

func (p process) kill() {
	_ = p.command.Process.Kill()
	_ = p.command.Wait()
}

// Killing the program again and again in the middle of 500 deliveries neither
// loses nor doubles one.
func TestKillingTheProgramNeitherLosesNorDoubles(t *testing.T) {
	const people = 250
	var csv strings.Builder
	csv.WriteString("Id,Name,Role,Mobile,Email,Group\n")
	for n := range people {
		fmt.Fprintf(&csv, "P%d,Bo Venn%d,member,07700 900%03d,bo%d@example.org,Crew\n", n, n, n, n)
	}
	folder := testkit.Folder(t, csv.String(), nil)
	binary := program(t)
	address, returnMail := freePort(t), freePort(t)
	c := startCarriers(t, returnMail)

	p := launch(t, binary, folder, address, returnMail, c)
	defer func() { p.kill() }()
	client := testkit.SignedIn(t, p.url)
	id := send(client, `{"urgency":"routine","audience":{"parts":[{"kind":"group","group":1}],"receivers":"guardians"},"subject":"All","email":"Dear {{full name}}","ownText":false,"text":"","firstOnly":false,"steps":[["email","text"]]}`)

	taken := func() int {
		items, err := c.box.All(context.Background())
		require.NoError(t, err)
		return len(items)
	}
	for _, next := range []int{40, 140, 260, 400} {
		testkit.Eventually(t, fmt.Sprintf("%d deliveries have left", next), func() bool { return taken() >= next })
		p.kill()
		p = launch(t, binary, folder, address, returnMail, c)
	}
	r := settled(t, client, id)
	assert.Equal(t, figures{Recipients: people, Reached: people, Deliveries: 2 * people}, r.Message.Figures)

	items, err := c.box.All(context.Background())
	require.NoError(t, err)
	require.Len(t, items, 2*people)
	seen := map[string]bool{}
	for _, item := range items {
		key := string(item.Channel) + item.Address + item.Body
		require.False(t, seen[key], "doubled: %s", key)
		seen[key] = true
	}
}

// refuse runs the program, expecting it to end with one clear line.
func refuse(t *testing.T, binary string, arguments ...string) string {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), testkit.Patience)
	defer cancel()
	command := exec.CommandContext(ctx, binary, arguments...)
	var problems bytes.Buffer
	command.Stderr = &problems
	err := command.Run()
	var ended *exec.ExitError
	require.True(t, errors.As(err, &ended), "it ended with %v", err)
	require.Equal(t, 1, ended.ExitCode())
	lines := strings.Split(strings.TrimSpace(problems.String()), "\n")
	require.Len(t, lines, 1, "one line: %s", problems.String())
	return lines[0]
}

func TestTheCommandLineSaysWhatIsWrong(t *testing.T) {
	binary := program(t)
	busy, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer busy.Close() //nolint:errcheck // the test is over
	_, port, err := net.SplitHostPort(busy.Addr().String())
	require.NoError(t, err)
	occupied := filepath.Join(t.TempDir(), "a file")
	require.NoError(t, os.WriteFile(occupied, nil, 0o600))

	assert.Contains(t, refuse(t, binary, "demo", "--data", t.TempDir(), "--port", port), "cannot be listened on")
	assert.Contains(t, refuse(t, binary, "demo", "--data", filepath.Join(occupied, "data"), "--port", "0"), "data folder")
	assert.Contains(t, refuse(t, binary, "serve", "--data", t.TempDir(), "--port", "0", "--stand-ins"), "holds no organisation yet")
	assert.Contains(t, refuse(t, binary, "serve", "--data", t.TempDir()), "name the carriers")
	assert.Contains(t, refuse(t, binary, "user", "--data", t.TempDir(), "a@example.org", "--name", "A", "--password", "short"), "at least 10 characters")
	assert.Contains(t, refuse(t, binary, "import", "--data", testkit.Folder(t, "", nil), testkit.Write(t, "x.csv", []byte("PK\x00"))), "no roster file")
}

func TestImportingFromTheCommandLine(t *testing.T) {
	binary, folder := program(t), testkit.Folder(t, "", nil)
	file := testkit.Write(t, "people.csv", []byte(testkit.Roster))
	dry, err := exec.Command(binary, "import", "--data", folder, "--dry", file).CombinedOutput()
	require.NoError(t, err, "%s", dry)
	assert.Contains(t, string(dry), "Would be: People: 8 added.")
	done, err := exec.Command(binary, "import", "--data", folder, file).CombinedOutput()
	require.NoError(t, err, "%s", done)
	assert.Contains(t, string(done), "People: 8 added.")
	again, err := exec.Command(binary, "import", "--data", folder, file).CombinedOutput()
	require.NoError(t, err, "%s", again)
	assert.Contains(t, string(again), "Nothing changed")
	assert.NotContains(t, string(again), http.StatusText(http.StatusInternalServerError))
}
