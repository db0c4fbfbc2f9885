package httpapi_test

import (
	"bytes"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/attachment"
	rules "upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

var (
	png = []byte("\x89PNG\r\n\x1a\n a picture")
	pdf = []byte("%PDF-1.7 a map")
)

type uploaded struct {
	Hash, Name, Type string
	Size             int64
	Seconds          int
}

func (u uploaded) json() string {
	return fmt.Sprintf(`{"hash":%q,"name":%q,"type":%q,"size":%d}`, u.Hash, u.Name, u.Type, u.Size)
}

func upload(c *testkit.Client, name string, content []byte) (u uploaded) {
	c.Want(http.StatusOK, http.MethodPost, "/api/files?name="+name, content, &u)
	return u
}

// received waits until so many things arrived at the stand-ins.
func received(t *testing.T, box *standin.Box, n int) []standin.Item {
	t.Helper()
	var all []standin.Item
	testkit.Eventually(t, "everything arrives", func() bool {
		var err error
		all, err = box.All(t.Context())
		return err == nil && len(all) == n
	})
	return all
}

func TestAFormattedEmailArrivesWithItsFiles(t *testing.T) {
	i, c := start(t)
	picture, chart := upload(c, "lock.png", png), upload(c, "map.pdf", pdf)
	doc := `{"type":"doc","content":[{"type":"heading","attrs":{"level":2},"content":[{"type":"text","text":"When & where"}]},` +
		`{"type":"paragraph","content":[{"type":"text","text":"Dear {{first name}}, "},{"type":"text","text":"see","marks":[{"type":"link","attrs":{"href":"https://map.example"}}]}]},` +
		`{"type":"image","attrs":{"src":"file:` + picture.Hash + `","alt":"the lock"}}]}`
	draft := strings.Replace(draftOf(`{"kind":"addresses","addresses":["rania@example.org"]}`, "EMAIL"), `"EMAIL"`, doc, 1)
	draft = strings.Replace(draft, `"subject"`, `"files":[`+picture.json()+","+chart.json()+`],"subject"`, 1)

	var p struct {
		Deliveries []struct{ Body, HTML string }
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/preview?index=0", draft, &p)
	assert.Contains(t, p.Deliveries[0].HTML, `src="/api/files/`+picture.Hash)
	assert.Contains(t, p.Deliveries[0].HTML, "Dear Rania,")

	id := sendDraft(t, c, draft)
	mail := received(t, i.Box, 1)[0]
	assert.Equal(t, "When & where\nDear Rania, see (https://map.example)\n[the lock]", mail.Body, "the plain part")
	assert.Contains(t, mail.HTML, "When &amp; where")
	assert.Contains(t, mail.HTML, "cid:"+picture.Hash)
	assert.ElementsMatch(t, []standin.ItemFile{
		{Name: "lock.png", Type: "image/png", Size: len(png), Shown: true, Hash: picture.Hash},
		{Name: "map.pdf", Type: "application/pdf", Size: len(pdf), Hash: chart.Hash},
	}, mail.Files)
	status, content := c.Do(http.MethodGet, "/api/bench/people/1/files/"+chart.Hash, nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, pdf, content, "it is opened on the Bench")
	c.Problem(http.StatusNotFound, http.MethodGet, "/api/bench/people/2/files/"+chart.Hash, nil)
	c.Problem(http.StatusNotFound, http.MethodGet, "/api/bench/people/1/files/"+strings.Repeat("0", 64), nil)
	c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/bench/people/1/press", `{"key":"x","pressed":"1"}`)
	var rec struct{ Email string }
	c.Record(id, &rec)
	assert.Contains(t, rec.Email, "Dear {{first name}}")
}

func TestFiles(t *testing.T) {
	_, c := start(t)
	f := upload(c, "a%2F..%2Fmap.pdf", pdf)
	assert.Equal(t, "map.pdf", f.Name)
	assert.Equal(t, f.Hash, upload(c, "again.pdf", pdf).Hash, "the same content is kept once")
	status, content := c.Do(http.MethodGet, "/api/files/"+f.Hash, nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, pdf, content)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/files?name=map.pdf", png),
		"its content is that of a png file",
	)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/files?name=run.exe", []byte("MZ")),
		"exe files cannot be sent",
	)
	c.Want(
		http.StatusRequestEntityTooLarge, http.MethodPost, "/api/files?name=a.pdf",
		bytes.Repeat([]byte("x"), attachment.LargestFile+10), nil,
	)
	c.Want(http.StatusNotFound, http.MethodGet, "/api/files/"+strings.Repeat("0", 64), nil, nil)
	c.Want(http.StatusUnprocessableEntity, http.MethodGet, "/api/files/..%2Fx", nil, nil)
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan",
		strings.Replace(draftOf(coaches, "x"), `"email":"x"`, `"email":{"type":"doc","content":[{"type":"image","attrs":{"src":"file:`+f.Hash+`"}}]}`, 1)),
		"a picture that is not among the files")
}

func TestAFileThatIsNotHereKeepsAMessage(t *testing.T) {
	_, c := start(t)
	gone := uploaded{Hash: strings.Repeat("0", 64), Name: "map.pdf", Type: "application/pdf", Size: 5}
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := strings.Replace(draftOf(coaches, "Map"), `"subject"`, `"files":[`+gone.json()+`],"subject"`, 1)
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &m)
	assert.Contains(
		t,
		c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d}`, m.Revision)),
		"add map.pdf again",
	)
}

func TestTwelveFilesOfFiveMegabytes(t *testing.T) {
	i, c := startWith(t, func(o *store.Organisation) { o.Sending = rules.Sending{MailLimit: 60} })
	var files []string
	for n := range 12 {
		content := append([]byte(fmt.Sprintf("%%PDF-1.7 %d ", n)), bytes.Repeat([]byte{byte(n), 1}, 2_499_990)...)
		files = append(files, upload(c, fmt.Sprintf("map-%d.pdf", n), content).json())
	}
	with := func(files []string) string {
		return strings.Replace(
			draftOf(`{"kind":"addresses","addresses":["rania@example.org"]}`, "Maps"), `"subject"`,
			`"files":[`+strings.Join(files, ",")+`],"subject"`, 1,
		)
	}
	sendDraft(t, c, with(files))
	assert.Len(t, received(t, i.Box, 1)[0].Files, 12)

	var p plan
	more := upload(c, "one-more.pdf", append([]byte("%PDF-1.7 "), bytes.Repeat([]byte("x"), 100_000)...))
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", with(append(files, more.json())), &p)
	assert.False(t, p.Sendable)
	assert.Contains(t, p.Problems[0].Sentence, "The files have 60.1 MB together, and mailboxes here take at most 60.0 MB")
}

func TestWhatACallSaysAndTakes(t *testing.T) {
	i, c := start(t)
	wav := func() []byte {
		status, sound := c.Do(http.MethodPost, "/api/listen", `{"text":"Meet at the lock."}`)
		require.Equal(t, http.StatusOK, status)
		return sound
	}()
	lena := `{"kind":"addresses","addresses":["+447700900188"]}`
	own := strings.Replace(
		draftOf(lena, "Come"), `"subject"`,
		`"voice":{"own":true,"text":"Hello {{first name}}","repeatKey":"2","confirmKey":"1"},"subject"`, 1,
	)
	id := sendDraft(t, c, own)
	call := received(t, i.Box, 1)[0]
	assert.Equal(t, roster.Voice, call.Channel)
	assert.Equal(t, "Hello Lena", call.Body)
	assert.Equal(t, "key 2 repeats it, key 1 confirms it", call.Offers)
	testkit.Eventually(t, "it is confirmed", func() bool {
		var rec struct{ Recipients []struct{ State string } }
		c.Record(id, &rec)
		return rec.Recipients[0].State == "answered"
	})

	recording := upload(c, "flood.wav", wav)
	require.Positive(t, recording.Seconds)
	played := fmt.Sprintf(`"voice":{"recording":%s,"seconds":%d},"subject"`, recording.json(), recording.Seconds)
	sendDraft(t, c, strings.Replace(draftOf(lena, "Come"), `"subject"`, played, 1))
	call = received(t, i.Box, 2)[1]
	assert.Empty(t, call.Body)
	assert.Equal(t, "plays a recording", call.Offers)
	status, content := testkit.Stranger(t, i.URL).Do(http.MethodGet, "/carrier/recordings/"+recording.Hash, nil)
	assert.Equal(t, http.StatusOK, status, "the carrier fetches it")
	assert.Equal(t, wav, content)
	status, _ = c.Do(http.MethodGet, "/carrier/recordings/"+upload(c, "map.pdf", pdf).Hash, nil)
	assert.Equal(t, http.StatusNotFound, status, "a map is no recording")

	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/listen", `{"text":"x","language":"tlh"}`),
		"no voice for this language",
	)
	both := strings.Replace(draftOf(lena, "Come"), `"subject"`, `"voice":{"repeatKey":"1","confirmKey":"1"},"subject"`, 1)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan", both), "cannot both repeat and confirm",
	)
}

func TestPasteSaysWhatItDropped(t *testing.T) {
	_, c := start(t)
	var got struct {
		Content any
		Dropped []string
	}
	c.Want(
		http.StatusOK, http.MethodPost, "/api/paste", map[string]string{"html": "<p>Hello</p><script>x()</script>"}, &got,
	)
	assert.Equal(t, "Hello", got.Content)
	assert.Equal(t, []string{"1 script"}, got.Dropped)
	c.Want(http.StatusOK, http.MethodPost, "/api/paste", map[string]string{"text": "a\u200bb"}, &got)
	assert.Equal(t, "ab", got.Content)
}

func TestFieldsOfTheOrganisation(t *testing.T) {
	_, c := start(t)
	c.Want(http.StatusOK, http.MethodPost, "/api/attributes", `{"name":"Swim test","kind":"yes-no"}`, nil)
	var session struct {
		Fields     []string
		ReadsAloud bool
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/session", nil, &session)
	assert.Contains(t, session.Fields, "swim test")
	assert.True(t, session.ReadsAloud)
	sami := person(c, rania+4).Sheet
	require.Equal(t, "Sami", sami.GivenName)
	sami.Values = []roster.Value{{Attribute: 1, Value: "no"}}
	save(t, c, sami)
	var p struct {
		Deliveries []struct{ Body string }
	}
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/plan/preview?person=%d", rania),
		draftOf(juniors, "{{dependents}} in {{group}} of {{unit}}: swim test {{Swim  test}}"), &p)
	assert.Equal(t, "Sami in Junior squads of Quillmere Rowing Club & Flood Watch: swim test no", p.Deliveries[0].Body)
}
