package store_test

import (
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// What had not ended in a backup may have left since, and waits; what cannot have left
// and what has ended do not.
func TestWhatWaitsInARestoredDatabase(t *testing.T) {
	s := open(t, crowd(2))
	sending := released(t, s, toSome(roster.Routine, 2, roster.Text))
	lease(t, s, roster.Text, now, 1)
	due, _ := held(t, s, toSome(roster.Routine, 2, roster.Text), now.Add(time.Minute))
	later, _ := held(t, s, toSome(roster.Routine, 2, roster.Text), now.Add(48*time.Hour))
	ended := released(t, s, toSome(roster.Emergency, 2, roster.Email))
	finish(t, s, takenBy(lease(t, s, roster.Email, now, 9))...)
	draft, err := s.AddDraft(ctx, 1, toSome(roster.Routine, 2, roster.Text), now)
	require.NoError(t, err)

	waiting, err := s.HoldRestored(ctx, now, now.Add(time.Hour))
	require.NoError(t, err)
	assert.EqualValues(t, 2, waiting)
	for id, want := range map[int64]bool{
		sending.ID: true, due.ID: true, later.ID: false, ended.ID: false, draft.ID: false,
	} {
		h := headingOf(t, s, id)
		assert.Equal(t, want, h.Late, h.State)
		assert.Equal(t, want, !h.Restored.IsZero())
	}
	assert.Empty(t, lease(t, s, roster.Text, now.Add(time.Hour), 9), "nothing leaves by itself")
	require.NoError(t, s.LetLateLeave(ctx, sending.ID, 1, now.Add(time.Hour)))
	assert.True(t, headingOf(t, s, sending.ID).Restored.IsZero())
}

func TestACopyIsExamined(t *testing.T) {
	s := open(t, crowd(3))
	file := filepath.Join(t.TempDir(), store.FileName)
	require.NoError(t, s.CopyTo(ctx, file))
	e, err := store.Examine(ctx, file)
	require.NoError(t, err)
	assert.Equal(t, store.Form(), e.Form)
	assert.NotEmpty(t, e.Organisation)
	require.Error(t, s.CopyTo(ctx, file), "nothing is written over")
	_, err = store.Examine(ctx, filepath.Join(t.TempDir(), "none"))
	require.Error(t, err)
}

// A folder of every form that a version of the program made is taken over: everybody,
// and every message with its figures.
func TestAFolderOfEveryForm(t *testing.T) {
	for form, messages := range map[int64]int{1: 3, 2: 3, 3: 3, 5: 3, 6: 3, 8: 5, 12: 5, 17: 31, 21: 33} {
		t.Run(fmt.Sprint(form), func(t *testing.T) {
			folder := t.TempDir()
			unpack(t, fmt.Sprintf("testdata/form-%d.db.gz", form), filepath.Join(folder, store.FileName))
			s, err := store.Open(folder)
			require.NoError(t, err)
			defer func() { require.NoError(t, s.Close()) }()
			copied := filepath.Join(folder, fmt.Sprintf("before-form-%d.db", store.Form()))
			require.FileExists(t, copied)
			if form > 2 { // the first had no files
				before, err := store.Examine(ctx, copied)
				require.NoError(t, err)
				assert.Equal(t, form, before.Form)
			}
			r, err := s.Roster(ctx)
			require.NoError(t, err)
			assert.Equal(t, 618, r.Len())
			accounts, err := s.Accounts(ctx)
			require.NoError(t, err)
			assert.Len(t, accounts, 3)
			for _, a := range accounts {
				assert.NotEmpty(t, a.Rights, a.Name)
			}
			list, _, err := s.Messages(ctx, []int64{0, 1, 2, 3}, 0, 100)
			require.NoError(t, err)
			assert.Len(t, list, messages)
			for _, m := range list {
				f := m.Figures
				assert.Equal(t, f.Recipients, f.Reached+f.Waiting+f.NotReached+f.Stopped, m.Title)
				_, all, err := s.Recipients(ctx, m, store.Wanted{Count: 10})
				require.NoError(t, err)
				assert.Equal(t, f.Recipients, all, m.Title)
			}
			if form < 18 { // there were no threads
				return
			}
			threads, all, err := s.Threads(ctx, store.ThreadsWanted{Desk: 1, Waits: desk.Us, Count: 10})
			require.NoError(t, err)
			assert.Equal(t, 4, all)
			assert.Equal(t, "Dara Dunmarsh", threads[0].Name)
		})
	}
}

// A folder with copies, from before readers could be asked and an organisation set up,
// holds the same afterwards, and is copied first.
func TestAFolderOfTheFormWithCopies(t *testing.T) {
	folder := t.TempDir()
	unpack(t, "testdata/form-7.db.gz", filepath.Join(folder, store.FileName))
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	before, err := store.Examine(ctx, filepath.Join(folder, fmt.Sprintf("before-form-%d.db", store.Form())))
	require.NoError(t, err)
	assert.EqualValues(t, 7, before.Form)

	r, err := s.Roster(ctx)
	require.NoError(t, err)
	assert.Equal(t, 618, r.Len())
	o, err := s.Organisation(ctx)
	require.NoError(t, err)
	assert.True(t, o.Demo)
	assert.False(t, o.StandIns)
	for id, want := range map[int64]struct {
		state  store.MessageState
		copies int
	}{1: {store.Sent, 2}, 2: {store.Held, 0}, 3: {store.Draft, 6}} {
		h := headingOf(t, s, id)
		assert.Equal(t, want.state, h.State)
		assert.True(t, h.Restored.IsZero())
		copies, err := s.Copies(ctx, id)
		require.NoError(t, err)
		assert.Len(t, copies, want.copies)
	}
	readings, err := s.Readings(ctx, 3)
	require.NoError(t, err)
	assert.Empty(t, readings)
}
