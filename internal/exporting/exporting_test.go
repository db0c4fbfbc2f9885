package exporting

import (
	"context"
	"log/slog"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
)

var (
	hugo = access.Principal{ID: 1, Name: "Hugo"}
	naya = access.Principal{ID: 2, Name: "Naya"}
)

// slow is a list of three rows, each of which waits until it may be written.
func slow(may <-chan bool) list {
	return list{
		List: exchange.List{Title: "Slow", Columns: []exchange.ListColumn{{Name: "Row"}}}, name: "Slow / list: 1?", rows: 3,
		each: func(ctx context.Context, row func([]exchange.ListCell, bool) error) error {
			for range 3 {
				select {
				case <-may:
				case <-ctx.Done():
					return ctx.Err()
				}
				if err := row([]exchange.ListCell{{Text: "row"}}, false); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

func service(t *testing.T) (*Service, *time.Time) {
	now := time.Date(2026, 11, 27, 12, 0, 0, 0, time.UTC)
	s := &Service{Folder: t.TempDir(), Now: func() time.Time { return now }, Log: slog.New(slog.DiscardHandler)}
	t.Cleanup(s.Close)
	return s, &now
}

func (s *Service) begin(t *testing.T, by access.Principal, l list) *job {
	t.Helper()
	j, running, err := s.add(by, l, fileName(l.name, s.Now(), exchange.CSV), exchange.CSV)
	require.NoError(t, err)
	s.writing.Go(func() { s.run(running, j, l, exchange.CSV) })
	return j
}

func eventually(t *testing.T, what string, done func() bool) {
	t.Helper()
	require.Eventually(t, done, time.Minute, 5*time.Millisecond, what)
}

func files(t *testing.T, s *Service) int {
	t.Helper()
	list, err := os.ReadDir(s.Folder)
	require.NoError(t, err)
	return len(list)
}

func TestAFileIsWrittenInTheBackground(t *testing.T) {
	s, now := service(t)
	may := make(chan bool)
	j := s.begin(t, hugo, slow(may))
	may <- true
	eventually(t, "a row is written", func() bool {
		state, err := s.State(hugo, j.ID)
		return err == nil && state.Rows == 1
	})
	_, _, err := s.Open(hugo, j.ID)
	require.ErrorIs(t, err, store.ErrNotFound, "it is not whole")
	_, err = s.State(naya, j.ID)
	require.ErrorIs(t, err, store.ErrNotFound, "it is nobody else’s")
	require.ErrorIs(t, s.Drop(naya, j.ID), store.ErrNotFound)
	close(may)
	eventually(t, "it is written", func() bool { return s.of(j).Done })
	file, state, err := s.Open(hugo, j.ID)
	require.NoError(t, err)
	require.NoError(t, file.Close())
	assert.Equal(t, "Slow list 1 2026-11-27.csv", state.Name)

	*now = now.Add(keptFor + time.Second)
	s.begin(t, naya, slow(may))
	_, err = s.State(hugo, j.ID)
	assert.ErrorIs(t, err, store.ErrNotFound, "nobody came for it")
}

// What is given up half-way leaves nothing behind, and makes room for another.
func TestAFileIsGivenUpHalfWay(t *testing.T) {
	s, _ := service(t)
	may := make(chan bool)
	first := s.begin(t, hugo, slow(may))
	s.begin(t, hugo, slow(may))
	_, _, err := s.add(hugo, slow(may), "x", exchange.CSV)
	require.ErrorIs(t, err, ErrAtOnce)
	_, _, err = s.add(naya, slow(may), "x", exchange.CSV)
	require.NoError(t, err, "others are not kept from it")
	eventually(t, "both are begun", func() bool { return files(t, s) == 2 })
	may <- true
	require.NoError(t, s.Drop(hugo, first.ID))
	eventually(t, "its file is removed", func() bool { return files(t, s) == 1 })
	s.begin(t, hugo, slow(may))
	s.Close()
	assert.Zero(t, files(t, s), "a program that ends leaves none")
}

func TestAFileThatCannotBeWrittenSaysWhy(t *testing.T) {
	s, _ := service(t)
	s.Folder = "/dev/null/nowhere"
	j := s.begin(t, hugo, slow(nil))
	eventually(t, "it failed", func() bool { return s.of(j).Failed != "" })
	assert.Contains(t, s.of(j).Failed, "It could not be written")
}
