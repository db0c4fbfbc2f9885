package app_test

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

func lateFailure(via delivery.Via, key string) delivery.Report {
	return delivery.Report{
		Via: via, DeliveryKey: key, Key: "late", State: delivery.Failed, Detail: "late", OccurredAt: time.Now(),
	}
}

// built is the real binary, made once for all tests.
var built = sync.OnceValues(func() (string, error) {
	folder, err := os.MkdirTemp("", "upper-lantern-*")
	if err != nil {
		return "", err
	}
	path := filepath.Join(folder, "upper-lantern")
	build := exec.Command("go", "build", "-o", path, "./cmd/upper-lantern")
	build.Dir = testkit.Root()
	if out, err := build.CombinedOutput(); err != nil {
		return "", fmt.Errorf("%w: %s", err, out)
	}
	return path, nil
})

func program(t *testing.T) string {
	t.Helper()
	path, err := built()
	require.NoError(t, err)
	return path
}

func TestMain(m *testing.M) {
	code := m.Run()
	if path, err := built(); err == nil {
		_ = os.RemoveAll(filepath.Dir(path))
	}
	os.Exit(code)
}

func freePort(t *testing.T) string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close() //nolint:errcheck // it only held the port
	return l.Addr().String()
}

// process is one life of a program.
type process struct {
	command *exec.Cmd
	url     string
}

// starts runs a program and waits for the line in which it says that it is ready.
func starts(t *testing.T, command *exec.Cmd) process {
	out, err := command.StdoutPipe()
	require.NoError(t, err)
	var problems bytes.Buffer
	command.Stderr = &problems
	require.NoError(t, command.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err, "%s", problems.String())
	return process{command, strings.TrimSpace(line[strings.LastIndex(line, "http"):])}
}

func (p process) kill() {
	_ = p.command.Process.Kill()
	_ = p.command.Wait()
}

// site is a program and stand-ins, each a process of its own.
type site struct {
	binary, folder, port, returnMail, mail, gateway, taken string
}

func newSite(t *testing.T, folder string) site {
	_, port, err := net.SplitHostPort(freePort(t))
	require.NoError(t, err)
	s := site{
		binary: program(t), folder: folder, port: port, returnMail: freePort(t), mail: freePort(t), gateway: freePort(t),
		taken: t.TempDir(),
	}
	standIns := starts(t, exec.Command(s.binary, "stand-ins", "--data", s.taken, "--mail", s.mail, "--gateway", s.gateway,
		"--return-mail", s.returnMail, "--token", "token", "--secret", "secret"))
	t.Cleanup(standIns.kill)
	return s
}

func (s site) serve(t *testing.T) process {
	return starts(t, exec.Command(s.binary, "serve", "--data", s.folder, "--port", s.port, "--mail", "smtp://"+s.mail, "--return-mail", s.returnMail,
		"--text-gateway", "http://"+s.gateway+"/texts", "--voice-gateway", "http://"+s.gateway+"/calls", "--push-stand-in",
		s.gateway,
		"--token", "token", "--secret", "secret"))
}

// about names a delivery by what anybody can see of it.
func about(channel roster.Channel, address, body string) string {
	return fmt.Sprint(channel, " to ", address, ": ", body)
}

// carriersLog is what the stand-ins took, by what it is about.
func (s site) carriersLog(t *testing.T) map[string]standin.Item {
	box, err := standin.Open(s.taken, standin.Options{Now: time.Now})
	require.NoError(t, err)
	defer box.Close() //nolint:errcheck // only read
	items, err := box.All(t.Context())
	require.NoError(t, err)
	log := make(map[string]standin.Item, len(items))
	for _, item := range items {
		log[about(item.Channel, item.Address, item.Body)] = item
	}
	require.Len(t, log, len(items), "each once")
	return log
}

// fleet is a folder with people who have a number, a mailbox and a device each.
func fleet(t *testing.T, people int) string {
	var csv strings.Builder
	csv.WriteString("Id,Name,Role,Mobile,Email,Group\n")
	for n := range people {
		fmt.Fprintf(&csv, "P%d,Bo Venn%d,member,07700 900%03d,bo%d@example.org,Crew\n", n, n, n, n)
	}
	folder := testkit.Folder(t, csv.String(), nil)
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	r, err := s.Roster(t.Context())
	require.NoError(t, err)
	edit := &roster.Edit{Kind: roster.Changed, Said: "phones added"}
	var devices []store.Device
	for i := range r.Len() {
		before := r.Sheet(r.At(i).ID)
		after := before.Clone()
		name := r.At(i).Name() + "’s phone"
		after.Addresses = append(after.Addresses, roster.Address{Channel: roster.Push, Value: name, Health: roster.Untried})
		edit.People = append(edit.People, roster.PersonEdit{Before: before, After: after})
		d := standin.Device(name)
		devices = append(devices, store.Device{Name: name, Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth})
	}
	_, err = s.Apply(t.Context(), 1, edit, time.Now(), nil)
	require.NoError(t, err)
	require.NoError(t, s.Connect(t.Context(), devices, time.Now()))
	return folder
}

// Killing the program at any instant loses nothing. Carriers that know keys get
// nothing twice; what a mail server may have got is said to be undecided, is little,
// and is not sent again by itself. In the end the carriers' log and ours agree.
func TestKillingTheProgramAtAnyInstant(t *testing.T) {
	const people, messages, kills = 625, 2, 20
	const deliveries = people * messages * 4
	s := newSite(t, fleet(t, people))
	p := s.serve(t)
	defer func() { p.kill() }()
	client := testkit.SignedIn(t, p.url)
	kept, err := store.Open(s.folder)
	require.NoError(t, err)
	defer kept.Close() //nolint:errcheck // only read
	var ids []int64
	for n := range messages {
		ids = append(ids, send(client, fmt.Sprintf(`{"urgency":"routine","audience":{"parts":[{"kind":"group","group":1}],"receivers":"guardians"},
			"subject":"All %d","email":"Dear {{full name}}, number %d","ownText":false,"text":"","firstOnly":false,"steps":[["email","text","voice","push"]]}`, n, n)))
	}
	left := func() (n int) {
		for _, id := range ids {
			f, err := kept.Figures(t.Context(), id)
			require.NoError(t, err)
			n += deliveries/messages - f.Here
		}
		return n
	}
	instants := make([]int, kills)
	for i := range instants {
		instants[i] = 1 + rand.IntN(deliveries*9/10)
	}
	slices.Sort(instants)
	t.Log("killed after", instants)
	for _, instant := range instants {
		testkit.Eventually(t, fmt.Sprintf("%d have left", instant), func() bool { return left() >= instant })
		p.kill()
		p = s.serve(t)
	}

	count := func() map[delivery.State]int {
		states := map[delivery.State]int{}
		for _, id := range ids {
			list, err := kept.Deliveries(t.Context(), id)
			require.NoError(t, err)
			for _, d := range list {
				states[d.State]++
			}
		}
		return states
	}
	defer func() {
		if t.Failed() {
			t.Log("in the end", left(), "had left:", count())
		}
	}()
	testkit.Eventually(t, "all is reported on", func() bool {
		if left() < deliveries {
			return false
		}
		states := count()
		if states[delivery.Carrier]+states[delivery.Queued]+states[delivery.Retrying] > 0 {
			return false
		}
		// What was taken just before a crash is undecided until its report comes.
		return len(s.carriersLog(t)) == deliveries-states[delivery.Undecided]
	})
	undecided := count()[delivery.Undecided]
	t.Log("undecided in the end, of", people*messages, "emails:", undecided)
	assert.LessOrEqual(t, undecided, kills*24)
	log := s.carriersLog(t)
	for _, id := range ids {
		list, err := kept.Deliveries(t.Context(), id)
		require.NoError(t, err)
		for _, d := range list {
			item, taken := log[about(d.Channel, d.Address, d.Content.Body)]
			require.Equal(t, d.State.Reached(), taken, "%s to %s is %s", d.Channel, d.Address, d.State)
			require.Equal(t, d.State == delivery.Undecided, !taken)
			if d.Channel == roster.Email && taken {
				require.Equal(t, 1, item.Times, "an email left twice")
			}
		}
	}
	require.Len(t, log, deliveries-undecided)

	for _, id := range ids {
		client.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/decide", id), `{"again":true}`, nil)
	}
	testkit.Eventually(t, "what nobody could tell of was sent again", func() bool {
		states := count()
		return states[delivery.Arrived]+states[delivery.Opened]+states[delivery.Answered] == deliveries
	})
	assert.Len(t, s.carriersLog(t), deliveries)
}

func TestASecondProgramOnTheSameFolderIsRefused(t *testing.T) {
	folder := testkit.Folder(t, testkit.Roster, nil)
	testkit.Start(t, folder, nil)
	_, err := app.Start(t.Context(), testkit.Config(folder, nil))
	require.ErrorIs(t, err, store.ErrServed)
	assert.Contains(
		t, refuse(t, program(t), "serve", "--data", folder, "--port", "0", "--stand-ins"),
		"is served by another upper-lantern",
	)
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
	assert.Contains(t, refuse(t, binary, "export", "--data", t.TempDir(), "people.csv"), "holds no organisation yet")
	assert.Contains(t, refuse(t, binary, "serve", "--data", t.TempDir(), "--text-gateway", "http://127.0.0.1:1/texts"), "name the secret")
	assert.Contains(
		t, refuse(t, binary, "user", "--data", t.TempDir(), "a@example.org", "--name", "A", "--password", "short"),
		"at least 10",
	)
	assert.Contains(
		t, refuse(t, binary, "import", "--data", testkit.Folder(t, "", nil), testkit.Write(t, "x.csv", []byte("PK\x00"))),
		"no roster file",
	)
}

func TestSettingUpFromTheCommandLine(t *testing.T) {
	binary, folder := program(t), t.TempDir()
	command := func(folder string, more ...string) []string {
		return append([]string{
			"init", "--data", folder, "--name", "Harrow Lock School", "--person", "Ottilie Venn", "--login",
			"ottilie@harrowlock.example", "--password", "otter gravel teapot",
		}, more...)
	}
	assert.Contains(t, refuse(t, binary, command(t.TempDir(), "--country", "QQ")...), `"QQ" is no country that is known`)
	assert.Contains(t, refuse(t, binary, command(t.TempDir(), "--country", "pl", "--zone", "Mars/Olympus")...), "no time zone")
	done, err := exec.Command(binary, command(folder, "--country", "pl")...).CombinedOutput()
	require.NoError(t, err, "%s", done)
	assert.Contains(t, string(done), "Harrow Lock School is set up")
	assert.Contains(t, refuse(t, binary, command(folder, "--country", "pl")...), "holds an organisation already")

	s, err := store.OpenServed(t.Context(), folder)
	require.NoError(t, err)
	defer s.Close() //nolint:errcheck // only read
	o, err := s.Organisation(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []string{"pl", "Europe/Warsaw", "PLN"}, []string{o.Language, o.TimeZone, o.Currency}, "as usual in the country")
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
