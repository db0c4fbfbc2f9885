package httpapi_test

import (
	"database/sql"
	"fmt"
	"net/http"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

var reviewNoon = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)

// reviewed begins a program whose clock is set, with a message to the coaches and the
// guardians that leaves in an hour.
func reviewed(t *testing.T, change func(*store.Organisation)) (*app.Instance, *testkit.Client, *testkit.Clock, int64) {
	clock := testkit.NewClock(reviewNoon)
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, change), func(a *app.Config) { a.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	return i, c, clock, sendDraft(t, c, leavesIn(time.Hour))
}

// leavesIn is a message to the coaches and the guardians that leaves after a while.
func leavesIn(wait time.Duration) string {
	return strings.Replace(
		draftOf(`{"kind":"role","role":"guardian"},{"kind":"group","group":4}`, "Hello {{first name}}"), `"subject"`,
		fmt.Sprintf(`"sendAt":%q,"subject"`, reviewNoon.Add(wait).Format(time.RFC3339)), 1,
	)
}

// edits changes somebody's sheet.
func edits(c *testkit.Client, name string, change func(sheet map[string]any)) {
	var found struct{ People []struct{ ID int64 } }
	c.Want(http.StatusOK, http.MethodGet, "/api/people?count=5&search="+strings.ReplaceAll(name, " ", "%20"), nil, &found)
	var who struct{ Sheet map[string]any }
	path := fmt.Sprintf("/api/people/%d", found.People[0].ID)
	c.Want(http.StatusOK, http.MethodGet, path, nil, &who)
	change(who.Sheet)
	c.Want(http.StatusOK, http.MethodPut, path, who.Sheet, nil)
}

func declines(sheet map[string]any) {
	for _, a := range sheet["addresses"].([]any) {
		a.(map[string]any)["declinesRoutine"] = true
	}
}

func written(items []standin.Item) []string {
	var list []string
	for _, item := range items {
		list = append(list, strings.TrimSpace(item.Body))
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// A scheduled message goes to whoever is meant when it leaves: not to somebody who
// declined since, and to somebody who can be reached since. What changed is told.
func TestAScheduledMessageIsPlannedAgain(t *testing.T) {
	i, c, clock, id := reviewed(t, nil)
	edits(c, "Rania Haddad", declines)
	edits(c, "Di Venn", func(sheet map[string]any) {
		sheet["addresses"] = []map[string]any{{"channel": "email", "value": "di@example.org", "label": ""}}
	})
	clock.Pass(59 * time.Minute)
	type recordOf struct {
		Message struct {
			Figures struct{ Recipients, Deliveries, LeftOut, Waiting int }
		}
		Changes *struct {
			All   int
			Waits bool
			List  []struct{ Name, About string }
		}
	}
	var rec recordOf
	testkit.Eventually(t, "it is planned again", func() bool {
		c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/record", id), nil, &rec)
		return rec.Changes != nil
	})
	require.Len(t, rec.Changes.List, 2)
	assert.Equal(t, "Rania Haddad", rec.Changes.List[0].Name)
	assert.Contains(t, rec.Changes.List[0].About, "gets nothing now")
	assert.Equal(t, "gets it too now", rec.Changes.List[1].About)
	assert.Equal(t, 4, rec.Message.Figures.Recipients)
	assert.Equal(t, 4, rec.Message.Figures.Waiting)
	clock.Pass(time.Minute)
	i.Sending.Held(id)             // it looks at its clock
	items := received(t, i.Box, 5) // Naya has two mailboxes
	assert.Equal(t, []string{"Hello Di", "Hello Lena", "Hello Naya", "Hello Piotr"}, written(items))
	kept, err := i.Store.Deliveries(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, kept, 5)
	var counted recordOf
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/record", id), nil, &counted)
	assert.Equal(t, 5, counted.Message.Figures.Deliveries)
	assert.Equal(t, 2, counted.Message.Figures.LeftOut, "Tuan and Rania")
}

// When more people changed than may, it waits for a yes and asks its sender by mail and
// on the device of whoever is behind the account.
func TestAScheduledMessageThatChangedMuchAsks(t *testing.T) {
	i, c, clock, id := reviewed(t, func(o *store.Organisation) { o.Sending.MayChange = 1 })
	edits(c, "Tuan", func(sheet map[string]any) {
		sheet["addresses"] = []any{
			map[string]any{"channel": "email", "value": testkit.Login, "declinesRoutine": true},
			map[string]any{"channel": "push", "value": "Tuan’s phone", "label": "phone", "declinesRoutine": true},
		}
	})
	d := standin.Device("Tuan’s phone")
	require.NoError(t, i.Store.Connect(t.Context(), []store.Device{
		{Name: "Tuan’s phone", Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth},
	}, clock.Now()))
	edits(c, "Rania Haddad", declines)
	edits(c, "Piotr Zielony", declines)
	clock.Pass(time.Hour)
	var strip struct {
		Late []struct {
			ID      int64
			Changed bool
		}
	}
	testkit.Eventually(t, "it waits", func() bool {
		c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
		return len(strip.Late) == 1
	})
	assert.Equal(t, id, strip.Late[0].ID)
	assert.True(t, strip.Late[0].Changed)
	asked := received(t, i.Box, 2)
	slices.SortFunc(asked, func(a, b standin.Item) int { return strings.Compare(string(a.Channel), string(b.Channel)) })
	assert.Equal(t, []string{testkit.Login, "Tuan’s phone"}, []string{asked[0].Address, asked[1].Address})
	for _, one := range asked {
		assert.Contains(t, one.Body, "the roster changed for 2 people")
		assert.Contains(t, one.Body, "- Rania Haddad gets nothing now")
	}
	released, err := i.Store.Release(t.Context(), clock.Now().Add(time.Hour))
	require.NoError(t, err)
	assert.Empty(t, released)

	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/late", id), nil, nil)
	items := received(t, i.Box, 5)
	assert.Equal(t, []string{"Hello Lena", "Hello Naya"}, written(slices.DeleteFunc(items, func(item standin.Item) bool {
		return strings.Contains(item.Body, "waits until somebody")
	})), "as it is planned now")
}

// A plan that cannot be compared does not leave unseen: it waits, and says why.
func TestAPlanThatCannotBeComparedWaits(t *testing.T) {
	clock := testkit.NewClock(reviewNoon)
	folder := testkit.Folder(t, testkit.Roster, nil)
	i := testkit.Start(t, folder, func(a *app.Config) { a.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	id := sendDraft(t, c, leavesIn(time.Hour))
	database, err := sql.Open("sqlite", "file:"+filepath.Join(folder, store.FileName)+"?_pragma=busy_timeout(10000)")
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, database.Close()) })
	fixed := func(settings string) (was string) {
		require.NoError(t, database.QueryRow("SELECT settings FROM sendings WHERE message_id = ?", id).Scan(&was))
		_, err := database.Exec("UPDATE sendings SET settings = ? WHERE message_id = ?", settings, id)
		require.NoError(t, err)
		return was
	}
	was := fixed("{spoiled")
	clock.Pass(59 * time.Minute)
	require.Error(t, i.Sending.Review(t.Context()))
	var strip struct{ Late []struct{ ID int64 } }
	c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
	assert.Empty(t, strip.Late, "it is tried again until its time has come")

	clock.Pass(time.Minute)
	testkit.Eventually(t, "it waits", func() bool {
		_ = i.Sending.Review(t.Context()) // which the program does as well
		c.Want(http.StatusOK, http.MethodGet, "/api/strip", nil, &strip)
		return len(strip.Late) == 1
	})
	mails := received(t, i.Box, 1)
	assert.Contains(t, mails[0].Body, "could not be compared with the roster")
	fixed(was)
	var rec struct{ Changes struct{ Failed, Waits bool } }
	c.Record(id, &rec)
	assert.True(t, rec.Changes.Failed && rec.Changes.Waits)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/late", id), nil, nil)
	received(t, i.Box, 1+5)
}

// What waits for quiet hours to end, or for its turn, does not leave any more for
// somebody who declined meanwhile.
func TestWhoDeclinesWhileItWaitsIsNotWrittenTo(t *testing.T) {
	clock := testkit.NewClock(time.Date(2026, 11, 25, 23, 0, 0, 0, time.UTC))
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(a *app.Config) { a.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending",
		`{"holdSeconds":0,"steps":{},"rules":{"quiet":{"text":{"from":"21:00","to":"07:00"}}}}`, nil)
	id := sendDraft(t, c, draftOf(`{"kind":"role","role":"guardian"}`, "Hello {{first name}}"))
	received(t, i.Box, 2) // Rania by mail, Lena by call: Piotr's text waits
	edits(c, "Piotr Zielony", declines)
	clock.Pass(time.Minute)
	var rec struct {
		Message struct {
			State   string
			Figures struct{ Stopped, Here int }
		}
	}
	testkit.Eventually(t, "his text is taken out", func() bool {
		c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/record", id), nil, &rec)
		return rec.Message.Figures.Stopped == 1
	})
	assert.Zero(t, rec.Message.Figures.Here)
	assert.Equal(t, "stopped", rec.Message.State)
	clock.Pass(9 * time.Hour)
	_, err := i.Store.Release(t.Context(), clock.Now())
	require.NoError(t, err)
	received(t, i.Box, 2)
}

// A text that two people share leaves for the one who did not decline.
func TestWhatIsSharedLeavesForWhoDidNotDecline(t *testing.T) {
	clock := testkit.NewClock(time.Date(2026, 11, 25, 23, 0, 0, 0, time.UTC))
	folder := testkit.Folder(t, "Id,Name,Role,Mobile,Email\n1,Ana Venn,member,07700 900001,\n"+
		"2,Bo Venn,member,07700 900001,\n3,Cy Quent,member,07700 900002,\n4,Di Amber,member,,di@example.org\n", nil)
	i := testkit.Start(t, folder, func(a *app.Config) { a.Now = clock.Now })
	c := testkit.SignedIn(t, i.URL)
	c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending",
		`{"holdSeconds":0,"steps":{},"rules":{"quiet":{"text":{"from":"21:00","to":"07:00"}}}}`, nil)
	id := sendDraft(t, c, draftOf(`{"kind":"role","role":"member"}`, "Hello"))
	received(t, i.Box, 1) // the email, so that it is going out
	edits(c, "Bo Venn", declines)
	edits(c, "Cy Quent", declines)
	clock.Pass(time.Minute)
	var s standingOf
	testkit.Eventually(t, "the other text is taken out", func() bool {
		c.Record(id, &s)
		return s.Message.Figures.Here == 1
	})
	clock.Pass(8*time.Hour + 10*time.Minute)
	i.Sending.Held(id)
	items := received(t, i.Box, 2)
	assert.True(t, slices.ContainsFunc(items, func(item standin.Item) bool { return item.Address == "+447700900001" }))
	testkit.Eventually(t, "it has arrived", func() bool {
		c.Record(id, &s)
		return s.Message.Figures.Reached == 2
	})
	assert.Equal(t, 2, s.Message.Figures.Stopped, "Bo declined, although Ana’s text came to the same number")
	assert.Equal(t, 4, s.Message.Figures.Recipients)
}
