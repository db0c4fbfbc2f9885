package httpapi_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/exchange"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

type copyLine struct {
	Key, Original, Target, Source, By, CheckedBy string
	Doubts                                       []struct{ Code, Sentence string }
	Was                                          *struct {
		Target     string
		Difference []struct{ Text, Only string }
	}
	Others []struct{ Reader, Text string }
}

type copyOf struct {
	State, Name               string
	Rtl, Editable             bool
	Filled, Checked, Doubtful int
	Lines                     []copyLine
}

type copyPlan struct {
	Copies []struct {
		Language, State       string
		Used                  bool
		People, Lines, Filled int
		Checked, Doubtful     int
		By                    []string
	}
	CopiesSeen string
	Sentences  []string
	Recipients int
}

// begun is a message to guardians and coaches that says two lines, as it is kept.
type begun struct {
	t        *testing.T
	c        *testkit.Client
	id       int64
	revision int64
	draft    string
}

func begin(t *testing.T, c *testkit.Client, email string) *begun {
	t.Helper()
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	b := &begun{t: t, c: c, id: m.ID, revision: m.Revision}
	b.says(email)
	return b
}

func (b *begun) says(email string) {
	b.t.Helper()
	b.draft = strings.Replace(draftOf(juniors+","+coaches, email), "Outing", "", 1)
	var kept struct{ Revision int64 }
	b.c.Want(
		http.StatusOK, http.MethodPut, fmt.Sprintf("/api/messages/%d", b.id),
		fmt.Sprintf(`{"revision":%d,"draft":%s}`, b.revision, b.draft), &kept,
	)
	b.revision = kept.Revision
}

func (b *begun) path(tag string) string { return fmt.Sprintf("/api/messages/%d/copies/%s", b.id, tag) }

func (b *begun) copy(tag string) (c copyOf) {
	b.t.Helper()
	b.c.Want(http.StatusOK, http.MethodGet, b.path(tag), nil, &c)
	return c
}

// write writes a line of a copy, or checks it.
func (b *begun) write(tag string, l copyLine, text string, checked bool) (c copyOf) {
	b.t.Helper()
	b.c.Want(http.StatusOK, http.MethodPut, b.path(tag), lineBody(l.Key, l.Target, text, checked), &c)
	return c
}

func lineBody(key, was, text string, checked bool) string {
	return fmt.Sprintf(`{"lines":[{"key":%q,"was":%q,"text":%q,"checked":%v}]}`, key, was, text, checked)
}

func (b *begun) plan() (p copyPlan) {
	b.t.Helper()
	b.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/plan?message=%d", b.id), b.draft, &p)
	return p
}

func (b *begun) drafted(tag string) (out struct {
	Memory, Adapted, Machine, Withheld, Left int
	Note                                     string
}) {
	b.t.Helper()
	b.c.Want(http.StatusOK, http.MethodPost, b.path(tag)+"/draft", nil, &out)
	return out
}

const twoLines = "Dear {{first name}},\nTraining is cancelled today."

func TestACopyFromTheDeskToThePhone(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	p := b.plan()
	require.Len(t, p.Copies, 2, "Arabic and Polish are read here; the one who reads Vietnamese gets nothing")
	assert.False(t, p.Copies[0].Used)
	assert.Contains(t, p.Sentences, "2 people read another language and get the original, untranslated: Arabic 1, Polish 1.")

	out := b.drafted("pl")
	assert.Equal(t, 2, out.Machine)
	assert.Zero(t, out.Left)
	unread := b.copy("pl")
	assert.Equal(t, "unchecked", unread.State)
	assert.Equal(t, "{1}, dzień dobry,", unread.Lines[0].Target)
	assert.False(t, b.plan().Copies[0].Used, "nobody has read it")
	for _, l := range unread.Lines {
		unread = b.write("pl", l, l.Target, true)
	}
	assert.Equal(t, "checked", unread.State)
	assert.Equal(t, "Hugo Farrowby", unread.Lines[1].CheckedBy)
	assert.Equal(t, "machine", unread.Lines[1].Source, "where it came from is kept")

	p = b.plan()
	assert.Contains(t, p.Sentences, "1 person gets the Polish copy, checked by Hugo Farrowby.")
	var people struct {
		People []struct {
			ID   int64
			Name string
		}
	}
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/plan/people?message=%d&copy=pl", b.id), b.draft, &people)
	require.Len(t, people.People, 1)
	assert.Equal(t, "Piotr Zielony", people.People[0].Name)

	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", b.id), fmt.Sprintf(
		`{"revision":%d,"recipients":%d,"copies":%q}`, b.revision, p.Recipients, p.CopiesSeen,
	), nil)
	var received []standin.Item
	testkit.Eventually(t, "the phone rings", func() bool {
		var err error
		received, err = i.Box.Received(t.Context(), []string{"+447700900418"})
		require.NoError(t, err)
		return len(received) > 0
	})
	assert.Equal(t, "Piotr, dzień dobry,\nDzisiejszy trening jest odwołany.", received[0].Body)
	var record struct {
		Languages []struct{ Tag, Got, Trust string }
		Trust     struct{ Original, Checked, Unread, Untranslated int }
	}
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/record", b.id), nil, &record)
	got := map[string]string{}
	for _, l := range record.Languages {
		got[l.Tag] = l.Got
		if l.Got != "" {
			assert.Equal(t, "checked by Hugo Farrowby", l.Trust)
		}
	}
	assert.Equal(t, struct{ Original, Checked, Unread, Untranslated int }{2, 1, 0, 1}, record.Trust)
	assert.Equal(t, map[string]string{"en": "", "ar": "", "pl": "pl"}, got)

	testkit.Eventually(t, "it is known who got it", func() bool {
		var s standingOf
		c.Record(b.id, &s)
		return s.Message.Figures.Waiting == 0
	})
	var correction struct {
		Draft struct {
			Audience struct{ Parts []struct{ People []int64 } }
		}
	}
	follow := fmt.Sprintf("/api/messages/%d/follow", b.id)
	c.Want(http.StatusOK, http.MethodPost, follow, `{"as":"correction","language":"pl"}`, &correction)
	assert.Equal(t, []int64{people.People[0].ID}, correction.Draft.Audience.Parts[0].People, "exactly those who got it")
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, follow, `{"as":"correction","language":"ar"}`), "Nobody got")

	sent := b.copy("pl")
	assert.False(t, sent.Editable)
	c.Want(http.StatusConflict, http.MethodPut, b.path("pl"), lineBody(sent.Lines[0].Key, sent.Lines[0].Target, "x", true), nil)
	assert.Equal(t, sent, b.copy("pl"), "what was sent stays as it was")
}

// Rules “Lines and copies” 4, and the check of Send.
func TestACopyThatBecameStaleIsCaughtBySend(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	for _, l := range b.copy("pl").Lines {
		b.write("pl", l, l.Target, true)
	}
	checked := b.plan()
	require.True(t, checked.Copies[0].Used || checked.Copies[1].Used)

	b.says("Dear {{first name}},\nTraining is cancelled tomorrow.")
	stale := b.copy("pl")
	assert.Equal(t, "incomplete", stale.State)
	assert.NotEmpty(t, stale.Lines[0].CheckedBy, "the other line is as it was")
	require.NotNil(t, stale.Lines[1].Was)
	assert.Equal(t, "Dzisiejszy trening jest odwołany.", stale.Lines[1].Was.Target)
	assert.Equal(t, []struct{ Text, Only string }{
		{"Training is cancelled ", ""}, {"today.", "before"}, {"tomorrow.", "now"},
	}, stale.Lines[1].Was.Difference)

	body := fmt.Sprintf(`{"revision":%d,"recipients":%d,"copies":%q}`, b.revision, checked.Recipients, checked.CopiesSeen)
	assert.Contains(
		t, c.Problem(http.StatusConflict, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", b.id), body),
		"copies in other languages are no longer as they were",
	)
}

// Rules “The memory” 1 to 3.
func TestWhatWasCheckedIsRemembered(t *testing.T) {
	_, c := start(t)
	first := begin(t, c, "Meet at 8:30.\nBring a warm hat and gloves.")
	for n, text := range []string{"Spotkanie o 8:30.", "Weź ciepłą czapkę i rękawiczki."} {
		first.write("pl", first.copy("pl").Lines[n], text, true)
	}
	second := begin(t, c, "Bring a warm hat and gloves.\nMeet at 9:15.\nBring a warm hat or gloves.")
	out := second.drafted("pl")
	assert.Equal(t, 1, out.Memory)
	assert.Equal(t, 1, out.Adapted)
	assert.Equal(t, 1, out.Left)
	lines := second.copy("pl").Lines
	assert.Equal(t, "Hugo Farrowby", lines[0].CheckedBy)
	assert.Equal(t, "memory", lines[0].Source)
	assert.Equal(t, "Spotkanie o 9:15.", lines[1].Target)
	assert.Equal(t, "adapted", lines[1].Source)
	assert.Empty(t, lines[1].CheckedBy)
	var like struct {
		Lines []struct {
			Target   string
			Likeness int
		}
	}
	c.Want(http.StatusOK, http.MethodGet, second.path("pl")+"/lines/"+lines[2].Key+"/like", nil, &like)
	require.Len(t, like.Lines, 1)
	assert.Equal(t, "Weź ciepłą czapkę i rękawiczki.", like.Lines[0].Target)
	assert.GreaterOrEqual(t, like.Lines[0].Likeness, 75)
}

func TestALineThatNamesSomebodyStaysHere(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, "Training is cancelled today.\nPlease ask Rania Haddad.\nRing 07700 900417.")
	out := b.drafted("pl")
	assert.Equal(t, 1, out.Machine)
	assert.Equal(t, 2, out.Withheld)
	assert.Equal(t, 2, out.Left)
}

// Two people at the same line: nothing that was written is overwritten.
func TestTwoPeopleAtTheSameLine(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	l := b.copy("pl").Lines[1]
	b.write("pl", l, "Trening odwołany.", false)
	other := testkit.SignedIn(t, i.URL)
	assert.Contains(
		t, other.Problem(http.StatusConflict, http.MethodPut, b.path("pl"), lineBody(l.Key, "", "Treningu nie ma.", true)),
		"Hugo Farrowby wrote “Trening odwołany.” here meanwhile",
	)
	assert.Equal(t, "Trening odwołany.", b.copy("pl").Lines[1].Target)
	other.Want(http.StatusOK, http.MethodPut, b.path("pl"), lineBody(l.Key, "", "Trening odwołany.", true), nil)
}

func TestCopiesAndBadInput(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	key := b.copy("pl").Lines[0].Key
	for _, bad := range []struct {
		name, method, path, body, says string
		status                         int
	}{
		{"no language", http.MethodGet, b.path("x-klingon"), "", "is no language", http.StatusUnprocessableEntity},
		{"nothing like a tag", http.MethodGet, b.path("%2e%2e"), "", "is no language", http.StatusUnprocessableEntity},
		{"its own language", http.MethodGet, b.path("en"), "", "is written in it", http.StatusUnprocessableEntity},
		{"no message", http.MethodGet, "/api/messages/999/copies/pl", "", "", http.StatusNotFound},
		{"a line of another message", http.MethodPut, b.path("pl"), lineBody(strings.Repeat("0", 32), "", "x", true), "no longer in the message", http.StatusUnprocessableEntity},
		{"too long", http.MethodPut, b.path("pl"), lineBody(key, "", strings.Repeat("x", 4001), true), "4001 characters", http.StatusUnprocessableEntity},
		{"far too long", http.MethodPut, b.path("pl"), lineBody(key, "", strings.Repeat("x", 9000), true), "", http.StatusUnprocessableEntity},
		{"no lines", http.MethodPut, b.path("pl"), `{"lines":[]}`, "", http.StatusUnprocessableEntity},
		{"nothing to read back", http.MethodGet, b.path("pl") + "/lines/" + key + "/back", "", "nothing to read back", http.StatusUnprocessableEntity},
		{"no key", http.MethodGet, b.path("pl") + "/lines/nothing/like", "", "", http.StatusUnprocessableEntity},
		{"a strange key", http.MethodGet, b.path("pl") + "/lines/" + strings.Repeat("0", 32) + "/like", "", "", http.StatusNotFound},
		{"copies that cannot be", http.MethodPost, "/api/plan", strings.Replace(b.draft, `"urgency"`, `"copies":{"beneath":["voice"]},"urgency"`, 1), "nothing can stand beneath", http.StatusUnprocessableEntity},
	} {
		t.Run(bad.name, func(t *testing.T) {
			var body any
			if bad.body != "" {
				body = bad.body
			}
			assert.Contains(t, c.Problem(bad.status, bad.method, bad.path, body), bad.says)
		})
	}
	for _, tag := range []string{"zh-Hant-HK", "sr-Latn", "pt", "PL"} {
		c.Want(http.StatusOK, http.MethodGet, b.path(tag), nil, nil)
	}
	stranger := testkit.Stranger(t, i.URL)
	stranger.Want(http.StatusUnauthorized, http.MethodGet, b.path("pl"), nil, nil)
}

// What an account may not see has no copies for it, and reading is no writing.
func TestCopiesOfOthers(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	key := b.copy("pl").Lines[0].Key
	ok, file := c.Text(b.path("pl") + "/xliff")
	require.Equal(t, http.StatusOK, ok)
	asked, unasked := b.ask(tomorrow(), zielony)[0], begin(t, c, twoLines)
	c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Watch"}`, nil)
	for login, account := range map[string]string{
		"unit@quillmere.example": `"scope":{"whole":false,"units":[1]},"rights":["write","see-people"]`,
		"read@quillmere.example": `"scope":{"whole":true,"units":[]},"rights":["read-records"]`,
	} {
		c.Want(http.StatusOK, http.MethodPost, "/api/accounts", fmt.Sprintf(
			`{"login":%q,"name":"Other","duty":"","active":true,"password":"a password for tests",%s}`, login, account,
		), nil)
	}
	for login, status := range map[string]int{
		"unit@quillmere.example": http.StatusNotFound, "read@quillmere.example": http.StatusForbidden,
	} {
		other := testkit.Stranger(t, i.URL)
		other.Want(http.StatusOK, http.MethodPost, "/api/sign-in", map[string]string{"login": login, "password": "a password for tests"}, nil)
		other.Want(status, http.MethodPut, b.path("pl"), lineBody(key, "", "x", true), nil)
		other.Want(status, http.MethodPost, b.path("pl")+"/draft", nil, nil)
		other.Want(status, http.MethodDelete, b.path("pl"), nil, nil)
		other.Want(status, http.MethodPost, fmt.Sprintf("/api/messages/%d/follow", b.id), `{"as":"correction"}`, nil)
		other.Want(status, http.MethodGet, b.path("pl")+"/xliff", nil, nil)
		other.Want(status, http.MethodGet, b.path("pl")+"/lines/"+key+"/like", nil, nil)
		other.Want(status, http.MethodPost, fmt.Sprintf("/api/plan?message=%d", b.id), b.draft, nil)
		other.Want(status, http.MethodGet, fmt.Sprintf("/api/messages/%d/xliff?languages=pl", b.id), nil, nil)
		assert.Equal(t, status, raw(t, other, fmt.Sprintf("/api/messages/%d/xliff?checked=true", b.id), []byte(file), nil))
		if status == http.StatusNotFound {
			bare := fmt.Sprintf("/api/messages/%d/readings", unasked.id)
			other.Want(status, http.MethodGet, bare, nil, nil)
		}
		readings := fmt.Sprintf("/api/messages/%d/readings", b.id)
		until := tomorrow().Format(time.RFC3339)
		other.Want(status, http.MethodPost, b.path("pl")+"/readings", fmt.Sprintf(`{"people":[2],"until":%q}`, until), nil)
		other.Want(status, http.MethodGet, b.path("pl")+"/readers", nil, nil)
		other.Want(status, http.MethodDelete, fmt.Sprintf("%s/%d", readings, asked.ID), nil, nil)
		other.Want(
			status, http.MethodPost, fmt.Sprintf("/api/messages/%d/await", b.id),
			fmt.Sprintf(`{"revision":%d,"until":%q}`, b.revision, until), nil,
		)
		other.Want(status, http.MethodDelete, fmt.Sprintf("/api/messages/%d/await", b.id), nil, nil)
		if status == http.StatusForbidden {
			status = http.StatusOK // who may read records may see how far readings are
		}
		var seen []readingOf
		if status == http.StatusOK {
			other.Want(status, http.MethodGet, readings, nil, &seen)
			assert.Empty(t, seen[0].Path, "with the link they could write")
			continue
		}
		other.Want(status, http.MethodGet, readings, nil, nil)
	}
	assert.Len(t, b.readings(), 1)
	b.write("pl", b.copy("pl").Lines[0], "x", true)
	c.Want(http.StatusNoContent, http.MethodDelete, b.path("pl"), nil, nil)
	assert.Zero(t, b.copy("pl").Filled)
}

// A service that is down, slow to answer sense, or answers nonsense: nothing is lost,
// and it is said why.
func TestATranslationServiceThatDoesNotHelp(t *testing.T) {
	answer := func(body string) http.HandlerFunc {
		return func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "application/json")
			_, _ = w.Write([]byte(body))
		}
	}
	for _, s := range []struct {
		name    string
		answers http.HandlerFunc
		machine int
		says    string
	}{
		{"it is down", func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusBadGateway) }, 0, "it answered 502"},
		{"it refuses", func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusUnauthorized) }, 0, "it answered 401"},
		{"HTML", func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("<html>Sign in</html>")) }, 0, "not JSON"},
		{"garbage", answer("{"), 0, "cannot be read"},
		{"fewer lines", answer(`{"lines":["x"]}`), 0, "asked for 2 lines and answered 1"},
		{"more lines", answer(`{"lines":["x","y","z"]}`), 0, "asked for 2 lines and answered 3"},
		{"two megabytes", answer(`{"lines":["` + strings.Repeat("x", 2<<20) + `","y"]}`), 0, "longer than a megabyte"},
		{"one line that it cannot", answer(`{"lines":[null,"Trening odwołany."]}`), 1, ""},
		{"a line that is far too long", answer(`{"lines":["` + strings.Repeat("x", 5000) + `","Trening odwołany."]}`), 1, ""},
		{"a place that is lost", answer(`{"lines":["Dzień dobry,","Trening odwołany."]}`), 2, ""},
	} {
		t.Run(s.name, func(t *testing.T) {
			service := httptest.NewServer(s.answers)
			defer service.Close()
			elsewhere := func(c *app.Config) { c.Carriers.Translations = service.URL }
			i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), elsewhere)
			b := begin(t, testkit.SignedIn(t, i.URL), twoLines)
			out := b.drafted("pl")
			assert.Equal(t, s.machine, out.Machine)
			assert.Equal(t, 2-s.machine, out.Left)
			assert.Contains(t, out.Note, s.says)
			if s.machine == 2 {
				require.NotEmpty(t, b.copy("pl").Lines[0].Doubts)
				assert.Equal(t, "Fields or formatting are missing: {1}.", b.copy("pl").Lines[0].Doubts[0].Sentence)
			}
		})
	}
}

// raw posts a file.
func raw(t *testing.T, c *testkit.Client, path string, content []byte, out any) int {
	t.Helper()
	req, err := http.NewRequest(http.MethodPost, c.URL+path, bytes.NewReader(content))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/octet-stream")
	resp, err := c.HTTP.Do(req)
	require.NoError(t, err)
	defer resp.Body.Close() //nolint:errcheck // read to its end
	body, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	if resp.StatusCode == http.StatusOK {
		require.NoError(t, json.Unmarshal(body, out))
	} else if said, ok := out.(*string); ok {
		*said = string(body)
	}
	return resp.StatusCode
}

func TestACopyGoesOutToTranslatorsAndComesBack(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, twoLines)
	status, file := c.Text(b.path("pl") + "/xliff")
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, file, `<ph id="1" disp="first name"/>`)
	back := strings.NewReplacer(
		"</source></segment>", "</source><target>Trening odwołany.</target></segment>", `state="initial"`, `state="final"`,
	).Replace(file)

	b.says("Dear {{full name}},\nTraining is cancelled today.\nBring a hat.")
	var taken struct {
		Lines, Same   int
		Gone, Changed []string
	}
	require.Equal(t, http.StatusOK, raw(t, c, b.path("pl")+"/xliff?checked=true", []byte(back), &taken))
	assert.Equal(t, 1, taken.Lines)
	assert.Equal(t, []string{"Dear ,"}, taken.Gone, "a line of the older original is told")
	lines := b.copy("pl").Lines
	assert.Empty(t, lines[0].Target)
	assert.Equal(t, "Trening odwołany.", lines[1].Target)
	assert.Equal(t, "Hugo Farrowby", lines[1].CheckedBy)
	require.Equal(t, http.StatusOK, raw(t, c, b.path("pl")+"/xliff", []byte(back), &taken))
	assert.Equal(t, 1, taken.Same, "the same file again changes nothing")

	var says string
	assert.Equal(t, http.StatusUnprocessableEntity, raw(t, c, b.path("ar")+"/xliff", []byte(back), &says))
	assert.Contains(t, says, "this copy is in “ar”")
	assert.Equal(t, http.StatusUnprocessableEntity, raw(t, c, b.path("pl")+"/xliff", []byte(strings.Replace(back, `"2.1"`, `"1.2"`, 1)), &says))
	assert.Contains(t, says, "save version 2.1")
}

func TestTheMemoryIsSeenCorrectedAndCarried(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, "Bring a warm hat.\nThank you.")
	for n, text := range []string{"Weź czapkę.", "Dziękujemy."} {
		b.write("pl", b.copy("pl").Lines[n], text, true)
	}
	var memory struct {
		All   int
		Lines []struct {
			ID                                    int64
			Original, Target, Language, CheckedBy string
		}
		Languages []struct{ Tag, Name string }
		Checkers  []string
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/memory?search=czap&language=pl&by=Hugo%20Farrowby", nil, &memory)
	require.Equal(t, 1, memory.All)
	assert.Equal(t, "Bring a warm hat.", memory.Lines[0].Original)
	assert.Equal(t, "Polish", memory.Languages[0].Name)
	c.Want(http.StatusOK, http.MethodGet, "/api/memory?search=100%25&older=1", nil, &memory)
	assert.Zero(t, memory.All)
	c.Want(http.StatusOK, http.MethodGet, "/api/memory?search=czap", nil, &memory)

	line := fmt.Sprintf("/api/memory/%d/pl", memory.Lines[0].ID)
	var corrected struct{ SaySo []struct{ Message int64 } }
	c.Want(http.StatusConflict, http.MethodPut, line, `{"was":"Inne.","text":"Weź ciepłą czapkę."}`, nil)
	c.Want(http.StatusUnprocessableEntity, http.MethodPut, line, `{"was":"Weź czapkę.","text":" "}`, nil)
	c.Want(http.StatusOK, http.MethodPut, line, `{"was":"Weź czapkę.","text":"Weź ciepłą czapkę."}`, &corrected)
	require.Len(t, corrected.SaySo, 1)
	assert.Equal(t, b.id, corrected.SaySo[0].Message, "the draft keeps what it says, and is named")
	assert.Equal(t, "Weź czapkę.", b.copy("pl").Lines[0].Target)

	status, file := c.Text("/api/memory.tmx")
	require.Equal(t, http.StatusOK, status)
	c.Want(http.StatusNoContent, http.MethodDelete, line, nil, nil)
	c.Want(http.StatusNotFound, http.MethodDelete, line, nil, nil)
	var loaded struct {
		Added, Skipped int
		Why            []string
	}
	require.Equal(t, http.StatusOK, raw(t, c, "/api/memory/file", []byte(file), &loaded))
	assert.Equal(t, 2, loaded.Added)
	c.Want(http.StatusOK, http.MethodGet, "/api/memory?search=czap", nil, &memory)
	assert.Equal(t, "Weź ciepłą czapkę.", memory.Lines[0].Target, "it is back, with its search")
	foreign := strings.ReplaceAll(file, `xml:lang="en"`, `xml:lang="de"`)
	require.Equal(t, http.StatusOK, raw(t, c, "/api/memory/file", []byte(foreign), &loaded))
	assert.Equal(t, 2, loaded.Skipped)
	assert.Contains(t, loaded.Why[0], "is in “de”")
	var says string
	assert.Equal(t, http.StatusUnprocessableEntity, raw(t, c, "/api/memory/file", []byte("<html/>"), &says))
	c.Want(http.StatusNoContent, http.MethodPost, "/api/memory", `{"original":"See you.","places":[],"language":"pl","target":"Do zobaczenia."}`, nil)
	c.Want(http.StatusUnprocessableEntity, http.MethodPost, "/api/memory", `{"original":"See you.","places":[],"language":"en","target":"x"}`, nil)
}

func TestTheGlossary(t *testing.T) {
	_, c := start(t)
	var glossary struct {
		Terms []struct {
			ID                         int64
			Term, Language, Says, Note string
		}
	}
	for _, body := range []string{
		`{"term":" Harrow  Lock ","language":"PL","says":"Harrow Lock","note":"a place"}`,
		`{"term":"capsize drill","language":"pl","says":"=ćwiczenie"}`, `{"term":"capsize drill","language":"ar","says":"تدريب"}`,
	} {
		c.Want(http.StatusOK, http.MethodPut, "/api/terms", body, &glossary)
	}
	require.Len(t, glossary.Terms, 3)
	assert.Equal(t, "Harrow Lock", glossary.Terms[2].Term)
	assert.Equal(t, "pl", glossary.Terms[2].Language)
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPut, "/api/terms", `{"term":"","language":"pl","says":"x"}`), "how it is said")
	c.Want(http.StatusUnprocessableEntity, http.MethodPut, "/api/terms", `{"term":"x","language":"x-klingon","says":"x"}`, nil)

	for _, path := range []string{"/api/terms.csv", "/api/terms.tbx"} {
		status, file := c.Text(path)
		require.Equal(t, http.StatusOK, status)
		for _, term := range glossary.Terms {
			c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/terms/%d", term.ID), nil, nil)
		}
		var loaded struct{ Added, Skipped int }
		require.Equal(t, http.StatusOK, raw(t, c, "/api/terms/file", []byte(file), &loaded))
		assert.Equal(t, 3, loaded.Added, path)
		before := glossary.Terms
		c.Want(http.StatusOK, http.MethodGet, "/api/terms", nil, &glossary)
		for n := range before {
			before[n].ID = glossary.Terms[n].ID
		}
		assert.Equal(t, before, glossary.Terms, path)
	}
	var says string
	assert.Equal(t, http.StatusUnprocessableEntity, raw(t, c, "/api/terms/file", []byte("a,b\n1,2\n"), &says))
	assert.Contains(t, says, "term, language and says")

	b := begin(t, c, "The capsize drill is today.")
	l := b.write("pl", b.copy("pl").Lines[0], "Trening jest dzisiaj.", false).Lines[0]
	require.Len(t, l.Doubts, 1)
	assert.Equal(t, "The glossary says “=ćwiczenie”.", l.Doubts[0].Sentence)
}

// Rule “Lines and copies” 11: the leaflet of a language arrives with its readers.
func TestFilesForReadersOfALanguage(t *testing.T) {
	i, c := start(t)
	flyer, leaflet := upload(c, "flyer.txt", []byte("Come")), upload(c, "leaflet.txt", []byte("Przyjdź"))
	of := func(u uploaded, tag string) string {
		return strings.Replace(u.json(), "{", fmt.Sprintf(`{"language":%q,`, tag), 1)
	}
	draft := strings.Replace(draftOf(juniors+","+coaches, "Come"), `"subject"`, `"files":[`+of(flyer, "en")+","+of(leaflet, "ar")+`],"subject"`, 1)
	sendDraft(t, c, draft)
	files := map[string]string{}
	testkit.Eventually(t, "both emails arrive", func() bool {
		all, err := i.Box.All(t.Context())
		require.NoError(t, err)
		for _, item := range all {
			if len(item.Files) > 0 {
				files[item.Address] = item.Files[0].Name
			}
		}
		return len(files) == 3
	})
	assert.Equal(t, map[string]string{
		"rania@example.org": "leaflet.txt", "naya@example.org": "flyer.txt", "naya@quillmere.example": "flyer.txt",
	}, files)
	c.Want(
		http.StatusUnprocessableEntity, http.MethodPost, "/api/plan",
		strings.Replace(draft, `"language":"ar"`, `"language":"x-klingon"`, 1), nil,
	)
}

// Rule “The memory” 2: a line with another name in it is adapted, and never leaves here.
func TestALineWithAnotherNameIsAdapted(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, "Naya Osei meets you at the gate.")
	b.write("pl", b.copy("pl").Lines[0], "Naya Osei czeka przy bramie.", true)
	other := begin(t, c, "Lena Achterberg meets you at the gate.")
	out := other.drafted("pl")
	assert.Equal(t, 1, out.Adapted)
	assert.Zero(t, out.Withheld)
	got := other.copy("pl").Lines[0]
	assert.Equal(t, "Lena Achterberg czeka przy bramie.", got.Target)
	assert.Equal(t, "adapted", got.Source)
	assert.Empty(t, got.CheckedBy)
}

// “Try it on me” sends any copy, though nobody has read it and it is not used.
func TestACopyIsTriedOnOneself(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	try := fmt.Sprintf("/api/plan/try?message=%d&language=", b.id)
	c.Want(http.StatusOK, http.MethodPost, try+"pl", b.draft, nil)
	assert.Contains(t, received(t, i.Box, 1)[0].Body, "Dzisiejszy trening jest odwołany.")
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, try+"so", b.draft), "no copy in that language")
}

// Copies in several languages go out to translators together, and come back so.
func TestCopiesInSeveralLanguagesTravelTogether(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	path := fmt.Sprintf("/api/messages/%d/xliff", b.id)
	status, bundle := c.Do(http.MethodGet, path+"?languages=pl&languages=ar", nil)
	require.Equal(t, http.StatusOK, status)
	files, err := exchange.ReadXLIFFs(bundle)
	require.NoError(t, err)
	require.Len(t, files, 2)
	var back []exchange.Bundled
	for _, x := range files {
		for i := range x.Units {
			x.Units[i].Target, x.Units[i].State = x.To+" "+x.Units[i].Source.Text, exchange.Reviewed
		}
		back = append(back, exchange.Bundled{Name: x.To + ".xlf", Content: exchange.WriteXLIFF(x)})
	}
	returned, err := exchange.WriteBundle(back)
	require.NoError(t, err)
	var taken []struct {
		Language, Name string
		Lines          int
	}
	require.Equal(t, http.StatusOK, raw(t, c, path+"?checked=true", returned, &taken))
	require.Len(t, taken, 2)
	assert.Equal(t, "Arabic", taken[1].Name)
	assert.Equal(t, 2, taken[1].Lines)
	assert.Equal(t, "checked", b.copy("ar").State)
	assert.Equal(t, "checked", b.copy("pl").State)

	for name, content := range map[string][]byte{"cut": returned[:50], "another language": exchange.WriteXLIFF(exchange.XLIFF{File: "1", From: "en", To: "x-klingon"})} {
		assert.Equal(t, http.StatusUnprocessableEntity, raw(t, c, path, content, nil), name)
	}
	c.Want(http.StatusUnprocessableEntity, http.MethodGet, path, nil, nil)
	c.Want(http.StatusUnprocessableEntity, http.MethodGet, path+"?languages=x-klingon", nil, nil)
	c.Want(http.StatusNotFound, http.MethodGet, "/api/messages/999/xliff?languages=pl", nil, nil)
}
