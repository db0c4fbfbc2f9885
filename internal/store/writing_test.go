package store_test

import (
	"fmt"
	"io/fs"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

func TestFilesAreKeptOnceAndWhole(t *testing.T) {
	s := open(t, "")
	first, err := s.AddFile(ctx, 0, "map.pdf", "application/pdf", []byte("%PDF-1.7"), now)
	require.NoError(t, err)
	again, err := s.AddFile(ctx, 0, "copy.pdf", "application/pdf", []byte("%PDF-1.7"), now)
	require.NoError(t, err)
	assert.Equal(t, first.Hash, again.Hash)
	media, path, err := s.File(ctx, first.Hash)
	require.NoError(t, err)
	assert.Equal(t, "application/pdf", media)
	content, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, "%PDF-1.7", string(content))

	gone := attachment.File{Hash: fmt.Sprintf("%064d", 1), Name: "gone.pdf"}
	missing, err := s.Missing(ctx, []attachment.File{first, gone})
	require.NoError(t, err)
	assert.Equal(t, []string{"gone.pdf"}, missing)
	require.NoError(t, os.Remove(path))
	_, _, err = s.File(ctx, first.Hash)
	require.ErrorIs(t, err, store.ErrNotFound, "a file that somebody deleted")
}

func TestADraftsHistoryIsTrimmed(t *testing.T) {
	s := open(t, "")
	draft := func(n int) message.Draft {
		return message.Draft{
			Content: message.Content{Email: rich.Lines(fmt.Sprint(n))},
			Routing: message.Routing{Urgency: roster.Routine},
		}
	}
	m, err := s.AddDraft(ctx, 1, draft(0), now)
	require.NoError(t, err)
	revision := m.Revision
	for n := range 70 {
		revision, err = s.SaveDraft(ctx, m.ID, revision, 1, draft(n), now.Add(time.Duration(n)*2*time.Minute))
		require.NoError(t, err)
	}
	versions, err := s.Versions(ctx, m.ID)
	require.NoError(t, err)
	require.Len(t, versions, 60)
	assert.Equal(t, "69", versions[0].Draft.Email.Plain())
	require.NoError(t, s.DeleteDraft(ctx, m.ID))
	versions, err = s.Versions(ctx, m.ID)
	require.NoError(t, err)
	assert.Empty(t, versions, "a draft takes its history with it")
}

func TestTheShelfKeepsVersions(t *testing.T) {
	s := open(t, "")
	item := store.ShelfItem{Kind: store.Template, Name: "Outing", Content: message.Content{Email: rich.Lines("first")}}
	id, err := s.PutOnShelf(ctx, item, 1, now)
	require.NoError(t, err)
	item.ID, item.Name, item.Content.Email = id, "Outing moved", rich.Lines("second")
	_, err = s.PutOnShelf(ctx, item, 1, now.Add(time.Hour))
	require.NoError(t, err)
	shelf, err := s.Shelf(ctx)
	require.NoError(t, err)
	require.Len(t, shelf, 1)
	assert.Equal(t, "Outing moved", shelf[0].Name)
	assert.Equal(t, "second", shelf[0].Content.Email.Plain())
	versions, err := s.ShelfVersions(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "first", versions[1].Content.Email.Plain())
	require.NoError(t, s.DropFromShelf(ctx, id))
	require.ErrorIs(t, s.DropFromShelf(ctx, id), store.ErrNotFound)
	item.ID = 99
	_, err = s.PutOnShelf(ctx, item, 1, now)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestWhatWasSentLatelyIsCounted(t *testing.T) {
	s := open(t, testkit.Roster)
	m, p := held(t, s, everybody, now)
	loads, err := s.Loads(ctx, now)
	require.NoError(t, err)
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	told := r.At(p.Recipients[0].Person).ID
	assert.Equal(t, plan.Load{Routine: 1}, loads(told))
	assert.Zero(t, loads(999))

	near, err := s.Near(ctx, now.Add(-time.Hour), now.Add(time.Hour))
	require.NoError(t, err)
	require.Len(t, near, 1)
	assert.True(t, near[0].To[told])
	near, err = s.Near(ctx, now.Add(time.Hour), now.Add(2*time.Hour))
	require.NoError(t, err)
	assert.Empty(t, near)

	draft, err := s.Stop(ctx, m.ID, "Hugo", now)
	require.NoError(t, err)
	require.True(t, draft)
	loads, err = s.Loads(ctx, now)
	require.NoError(t, err)
	assert.Zero(t, loads(told), "what was stopped during its hold was never sent")

	held(t, s, everybody, now)
	loads, err = s.Loads(ctx, now.Add(8*24*time.Hour))
	require.NoError(t, err)
	assert.Zero(t, loads(told), "a week has passed")
}

func TestWhatUnitsSpentIsCountedByWhatTheirAccountsReach(t *testing.T) {
	s := open(t, testkit.Roster)
	unit, err := s.PutUnit(ctx, roster.Unit{Name: "Rowing"})
	require.NoError(t, err)
	other, err := s.PutUnit(ctx, roster.Unit{Name: "Watch"})
	require.NoError(t, err)
	limited := store.Account{
		Login: "naya@quillmere.example", Name: "Naya", Active: true,
		Grant: access.Grant{Scope: roster.Scope{Units: []roster.UnitID{unit}}},
	}
	limited.ID, err = s.PutAccount(ctx, limited)
	require.NoError(t, err)
	for _, author := range []int64{1, limited.ID} {
		m, err := s.AddDraft(ctx, author, everybody, now)
		require.NoError(t, err)
		r, err := s.Roster(ctx)
		require.NoError(t, err)
		p := plan.Make(r, everybody, plan.Settings{
			Fixed: plan.Fixed{Language: "en", Rates: plan.Rates{TextPart: []plan.Rate{{Price: 5 * money.Minor}}}},
		})
		require.NoError(t, s.Hold(ctx, m.ID, m.Revision, store.Senders{Sender: author}, r, p, now, now))
	}
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	for name, c := range map[string]struct {
		scope roster.Scope
		from  time.Time
		want  money.Amount
	}{
		"the organisation":   {roster.Scope{Whole: true}, now.Add(-time.Hour), 10 * money.Minor},
		"the unit":           {roster.Scope{Units: []roster.UnitID{unit}}, now.Add(-time.Hour), 5 * money.Minor},
		"another unit":       {roster.Scope{Units: []roster.UnitID{other}}, now.Add(-time.Hour), 0},
		"since a later hour": {roster.Scope{Whole: true}, now.Add(time.Hour), 0},
	} {
		got, err := s.Spent(ctx, c.scope, r.Units, c.from, now)
		require.NoError(t, err)
		assert.Equal(t, c.want, got, name)
	}
}

func TestWhatWaitsForItsTimeIsNotLeasedBefore(t *testing.T) {
	s := open(t, testkit.Roster)
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	d := everybody
	d.Times = map[roster.Channel]time.Time{roster.Text: now.Add(time.Hour)}
	m, err := s.AddDraft(ctx, 1, d, now)
	require.NoError(t, err)
	p := plan.Make(r, d, plan.Settings{Fixed: plan.Fixed{Language: "en"}, Leaves: now})
	require.NoError(t, s.Hold(ctx, m.ID, m.Revision, store.Senders{Sender: 1}, r, p, now, p.First()))
	_, err = s.Release(ctx, now)
	require.NoError(t, err)
	assert.NotEmpty(t, lease(t, s, roster.Email, now, 10))
	assert.Empty(t, lease(t, s, roster.Text, now, 10))
	due, err := s.NextDue(ctx, roster.Text)
	require.NoError(t, err)
	assert.Equal(t, now.Add(time.Hour), due.UTC())
	_, err = s.Stop(ctx, m.ID, "Hugo", now)
	require.NoError(t, err)
	f, err := s.Figures(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, f.StoppedDeliveries, "the text that waits and a call; emails are leaving")
}

func TestFilesThatNothingUsesAreSwept(t *testing.T) {
	s := open(t, "")
	add := func(content string) attachment.File {
		f, err := s.AddFile(ctx, 1, content+".txt", "text/plain", []byte(content), now)
		require.NoError(t, err)
		return f
	}
	sent, earlier, shelved, unused, again := add("sent"), add("earlier"), add("shelved"), add("unused"), add("again")
	with := func(f attachment.File) message.Draft {
		return message.Draft{
			Content: message.Content{Email: rich.Lines("x"), Files: []attachment.File{f}},
			Routing: message.Routing{Urgency: roster.Routine},
		}
	}
	_, err := s.AddDraft(ctx, 1, with(sent), now)
	require.NoError(t, err)
	m, err := s.AddDraft(ctx, 1, message.Draft{
		Routing: message.Routing{Urgency: roster.Routine},
	}, now)
	require.NoError(t, err)
	revision, err := s.SaveDraft(ctx, m.ID, m.Revision, 1, with(earlier), now)
	require.NoError(t, err)
	_, err = s.SaveDraft(ctx, m.ID, revision, 1, message.Draft{
		Routing: message.Routing{Urgency: roster.Routine},
	}, now.Add(time.Hour))
	require.NoError(t, err)
	_, err = s.PutOnShelf(ctx, store.ShelfItem{Kind: "template", Name: "T", Content: with(shelved).Content}, 1, now)
	require.NoError(t, err)
	_, err = s.AddFile(ctx, 1, "again.txt", "text/plain", []byte("again"), now.Add(time.Hour))
	require.NoError(t, err)

	n, err := s.SweepFiles(ctx, now.Add(time.Minute))
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	missing, err := s.Missing(ctx, []attachment.File{sent, earlier, shelved, unused, again})
	require.NoError(t, err)
	assert.Equal(t, []string{"unused.txt"}, missing)
	_, err = os.Stat(s.FilePath(unused.Hash))
	require.ErrorIs(t, err, fs.ErrNotExist)
	n, err = s.SweepFiles(ctx, now.Add(time.Minute))
	require.NoError(t, err)
	assert.Zero(t, n)
}
