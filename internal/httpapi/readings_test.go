package httpapi_test

import (
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/testkit"
)

type readingOf struct {
	ID, Request                 int64
	Name, Language, State, Path string
	Remark, Problem             string
	Read, Lines, Others         int
	AskedAt, Until              time.Time
}

type visitOf struct {
	Organisation, Name, From, Language, LanguageName, Until, Remark string
	Rtl, Over, Done                                                 bool
	Words                                                           struct{ Tag string }
	Gone                                                            []string
	Lines                                                           []struct{ Key, Original, Target, Said string }
}

// reader is somebody with a link to a reading, and no account.
type reader struct {
	c    *testkit.Client
	path string
}

// ask asks people, by their numbers, to read the Polish copy.
func (b *begun) ask(until time.Time, people ...int64) []readingOf {
	b.t.Helper()
	var asked []readingOf
	b.c.Want(http.StatusOK, http.MethodPost, b.path("pl")+"/readings", map[string]any{
		"people": people, "until": until,
	}, &asked)
	return asked
}

func (b *begun) readings() (list []readingOf) {
	b.t.Helper()
	b.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/readings", b.id), nil, &list)
	return list
}

func readerOf(t *testing.T, i *app.Instance, r readingOf) reader {
	return reader{testkit.Stranger(t, i.URL), "/api" + r.Path}
}

func (r reader) visit() (v visitOf) {
	r.c.Want(http.StatusOK, http.MethodGet, r.path, nil, &v)
	return v
}

type sayingOf struct {
	Key  string `json:"key"`
	Seen string `json:"seen"`
	Text string `json:"text"`
}

func (r reader) say(done bool, remark string, lines ...sayingOf) (v visitOf) {
	r.c.Want(http.StatusOK, http.MethodPut, r.path, map[string]any{
		"lines": append([]sayingOf{}, lines...), "done": done, "remark": remark,
	}, &v)
	return v
}

// People of testkit.Roster.
const (
	zielony    = 2 // Piotr, who reads Polish
	achterberg = 3 // Lena
)

func tomorrow() time.Time { return time.Now().Add(24 * time.Hour) }

// Rules “Readings” 1, 2 and 6: from the question to the checked copy.
func TestAReadingByAPersonalLink(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	asked := b.ask(tomorrow(), zielony)
	require.Len(t, asked, 1)
	assert.Empty(t, asked[0].Problem)

	text := received(t, i.Box, 1)[0]
	assert.Equal(t, roster.Text, text.Channel, "by their own channel")
	assert.Contains(t, text.Body, "szuka kogoś, kto zna język polski", "in their own language")
	assert.Contains(t, text.Body, i.URL+asked[0].Path)
	token := regexp.MustCompile(`/reading/\S+`).FindString(text.Body)
	require.Equal(t, asked[0].Path, token)

	piotr := readerOf(t, i, asked[0])
	v := piotr.visit()
	assert.Equal(t, "pl", v.Words.Tag)
	assert.Equal(t, "Piotr Zielony", v.Name)
	assert.Equal(t, "polski", v.LanguageName)
	require.Len(t, v.Lines, 2)
	assert.Equal(t, "reading", b.readings()[0].State, "the desk sees that they opened it")

	v = piotr.say(false, "", sayingOf{v.Lines[0].Key, v.Lines[0].Target, v.Lines[0].Target})
	assert.Equal(t, v.Lines[0].Target, v.Lines[0].Said)
	assert.Equal(t, 1, b.readings()[0].Read)
	v = piotr.say(true, " Dobrze. ", sayingOf{v.Lines[1].Key, v.Lines[1].Target, "Dziś nie ma treningu."})
	assert.True(t, v.Done)

	pl := b.copy("pl")
	assert.Equal(t, "checked", pl.State)
	assert.Equal(t, "machine", pl.Lines[0].Source)
	assert.Equal(t, "Piotr Zielony", pl.Lines[0].CheckedBy)
	assert.Equal(t, "Dziś nie ma treningu.", pl.Lines[1].Target)
	assert.Equal(t, "person", pl.Lines[1].Source)
	r := b.readings()[0]
	assert.Equal(t, "done", r.State)
	assert.Equal(t, "Dobrze.", r.Remark)
	assert.Equal(t, 2, r.Read)
	assert.Contains(t, b.plan().Sentences, "1 person gets the Polish copy, checked by Piotr Zielony.")

	v = piotr.say(false, v.Remark, sayingOf{v.Lines[1].Key, v.Lines[1].Target, "Dziś trening odwołany."})
	assert.True(t, v.Done, "what is said after being done counts")
	assert.Equal(t, "Dziś trening odwołany.", b.copy("pl").Lines[1].Target)

	other := begin(t, c, "Training is cancelled today.")
	assert.Equal(t, 1, other.drafted("pl").Memory, "what a reader checked is remembered")
	assert.Equal(t, "Dziś trening odwołany.", other.copy("pl").Lines[0].Target)
}

// What waits for its readers stands on Today, for whoever sees the draft, until it was read.
func TestReadingsThatWaitOnToday(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	waits := func(c *testkit.Client) (list []struct{ Title, Language, Speaks, Readers string }) {
		var day struct {
			Readings []struct{ Title, Language, Speaks, Readers string }
		}
		c.Want(http.StatusOK, http.MethodGet, "/api/today", nil, &day)
		return day.Readings
	}
	assert.Empty(t, waits(c))
	asked := b.ask(tomorrow(), zielony, achterberg)
	require.Len(t, waits(c), 1)
	assert.Equal(t, "Polish", waits(c)[0].Speaks)
	assert.Equal(t, "Piotr Zielony, Lena Achterberg", waits(c)[0].Readers)
	readerOf(t, i, asked[0]).say(true, "")
	require.Len(t, waits(c), 1)
	assert.Equal(t, "Lena Achterberg", waits(c)[0].Readers)
	readerOf(t, i, asked[1]).say(true, "")
	assert.Empty(t, waits(c))

	_, office, watch := startUnits(t, "Flood watch", access.Rights...)
	draft := begin(t, office, twoLines)
	draft.drafted("pl")
	draft.ask(tomorrow(), zielony)
	assert.Len(t, waits(office), 1)
	assert.Empty(t, waits(watch), "they see nothing of that draft")
}

// Rules “Readings” 3 and 4: two readers and the desk at the same line.
func TestWhatTwoReadersSayDifferentlyIsShown(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	asked := b.ask(tomorrow(), zielony, achterberg)
	assert.Contains(t, asked[1].Problem, "Nobody can be reached", "she takes no texts; her link works all the same")
	assert.Zero(t, asked[1].Request)
	first, second := readerOf(t, i, asked[0]), readerOf(t, i, asked[1])
	line := first.visit().Lines[1]
	seen := second.visit().Lines[1].Target

	first.say(true, "", sayingOf{line.Key, line.Target, "Dziś nie ma treningu."})
	second.say(true, "", sayingOf{line.Key, seen, "Trening odwołany."})
	got := b.copy("pl").Lines[1]
	assert.Equal(t, "Dziś nie ma treningu.", got.Target, "nothing is overwritten")
	assert.Empty(t, got.CheckedBy)
	require.Len(t, got.Others, 1)
	assert.Equal(t, "Trening odwołany.", got.Others[0].Text)
	assert.Equal(t, "Lena Achterberg", got.Others[0].Reader)
	assert.Equal(t, 1, b.readings()[1].Others)

	first.say(true, "", sayingOf{line.Key, got.Target, got.Target})
	assert.Empty(t, b.copy("pl").Lines[1].CheckedBy, "the first reader does not settle it")

	b.write("pl", b.copy("pl").Lines[1], "Trening odwołany.", true)
	settled := b.copy("pl").Lines[1]
	assert.Equal(t, "Hugo Farrowby", settled.CheckedBy)
	assert.Empty(t, settled.Others, "what was said before is settled by the desk")

	// The desk writes while a reader has the old words before them.
	other := b.copy("pl").Lines[0]
	before := other.Target
	b.write("pl", other, "Witaj {1},", false)
	second.say(true, "", sayingOf{other.Key, before, before})
	got = b.copy("pl").Lines[0]
	assert.Equal(t, "Witaj {1},", got.Target)
	require.Len(t, got.Others, 1)
	assert.Equal(t, before, got.Others[0].Text)
}

// Rule “Readings” 5.
func TestTheOriginalChangesWhileItIsRead(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	piotr := readerOf(t, i, b.ask(tomorrow(), zielony)[0])
	seen := piotr.visit()
	b.says("Dear {{first name}},\nTraining is cancelled tomorrow.")
	v := piotr.say(
		false, "", sayingOf{seen.Lines[0].Key, seen.Lines[0].Target, "Witaj {1},"},
		sayingOf{seen.Lines[1].Key, seen.Lines[1].Target, "Dziś nie ma treningu."},
	)
	assert.Equal(t, []string{seen.Lines[1].Key}, v.Gone)
	assert.Equal(t, "Witaj {1},", v.Lines[0].Target, "the other line is taken")
	assert.Equal(t, "Training is cancelled tomorrow.", v.Lines[1].Original)
	assert.Empty(t, v.Lines[1].Said)
}

func TestALinkThatIsOver(t *testing.T) {
	clock := testkit.NewClock(time.Now())
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(a *app.Config) { a.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	asked := b.ask(clock.Now().Add(time.Hour), zielony, achterberg)
	ended := readerOf(t, i, asked[0])
	seen := ended.visit()
	says := func(r reader, status int) {
		r.c.Want(status, http.MethodPut, r.path, map[string]any{
			"lines": []sayingOf{{seen.Lines[1].Key, seen.Lines[1].Target, "Inaczej."}},
		}, nil)
	}

	c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/messages/%d/readings/%d", b.id, asked[1].ID), nil, nil)
	withdrawn := readerOf(t, i, asked[1])
	withdrawn.c.Want(http.StatusNotFound, http.MethodGet, withdrawn.path, nil, nil)
	says(withdrawn, http.StatusNotFound)
	c.Want(http.StatusNotFound, http.MethodDelete, fmt.Sprintf("/api/messages/%d/readings/%d", b.id, asked[1].ID), nil, nil)
	cut := reader{ended.c, ended.path[:len(ended.path)-3]}
	cut.c.Want(http.StatusNotFound, http.MethodGet, cut.path, nil, nil)

	clock.Pass(2 * time.Hour)
	ended.c.Want(http.StatusNotFound, http.MethodGet, ended.path, nil, nil)
	says(ended, http.StatusNotFound)
	assert.Equal(t, "expired", b.readings()[0].State)

	again := b.ask(clock.Now().Add(time.Hour), zielony)[0]
	assert.Equal(t, asked[0].ID, again.ID, "asked again, it is the same reading")
	late := readerOf(t, i, again)
	late.visit()
	for _, l := range b.copy("pl").Lines {
		b.write("pl", l, l.Target, true)
	}
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", b.id), fmt.Sprintf(`{"revision":%d}`, b.revision), nil)
	assert.True(t, late.visit().Over, "the message was sent: they are told")
	says(late, http.StatusConflict)
	assert.NotEqual(t, "Inaczej.", b.copy("pl").Lines[1].Target)
	c.Want(http.StatusUnprocessableEntity, http.MethodPost, b.path("pl")+"/readings", map[string]any{
		"people": []int{zielony}, "until": clock.Now().Add(time.Hour),
	}, nil)
}

func TestReadingsAndBadInput(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	until := tomorrow()
	ask := func(tag string, body map[string]any) string {
		return c.Problem(http.StatusUnprocessableEntity, http.MethodPost, b.path(tag)+"/readings", body)
	}
	assert.Contains(t, ask("pl", map[string]any{"until": until}), "1 to 20 readers")
	assert.Contains(t, ask("pl", map[string]any{"people": []int{zielony}, "until": until.Add(-48 * time.Hour)}), "within the next 30 days")
	assert.Contains(t, ask("pl", map[string]any{"people": []int{zielony}, "until": until.AddDate(1, 0, 0)}), "within the next 30 days")
	assert.Contains(t, ask("x-klingon", map[string]any{"people": []int{zielony}, "until": until}), "is no language")
	c.Want(http.StatusNotFound, http.MethodPost, b.path("pl")+"/readings", map[string]any{"people": []int{999}, "until": until}, nil)
	c.Want(http.StatusNotFound, http.MethodPost, b.path("pl")+"/readings", map[string]any{"accounts": []int{999}, "until": until}, nil)
	assert.Empty(t, b.readings(), "nobody was asked")

	r := readerOf(t, i, b.ask(until, zielony)[0])
	line := r.visit().Lines[0]
	for name, body := range map[string]any{
		"nothing said": map[string]any{"lines": []sayingOf{{line.Key, line.Target, " "}}},
		"too long":     map[string]any{"lines": []sayingOf{{line.Key, line.Target, strings.Repeat("a", 5000)}}},
		"much at once": map[string]any{"lines": slices.Repeat([]sayingOf{{line.Key, line.Target, "a"}}, 101)},
		"no lines":     map[string]any{},
	} {
		t.Run(name, func(*testing.T) { r.c.Want(http.StatusUnprocessableEntity, http.MethodPut, r.path, body, nil) })
	}
	r.c.Want(http.StatusRequestEntityTooLarge, http.MethodPut, r.path, strings.Repeat("a", 70<<10), nil)
	assert.Equal(t, line.Target, b.copy("pl").Lines[0].Target, "nothing was changed")
	v := r.say(false, "", sayingOf{"0123456789abcdef0123456789abcdef", "", "a line of another message"})
	assert.Len(t, v.Gone, 1)
}

// Rule “Readings” 1: who could be asked, within what an account reaches.
func TestWhoCouldReadACopy(t *testing.T) {
	_, c := start(t)
	b := begin(t, c, twoLines)
	var readers struct {
		Set     bool
		Readers []struct {
			Person, Account int64
			Name            string
		}
	}
	c.Want(http.StatusOK, http.MethodGet, b.path("pl")+"/readers", nil, &readers)
	assert.False(t, readers.Set, "no attribute is chosen")
	require.Len(t, readers.Readers, 1)
	assert.NotZero(t, readers.Readers[0].Account)

	c.Want(http.StatusOK, http.MethodPost, "/api/attributes", `{"name":"Reads copies in","kind":"text"}`, nil)
	var settings struct {
		Attributes []struct{ ID int64 }
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/settings", nil, &settings)
	attribute := settings.Attributes[0].ID
	c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending", fmt.Sprintf(`{"holdSeconds":0,"steps":{},"rules":{"reads":%d}}`, attribute), nil)
	c.Want(http.StatusUnprocessableEntity, http.MethodPut, "/api/settings/sending", `{"holdSeconds":0,"steps":{},"rules":{"reads":99}}`, nil)
	var who struct{ Sheet map[string]any }
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/people/%d", achterberg), nil, &who)
	who.Sheet["values"] = []map[string]any{{"attribute": attribute, "value": "German, Polish"}}
	c.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/people/%d", achterberg), who.Sheet, nil)

	c.Want(http.StatusOK, http.MethodGet, b.path("pl")+"/readers", nil, &readers)
	assert.True(t, readers.Set)
	require.Len(t, readers.Readers, 2)
	assert.Equal(t, "Lena Achterberg", readers.Readers[0].Name)
}

// A program that ended between asking and sending: the reading is there, its request
// never left, and asking again sends one.
func TestARequestThatNeverLeft(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	asked := b.ask(tomorrow(), zielony)[0]
	received(t, i.Box, 1)
	request := begin(t, c, "Please read.") // as it stands before it is sent
	require.NoError(t, i.Store.SetRequest(t.Context(), asked.ID, request.id))
	assert.Zero(t, b.readings()[0].Request)
	assert.NotEmpty(t, b.readings()[0].Path, "the link can be given by hand")
	again := b.ask(tomorrow(), zielony)[0]
	assert.Equal(t, asked.ID, again.ID)
	assert.NotZero(t, b.readings()[0].Request)
	received(t, i.Box, 2)
}

// A full disk keeps nothing of what a reader says, and says so; then it is kept.
func TestAReadingOnAFullDisk(t *testing.T) {
	i, c := start(t)
	b := begin(t, c, twoLines)
	b.drafted("pl")
	r := readerOf(t, i, b.ask(tomorrow(), zielony)[0])
	received(t, i.Box, 1)
	line := r.visit().Lines[1]
	long := map[string]any{"lines": []sayingOf{{line.Key, line.Target, strings.Repeat("słowa ", 600)}}, "done": true}
	fill(t, i, true)
	r.c.Want(http.StatusInsufficientStorage, http.MethodPut, r.path, long, nil)
	v := r.visit()
	assert.Empty(t, v.Lines[1].Said)
	assert.False(t, v.Done, "all of it is kept, or nothing")
	assert.Equal(t, line.Target, b.copy("pl").Lines[1].Target)
	fill(t, i, false)
	r.c.Want(http.StatusOK, http.MethodPut, r.path, long, nil)
	assert.True(t, r.visit().Done)
}
