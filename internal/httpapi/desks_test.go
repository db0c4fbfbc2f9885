package httpapi_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/password"
	"upperlantern/internal/sending"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

type threadSeen struct {
	ID           int64
	Person       int64
	Name, Waits  string
	Unread, Mine bool
	Holder, Note string
	Text         string
	ReadFrom     struct{ Value, Words string }
}

type threadRead struct {
	Thread  threadSeen
	Message int64
	Title   string
	Address string
	Entries []struct {
		ID                                                       int64
		Kind, Channel, Name, Said, Folded, Subject, State, Title string
		Message                                                  int64
		Files                                                    []struct {
			Hash, Name, Type string
			Size             int64
		}
		Copy *struct {
			Language, Text string
			Checked        bool
		}
		Dropped []string
	}
	Places []struct{ Channel, Address, Aside string }
	Maybe  []struct {
		ID         int64
		Name, Note string
	}
	Person *struct{ Name, Speaks string }
}

// office is a program with one desk at which the test account sits.
type deskOffice struct {
	*testing.T
	i     *app.Instance
	c     *testkit.Client
	clock *testkit.Clock
}

var deskMorning = time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC) // a Thursday

func atDesk(t *testing.T, more string) deskOffice {
	clock := testkit.NewClock(deskMorning)
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(a *app.Config) { a.Now = clock.Now })
	o := deskOffice{t, i, testkit.SignedIn(t, i.URL), clock}
	o.desk("Club office", more)
	return o
}

func (o deskOffice) desk(name, more string) {
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", deskBody(0, name, "1", more), nil)
}

func deskBody(id int, name, members, more string) string {
	whole := `{"id":%d,"name":%q,"units":[],"groups":[],"members":[%s],"hours":[],"outside":""%s}`
	return fmt.Sprintf(whole, id, name, members, more)
}

func (o deskOffice) threads(desk int, how string) (list struct {
	Threads []threadSeen
	All     int
}) {
	o.Helper()
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/desks/%d/threads?%s", desk, how), nil, &list)
	return list
}

// only is the one thread of the first desk.
func (o deskOffice) only() (t threadRead) {
	o.Helper()
	list := o.threads(1, "")
	require.Len(o.T, list.Threads, 1)
	return o.read(list.Threads[0].ID)
}

func (o deskOffice) read(id int64) (t threadRead) {
	o.Helper()
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/threads/%d", id), nil, &t)
	return t
}

func (o deskOffice) act(status int, thread int64, what, body string) {
	o.Helper()
	o.c.Want(status, http.MethodPost, fmt.Sprintf("/api/threads/%d/%s", thread, what), body, nil)
}

// answers lets somebody answer the last item that an address got.
func (o deskOffice) answers(address string, w standin.Written) {
	o.Helper()
	items, err := o.i.Box.Received(o.Context(), []string{address})
	require.NoError(o.T, err)
	require.NotEmpty(o.T, items)
	require.NoError(o.T, o.i.Box.Answer(o.Context(), []string{address}, items[0].Key, w))
}

// texts posts a text to us as the gateway does.
func (o deskOffice) texts(from, key, text string) {
	o.Helper()
	require.NoError(o.T, o.i.Box.Post(o.Context(), carrier.GatewayItem{
		Key: key, Channel: roster.Text, From: from, To: "+447700900100", Text: text, At: o.clock.Now(),
	}))
}

// got waits until an address got so many items, and returns the last.
func (o deskOffice) got(address string, n int) standin.Item {
	o.Helper()
	var items []standin.Item
	testkit.Eventually(o.T, address+" gets it", func() bool {
		var err error
		items, err = o.i.Box.Received(o.Context(), []string{address})
		return err == nil && len(items) == n
	})
	return items[0]
}

// leaves lets the hold of an answer pass.
func (o deskOffice) leaves(message int64) {
	o.clock.Pass(sending.AnswerHold + time.Second)
	o.i.Sending.Held(message)
}

// An email is answered: what was written stands in a thread at the desk, who wrote has
// answered the message, and what the desk writes back arrives.
func TestAnEmailIsAnsweredAndAnsweredBack(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, draftOf(`{"kind":"person","person":1}`, "Will you come?"))
	first := o.got("rania@example.org", 1)
	assert.Contains(t, first.ReplyTo, "reply+")
	o.answers("rania@example.org", standin.Written{Text: "Yes, both of us.", Files: []carrier.GatewayMedia{
		{Name: "form.pdf", Type: "application/pdf", Content: []byte(pdf)},
		{Name: "virus.exe", Type: "application/octet-stream", Content: []byte("MZ")},
	}})
	thread := o.only()
	assert.Equal(t, "Rania Haddad", thread.Thread.Name)
	assert.Equal(t, "us", thread.Thread.Waits)
	assert.True(t, thread.Thread.Unread)
	assert.Equal(t, id, thread.Message)
	require.Len(t, thread.Entries, 1)
	in := thread.Entries[0]
	assert.Equal(t, []string{"in", "email", "Rania Haddad", "Yes, both of us."}, []string{in.Kind, in.Channel, in.Name, in.Said})
	assert.Contains(t, in.Folded, "> Will you come?")
	require.Len(t, in.Files, 1)
	assert.Equal(t, "form.pdf", in.Files[0].Name)
	assert.Contains(t, in.Dropped[0], "virus.exe")
	status, content := o.c.Do(http.MethodGet, fmt.Sprintf("/api/threads/%d/files/%s", thread.Thread.ID, in.Files[0].Hash), nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, string(pdf), string(content))
	var s standingOf
	testkit.Eventually(t, "they have answered", func() bool {
		o.c.Record(id, &s)
		return s.Message.Figures.Answered == 1
	})

	var made struct{ Message int64 }
	path := fmt.Sprintf("/api/threads/%d/", thread.Thread.ID)
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"Thank you. Bring boots."}`, &made)
	thread = o.only()
	assert.Equal(t, "them", thread.Thread.Waits)
	assert.Equal(t, "held", thread.Entries[1].State)
	o.leaves(made.Message)
	back := o.got("rania@example.org", 2)
	assert.Equal(t, "Re: Outing", strings.TrimSpace(back.Subject))
	assert.Contains(t, back.Body, "Thank you. Bring boots.")
	testkit.Eventually(t, "it is known to have arrived", func() bool { return o.only().Entries[1].State == "arrived" })
	o.answers("rania@example.org", standin.Written{Text: "We will."})
	assert.Len(t, o.only().Entries, 3, "an answer to an answer is in the same thread")
	var list struct{ Messages []struct{ ID int64 } }
	o.c.Want(http.StatusOK, http.MethodGet, "/api/messages", nil, &list)
	assert.Len(t, list.Messages, 1, "answers stand in no list of messages")
}

// Files go with an answer by email, come back when it is taken back, and are refused where
// they cannot go.
func TestFilesInAnAnswer(t *testing.T) {
	o := atDesk(t, "")
	sendDraft(t, o.c, draftOf(`{"kind":"person","person":1}`, "Will you come?"))
	o.got("rania@example.org", 1)
	o.answers("rania@example.org", standin.Written{Text: "Where is it?"})
	thread := o.only()
	path := fmt.Sprintf("/api/threads/%d/", thread.Thread.ID)
	var kept struct {
		Hash, Name, Type string
		Size             int
	}
	status, content := o.c.Do(http.MethodPost, path+"files?name=map.pdf", []byte(pdf))
	require.Equal(t, http.StatusOK, status, "%s", content)
	require.NoError(t, json.Unmarshal(content, &kept))
	status, _ = o.c.Do(http.MethodPost, path+"files?name=run.exe", []byte("MZ"))
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	status, _ = o.c.Do(http.MethodPost, "/api/threads/999/files?name=map.pdf", []byte(pdf))
	assert.Equal(t, http.StatusNotFound, status)

	files := fmt.Sprintf(`"files":[{"hash":%q,"name":"map.pdf","type":"application/pdf","size":%d}]`, kept.Hash, kept.Size)
	said := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"answer",
		`{"text":"Here","channel":"text","address":"+447700900417",`+files+`}`)
	assert.Contains(t, said, "files go with an email")
	strange := strings.Replace(files, kept.Hash, strings.Repeat("ab", 32), 1)
	said = o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"answer", `{"text":"Here",`+strange+`}`)
	assert.Contains(t, said, "map.pdf is not here any more")
	large := strings.Replace(files, fmt.Sprint(kept.Size), fmt.Sprint(900<<20), 1)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"answer", `{"text":"Here",`+large+`}`)

	var made struct{ Message int64 }
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"Here",`+files+`}`, &made)
	var back struct {
		Text  string
		Files []struct{ Name string }
	}
	o.c.Want(http.StatusOK, http.MethodPost, path+"take-back", fmt.Sprintf(`{"message":%d}`, made.Message), &back)
	assert.Equal(t, "Here", back.Text)
	require.Len(t, back.Files, 1)
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"Here",`+files+`}`, &made)
	o.leaves(made.Message)
	mail := o.got("rania@example.org", 2)
	require.Len(t, mail.Files, 1)
	assert.Equal(t, "map.pdf", mail.Files[0].Name)
	thread = o.only()
	last := thread.Entries[len(thread.Entries)-1]
	require.Len(t, last.Files, 1)
	status, content = o.c.Do(http.MethodGet, path+"files/"+last.Files[0].Hash, nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, string(pdf), string(content))
}

// Answers come to the desk of the rule, or to the one that the sender chose, and the
// sender sees to which.
func TestToWhichDeskAnswersCome(t *testing.T) {
	o := atDesk(t, "")
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks",
		strings.Replace(deskBody(0, "Juniors", "1", ""), `"groups":[]`, `"groups":[1]`, 1), nil)
	comes := func(draft string) string {
		var p struct{ Sender struct{ Desk string } }
		o.c.Want(http.StatusOK, http.MethodPost, "/api/plan", draft, &p)
		return p.Sender.Desk
	}
	juniors := strings.Replace(draftOf(`{"kind":"group","group":2}`, "Hello"), `"receivers":"themselves"`, `"receivers":"guardians"`, 1)
	assert.Equal(t, "Juniors", comes(juniors), "U14 is in the junior squads")
	assert.Equal(t, "Club office", comes(draftOf(`{"kind":"person","person":1}`, "Hello")))
	chosen := strings.Replace(juniors, `"subject"`, `"desk":1,"subject"`, 1)
	assert.Equal(t, "Club office", comes(chosen))
	sendDraft(t, o.c, juniors)
	o.got("rania@example.org", 1)
	o.answers("rania@example.org", standin.Written{Text: "Yes"})
	assert.Equal(t, 1, o.threads(2, "waits=us").All)
	sendDraft(t, o.c, chosen)
	o.got("rania@example.org", 2)
	o.answers("rania@example.org", standin.Written{Text: "Yes again"})
	assert.Equal(t, 1, o.threads(1, "waits=us").All)
	assert.Equal(t, 1, o.threads(2, "waits=us").All)
}

// A held answer is taken back with its words, and the thread waits for us again.
func TestAnAnswerIsTakenBack(t *testing.T) {
	o := atDesk(t, "")
	o.texts("+447700900417", "K1", "Where do we meet?")
	thread := o.only().Thread.ID
	var made struct{ Message int64 }
	path := fmt.Sprintf("/api/threads/%d/", thread)
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"At the lock"}`, &made)
	var back struct{ Text string }
	o.texts("+447700900418", "K2", "And we?")
	list := o.threads(1, "waits=us").Threads
	require.Len(t, list, 1)
	another := fmt.Sprintf("/api/threads/%d/take-back", list[0].ID)
	o.c.Problem(http.StatusNotFound, http.MethodPost, another, made)
	o.act(http.StatusNoContent, list[0].ID, "settle", "")
	o.c.Want(http.StatusOK, http.MethodPost, path+"take-back", made, &back)
	assert.Equal(t, "At the lock", back.Text)
	assert.Equal(t, "us", o.read(thread).Thread.Waits)
	assert.Len(t, o.read(thread).Entries, 1)
	o.c.Problem(http.StatusNotFound, http.MethodPost, path+"take-back", made)
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"At the upper lock"}`, &made)
	o.leaves(made.Message)
	assert.Equal(t, "At the upper lock", o.got("+447700900417", 1).Body)
	o.c.Problem(http.StatusConflict, http.MethodPost, path+"take-back", made)
}

// What comes in is kept once; what is forged, replayed or not as it must be is refused.
func TestWhatGatewaysPost(t *testing.T) {
	o := atDesk(t, "")
	o.texts("+447700900417", "K1", "Hello")
	o.texts("+447700900417", "K1", "Hello")
	assert.Len(t, o.only().Entries, 1)
	body := func(change string) []byte {
		whole := map[string]any{"key": "K2", "channel": "text", "from": "+447700900417", "text": "Hi", "at": o.clock.Now()}
		require.NoError(t, json.Unmarshal([]byte(change), &whole))
		text, err := json.Marshal(whole)
		require.NoError(t, err)
		return text
	}
	for name, c := range map[string]struct {
		secret string
		at     time.Time
		body   []byte
		status int
		says   string
	}{
		"as it must be":       {o.i.Box.Secret, o.clock.Now(), body(`{}`), http.StatusNoContent, ""},
		"forged":              {"another", o.clock.Now(), body(`{}`), http.StatusUnauthorized, "not signed"},
		"replayed":            {o.i.Box.Secret, o.clock.Now().Add(-time.Hour), body(`{}`), http.StatusUnauthorized, "too far"},
		"no key":              {o.i.Box.Secret, o.clock.Now(), body(`{"key":""}`), http.StatusUnprocessableEntity, "key"},
		"from a name":         {o.i.Box.Secret, o.clock.Now(), body(`{"from":"INFO"}`), http.StatusUnprocessableEntity, "E.164"},
		"by pigeon":           {o.i.Box.Secret, o.clock.Now(), body(`{"channel":"email"}`), http.StatusUnprocessableEntity, "neither"},
		"no JSON":             {o.i.Box.Secret, o.clock.Now(), []byte("{"), http.StatusUnprocessableEntity, "cannot be read"},
		"more than is taken":  {o.i.Box.Secret, o.clock.Now(), bytes.Repeat([]byte(" "), 9<<20), http.StatusRequestEntityTooLarge, ""},
		"a time of next year": {o.i.Box.Secret, o.clock.Now(), body(`{"key":"K3","at":"2031-01-01T00:00:00Z"}`), http.StatusNoContent, ""},
	} {
		req, err := http.NewRequest(http.MethodPost, o.i.URL+"/carrier/incoming", bytes.NewReader(c.body))
		require.NoError(t, err)
		carrier.Sign(req.Header, c.secret, "id", c.at, c.body)
		resp, err := http.DefaultClient.Do(req)
		require.NoError(t, err, name)
		var said bytes.Buffer
		_, err = said.ReadFrom(resp.Body)
		require.NoError(t, err, name)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, c.status, resp.StatusCode, name)
		assert.Contains(t, said.String(), c.says, name)
	}
	assert.Len(t, o.only().Entries, 3)
}

// What was sent to a number that is none of ours is refused for good. A number stays ours
// for those whom we ever wrote to from it.
func TestANumberThatIsNotOurs(t *testing.T) {
	o := atDesk(t, "")
	posts := func(from, to, key string) error {
		return o.i.Box.Post(t.Context(), carrier.GatewayItem{
			Key: key, Channel: roster.Text, From: from, To: to, Text: "Hello", At: o.clock.Now(),
		})
	}
	const rania, piotr, before = "+447700900417", "+447700900418", "+447700900100"
	require.ErrorContains(t, posts(rania, "+447700900555", "K1"), incoming.ErrNotOurs.Error())
	assert.Zero(t, o.threads(1, "").All, "nothing was kept")
	o.c.Want(http.StatusOK, http.MethodPost, "/api/groups",
		`{"name":"Watch","kind":"picked","identity":{"number":"+447700900555"}}`, nil)
	require.NoError(t, posts(rania, "+447700900555", "K1"), "a group’s")
	require.NoError(t, posts(rania, "", "K2"), "a gateway that says none")

	o.answersThread(o.only().Thread.ID, "Hello")
	o.got(rania, 1)
	organisation, err := o.i.Store.Organisation(t.Context())
	require.NoError(t, err)
	organisation.NumberFrom = "+447700900101"
	require.NoError(t, o.i.Store.PutOrganisation(t.Context(), organisation))
	require.NoError(t, posts(rania, before, "K3"), "she answers what came from it")
	require.ErrorContains(t, posts(piotr, before, "K4"), incoming.ErrNotOurs.Error())
	require.NoError(t, posts(piotr, "+447700900101", "K5"))
	organisation.NumberFrom = ""
	require.NoError(t, o.i.Store.PutOrganisation(t.Context(), organisation))
	require.NoError(t, posts(piotr, "+447700900999", "K6"), "nobody said which are ours")
	assert.Len(t, o.read(o.threads(1, "find=Zielony").Threads[0].ID).Entries, 2)
}

// A stop word stops texts to the number, whoever has it and in emergencies too; it is
// confirmed once and undone by a start.
func TestStopWords(t *testing.T) {
	o := atDesk(t, "")
	const rania = "+447700900417"
	o.texts(rania, "K1", "Help")
	assert.Contains(t, o.got(rania, 1).Body, "هنا Quillmere", "in their language")
	o.texts(rania, "K2", "stop.")
	assert.Contains(t, o.got(rania, 2).Body, "START")
	o.texts(rania, "K3", "STOP")
	thread := o.only()
	assert.Equal(t, "quiet", thread.Thread.Waits, "words wait for nobody")
	assert.Equal(t, "they asked to be sent nothing there", placeOf(thread, rania))
	assert.Contains(t, o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost,
		fmt.Sprintf("/api/threads/%d/answer", thread.Thread.ID), `{"text":"Hello"}`), "nothing can go to "+rania)

	var p plan
	emergency := `{"urgency":"emergency","reason":"Flood","audience":{"parts":[{"kind":"person","person":1}],"receivers":"themselves"},` +
		`"steps":[["text"]],"subject":"Flood","email":"Leave","ownText":false,"text":"","firstOnly":false}`
	o.c.Want(http.StatusOK, http.MethodPost, "/api/plan", emergency, &p)
	assert.Equal(t, 0, p.Recipients, "a stop holds in an emergency")

	// The number moves to somebody else, and the stop with it.
	edits(o.c, "Rania Haddad", func(sheet map[string]any) { sheet["addresses"] = []any{} })
	edits(o.c, "Lena", func(sheet map[string]any) {
		sheet["addresses"] = []any{map[string]any{"channel": "text", "value": rania}}
	})
	toLena := strings.Replace(emergency, `"person":1`, `"person":3`, 1)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/plan", toLena, &p)
	assert.Equal(t, 0, p.Recipients, "it is kept with the number")
	o.texts(rania, "K4", "Start")
	assert.Contains(t, o.got(rania, 3).Body, "STOP", "two stops were confirmed once")
	o.c.Want(http.StatusOK, http.MethodPost, "/api/plan", toLena, &p)
	assert.Equal(t, 1, p.Recipients)
	o.texts(rania, "K5", "Stop the boat at the lock, please")
	assert.Len(t, o.threads(1, "waits=us").Threads, 1)
}

func placeOf(t threadRead, address string) string {
	for _, p := range t.Places {
		if p.Address == address && p.Channel == "text" {
			return p.Aside
		}
	}
	return "not theirs"
}

// A number that two people have asks who it is, and remembers.
func TestANumberOfTwoPeople(t *testing.T) {
	o := atDesk(t, "")
	const shared = "+447700900417"
	edits(o.c, "Piotr", func(sheet map[string]any) {
		sheet["addresses"] = []any{map[string]any{"channel": "text", "value": shared}}
	})
	o.texts(shared, "K1", "We are late")
	thread := o.only()
	assert.Zero(t, thread.Thread.Person)
	require.Len(t, thread.Maybe, 2)
	assert.Equal(t, []string{"guardian of Sami Haddad", "guardian of Kinga Zielony"}, []string{thread.Maybe[0].Note, thread.Maybe[1].Note},
		"what tells them apart")
	path := fmt.Sprintf("/api/threads/%d/identify", thread.Thread.ID)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path, `{"person":77}`)
	o.c.Want(http.StatusOK, http.MethodPost, path, `{"person":2}`, nil)
	assert.Equal(t, "Piotr Zielony", o.only().Thread.Name)
	o.texts(shared, "K2", "Ten minutes")
	assert.Len(t, o.only().Entries, 2, "it is remembered")
	assert.Equal(t, "Piotr Zielony", o.only().Entries[1].Name)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path, `{"person":1}`)

	// Who was not known and is put on the roster keeps what was said.
	o.texts("+447700900871", "K3", "Wrong number?")
	list := o.threads(1, "find=900871")
	require.Len(t, list.Threads, 1)
	assert.Equal(t, "07700 900871", strings.ReplaceAll(list.Threads[0].Name, "+44 ", "0"))
	edits(o.c, "Di Venn", func(sheet map[string]any) {
		sheet["addresses"] = []any{map[string]any{"channel": "text", "value": "+447700900871"}}
	})
	o.texts("+447700900871", "K4", "It is Di")
	after := o.read(list.Threads[0].ID)
	assert.Equal(t, "Di Venn", after.Thread.Name)
	assert.Len(t, after.Entries, 2)
}

// Somebody is merged into another person, or removed, while a thread with them is open.
func TestPeopleChangeWhileAThreadIsOpen(t *testing.T) {
	o := atDesk(t, "")
	o.texts("+447700900417", "K1", "Hello")
	id := o.only().Thread.ID
	o.c.Want(http.StatusOK, http.MethodPost, "/api/people/merge", `{"keep":2,"others":[1]}`, nil)
	assert.Equal(t, id, o.only().Thread.ID, "it stays")
	o.texts("+447700900417", "K2", "It is me again")
	merged := o.only()
	assert.Equal(t, "Piotr Zielony", merged.Thread.Name)
	assert.Len(t, merged.Entries, 2)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/people/remove", `{"people":[2]}`, nil)
	removed := o.only()
	assert.Nil(t, removed.Person)
	assert.Len(t, removed.Entries, 2, "what was said stays")
	var made struct{ Message int64 }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/answer", id), `{"text":"Goodbye"}`, &made)
	o.leaves(made.Message)
	assert.Equal(t, "Goodbye", o.got("+447700900417", 1).Body)
	o.texts("+447700900417", "K3", "Who is it?")
	assert.Len(t, o.only().Entries, 4, "it answers what we wrote there")
}

// Outside the hours a desk answers once a day, never what is automatic, and never twice.
func TestOutsideTheHours(t *testing.T) {
	o := atDesk(t, "")
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks",
		strings.Replace(strings.Replace(deskBody(1, "Club office", "1", ""), `"outside":""`, `"outside":"Nobody is here until 12."`, 1),
			`"hours":[]`, `"hours":[{"day":4,"from":"12:00","to":"16:00"}]`, 1), nil)
	const rania = "+447700900417"
	o.texts(rania, "K1", "Hello?")
	assert.Equal(t, "Nobody is here until 12.", o.got(rania, 1).Body)
	assert.Equal(t, "us", o.only().Thread.Waits, "what the program says by itself is no answer of ours")
	var made struct{ Message int64 }
	path := fmt.Sprintf("/api/threads/%d/", o.only().Thread.ID)
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"I am"}`, &made)
	assert.Equal(t, "them", o.only().Thread.Waits)
	o.c.Want(http.StatusOK, http.MethodPost, path+"take-back", made, nil)
	assert.Equal(t, "us", o.only().Thread.Waits, "nor does it count once an answer is taken back")
	assert.Equal(t, "Hello?", o.only().Thread.Text)
	o.texts(rania, "K2", "Anybody?")
	o.texts(rania, "K2", "Anybody?")
	assert.Len(t, o.only().Entries, 3)
	o.clock.Pass(3 * time.Hour)
	o.texts("+447700900418", "K3", "Now?")
	o.clock.Pass(24 * time.Hour)
	o.texts(rania, "K4", "And today?")
	o.got(rania, 2)
	items, err := o.i.Box.All(t.Context())
	require.NoError(t, err)
	assert.Len(t, items, 2, "within the hours nothing is said")

	// Two answering programs do not keep each other awake.
	id := sendDraft(t, o.c, draftOf(`{"kind":"addresses","addresses":["naya@example.org"]}`, "Rota"))
	o.got("naya@example.org", 1)
	for range 3 {
		o.answers("naya@example.org", standin.Written{Text: "I am away", Automatic: true})
	}
	var s standingOf
	o.c.Record(id, &s)
	assert.Equal(t, 0, s.Message.Figures.Answered, "nobody wrote it")
	found := o.threads(1, "find=Naya")
	require.Len(t, found.Threads, 1)
	assert.Equal(t, "quiet", found.Threads[0].Waits)
	assert.Equal(t, "automatic", o.read(found.Threads[0].ID).Entries[0].Kind)
	testkit.Eventually(t, "Naya has two mailboxes; nothing was answered to them", func() bool {
		items, err = o.i.Box.All(t.Context())
		return err == nil && len(items) == 4
	})
}

// What is said outside the hours is said in the language of whoever wrote, if it can be.
func TestOutsideTheHoursInTheirLanguage(t *testing.T) {
	o := atDesk(t, "")
	says := func(words string) {
		body := strings.Replace(deskBody(1, "Club office", "1", ""), `"outside":""`, fmt.Sprintf(`"outside":%q`, words), 1)
		o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks",
			strings.Replace(body, `"hours":[]`, `"hours":[{"day":1,"from":"12:00","to":"16:00"}]`, 1), nil)
	}
	says("Nobody is at the desk now.")
	o.texts("+447700900418", "K1", "Halo?")
	assert.Equal(t, "Teraz nikogo nie ma przy biurku.", o.got("+447700900418", 1).Body)
	entry := o.only().Entries[1]
	assert.Equal(t, "Nobody is at the desk now.", entry.Said, "the desk reads its own words")
	o.clock.Pass(24 * time.Hour)
	says("Nobody is at the desk now. The gauge is locked.")
	o.texts("+447700900418", "K2", "Halo?")
	assert.Equal(t, "Nobody is at the desk now. The gauge is locked.", o.got("+447700900418", 2).Body, "nothing is half in one language")
}

// The shift: read by one is read by all, taken, handed over, brought back, left with a
// note, and settled.
func TestTheShift(t *testing.T) {
	o := atDesk(t, "")
	o.texts("+447700900417", "K1", "Hello")
	id := o.only().Thread.ID
	o.act(http.StatusNoContent, id, "read", "")
	assert.False(t, o.only().Thread.Unread)
	o.act(http.StatusNoContent, id, "hand", `{"account":1}`)
	assert.True(t, o.only().Thread.Mine)
	o.act(http.StatusUnprocessableEntity, id, "hand", `{"account":99}`)
	o.act(http.StatusNoContent, id, "note", `{"text":"Ask the coaches"}`)
	o.act(http.StatusUnprocessableEntity, id, "note", `{"text":"  "}`)
	assert.Equal(t, "us", o.only().Thread.Waits, "a note changes nothing")
	o.act(http.StatusNoContent, id, "settle", "")
	assert.Equal(t, "quiet", o.only().Thread.Waits)
	o.act(http.StatusUnprocessableEntity, id, "back", `{"at":"2026-11-26T08:00:00Z"}`)
	o.act(http.StatusNoContent, id, "back", `{"at":"2026-11-26T10:00:00Z"}`)
	o.clock.Pass(time.Hour)
	testkit.Eventually(t, "it comes back", func() bool { return o.only().Thread.Waits == "us" })
	o.act(http.StatusNoContent, id, "read", "")
	o.act(http.StatusNoContent, id, "leave", `{"note":"Call the harbour before noon"}`)
	left := o.only().Thread
	assert.True(t, left.Unread)
	assert.Equal(t, "Hugo Farrowby: Call the harbour before noon", left.Note)
	assert.False(t, left.Mine)
	o.clock.Pass(time.Minute)
	o.texts("+447700900418", "K2", "Later")
	o.texts("+447700900417", "K3", "Again")
	waiting := o.threads(1, "waits=us").Threads
	require.Len(t, waiting, 2)
	assert.Equal(t, []string{"Rania Haddad", "Piotr Zielony"}, []string{waiting[0].Name, waiting[1].Name}, "what waits longest first")
	o.act(http.StatusNoContent, waiting[1].ID, "settle", "")
	var desks []struct{ Us, Them, Quiet, Unread int }
	o.c.Want(http.StatusOK, http.MethodGet, "/api/desks", nil, &desks)
	assert.Equal(t, 1, desks[0].Us)
	assert.Equal(t, 1, desks[0].Unread)
}

// Two of a desk see that both look at a thread, and do not answer at once: what is written
// past a colleague's answer is refused.
func TestTwoOfADesk(t *testing.T) {
	o := atDesk(t, "")
	hash, err := password.Hash(testkit.Password, testkit.PasswordCost)
	require.NoError(t, err)
	other, err := o.i.Store.PutAccount(t.Context(), store.Account{
		Login: "night@quillmere.example", Name: "Nell Night", PasswordHash: hash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Whole: true}},
	})
	require.NoError(t, err)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", deskBody(1, "Club office", fmt.Sprintf("1,%d", other), ""), nil)
	o.texts("+447700900417", "K1", "Hello")
	nell := testkit.Stranger(t, o.i.URL)
	nell.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "night@quillmere.example", "password": testkit.Password}, nil)
	seen := o.only()
	path := fmt.Sprintf("/api/threads/%d/", seen.Thread.ID)
	nell.Want(http.StatusNoContent, http.MethodPost, path+"here", `{"writing":true}`, nil)
	type here struct {
		Here []struct {
			Name    string
			Writing bool
		}
	}
	look := func(c *testkit.Client) (h here) {
		c.Want(http.StatusOK, http.MethodGet, strings.TrimSuffix(path, "/"), nil, &h)
		return h
	}
	require.Len(t, look(o.c).Here, 1)
	assert.Equal(t, "Nell Night", look(o.c).Here[0].Name)
	assert.True(t, look(o.c).Here[0].Writing)
	assert.Empty(t, look(nell).Here, "oneself is nobody else")
	nell.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"Good evening"}`, nil)
	refused := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"answer",
		fmt.Sprintf(`{"text":"Hello","seen":%d}`, seen.Entries[0].ID))
	assert.Contains(t, refused, "Nell Night answered meanwhile")
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", fmt.Sprintf(`{"text":"Hello","seen":%d}`, o.only().Entries[1].ID), nil)
	o.clock.Pass(31 * time.Second)
	assert.Empty(t, look(o.c).Here, "who says nothing is gone")
}

// Threads are arranged by name, and told apart by language and area.
func TestThreadsAreToldApart(t *testing.T) {
	o := atDesk(t, "")
	o.c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Juniors"}`, nil)
	edits(o.c, "Piotr", func(sheet map[string]any) { sheet["unit"] = 1 })
	o.texts("+447700900418", "K1", "Hello")
	o.clock.Pass(time.Minute)
	o.texts("+447700900417", "K2", "Hello")
	o.clock.Pass(time.Minute)
	o.texts("+447700900999", "K3", "Hello")
	names := func(how string) (list []string) {
		for _, thread := range o.threads(1, how).Threads {
			list = append(list, thread.Name)
		}
		return list
	}
	assert.Equal(t, []string{"Naya Osei", "Rania Haddad", "Piotr Zielony"}, names(""))
	assert.Equal(t, []string{"Naya Osei", "Piotr Zielony", "Rania Haddad"}, names("byName=true"))
	assert.Equal(t, []string{"Piotr Zielony", "Rania Haddad", "Naya Osei"}, names("waits=us"))
	assert.Equal(t, []string{"Rania Haddad"}, names("language=ar"))
	assert.Equal(t, []string{"Piotr Zielony"}, names("area=1"))
	assert.Empty(t, names("area=1&language=ar"))
	assert.Equal(t, []string{"Naya Osei"}, names("find=naya&language=en"))
	assert.Empty(t, names("find=naya&language=ar"))
	assert.Empty(t, names("area=999"))
	var with struct {
		Languages []struct{ Value, Words string }
		Areas     []struct{ Name string }
	}
	o.c.Want(http.StatusOK, http.MethodGet, "/api/desks/1/with-whom", nil, &with)
	require.Len(t, with.Languages, 3)
	assert.Equal(t, "Arabic", with.Languages[0].Words)
	require.Len(t, with.Areas, 1)
	assert.Equal(t, "Juniors", with.Areas[0].Name)
}

// Who does not sit at a desk is told that it is not there, whatever else they may do.
func TestADeskIsOnlyForThoseWhoSitThere(t *testing.T) {
	o := atDesk(t, "")
	hash, err := password.Hash(testkit.Password, testkit.PasswordCost)
	require.NoError(t, err)
	other, err := o.i.Store.PutAccount(t.Context(), store.Account{
		Login: "night@quillmere.example", Name: "Nell Night", PasswordHash: hash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Whole: true}, Rights: access.Rights},
	})
	require.NoError(t, err)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", deskBody(0, "Flood watch", fmt.Sprint(other), ""), nil)
	o.texts("+447700900417", "K1", "Hello")
	id := o.only().Thread.ID
	nell := testkit.Stranger(t, o.i.URL)
	nell.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "night@quillmere.example", "password": testkit.Password}, nil)
	var hers []struct{ Name string }
	nell.Want(http.StatusOK, http.MethodGet, "/api/desks", nil, &hers)
	require.Len(t, hers, 1)
	assert.Equal(t, "Flood watch", hers[0].Name)
	path := fmt.Sprintf("/api/threads/%d", id)
	for route, body := range map[string]string{
		"GET /api/desks/1/threads": "", "GET /api/desks/1/with-whom": "",
		"POST /api/desks/1/threads": `{"person":1}`, "GET " + path: "", "POST " + path + "/read": "",
		"POST " + path + "/settle": "", "POST " + path + "/back": `{"at":"2026-11-27T10:00:00Z"}`,
		"POST " + path + "/leave": `{"note":""}`, "POST " + path + "/hand": `{"account":1}`, "POST " + path + "/note": `{"text":"x"}`,
		"POST " + path + "/identify": `{"person":1}`, "POST " + path + "/copies": `{}`, "POST " + path + "/here": `{"writing":true}`, "POST " + path + "/copy": `{"text":"x"}`, "POST " + path + "/weigh": `{"text":"x"}`,
		"POST " + path + "/answer": `{"text":"x"}`, "POST " + path + "/take-back": `{"message":1}`,
		"GET " + path + "/files/" + strings.Repeat("a", 64): "", "POST " + path + "/files?name=a.txt": "hello",
		"POST /api/desks/1/many": `{"with":"people","people":[1]}`, "POST " + path + "/weigh-all": `{"text":"x"}`,
		"POST " + path + "/say-to-all": `{"text":"x"}`, "POST " + path + "/name": `{"name":"x"}`,
		"POST " + path + "/people": `{"people":[1]}`, "POST " + path + "/share": `{"shared":true}`, "DELETE " + path: "",
		"GET " + path + "/reached/1": "",
	} {
		method, to, _ := strings.Cut(route, " ")
		var given any
		if body != "" {
			given = body
		}
		assert.NotEmpty(t, nell.Problem(http.StatusNotFound, method, to, given), route)
	}
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodDelete, "/api/settings/desks/1", nil)
	o.c.Want(http.StatusNoContent, http.MethodDelete, "/api/settings/desks/1?into=2", nil, nil)
	nell.Want(http.StatusOK, http.MethodGet, path, nil, nil)
	o.c.Problem(http.StatusNotFound, http.MethodGet, path, nil)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/settings/desks", deskBody(0, "flood WATCH", "", ""))
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/settings/desks", deskBody(0, "Day", "77", ""))
}

// What comes in is read in the desk's language, and what the desk writes is got in
// theirs; what names somebody goes to no service unless somebody says so, and nothing is
// half in one language.
func TestTwoLanguagesInOneThread(t *testing.T) {
	o := atDesk(t, "")
	const rania = "+447700900417"
	o.texts(rania, "K1", "هل يمكن أن يأتي أخوه الصغير أيضاً؟ شكراً لكم.")
	id := o.only().Thread.ID
	path := fmt.Sprintf("/api/threads/%d/", id)
	var left struct {
		Left, Withheld int
		Note           string
	}
	o.c.Want(http.StatusOK, http.MethodPost, path+"copies", `{}`, &left)
	assert.Zero(t, left.Left)
	in := o.only().Entries[0]
	require.NotNil(t, in.Copy)
	assert.Equal(t, "Can his little brother come too? Thank you.", in.Copy.Text)
	assert.False(t, in.Copy.Checked, "the machine read it")
	assert.Contains(t, in.Said, "أخوه", "what they wrote stays")
	o.texts(rania, "K2", "Naya Osei hat gesagt")
	o.c.Want(http.StatusOK, http.MethodPost, path+"copies", `{}`, &left)
	assert.Equal(t, []int{1, 1}, []int{left.Left, left.Withheld})
	assert.Contains(t, left.Note, "names somebody")

	var said struct {
		Language, Text, Note string
		Checked              bool
		Doubts               []string
		Withheld             int
	}
	say := func(text string) {
		said.Text, said.Note, said.Withheld = "", "", 0
		o.c.Want(http.StatusOK, http.MethodPost, path+"copy", map[string]string{"text": text}, &said)
	}
	say("Yes, he can. Thank you.")
	assert.Equal(t, "نعم، يمكنه ذلك. شكرًا لكم.", said.Text)
	assert.Empty(t, said.Doubts)
	say("Yes, he can. Ask Naya Osei about the boats.")
	assert.Empty(t, said.Text, "a text is not half in one language")
	assert.Equal(t, 1, said.Withheld)
	say("Yes, he can. Pelicans may not.")
	assert.NotEmpty(t, said.Note)

	var made struct{ Message int64 }
	o.c.Want(http.StatusOK, http.MethodPost, path+"answer", `{"text":"Yes, he can.","copy":"نعم، يمكنه ذلك."}`, &made)
	o.leaves(made.Message)
	assert.Equal(t, "نعم، يمكنه ذلك.", o.got(rania, 1).Body)
	entries := o.only().Entries
	out := entries[len(entries)-1]
	assert.Equal(t, "Yes, he can.", out.Said)
	assert.Equal(t, "ar", out.Copy.Language)

	o.texts("+447700900871", "K3", "Wrong number?")
	stranger := o.threads(1, "find=900871").Threads[0].ID
	o.act(http.StatusUnprocessableEntity, stranger, "answer", `{"text":"Yes","copy":"نعم"}`)
}

// The list of threads is read in the desk's language, too, before anybody opens one; what
// they write next, and what names somebody, stands as it was written.
func TestTheListIsReadInTheDesksLanguage(t *testing.T) {
	o := atDesk(t, "")
	const rania = "+447700900417"
	o.texts(rania, "K1", "هل يمكن أن يأتي أخوه الصغير أيضاً؟ شكراً لكم.")
	testkit.Eventually(t, "the list is read", func() bool {
		row := o.threads(1, "").Threads[0]
		return row.Text == "Can his little brother come too? Thank you." && row.ReadFrom.Words == "Arabic"
	})
	require.NotNil(t, o.only().Entries[0].Copy)
	assert.True(t, o.only().Thread.Unread, "nobody of the desk has read it")
	assert.Len(t, o.threads(1, "find=little+brother").Threads, 1)
	o.texts(rania, "K2", "Naya Osei hat gesagt")
	o.texts("+447700900418", "K3", "Dziękuję. Czy autobus też tam jedzie?")
	testkit.Eventually(t, "the next is read", func() bool { return o.threads(1, "find=Piotr").Threads[0].ReadFrom.Words == "Polish" })
	row := o.threads(1, "find=Rania").Threads[0]
	assert.Equal(t, "Naya Osei hat gesagt", row.Text)
	assert.Empty(t, row.ReadFrom.Value)
}

// An everyday email is ended with one click, as mail programs do it, for that person and
// that mailbox only, with a way back.
func TestEverydayEmailsEndWithOneClick(t *testing.T) {
	o := atDesk(t, "")
	sendDraft(t, o.c, draftOf(`{"kind":"person","person":1}`, "Hello"))
	item := o.got("rania@example.org", 1)
	require.NotEmpty(t, item.OneClick)
	sendDraft(t, o.c, strings.Replace(draftOf(`{"kind":"person","person":7}`, "Hello"), `"urgency":"routine"`, `"urgency":"timely","steps":[["email"]]`, 1))
	assert.Empty(t, o.got("naya@example.org", 1).OneClick, "only everyday ones have it")
	stranger := testkit.Stranger(t, o.i.URL)
	at := strings.TrimPrefix(item.OneClick, o.i.URL)
	status, page := stranger.Text(at)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, `dir="rtl"`, "in their language")
	reached := func(urgency string) int {
		var p plan
		o.c.Want(http.StatusOK, http.MethodPost, "/api/plan", strings.Replace(
			strings.Replace(draftOf(`{"kind":"person","person":1}`, "Hello"), `"urgency":"routine"`, `"urgency":"`+urgency+`"`, 1),
			`"subject"`, `"steps":[["email"]],"subject"`, 1), &p)
		return p.Recipients
	}
	assert.Equal(t, 1, reached("routine"), "looking changes nothing")
	post := func(path, form string) (int, string) {
		resp, err := http.Post(o.i.URL+path, "application/x-www-form-urlencoded", strings.NewReader(form))
		require.NoError(t, err)
		defer resp.Body.Close() //nolint:errcheck // it was read
		var said bytes.Buffer
		_, err = said.ReadFrom(resp.Body)
		require.NoError(t, err)
		return resp.StatusCode, said.String()
	}
	status, page = post(at, "List-Unsubscribe=One-Click")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, `name="again"`)
	assert.Equal(t, 0, reached("routine"))
	assert.Equal(t, 1, reached("timely"), "urgent ones still come")
	status, _ = post(at, "List-Unsubscribe=One-Click")
	assert.Equal(t, http.StatusOK, status, "twice is as once")
	_, page = stranger.Text(at)
	assert.Contains(t, page, `name="again"`, "whoever comes back later finds the way back")
	status, _ = post(at, "again=1")
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, 1, reached("routine"))
	status, _ = post(strings.Replace(at, "/stop/", "/stop/A", 1), "List-Unsubscribe=One-Click")
	assert.Equal(t, http.StatusNotFound, status, "forged")
	edits(o.c, "Rania Haddad", func(sheet map[string]any) { sheet["addresses"] = []any{} })
	status, page = post(at, "List-Unsubscribe=One-Click")
	assert.Equal(t, http.StatusNotFound, status)
	assert.Contains(t, page, "nothing to end")
}

// Mail that nobody could read is refused with its reason, and hurts nothing.
func TestMailThatIsRefused(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, draftOf(`{"kind":"person","person":1}`, "Hello"))
	item := o.got("rania@example.org", 1)
	require.NotZero(t, id)
	address := strings.Trim(item.ReplyTo, "<>")
	nested := "From: rania@example.org\r\nSubject: Deep\r\n"
	for n := range 100 {
		nested += fmt.Sprintf("Content-Type: multipart/mixed; boundary=b%d\r\n\r\n--b%d\r\n", n, n)
	}
	for name, c := range map[string]struct{ to, content, says string }{
		"as it must be":      {address, "From: rania@example.org\r\nSubject: Re\r\n\r\nHello", ""},
		"a forged key":       {strings.Replace(address, "reply+", "reply+A", 1), "From: rania@example.org\r\n\r\nHello", "nobody reads this mailbox"},
		"another mailbox":    {"nobody@quillmere.example", "From: rania@example.org\r\n\r\nHello", "nobody reads this mailbox"},
		"the organisation's": {"OFFICE@quillmere.example", "From: who@example.org\r\nMessage-ID: <2@x>\r\n\r\nHello", ""},
		"from nobody":        {address, "Subject: Hello\r\n\r\nHello", "does not say who sent it"},
		"parts without end":  {address, nested, "too many parts"},
		"fifty megabytes":    {address, "From: rania@example.org\r\n\r\n" + strings.Repeat("0123456789abcdef\r\n", 50<<20/18), "too big"},
	} {
		client, err := smtp.Dial(o.i.Box.ReturnMail)
		require.NoError(t, err)
		err = client.SendMail("rania@example.org", []string{c.to}, strings.NewReader(c.content))
		if c.says == "" {
			require.NoError(t, err, name)
		} else {
			require.Error(t, err, name)
			if name != "fifty megabytes" { // the server may hang up before its answer is read
				require.ErrorContains(t, err, c.says, name)
			}
		}
		_ = client.Close()
	}
	assert.Equal(t, 2, o.threads(1, "").All, "Rania, and whoever wrote to the organisation")
}

// A picture is shown and a sound is played where it stands; all else is only saved.
func TestWhatABrowserShowsOfAThread(t *testing.T) {
	o := atDesk(t, "")
	require.NoError(t, o.i.Box.Post(t.Context(), carrier.GatewayItem{
		Key: "K1", Channel: roster.Text, From: "+447700900417", To: "+447700900100", Text: "Look", At: o.clock.Now(),
		Media: []carrier.GatewayMedia{
			{Name: "gauge.png", Type: "image/png", Content: []byte("\x89PNG\r\n\x1a\n")},
			{Name: "beep.mp3", Type: "audio/mpeg", Content: []byte("ID3 la la")},
			{Name: "page.txt", Type: "image/svg+xml", Content: []byte("<svg onload='alert(1)'/>")},
			{Name: "form.pdf", Type: "application/pdf", Content: []byte(pdf)},
		},
	}))
	thread := o.only()
	require.Len(t, thread.Entries[0].Files, 4)
	for i, want := range []string{"image/png inline", "audio/mpeg inline", "application/octet-stream attachment", "application/octet-stream attachment"} {
		f := thread.Entries[0].Files[i]
		resp, err := o.c.HTTP.Get(fmt.Sprintf("%s/api/threads/%d/files/%s", o.i.URL, thread.Thread.ID, f.Hash))
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		how, _, _ := strings.Cut(resp.Header.Get("Content-Disposition"), ";")
		assert.Equal(t, want, resp.Header.Get("Content-Type")+" "+how, f.Name)
		assert.Contains(t, resp.Header.Get("Content-Disposition"), f.Name)
	}
}
