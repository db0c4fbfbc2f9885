package httpapi_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/own"
	"upperlantern/internal/editing"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

type ownSeen struct {
	Name, Kept string
	Until      *time.Time
	Items      []struct {
		ID                                                         int64
		Subject, Text, Channel                                     string
		New, Desk, Foremost, Waits, Confirms, Confirmed, Emergency bool
		Choices                                                    []struct{ Number int }
		Answer, Minutes                                            int
		Files                                                      []struct{ Hash, Name string }
		Wrote                                                      []struct {
			Said  string
			Files []string
		}
	}
	Others []struct{ Said string }
}

// holder is somebody at their personal page, with nothing but its address.
type holder struct {
	*testing.T
	c    *testkit.Client
	path string // below /api
}

func (o deskOffice) holder(person int) holder {
	o.Helper()
	var made struct{ Path string }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/people/%d/link", person), nil, &made)
	return holder{o.T, testkit.Stranger(o.T, o.i.URL), "/api" + made.Path}
}

func (h holder) page() (p ownSeen) {
	h.Helper()
	h.c.Want(http.StatusOK, http.MethodGet, h.path, nil, &p)
	return p
}

func (h holder) does(status int, what, body string) {
	h.Helper()
	h.c.Want(status, http.MethodPost, h.path+"/"+what, body, nil)
}

func (h holder) writes(status int, key string, item int64, text string) {
	h.Helper()
	h.does(status, "words", fmt.Sprintf(`{"key":"key-%s-0000","item":%d,"text":%q}`, key, item, text))
}

func (h holder) sends(status int, key string, item int64, name string, content []byte) {
	h.Helper()
	h.c.Want(status, http.MethodPost, fmt.Sprintf("%s/files?key=key-%s-0000&item=%d&name=%s", h.path, key, item, name), content, nil)
}

// A picture or a file comes from a page like words do.
func TestAFileFromThePage(t *testing.T) {
	o := atDesk(t, "")
	piotr := o.holder(2)
	sendDraft(t, o.c, draftOf(`{"kind":"person","person":2}`, "Where are you?"))
	testkit.Eventually(t, "it left", func() bool { return len(piotr.page().Items) == 1 })
	item := piotr.page().Items[0].ID
	piotr.sends(http.StatusNoContent, "f", item, "gauge.txt", []byte("2 m"))
	piotr.sends(http.StatusNoContent, "f", item, "gauge.txt", []byte("2 m"))
	thread := o.only()
	require.Len(t, thread.Entries, 1, "what comes twice counts once")
	assert.Equal(t, "us", thread.Thread.Waits)
	assert.Equal(t, "gauge.txt", thread.Entries[0].Files[0].Name)
	assert.Equal(t, "gauge.txt", o.threads(1, "").Threads[0].Text, "it stands for the words in the list")
	wrote := piotr.page().Items[0].Wrote
	require.Len(t, wrote, 1)
	assert.Equal(t, []string{"gauge.txt"}, wrote[0].Files)

	piotr.sends(http.StatusUnprocessableEntity, "g", item, "run.exe", []byte("MZ"))
	piotr.sends(http.StatusBadRequest, "h", item, "empty.txt", nil)
	piotr.sends(http.StatusNotFound, "i", item+100, "gauge.txt", []byte("3 m"))
	piotr.sends(http.StatusRequestEntityTooLarge, "j", item, "gauge.txt", bytes.Repeat([]byte("x"), own.MostFile+1))
	holder{t, piotr.c, "/api/own/nothing"}.sends(http.StatusNotFound, "k", 0, "gauge.txt", []byte("4 m"))
	assert.Len(t, o.only().Entries, 1)

	// One that is cut off on its way leaves nothing, and comes whole later.
	conn, err := net.Dial("tcp", strings.TrimPrefix(o.i.URL, "http://"))
	require.NoError(t, err)
	_, err = fmt.Fprintf(conn, "POST %s/files?key=key-cut-0000&item=%d&name=level.txt HTTP/1.1\r\nHost: own.example\r\n"+
		"Content-Type: application/octet-stream\r\nContent-Length: 1000\r\n\r\n4 m", piotr.path, item)
	require.NoError(t, err)
	require.NoError(t, conn.Close())
	piotr.sends(http.StatusNoContent, "cut", item, "level.txt", []byte("4 m 20"))
	entries := o.only().Entries
	require.Len(t, entries, 2)
	assert.EqualValues(t, 6, entries[1].Files[0].Size)
}

// keeps keeps the page on a device.
func (h holder) keeps() holder {
	h.Helper()
	var made struct{ Path string }
	h.c.Want(http.StatusOK, http.MethodPost, h.path+"/kept", `{"kind":"phone"}`, &made)
	return holder{h.T, h.c, "/api" + made.Path}
}

// What somebody got stands on their page; they open it, answer it, and write back from
// there, without an account.
func TestThePageOfSomebody(t *testing.T) {
	o := atDesk(t, "")
	piotr, rania := o.holder(2), o.holder(1)
	assert.Empty(t, piotr.page().Items)
	id := sendDraft(t, o.c, question(guardians, safe))
	o.got("+447700900418", 1)
	testkit.Eventually(t, "the text left", func() bool { return len(piotr.page().Items) == 1 })
	item := piotr.page().Items[0]
	assert.True(t, item.New)
	assert.Len(t, item.Choices, 3)
	testkit.Eventually(t, "hers too", func() bool { return len(rania.page().Items) == 1 })

	things := fmt.Sprintf("items/%d/", item.ID)
	piotr.does(http.StatusNoContent, things+"opened", `{}`)
	testkit.Eventually(t, "it was opened", func() bool { return !piotr.page().Items[0].New })
	piotr.does(http.StatusNoContent, things+"answer", `{"number":3,"minutes":20}`)
	o.answered(id, 0, 0, 1)
	item = piotr.page().Items[0]
	assert.Equal(t, [2]int{3, 20}, [2]int{item.Answer, item.Minutes})
	o.clock.Pass(time.Second)
	piotr.does(http.StatusNoContent, things+"answer", `{"number":1}`)
	o.answered(id, 1, 0, 0)
	piotr.does(http.StatusUnprocessableEntity, things+"answer", `{"number":7}`)
	assert.Zero(t, rania.page().Items[0].Answer)

	piotr.writes(http.StatusNoContent, "a", item.ID, "We are at the lock")
	piotr.writes(http.StatusNoContent, "a", item.ID, "We are at the lock")
	item = piotr.page().Items[0]
	require.Len(t, item.Wrote, 1, "what comes twice counts once")
	thread := o.only()
	assert.Equal(t, "us", thread.Thread.Waits)
	require.Len(t, thread.Entries, 1)
	assert.Equal(t, "Piotr Zielony", thread.Entries[0].Name)
	assert.Empty(t, thread.Entries[0].Channel)
	assert.Equal(t, "Are you safe?", thread.Title)

	// The desk answers by text, and that stands on the page too.
	o.answersThread(thread.Thread.ID, "Stay there")
	assert.Equal(t, "Stay there", o.got("+447700900418", 2).Body)
	testkit.Eventually(t, "it stands there", func() bool { return len(piotr.page().Items) == 2 })
	said := piotr.page().Items[0]
	assert.True(t, said.Desk)
	assert.Equal(t, "Stay there", said.Text)
	piotr.writes(http.StatusNoContent, "b", 0, "STOP")
	assert.Equal(t, "STOP", piotr.page().Others[0].Said)
	assert.Len(t, o.read(thread.Thread.ID).Entries, 3, "in the same thread")
	o.answersThread(thread.Thread.ID, "We come")
	o.got("+447700900418", 3) // stop words mean nothing there
}

// answersThread writes back in a thread with one and lets it leave.
func (o deskOffice) answersThread(thread int64, text string) {
	o.Helper()
	var made struct{ Message int64 }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/answer", thread), fmt.Sprintf(`{"text":%q}`, text), &made)
	o.leaves(made.Message)
}

// Where only an answer confirms, the page asks for it. What failed stays failed, though it
// was read there.
func TestConfirmingOnAPage(t *testing.T) {
	o := atDesk(t, "")
	piotr := o.holder(2)
	asks := strings.Replace(draftOf(`{"kind":"person","person":2}`, "Sluice opens"), `"subject"`,
		`"steps":[["text"],["voice"]],"moveOn":{"minutes":30,"answered":true},"subject"`, 1)
	sendDraft(t, o.c, asks)
	testkit.Eventually(t, "it left", func() bool { return len(piotr.page().Items) == 1 })
	item := piotr.page().Items[0]
	assert.True(t, item.Confirms && !item.Confirmed)
	opens := fmt.Sprintf("items/%d/opened", item.ID)
	piotr.does(http.StatusNoContent, opens, `{}`)
	assert.False(t, piotr.page().Items[0].Confirmed)
	piotr.does(http.StatusNoContent, opens, `{"confirms":true}`)
	assert.True(t, piotr.page().Items[0].Confirmed)

	require.NoError(t, o.i.Box.SetFault(t.Context(), piotrPhone, standin.Gone))
	var thread struct{ ID int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/desks/1/threads", `{"person":2}`, &thread)
	o.answersThread(thread.ID, "Come")
	state := func() string { return o.read(thread.ID).Entries[0].State }
	testkit.Eventually(t, "it failed", func() bool { return state() == "failed" })
	said := piotr.page().Items[0]
	assert.Equal(t, "Come", said.Text, "it can be read there all the same")
	piotr.does(http.StatusNoContent, fmt.Sprintf("items/%d/opened", said.ID), `{}`)
	assert.Equal(t, "failed", state())
}

// Nobody comes to what is another's by the page of one, and a link is of no use for what
// only a kept page does.
func TestAPageShowsNothingOfOthers(t *testing.T) {
	o := atDesk(t, "")
	piotr, rania := o.holder(2), o.holder(1)
	sendDraft(t, o.c, question(`{"kind":"person","person":1}`, safe))
	testkit.Eventually(t, "she has it", func() bool { return len(rania.page().Items) == 1 })
	assert.Empty(t, piotr.page().Items)
	theirs := rania.page().Items[0].ID
	piotr.does(http.StatusNotFound, fmt.Sprintf("items/%d/opened", theirs), `{}`)
	piotr.does(http.StatusNotFound, fmt.Sprintf("items/%d/answer", theirs), `{"number":1}`)
	piotr.writes(http.StatusNotFound, "a", theirs, "Mine?")
	piotr.c.Want(http.StatusNotFound, http.MethodGet, fmt.Sprintf("%s/items/%d/files/%s", piotr.path, theirs, strings.Repeat("a", 64)), nil, nil)
	piotr.c.Want(http.StatusNotFound, http.MethodDelete, piotr.path, nil, nil)
	piotr.writes(http.StatusUnprocessableEntity, "b", 0, "  \n ")
	for _, broken := range []string{piotr.path[:len(piotr.path)-3], "/api/own/nothing", "/api/own/" + strings.Repeat("A", 26)} {
		assert.Contains(t, piotr.c.Problem(http.StatusNotFound, http.MethodGet, broken, nil), "no longer works")
	}
	piotr.c.Want(http.StatusUnauthorized, http.MethodGet, "/api/people/2/pages", nil, nil)
}

// A page is kept under a key of its own, until they or the office end it or they are gone.
func TestAPageIsKept(t *testing.T) {
	o := atDesk(t, "")
	link := o.holder(2)
	assert.NotNil(t, link.page().Until)
	phone, other := link.keeps(), link.keeps()
	assert.Equal(t, "phone", phone.page().Kept)
	assert.Nil(t, phone.page().Until)
	o.clock.Pass(editing.LinkHolds + time.Hour)
	link.c.Want(http.StatusNotFound, http.MethodGet, link.path, nil, nil)
	assert.Equal(t, "Piotr", phone.page().Name)
	status, manifest := phone.c.Text(strings.TrimPrefix(phone.path, "/api") + "/manifest.webmanifest")
	assert.Equal(t, http.StatusOK, status)
	var app struct {
		StartURL string `json:"start_url"`
	}
	require.NoError(t, json.Unmarshal([]byte(manifest), &app))
	assert.Equal(t, strings.TrimPrefix(phone.path, "/api"), app.StartURL)

	var pages []struct {
		ID         int64
		Kind       string
		Kept, Seen time.Time
	}
	c := testkit.SignedIn(t, o.i.URL) // the session ended with the time
	c.Want(http.StatusOK, http.MethodGet, "/api/people/2/pages", nil, &pages)
	require.Len(t, pages, 2)
	assert.Equal(t, o.clock.Now(), pages[0].Seen)
	assert.Equal(t, deskMorning, pages[1].Seen, "the other was not opened since")
	c.Want(http.StatusNotFound, http.MethodDelete, fmt.Sprintf("/api/people/1/pages/%d", pages[1].ID), nil, nil)
	c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/people/2/pages/%d", pages[1].ID), nil, nil)
	other.c.Want(http.StatusNotFound, http.MethodGet, other.path, nil, nil)
	last := phone.keeps()
	phone.c.Want(http.StatusNoContent, http.MethodDelete, phone.path, nil, nil)
	phone.c.Want(http.StatusNotFound, http.MethodGet, phone.path, nil, nil)

	// Who was merged keeps the page of whom they became; who is gone keeps none.
	c.Want(http.StatusOK, http.MethodPost, "/api/people/merge", `{"keep":1,"others":[2]}`, nil)
	assert.Equal(t, "Rania", last.page().Name)
	c.Want(http.StatusOK, http.MethodPost, "/api/people/remove", `{"people":[1]}`, nil)
	last.c.Want(http.StatusNotFound, http.MethodGet, last.path, nil, nil)
}

// Neither pages nor what is written on them grow without end.
func TestLimitsOfAPage(t *testing.T) {
	o := atDesk(t, "")
	h := o.holder(2)
	for range editing.MostPages {
		h.keeps()
	}
	h.does(http.StatusConflict, "kept", `{"kind":"phone"}`)
	h.does(http.StatusUnprocessableEntity, "kept", `{"kind":"vehicle terminal"}`)
	for range 20 {
		h.c.Want(http.StatusOK, http.MethodPost, "/api/terminals", nil, nil)
	}
	h.c.Want(http.StatusTooManyRequests, http.MethodPost, "/api/terminals", nil, nil)
	for n := range own.MostWrites {
		h.writes(http.StatusNoContent, fmt.Sprint(n), 0, "Hello")
	}
	h.writes(http.StatusTooManyRequests, "more", 0, "Hello")
	h.writes(http.StatusNoContent, "3", 0, "Hello") // it came already
	o.clock.Pass(own.WritesIn)
	h.writes(http.StatusNoContent, "more", 0, "Hello")
	assert.Len(t, h.page().Others, own.MostWrites+1)
}

// A vehicle terminal becomes a device by its code. What is pushed to it arrives when its
// page fetches it, and what is foremost waits there until it is touched.
func TestATerminal(t *testing.T) {
	o := atDesk(t, "")
	stranger := testkit.Stranger(t, o.i.URL)
	var shown struct{ Code, Key string }
	stranger.Want(http.StatusOK, http.MethodPost, "/api/terminals", nil, &shown)
	terminal := holder{t, stranger, "/api/own/" + shown.Key}
	stranger.Want(http.StatusNotFound, http.MethodGet, terminal.path, nil, nil)
	pair := func(status, person int, code string) string {
		t.Helper()
		status2, content := o.c.Do(http.MethodPost, fmt.Sprintf("/api/people/%d/terminals", person), fmt.Sprintf(`{"code":%q}`, code))
		require.Equal(t, status, status2, "%s", content)
		return string(content)
	}
	assert.Contains(t, pair(http.StatusUnprocessableEntity, 2, "AAAA BBBB"), "No terminal shows this code")
	pair(http.StatusOK, 2, strings.ToLower(shown.Code[:4]+"-"+shown.Code[4:]))
	pair(http.StatusUnprocessableEntity, 2, shown.Code) // it counts once
	assert.Equal(t, "vehicle terminal", terminal.page().Kept)
	device := person(o.c, 2).Sheet.Addresses
	last := device[len(device)-1]
	assert.Equal(t, "Piotr Zielony’s vehicle terminal", last.Value)

	var thread struct{ ID int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/desks/1/threads", `{"person":2}`, &thread)
	var made struct{ Message int64 }
	say := func(more string) {
		t.Helper()
		o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/answer", thread.ID), fmt.Sprintf(
			`{"text":"Turn back","channel":"push","address":%q%s}`, last.Value, more,
		), &made)
		o.leaves(made.Message)
	}
	say(`,"interrupts":true`)
	state := func() string {
		entries := o.read(thread.ID).Entries
		return entries[len(entries)-1].State
	}
	testkit.Eventually(t, "it waits at the terminal", func() bool { return state() == "carrier" })
	testkit.Eventually(t, "the terminal has it", func() bool { return len(terminal.page().Items) == 1 })
	testkit.Eventually(t, "it arrived", func() bool { return state() == "arrived" })
	item := terminal.page().Items[0]
	assert.True(t, item.Foremost && item.Waits)
	terminal.does(http.StatusNoContent, fmt.Sprintf("items/%d/opened", item.ID), `{"confirms":true}`)
	testkit.Eventually(t, "it was touched", func() bool { return state() == "opened" })
	assert.False(t, terminal.page().Items[0].Waits)
	say("")
	testkit.Eventually(t, "the second is there", func() bool { return len(terminal.page().Items) == 2 })
	assert.False(t, terminal.page().Items[0].Waits, "what does not interrupt does not fill the screen")

	// Ended, it gets nothing more.
	var pages []struct {
		ID     int64
		Device string
	}
	o.c.Want(http.StatusOK, http.MethodGet, "/api/people/2/pages", nil, &pages)
	require.Len(t, pages, 1)
	assert.Equal(t, last.Value, pages[0].Device)
	o.c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/people/2/pages/%d", pages[0].ID), nil, nil)
	stranger.Want(http.StatusNotFound, http.MethodGet, terminal.path, nil, nil)
	aside := map[string]string{}
	for _, p := range o.read(thread.ID).Places {
		aside[p.Address] = p.Aside
	}
	assert.Equal(t, "the device is not connected", aside[last.Value])

	// Another one takes its place on the roster. A code holds for a quarter of an hour.
	stranger.Want(http.StatusOK, http.MethodPost, "/api/terminals", nil, &shown)
	pair(http.StatusOK, 2, shown.Code)
	assert.Len(t, person(o.c, 2).Sheet.Addresses, len(device))
	stranger.Want(http.StatusOK, http.MethodPost, "/api/terminals", nil, &shown)
	o.clock.Pass(own.CodeHolds)
	pair(http.StatusUnprocessableEntity, 2, shown.Code)
}

// Pages of another unit's people are not there, and need the right to edit people.
func TestPagesStayWithinTheirUnits(t *testing.T) {
	_, office, watch := startUnits(t, "Flood watch", access.Rights...)
	var made struct{ Path string }
	office.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/people/%d/link", rania), nil, &made)
	office.Want(http.StatusOK, http.MethodPost, "/api"+made.Path+"/kept", `{"kind":"browser"}`, &made)
	pages := fmt.Sprintf("/api/people/%d/pages", rania)
	watch.Want(http.StatusNotFound, http.MethodGet, pages, nil, nil)
	watch.Want(http.StatusNotFound, http.MethodDelete, pages+"/1", nil, nil)
	watch.Want(http.StatusNotFound, http.MethodPost, fmt.Sprintf("/api/people/%d/terminals", rania), `{"code":"AAAABBBB"}`, nil)
	office.Want(http.StatusOK, http.MethodGet, "/api"+made.Path, nil, nil)
}
