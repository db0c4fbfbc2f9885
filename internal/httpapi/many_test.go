package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/password"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

type manyRead struct {
	Thread struct {
		Name, With, Waits string
		Shared            bool
	}
	Entries []struct {
		ID, Person, Passed, Message int64
		Kind, Name, Said, State     string
		Interrupts                  bool
		Files                       []struct{ Name string }
		People                      *struct{ All, Reached, Waiting, NotReached, LeftOut int }
	}
	Many *struct {
		Named, Ended bool
		Beyond       int
		People       []struct {
			ID         int64
			Name, By   string
			Part       string
			Reason     string
			Told, Left bool
		}
	}
}

func (o deskOffice) many(id int64) (t manyRead) {
	o.Helper()
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/threads/%d", id), nil, &t)
	require.NotNil(o.T, t.Many)
	return t
}

func (o deskOffice) opensMany(body string) int64 {
	o.Helper()
	var made struct{ ID int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/desks/1/many", body, &made)
	return made.ID
}

// says writes to everybody in a thread and lets it leave.
func (o deskOffice) says(thread int64, text, more string) int64 {
	o.Helper()
	var made struct{ Message int64 }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/say-to-all", thread),
		fmt.Sprintf(`{"text":%q%s}`, text, more), &made)
	o.leaves(made.Message)
	return made.Message
}

func (o deskOffice) had(address string) (bodies []string) {
	o.Helper()
	items, err := o.i.Box.Received(o.Context(), []string{address})
	require.NoError(o.T, err)
	for _, item := range items {
		bodies = append(bodies, strings.TrimSpace(item.Body))
	}
	return bodies
}

const three = `{"with":"people","people":[1,2,4]}`

// What is written to chosen people reaches each alone; what they answer comes into the
// same thread, and nobody else sees it.
func TestAThreadWithChosenPeople(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(three)
	assert.NotEqual(t, id, o.opensMany(three), "each begins a thread of its own")
	begun := o.many(id)
	assert.Equal(t, "Rania Haddad, Piotr Zielony and 1 more", begun.Thread.Name)
	assert.Len(t, begun.Many.People, 3)

	o.says(id, "The gauge reads 2 m", "")
	assert.Contains(t, o.got("+447700900417", 1).Body, "The gauge reads 2 m")
	assert.Contains(t, o.got("+447700900418", 1).Body, "The gauge reads 2 m")
	assert.Contains(t, o.got("tuan@vo.example", 1).Body, "The gauge reads 2 m")
	testkit.Eventually(t, "all have it", func() bool {
		e := o.many(id).Entries[0]
		return e.People != nil && e.People.All == 3 && e.People.Reached == 3
	})
	assert.Equal(t, "them", o.many(id).Thread.Waits)

	o.texts("+447700900418", "K1", "On my way")
	o.answers("tuan@vo.example", standin.Written{Text: "So am I"})
	read := o.many(id)
	require.Len(t, read.Entries, 3)
	assert.Equal(t, "Piotr Zielony", read.Entries[1].Name)
	assert.EqualValues(t, 2, read.Entries[1].Person)
	assert.Equal(t, "So am I", read.Entries[2].Said)
	assert.Equal(t, "us", read.Thread.Waits)
	assert.Len(t, o.had("+447700900417"), 1, "nobody sees what another answered")
	assert.Equal(t, 1, o.threads(1, "waits=us&with=people").All)

	o.act(http.StatusNoContent, id, "name", `{"name":"  Gauge  watch "}`)
	assert.Equal(t, "Gauge watch", o.many(id).Thread.Name)
	o.act(http.StatusNoContent, id, "people", `{"people":[1,2]}`)
	assert.Equal(t, "Gauge watch", o.many(id).Thread.Name)
	o.act(http.StatusNoContent, id, "name", `{"name":""}`)
	assert.Equal(t, "Rania Haddad and Piotr Zielony", o.many(id).Thread.Name)
	o.says(id, "It falls again", "")
	o.got("+447700900418", 2)
	assert.Len(t, o.had("tuan@vo.example"), 1, "who was taken out gets nothing more")
	o.c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/threads/%d", id), nil, nil)
	o.c.Problem(http.StatusNotFound, http.MethodGet, fmt.Sprintf("/api/threads/%d", id), nil)
	o.texts("+447700900418", "K2", "Still there?")
	assert.Equal(t, "Piotr Zielony", o.threads(1, "waits=us").Threads[0].Name, "an answer to what was deleted is in their own thread")
}

// A thread with a group is there once, follows the roster, stands for guardians, and counts
// whoever gets nothing.
func TestAThreadWithAGroup(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(`{"with":"group","group":2}`)
	assert.Equal(t, id, o.opensMany(`{"with":"group","group":2}`))
	read := o.many(id)
	assert.Equal(t, "U14", read.Thread.Name)
	told := map[string]string{}
	for _, p := range read.Many.People {
		told[p.Name] = p.By + p.Reason
	}
	assert.Equal(t, "text", told["Rania Haddad"], "a dependent stands for their guardians")
	var w struct {
		People  int
		LeftOut []struct {
			Reason string
			People int
		}
	}
	weigh := fmt.Sprintf("/api/threads/%d/weigh-all", id)
	o.c.Want(http.StatusOK, http.MethodPost, weigh, `{"text":"Outing moved"}`, &w)
	all := w.People
	for _, l := range w.LeftOut {
		all += l.People
	}
	assert.Len(t, read.Many.People, all, "everybody is counted once")

	o.act(http.StatusUnprocessableEntity, id, "people", `{"people":[1]}`)
	o.act(http.StatusUnprocessableEntity, id, "name", `{"name":"Mine"}`)
	assert.Contains(t, o.c.Problem(http.StatusUnprocessableEntity, http.MethodDelete, fmt.Sprintf("/api/threads/%d", id), nil),
		"follows the roster")
	o.act(http.StatusUnprocessableEntity, id, "answer", `{"text":"Hello"}`)
	o.act(http.StatusUnprocessableEntity, id, "identify", `{"person":1}`)
}

// A round is taken back like any answer, and is refused when it says nothing, reaches
// nobody, is past an answer of a colleague, or goes to so many that it is checked first.
func TestWhatIsWrittenToManyIsRefused(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(three)
	path := fmt.Sprintf("/api/threads/%d/say-to-all", id)
	var made struct{ Message int64 }
	o.c.Want(http.StatusOK, http.MethodPost, path, `{"text":"At the lock"}`, &made)
	var back struct{ Text string }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/take-back", id), made, &back)
	assert.Equal(t, "At the lock", back.Text)
	assert.Empty(t, o.many(id).Entries)
	for name, c := range map[string]struct{ path, body, says string }{
		"no words":                 {path, `{"text":"  "}`, "needs words"},
		"a copy with other lines":  {path, `{"text":"One","copies":[{"language":"pl","text":"Raz\nDwa"}]}`, "other lines"},
		"a thread with one":        {fmt.Sprintf("/api/threads/%d/say-to-all", o.withOne()), `{"text":"Hello"}`, "with one"},
		"nobody chosen":            {"/api/desks/1/many", `{"with":"people","people":[]}`, "at least one"},
		"nobody on the roster":     {"/api/desks/1/many", `{"with":"people","people":[999]}`, "not on the roster"},
		"a group that is not":      {"/api/desks/1/many", `{"with":"group","group":99}`, "no such group"},
		"an area that is not":      {"/api/desks/1/many", `{"with":"area","unit":99}`, "no such area"},
		"to whom nothing can go":   {fmt.Sprintf("/api/threads/%d/say-to-all", o.opensMany(`{"with":"people","people":[6]}`)), `{"text":"Hi"}`, "Nobody can be reached"},
		"everybody taken out":      {fmt.Sprintf("/api/threads/%d/people", id), `{"people":[]}`, "at least one"},
		"a field that is not":      {path, `{"text":"Hello {{shoe size}}"}`, "shoe size"},
		"more than an answer has":  {path, fmt.Sprintf(`{"text":%q}`, strings.Repeat("x", 10_001)), ""},
		"a share of one's thread":  {fmt.Sprintf("/api/threads/%d/share", o.withOne()), `{"shared":true}`, "with one"},
		"a way that there is none": {"/api/desks/1/many", `{"with":"one"}`, ""},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Contains(t, o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, c.path, c.body), c.says)
		})
	}
}

func (o deskOffice) withOne() int64 {
	o.Helper()
	var made struct{ ID int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/desks/1/threads", `{"person":1}`, &made)
	return made.ID
}

// All in a thread see what is said once they were told: by name, never by number. Who
// leaves with the word gets nothing more, and who comes in later is told first.
func TestAllInAThreadSeeWhatIsSaid(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(`{"with":"people","people":[1,2],"name":"Gauge watch"}`)
	o.says(id, "The gauge reads 2 m", "")
	o.got("+447700900418", 1)
	o.texts("+447700900418", "K1", "Before")
	o.got("+447700900417", 1)

	o.act(http.StatusNoContent, id, "share", `{"shared":true}`)
	told := o.got("+447700900418", 2)
	assert.Contains(t, told.Body, "Gauge watch")
	assert.Contains(t, told.Body, "WYCHODZĘ", "in the language that they read")
	o.got("+447700900417", 2)
	assert.True(t, o.many(id).Thread.Shared)

	o.texts("+447700900418", "K2", "Water {{name}} at the steps")
	passed := o.got("+447700900417", 3)
	assert.Contains(t, passed.Body, "Piotr Zielony: Water { {name}} at the steps")
	assert.NotContains(t, passed.Body, "900418")
	o.texts("+447700900418", "K2", "Water {{name}} at the steps")
	assert.Len(t, o.had("+447700900417"), 3, "what comes twice is passed on once")
	assert.Len(t, o.had("+447700900418"), 2, "and not to whoever said it")

	o.act(http.StatusNoContent, id, "people", `{"people":[1,2,4]}`)
	o.texts("+447700900417", "K3", "Come to the mill")
	later := o.had("tuan@vo.example")
	testkit.Eventually(t, "who came in later is told, then gets it", func() bool {
		later = o.had("tuan@vo.example")
		return len(later) == 2
	})
	assert.Contains(t, strings.Join(later, "\n"), "Rania Haddad: Come to the mill")
	assert.Contains(t, strings.Join(later, "\n"), "RỜI")

	assert.Contains(t, o.got("+447700900418", 3).Body, "Rania Haddad: Come to the mill")
	o.texts("+447700900418", "K4", "wychodzę")
	assert.Contains(t, o.got("+447700900418", 4).Body, "Gauge watch")
	o.texts("+447700900417", "K5", "Where is Piotr?")
	testkit.Eventually(t, "the others get it", func() bool { return len(o.had("tuan@vo.example")) == 3 })
	assert.Len(t, o.had("+447700900418"), 4, "who left gets nothing more")
	var left []string
	for _, p := range o.many(id).Many.People {
		if p.Left {
			left = append(left, p.Name)
		}
	}
	assert.Equal(t, []string{"Piotr Zielony"}, left)
	o.texts("+447700900418", "K6", "One more thing")
	assert.Len(t, o.had("tuan@vo.example"), 3)
	assert.Equal(t, 1, o.threads(1, "find=Zielony&waits=us").All, "what they write afterwards is theirs alone")

	o.act(http.StatusNoContent, id, "share", `{"shared":false}`)
	testkit.Eventually(t, "they are told that it ended", func() bool { return len(o.had("tuan@vo.example")) == 4 })
	o.texts("+447700900417", "K7", "To the desk only")
	assert.Len(t, o.had("tuan@vo.example"), 4)
}

// What a desk writes is signed by nobody and begins with no prefix: it is an answer.
func TestWhatADeskWritesIsNotSigned(t *testing.T) {
	o := atDesk(t, "")
	organisation, err := o.i.Store.Organisation(t.Context())
	require.NoError(t, err)
	organisation.Sending.Signature = roster.Signature{Prefix: "[Club]", Footer: "The boathouse"}
	require.NoError(t, o.i.Store.PutOrganisation(t.Context(), organisation))
	o.says(o.opensMany(three), "The gauge reads 2 m", "")
	mail := o.got("tuan@vo.example", 1)
	assert.Equal(t, "The gauge reads 2 m", strings.TrimSpace(mail.Body))
	assert.NotContains(t, mail.Subject, "[Club]")
	var made struct{ ID int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/desks/1/threads", `{"person":4}`, &made)
	o.answersThread(made.ID, "Good")
	mail = o.got("tuan@vo.example", 2)
	assert.Equal(t, "Good", strings.TrimSpace(mail.Body))
	assert.NotContains(t, mail.Subject, "[Club]")
}

// What comes with a picture is passed on with it by email; who gets none reads its name.
// So it is with what the desk writes.
func TestFilesGoToAll(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(`{"with":"people","people":[1,2,4],"name":"Gauge watch"}`)
	o.act(http.StatusNoContent, id, "share", `{"shared":true}`)
	o.got("+447700900417", 1)
	o.got("+447700900418", 1)
	o.got("tuan@vo.example", 1)
	require.NoError(t, o.i.Box.Post(t.Context(), carrier.GatewayItem{
		Key: "K1", Channel: roster.Text, From: "+447700900418", To: "+447700900100", At: o.clock.Now(),
		Media: []carrier.GatewayMedia{{Name: "gauge.txt", Type: "text/plain", Content: []byte("2 m")}},
	}))
	assert.Equal(t, "Piotr Zielony:\n[gauge.txt]", o.got("+447700900417", 2).Body, "without words, too")
	mail := o.got("tuan@vo.example", 2)
	require.Len(t, mail.Files, 1)
	assert.Equal(t, "gauge.txt", mail.Files[0].Name)
	assert.NotContains(t, mail.Body, "[gauge.txt]")

	var kept struct{ Name, Type, Hash string }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/files?name=rota.txt", id), []byte("Six at the lock"), &kept)
	file := fmt.Sprintf(`"files":[{"name":"rota.txt","type":"text/plain","size":15,"hash":%q}]`, kept.Hash)
	var w struct{ People, Unseen int }
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/weigh-all", id), `{"text":"The rota",`+file+`}`, &w)
	assert.Equal(t, [2]int{3, 2}, [2]int{w.People, w.Unseen})
	o.says(id, "The rota", ","+file+`,"copies":[{"language":"ar","text":"الجدول"}]`)
	assert.Equal(t, "الجدول\n[rota.txt]", o.got("+447700900417", 3).Body)
	assert.Equal(t, "rota.txt", o.got("tuan@vo.example", 3).Files[0].Name)
	entries := o.many(id).Entries
	assert.Equal(t, "rota.txt", entries[len(entries)-1].Files[0].Name, "it stands in the thread")
	gone := strings.Replace(file, kept.Hash, strings.Repeat("0", len(kept.Hash)), 1)
	assert.Contains(t, o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost,
		fmt.Sprintf("/api/threads/%d/say-to-all", id), `{"text":"The rota",`+gone+`}`), "not here any more")
}

// One telephone cannot flood the others.
func TestNobodyFloodsAThread(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(`{"with":"people","people":[1,2]}`)
	o.act(http.StatusNoContent, id, "share", `{"shared":true}`)
	o.got("+447700900417", 1)
	o.got("+447700900418", 1)
	for n := range desk.PassedAtMost + 3 {
		o.texts("+447700900418", fmt.Sprintf("K%d", n), fmt.Sprintf("Word %d", n))
	}
	o.got("+447700900417", 1+desk.PassedAtMost)
	assert.Len(t, o.many(id).Entries, 1+desk.PassedAtMost+3, "the desk has them all")
	o.clock.Pass(desk.PassedWithin + time.Second)
	o.texts("+447700900418", "later", "Again")
	o.got("+447700900417", 2+desk.PassedAtMost)
}

// A word that interrupts stays on devices until it is touched; the next one is quiet again.
func TestAWordInterrupts(t *testing.T) {
	o := atDesk(t, "")
	sheet := person(o.c, 2).Sheet
	sheet.Addresses = append(sheet.Addresses, roster.Address{Channel: roster.Push, Value: "Piotr’s phone", Label: "phone"})
	save(t, o.c, sheet)
	d := standin.Device("Piotr’s phone")
	require.NoError(t, o.i.Store.Connect(t.Context(), []store.Device{{
		Name: "Piotr’s phone", Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth,
	}}, o.clock.Now()))
	id := o.opensMany(`{"with":"people","people":[1,2]}`)
	shows := func() string {
		t.Helper()
		items, err := o.i.Box.Received(t.Context(), []string{"Piotr’s phone"})
		require.NoError(t, err)
		require.NotEmpty(t, items)
		return items[0].Offers
	}
	o.says(id, "Come at once", `,"interrupts":true`)
	o.got("Piotr’s phone", 1)
	loud := shows()
	assert.True(t, o.many(id).Entries[0].Interrupts)
	o.says(id, "Or a little later", "")
	o.got("Piotr’s phone", 2)
	assert.NotEqual(t, loud, shows())
	assert.Contains(t, shows(), "quiet")
	assert.False(t, o.many(id).Entries[1].Interrupts)
}

// Somebody in a thread is merged, removed, or stopped; whoever is left gets each thing once.
func TestPeopleChangeWhileAThreadWithManyIsOpen(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(`{"with":"people","people":[1,2,4]}`)
	o.act(http.StatusNoContent, id, "share", `{"shared":true}`)
	o.got("+447700900418", 1)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/people/merge", `{"keep":2,"others":[1]}`, nil)
	assert.Len(t, o.many(id).Many.People, 2, "who was merged is there once")
	o.c.Want(http.StatusOK, http.MethodPost, "/api/people/remove", `{"people":[4]}`, nil)
	assert.Len(t, o.many(id).Many.People, 1)
	o.says(id, "Who is left?", "")
	o.got("+447700900418", 2)
	assert.Len(t, o.had("tuan@vo.example"), 1)
	o.act(http.StatusNoContent, id, "people", `{"people":[2,5]}`) // also after somebody was removed
	o.texts("+447700900418", "K1", "I am")
	assert.Equal(t, "I am", o.many(id).Entries[2].Said)
}

// Whoever sits at a desk and may not write to people reads a thread with many, and writes
// nothing in it.
func TestWhoMayNotWriteReadsAThreadWithMany(t *testing.T) {
	o := atDesk(t, "")
	hash, err := password.Hash(testkit.Password, testkit.PasswordCost)
	require.NoError(t, err)
	reader, err := o.i.Store.PutAccount(t.Context(), store.Account{
		Login: "night@quillmere.example", Name: "Nell Night", PasswordHash: hash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Whole: true}},
	})
	require.NoError(t, err)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", deskBody(1, "Club office", fmt.Sprintf("1,%d", reader), ""), nil)
	id := o.opensMany(three)
	nell := testkit.Stranger(t, o.i.URL)
	nell.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "night@quillmere.example", "password": testkit.Password}, nil)
	path := fmt.Sprintf("/api/threads/%d", id)
	var read manyRead
	nell.Want(http.StatusOK, http.MethodGet, path, nil, &read)
	assert.Empty(t, read.Many.People, "nor do they see who is in it")
	assert.Equal(t, 3, read.Many.Beyond)
	for what, body := range map[string]string{"say-to-all": `{"text":"Hi"}`, "weigh-all": `{"text":"Hi"}`, "share": `{"shared":true}`} {
		assert.Contains(t, nell.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/"+what, body), "may not write to people")
	}
	message := o.says(id, "Hello", "")
	for _, of := range []string{"", "/record", "/recipients", "/left-out", "/progress"} { // it is no message of its author
		o.c.Problem(http.StatusNotFound, http.MethodGet, fmt.Sprintf("/api/messages/%d%s", message, of), nil)
	}
	nell.Problem(http.StatusNotFound, http.MethodGet, fmt.Sprintf("%s/reached/%d", path, message), nil)
	var reached struct{ People []struct{ Name, Says string } }
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("%s/reached/%d", path, message), nil, &reached)
	assert.Len(t, reached.People, 3)
	o.c.Problem(http.StatusNotFound, http.MethodGet, path+"/reached/999", nil)
}

// Who comes into a thread in which all see what is said is told before anything goes there.
func TestWhoComesInLaterIsToldFirst(t *testing.T) {
	o := atDesk(t, "")
	id := o.opensMany(`{"with":"people","people":[1,2]}`)
	o.act(http.StatusNoContent, id, "share", `{"shared":true}`)
	o.got("+447700900418", 1)
	o.act(http.StatusNoContent, id, "people", `{"people":[1,2,4]}`)
	o.says(id, "Welcome", "")
	o.got("tuan@vo.example", 2)
	assert.Contains(t, strings.Join(o.had("tuan@vo.example"), "\n"), "RỜI")
	o.got("+447700900418", 2) // who was told before is not told again
}

// A thread is no way around what is confirmed as a message, nor around quiet hours, but for
// those who are in a job.
func TestWhatHoldsForMessagesHoldsInThreads(t *testing.T) {
	o := atDesk(t, "")
	o.c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending",
		`{"holdSeconds":0,"steps":{},"rules":{"bigFrom":3,"quiet":{"text":{"from":"08:00","to":"20:00"}}}}`, nil)
	waits := func(thread int64) int {
		t.Helper()
		var w struct{ Waits int }
		o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/weigh-all", thread), `{"text":"Hello"}`, &w)
		return w.Waits
	}
	assert.Equal(t, 2, waits(o.opensMany(`{"with":"people","people":[1,2]}`)))
	job := o.beginsJob(pump)
	o.inJob(http.StatusOK, job, "people", `{"part":"does","people":[1,2]}`)
	assert.Zero(t, waits(o.opensMany(fmt.Sprintf(`{"with":"job","group":%d}`, job))), "who is in a job is at work")
	said := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost,
		fmt.Sprintf("/api/threads/%d/say-to-all", o.opensMany(three)), `{"text":"Hello"}`)
	assert.Contains(t, said, "goes as a message, which is checked first")
}

// Whoever is barred from a dependent is answered alone like anybody; beside it stands from
// whom. In a thread about the dependent they get nothing, and are counted.
func TestTheThreadOfSomebodyWithABarredTie(t *testing.T) {
	o := atDesk(t, "")
	sheet := person(o.c, 2).Sheet
	require.Len(t, sheet.Ties, 1)
	sheet.Ties[0].Barred, sheet.Ties[0].Receives = true, false
	save(t, o.c, sheet)

	o.texts("+447700900418", "K1", "Where is Kinga?")
	alone := o.only().Thread.ID
	var beside struct{ Person struct{ Barred []string } }
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/threads/%d", alone), nil, &beside)
	assert.Equal(t, []string{"Kinga Zielony"}, beside.Person.Barred)
	o.answersThread(alone, "Please call the office")
	o.got("+447700900418", 1)

	id := o.opensMany(`{"with":"group","group":3}`)
	o.act(http.StatusNoContent, id, "share", `{"shared":true}`)
	o.got("tuan@vo.example", 1)
	o.answers("tuan@vo.example", standin.Written{Text: "We come with Kinga"})
	testkit.Eventually(t, "it was passed on", func() bool {
		entries := o.many(id).Entries
		return entries[len(entries)-1].Passed != 0
	})
	assert.Len(t, o.had("+447700900418"), 1, "nothing of this thread reaches him")
	for _, p := range o.many(id).Many.People {
		if p.Name == "Piotr Zielony" {
			assert.NotEmpty(t, p.Reason)
			assert.Empty(t, p.By)
		}
	}
}
