package importer_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/exchange"
	"upperlantern/internal/importer"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

var ctx = context.Background()

func newImporter(t *testing.T, roster string) (*importer.Importer, *[]int64) {
	s, err := store.Open(testkit.Folder(t, roster, nil))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	moved := &[]int64{}
	return &importer.Importer{Store: s, Now: time.Now, Changed: func(id int64) { *moved = append(*moved, id) }}, moved
}

func people(t *testing.T, im *importer.Importer) int {
	r, err := im.Store.Roster(ctx)
	require.NoError(t, err)
	return r.Len()
}

func TestLoadTellsAndChangesOnce(t *testing.T) {
	im, moved := newImporter(t, "")
	id, err := im.Add(ctx, access.Program, "people.csv", []byte(testkit.Roster))
	require.NoError(t, err)
	result, err := im.Load(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, "People: 8 added. 4 new groups.", result)
	assert.Equal(t, 8, people(t, im))
	assert.Contains(t, *moved, id)
	_, err = im.Load(ctx, access.Program, id)
	require.ErrorIs(t, err, store.ErrConflict, "it is loaded once")

	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, store.ImportLoaded, u.Import.State)
	assert.Equal(t, result, u.Import.Result)
	assert.Nil(t, u.Table)
	file, err := im.Store.ImportFile(ctx, id)
	require.NoError(t, err)
	assert.Nil(t, file, "the file is not kept once it is loaded")
}

func TestUnderstandFollowsTheMappingAndTheRoster(t *testing.T) {
	im, _ := newImporter(t, "")
	id, err := im.Add(ctx, access.Program, "odd.csv", []byte("Who,Phone\nBo Venn,07700 900001\n"))
	require.NoError(t, err)
	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	require.ErrorIs(t, u.Problem, intake.ErrNoName)
	require.ErrorIs(t, im.Start(ctx, access.Program, id), intake.ErrNoName)

	require.NoError(t, im.Store.SetImport(
		ctx, store.Import{ID: id, Mapping: []intake.Column{intake.FullName, intake.Ignored}},
	))
	u, err = im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, 1, u.Proposal.Added)
	assert.Empty(t, u.Proposal.Entries[0].After.Addresses)

	// Somebody else loads the same person meanwhile.
	other, err := im.Add(ctx, access.Program, "other.csv", []byte("Name\nBo Venn\n"))
	require.NoError(t, err)
	_, err = im.Load(ctx, access.Program, other)
	require.NoError(t, err)
	u, err = im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	assert.True(t, u.Proposal.Empty(), "what was understood before does not hold any more")
}

func TestACellOfAMegabyte(t *testing.T) {
	im, _ := newImporter(t, "")
	file := "Name,Email\n" + strings.Repeat("x", 1<<20) + ",a@example.org\nBo Venn,b@example.org\n"
	id, err := im.Add(ctx, access.Program, "large-cell.csv", []byte(file))
	require.NoError(t, err)
	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	require.Len(t, u.Proposal.Refused, 1)
	assert.Equal(t, "the cell has 1048576 characters, and no more than 5000 are kept", u.Proposal.Refused[0].Reason)
	assert.Less(t, len(u.Proposal.Refused[0].Value), 100, "it is not shown in full either")
	_, err = im.Load(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, 1, people(t, im))
}

func TestAddRefusesWhatIsNoFile(t *testing.T) {
	im, _ := newImporter(t, "")
	_, err := im.Add(ctx, access.Program, "x.csv", nil)
	require.ErrorIs(t, err, exchange.ErrEmpty)
	_, err = im.Understand(ctx, access.Program, 99)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestAnImportThatWasInterruptedCanBeLoadedAgain(t *testing.T) {
	im, _ := newImporter(t, "")
	id, err := im.Add(ctx, access.Program, "people.csv", []byte(testkit.Roster))
	require.NoError(t, err)
	require.NoError(t, im.Start(ctx, access.Program, id)) // and the program ends here
	require.ErrorIs(t, im.Start(ctx, access.Program, id), store.ErrConflict)
	_, err = im.Store.BeginRun(ctx, time.Now())
	require.NoError(t, err)
	_, err = im.Load(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, 8, people(t, im))
}

func TestAMappingIsKeptForFilesWithTheSameHeadings(t *testing.T) {
	im, _ := newImporter(t, "")
	first, err := im.Add(ctx, access.Program, "a.csv", []byte("Wer,Spind\nBo Venn,12\n"))
	require.NoError(t, err)
	require.NoError(t, im.Store.SetImport(
		ctx, store.Import{ID: first, Mapping: []intake.Column{intake.FullName, intake.Notes}},
	))
	require.NoError(t, im.KeepMapping(ctx, access.Program, first, "Old program"))
	u, err := im.Understand(ctx, access.Program, first)
	require.NoError(t, err)
	assert.Equal(t, "Old program", u.Mapping)

	for name, c := range map[string]struct {
		file    string
		mapping string
	}{
		"the same headings":     {"Wer,Spind\nCy Venn,13\n", "Old program"},
		"turned around":         {"Spind,Wer\n13,Cy Venn\n", "Old program"},
		"some of them":          {"Wer\nCy Venn\n", "Old program"},
		"one more than is kept": {"Wer,Spind,Ort\nCy Venn,13,here\n", ""},
	} {
		t.Run(name, func(t *testing.T) {
			id, err := im.Add(ctx, access.Program, "b.csv", []byte(c.file))
			require.NoError(t, err)
			u, err := im.Understand(ctx, access.Program, id)
			require.NoError(t, err)
			assert.Equal(t, c.mapping, u.Mapping)
			if c.mapping != "" {
				require.NoError(t, u.Problem)
				assert.Equal(t, "Cy Venn", u.Proposal.Entries[0].After.Name())
			}
		})
	}
	kept, err := im.Store.Mappings(ctx)
	require.NoError(t, err)
	require.Len(t, kept, 1)
	require.NoError(t, im.Store.DropMapping(ctx, kept[0].ID))
	require.ErrorIs(t, im.Store.DropMapping(ctx, kept[0].ID), store.ErrNotFound)
}

func TestRefusedRowsStandAsInTheFile(t *testing.T) {
	im, _ := newImporter(t, "")
	id, err := im.Add(ctx, access.Program, "a.csv", []byte(
		"Id,Name,Locker\n1,Bo Venn,12\n1,Bo Venn,13\n,,14\nx,y,z,too much\n",
	))
	require.NoError(t, err)
	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	header, rows := u.RefusedRows()
	assert.Equal(t, []string{"Line", "Reason", "Id", "Name", "Locker"}, header)
	assert.Equal(t, [][]string{
		{"line 3", "the same person as on line 2", "1", "Bo Venn", "13"},
		{"line 4", "there is no name", "", "", "14"},
		{"line 5", "the row has 4 cells below 3 headings"},
	}, rows)
}

func TestAnImportOfAUnitStaysInIt(t *testing.T) {
	im, _ := newImporter(t, testkit.Roster)
	unit, err := im.Store.PutUnit(ctx, roster.Unit{Name: "Flood watch"})
	require.NoError(t, err)
	account := access.Principal{
		ID: 1, Grant: access.Grant{Scope: roster.Scope{Units: []roster.UnitID{unit}}, Rights: access.Rights},
	}
	id, err := im.Add(ctx, account, "watch.csv", []byte("Id,Name,Groups\nW1,Di Osei,Stretch\n"))
	require.NoError(t, err)
	_, err = im.Load(ctx, account, id)
	require.NoError(t, err)
	r, err := im.Store.RosterWithin(ctx, account.Scope)
	require.NoError(t, err)
	require.Equal(t, 1, r.Len())
	g, ok := r.GroupNamed("Stretch")
	require.True(t, ok)
	assert.Equal(t, unit, g.Unit)

	// Somebody beyond has the id already, whom the account does not see.
	id, err = im.Add(ctx, account, "watch.csv", []byte("Id,Name\nG1,Somebody Else\n"))
	require.NoError(t, err)
	_, err = im.Load(ctx, account, id)
	require.ErrorIs(t, err, store.ErrTaken)
	assert.Equal(t, 9, people(t, im), "nothing was loaded")
	u, err := im.Understand(ctx, account, id)
	require.NoError(t, err)
	assert.Equal(t, store.ImportProposed, u.Import.State, "it can be tried again")
}

// A file of which no row can be read says so line by line.
func TestAFileThatCannotBeReadSaysWhy(t *testing.T) {
	im, _ := newImporter(t, "")
	id, err := im.Add(ctx, access.Program, "people.csv", []byte("Id,Name\nA1,Bo Venn,extra\nA2,\"Cy Venn\n"))
	require.NoError(t, err)
	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	require.ErrorIs(t, u.Problem, intake.ErrUnread)
	assert.ErrorContains(t, u.Problem, "line 2 says “the row has 3 cells below 2 headings”")
	require.Len(t, u.Proposal.Refused, 2)
	_, rows := u.RefusedRows()
	assert.Len(t, rows, 2)
	_, err = im.Load(ctx, access.Program, id)
	require.ErrorIs(t, err, intake.ErrUnread)
}

// A file that nobody comes back to load is forgotten after a day.
func TestAFileThatIsNotLoadedIsForgotten(t *testing.T) {
	im, _ := newImporter(t, "")
	clock := testkit.NewClock(time.Now())
	im.Now = clock.Now
	id, err := im.Add(ctx, access.Program, "people.csv", []byte(testkit.Roster))
	require.NoError(t, err)
	_, err = im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	clock.Pass(23 * time.Hour)
	n, err := im.Sweep(ctx)
	require.NoError(t, err)
	assert.Zero(t, n)
	_, err = im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	clock.Pass(2 * time.Hour)
	n, err = im.Sweep(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	file, err := im.Store.ImportFile(ctx, id)
	require.NoError(t, err)
	assert.Nil(t, file)
	_, err = im.Understand(ctx, access.Program, id)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = im.Load(ctx, access.Program, id)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// Names of units that there are not become units when somebody wants that.
func TestUnitsOfAFile(t *testing.T) {
	im, _ := newImporter(t, "")
	id, err := im.Add(ctx, access.Program, "a.csv", []byte("Name,School\nBo Venn,Upper School\nCy Venn,Lower School\nDi Venn,Upper School\n"))
	require.NoError(t, err)
	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, []string{"Upper School", "Lower School"}, u.Proposal.Units)
	editor := &editing.Editor{Store: im.Store, Now: time.Now, Changed: func() {}}
	n, err := im.MakeUnits(ctx, access.Program, id, editor)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	u, err = im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Empty(t, u.Proposal.Units)
	assert.Empty(t, u.Proposal.Noted)
	r, err := im.Store.Roster(ctx)
	require.NoError(t, err)
	assert.Equal(t, "Upper School", r.UnitPath(u.Proposal.Entries[0].After.Unit))
}
