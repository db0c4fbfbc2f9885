package store_test

import (
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

func snapshot(t *testing.T, s *store.Store) *roster.Roster {
	r, err := s.Roster(ctx)
	require.NoError(t, err)
	return r
}

// named finds somebody of the test roster.
func named(t *testing.T, s *store.Store, name string) *roster.Sheet {
	r := snapshot(t, s)
	for i := range r.Len() {
		if r.At(i).Name() == name {
			return r.Sheet(r.At(i).ID)
		}
	}
	t.Fatalf("nobody is called %s", name)
	return nil
}

func apply(t *testing.T, s *store.Store, said string, people ...roster.PersonEdit) store.Applied {
	t.Helper()
	applied, err := s.Apply(ctx, 1, &roster.Edit{Kind: roster.Changed, Said: said, People: people}, now, nil)
	require.NoError(t, err)
	return applied
}

const rosterFile = "Id,Name,Role,Mobile,Email,Groups,Guardians\nG1,Rania Haddad,guardian,07700 900417,rania@example.org,,\nG2,Omar Salman,guardian,,omar@example.org,Crew,\nJ1,Sami Haddad,junior,,,Squads > U14,G1\n"

func TestAnEditAndItsUndoLeaveThingsAsTheyWere(t *testing.T) {
	s := open(t, rosterFile)
	before := named(t, s, "Rania Haddad")
	after := before.Clone()
	after.FamilyName, after.Language, after.Notes = "Al-Haddad", "ar", "calls back"
	after.Addresses = []roster.Address{
		{Channel: roster.Email, Value: "new@example.org", Health: roster.Untried}, after.Addresses[0],
	}
	after.Groups = append(after.Groups, named(t, s, "Omar Salman").Groups...)
	after.Ties = nil
	applied := apply(t, s, "changed Rania", roster.PersonEdit{Before: before, After: after})

	r := snapshot(t, s)
	now_ := named(t, s, "Rania Al-Haddad")
	assert.Equal(t, before.Version+1, now_.Version)
	assert.Equal(t, []string{"new@example.org", "+447700900417"}, []string{
		now_.Addresses[0].Value, now_.Addresses[1].Value,
	})
	assert.Equal(t, before.Addresses[0].ID, now_.Addresses[1].ID, "an address that stays is the same one")
	assert.Empty(t, now_.Ties)
	assert.Equal(t, "Al-Haddad", r.At(0).FamilyName, "the list is in order again")

	history, err := s.History(ctx, before.ID)
	require.NoError(t, err)
	require.Len(t, history, 2)
	assert.Equal(t, "Hugo Farrowby", history[0].By)
	assert.Contains(t, history[0].Changes, roster.Change{What: "family name", From: "Haddad", To: "Al-Haddad"})
	assert.Contains(t, history[0].Changes, roster.Change{What: "dependent Sami Haddad", From: "receives messages"})

	undone, err := s.Undo(ctx, 1, applied.Edit, now)
	require.NoError(t, err)
	assert.Equal(t, 1, undone.People)
	back := named(t, s, "Rania Haddad")
	assert.Empty(t, snapshot(t, s).Differ(before, back, snapshot(t, s)))
	_, err = s.Undo(ctx, 1, applied.Edit, now)
	require.ErrorIs(t, err, store.ErrConflict, "once")
	_, err = s.Undo(ctx, 1, 999, now)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestAnEditOfSomethingStaleChangesNothing(t *testing.T) {
	s := open(t, rosterFile)
	first, second := named(t, s, "Rania Haddad"), named(t, s, "Rania Haddad")
	first2 := first.Clone()
	first2.Notes = "first"
	apply(t, s, "first", roster.PersonEdit{Before: first, After: first2})
	second2 := second.Clone()
	second2.Notes = "second"
	other := named(t, s, "Omar Salman")
	other2 := other.Clone()
	other2.Notes = "second"
	_, err := s.Apply(
		ctx, 1,
		&roster.Edit{
			Kind: roster.Changed, People: []roster.PersonEdit{{Before: other, After: other2}, {Before: second, After: second2}},
		},
		now, nil,
	)
	require.ErrorIs(t, err, store.ErrConflict)
	assert.Equal(t, "first", named(t, s, "Rania Haddad").Notes)
	assert.Empty(t, named(t, s, "Omar Salman").Notes, "all or nothing")
}

func TestAChangedTieIsNewsAtItsOtherEnd(t *testing.T) {
	s := open(t, rosterFile)
	sami := named(t, s, "Sami Haddad")
	rania := named(t, s, "Rania Haddad")
	rania2 := rania.Clone()
	rania2.Ties[0].Barred, rania2.Ties[0].Receives = true, false
	apply(t, s, "barred", roster.PersonEdit{Before: rania, After: rania2})
	stale := sami.Clone()
	stale.Notes = "x"
	_, err := s.Apply(
		ctx, 1, &roster.Edit{Kind: roster.Changed, People: []roster.PersonEdit{{Before: sami, After: stale}}}, now, nil,
	)
	require.ErrorIs(t, err, store.ErrConflict, "nobody saves over a tie that they have not seen")
	assert.True(t, named(t, s, "Sami Haddad").Ties[0].Barred)
}

func TestUndoLeavesThoseWhoChangedSince(t *testing.T) {
	s := open(t, rosterFile)
	edit := &roster.Edit{Kind: roster.Changed, Said: "marked"}
	for _, name := range []string{"Rania Haddad", "Omar Salman"} {
		before := named(t, s, name)
		after := before.Clone()
		after.Status = roster.Away
		edit.People = append(edit.People, roster.PersonEdit{Before: before, After: after})
	}
	applied, err := s.Apply(ctx, 1, edit, now, nil)
	require.NoError(t, err)
	omar := named(t, s, "Omar Salman")
	omar2 := omar.Clone()
	omar2.Notes = "since"
	apply(t, s, "since", roster.PersonEdit{Before: omar, After: omar2})
	undone, err := s.Undo(ctx, 1, applied.Edit, now)
	require.NoError(t, err)
	assert.Equal(t, []roster.PersonID{omar.ID}, undone.Kept)
	assert.Equal(t, roster.Active, named(t, s, "Rania Haddad").Status)
	assert.Equal(t, roster.Away, named(t, s, "Omar Salman").Status)
}

func TestMergingKeepsTheMessagesAndCanBeUndone(t *testing.T) {
	s := open(t, rosterFile)
	omar := named(t, s, "Omar Salman")
	m, _ := held(t, s, draft(audience.Part{Kind: audience.ByPerson, Person: omar.ID}), now)
	_, err := s.Release(ctx, now)
	require.NoError(t, err)
	leased := lease(t, s, roster.Email, now, 5)
	_, err = s.TakeReport(
		ctx,
		delivery.Report{
			Via: delivery.ViaMail, DeliveryKey: leased[0].Key, Key: "r", State: delivery.Arrived, OccurredAt: now,
		},
		now,
	)
	require.NoError(t, err)

	omar, rania := named(t, s, "Omar Salman"), named(t, s, "Rania Haddad")
	merged := roster.Merge(rania, omar)
	applied, err := s.Apply(ctx, 1, &roster.Edit{
		Kind: roster.Merged, Said: "merged", Merged: map[roster.PersonID]roster.PersonID{omar.ID: rania.ID},
		People: []roster.PersonEdit{{Before: rania, After: merged}, {Before: omar}},
	}, now, nil)
	require.NoError(t, err)
	assert.Equal(t, 2, snapshot(t, s).Len())
	assert.Len(t, named(t, s, "Rania Haddad").Addresses, 4)
	got, err := s.Got(ctx, rania.ID, now.AddDate(0, 0, -1))
	require.NoError(t, err)
	require.Len(t, got, 1)
	assert.Equal(t, m.ID, got[0].Message, "what Omar got is Rania’s now")

	_, err = s.Undo(ctx, 1, applied.Edit, now)
	require.NoError(t, err)
	assert.Len(t, named(t, s, "Rania Haddad").Addresses, 3)
	back := named(t, s, "Omar Salman")
	assert.Equal(t, omar.ID, back.ID)
	assert.Len(t, back.Groups, 1)
	got, err = s.Got(ctx, back.ID, now.AddDate(0, 0, -1))
	require.NoError(t, err)
	assert.Len(t, got, 1)
}

func TestRemovedPeopleLeaveOnlyTheirRecords(t *testing.T) {
	s := open(t, rosterFile)
	omar := named(t, s, "Omar Salman")
	apply(t, s, "removed", roster.PersonEdit{Before: omar})
	assert.Nil(t, snapshot(t, s).Person(omar.ID))
	again := &roster.Sheet{Person: roster.Person{ID: -1, ExternalID: "G2", GivenName: "Another", Status: roster.Active}}
	applied := apply(t, s, "added", roster.PersonEdit{After: again})
	assert.NotEqual(t, omar.ID, applied.IDs[-1], "a number is never given out again")
}

func TestAnImportIsUndoneAsAWhole(t *testing.T) {
	s := open(t, "")
	p, err := intake.Propose(intake.Table{
		Header: []string{"Name", "Groups"}, Mapping: []intake.Column{intake.FullName, intake.Groups}, Region: "GB",
		Rows: []intake.Row{
			{Place: intake.Place{Line: 2}, Cells: []string{"Bo Venn", "Crew > Fours"}},
			{Place: intake.Place{Line: 3}, Cells: []string{"Cy Venn", "Crew"}},
		},
	}, snapshot(t, s))
	require.NoError(t, err)
	progress := 0
	applied, err := s.Apply(ctx, 1, p.Edit("loaded"), now, func(int) { progress++ })
	require.NoError(t, err)
	assert.Positive(t, progress)
	r := snapshot(t, s)
	assert.Equal(t, 2, r.Len())
	crew, ok := r.GroupNamed("crew")
	require.True(t, ok)
	assert.Len(t, r.In(crew.ID), 2, "with those in the group inside it")
	_, err = s.Undo(ctx, 1, applied.Edit, now)
	require.NoError(t, err)
	r = snapshot(t, s)
	assert.Zero(t, r.Len())
	fours, left := r.GroupNamed("Fours")
	assert.False(t, left, "%v: groups that nobody is left in go too", fours)
}

func TestNamesAndIdsAreThereOnce(t *testing.T) {
	s := open(t, rosterFile)
	_, err := s.Apply(
		ctx, 1,
		&roster.Edit{
			Kind: roster.Added,
			People: []roster.PersonEdit{
				{After: &roster.Sheet{Person: roster.Person{ID: -1, ExternalID: "G1", GivenName: "X", Status: roster.Active}}},
			},
		},
		now, nil,
	)
	require.ErrorIs(t, err, store.ErrTaken)
	_, err = s.AddGroup(ctx, roster.Group{Name: "CREW", Kind: roster.Picked})
	require.ErrorIs(t, err, store.ErrTaken)
}

func TestGroupsKeepWhatTheyAre(t *testing.T) {
	s := open(t, rosterFile)
	starts := now
	id, err := s.AddGroup(ctx, roster.Group{
		Name: "Pump", Kind: roster.Job, Place: "Mill", Starts: &starts,
		Identity: roster.Identity{Name: "Watch", Number: "+447700900110"}, Inside: []roster.GroupID{1},
	})
	require.NoError(t, err)
	g, ok := snapshot(t, s).Group(id)
	require.True(t, ok)
	assert.Equal(t, "Mill", g.Place)
	assert.True(t, g.Starts.Equal(starts))
	assert.Equal(t, "Watch", g.Identity.Name)
	assert.Equal(t, []roster.GroupID{1}, g.Inside)

	require.NoError(t, s.OrderGroups(ctx, []roster.GroupID{id, 1}))
	assert.Equal(t, id, snapshot(t, s).Groups()[0].ID)
	require.NoError(t, s.DropGroup(ctx, id))
	require.ErrorIs(t, s.DropGroup(ctx, id), store.ErrNotFound)
	next, err := s.AddGroup(ctx, roster.Group{Name: "Next", Kind: roster.Picked})
	require.NoError(t, err)
	assert.Greater(t, next, id, "the number of a deleted group never comes back")
}

func TestAttributesTakeTheirValuesAlong(t *testing.T) {
	s := open(t, rosterFile)
	id, err := s.PutAttribute(ctx, roster.Attribute{Name: "Level", Kind: roster.NumberAttribute})
	require.NoError(t, err)
	before := named(t, s, "Rania Haddad")
	after := before.Clone()
	after.SetValue(id, "3")
	apply(t, s, "level", roster.PersonEdit{Before: before, After: after})
	assert.Equal(t, "3", named(t, s, "Rania Haddad").Value(id))
	require.NoError(t, s.DropAttribute(ctx, id))
	assert.Empty(t, named(t, s, "Rania Haddad").Values)
}

func TestUnitsThatOwnSomethingStay(t *testing.T) {
	s := open(t, rosterFile)
	id, err := s.PutUnit(ctx, roster.Unit{Name: "Rowing"})
	require.NoError(t, err)
	before := named(t, s, "Rania Haddad")
	after := before.Clone()
	after.Unit = id
	applied := apply(t, s, "moved", roster.PersonEdit{Before: before, After: after})
	require.ErrorIs(t, s.DropUnit(ctx, id), store.ErrInUse)
	limited, err := s.RosterWithin(ctx, roster.Scope{Units: []roster.UnitID{id}})
	require.NoError(t, err)
	assert.Equal(t, 1, limited.Len())
	again, err := s.RosterWithin(ctx, roster.Scope{Units: []roster.UnitID{id}})
	require.NoError(t, err)
	assert.Same(t, limited, again)
	_, err = s.Undo(ctx, 1, applied.Edit, now)
	require.NoError(t, err)
	require.NoError(t, s.DropUnit(ctx, id))
}

// A data folder of the first version opens with everything that was in it.
func TestADataFolderOfTheFirstVersionIsBroughtUpToDate(t *testing.T) {
	folder := t.TempDir()
	db, err := sql.Open("sqlite", "file:"+filepath.Join(folder, store.FileName)+"?_pragma=busy_timeout(10000)")
	require.NoError(t, err)
	first, err := os.ReadFile(filepath.Join("migrations", "00001_roster_and_messages.sql"))
	require.NoError(t, err)
	up, _, _ := strings.Cut(string(first), "-- +goose Down")
	for _, statement := range []string{
		up,
		`INSERT INTO organisation (id, name, language, time_zone, region, currency, hold_seconds, rates, steps, mail_name, mail_from, return_domain, number_from)
		 VALUES (1, 'Club', 'en', 'Europe/London', 'GB', 'GBP', 30, '{}', '{}', '', '', '', '')`,
		`INSERT INTO people (id, given_name, family_name) VALUES (7, 'Bo', 'Venn')`,
		`INSERT INTO person_roles VALUES (7, 'staff'), (7, 'guardian')`,
		`INSERT INTO groups (id, name, position) VALUES (3, 'Crew', 1), (4, 'Fours', 2)`,
		`INSERT INTO group_members VALUES (4, 7)`,
		`INSERT INTO group_nestings VALUES (3, 4)`,
		`INSERT INTO accounts (id, login, name, password_hash) VALUES (1, 'a@example.org', 'A', 'x')`,
		`CREATE TABLE goose_db_version (id INTEGER PRIMARY KEY AUTOINCREMENT, version_id INTEGER NOT NULL, is_applied INTEGER NOT NULL, tstamp TIMESTAMP DEFAULT (datetime('now')))`,
		`INSERT INTO goose_db_version (version_id, is_applied) VALUES (0, 1), (1, 1)`,
	} {
		_, err := db.Exec(statement)
		require.NoError(t, err, statement)
	}
	require.NoError(t, db.Close())
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	r := snapshot(t, s)
	bo := r.Person(7)
	require.NotNil(t, bo)
	assert.ElementsMatch(t, []roster.Role{roster.Staff, roster.Guardian}, bo.Roles)
	assert.Equal(t, []int{0}, r.In(3), "through nesting")
	a, err := s.Account(ctx, 1)
	require.NoError(t, err)
	assert.True(t, a.Scope.Whole, "who could do everything still can")
	assert.Len(t, a.Rights, 7)
}

// Whatever is done to somebody is there afterwards, and gone once it is undone
// but for a contact that was barred, in the snapshot at hand as in the one that is read anew.
func TestAnyEditIsUndone(t *testing.T) {
	folder := testkit.Folder(t, rosterFile, nil)
	s, err := store.Open(folder)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	first := snapshot(t, s)
	ids := []roster.PersonID{first.At(0).ID, first.At(1).ID, first.At(2).ID}
	var groups []roster.GroupID
	for _, g := range first.Groups() {
		groups = append(groups, g.ID)
	}
	rapid.Check(t, func(rt *rapid.T) {
		before := snapshot(t, s).Sheet(rapid.SampledFrom(ids).Draw(rt, "who"))
		after := altered(rt, before, ids, groups)
		applied, err := s.Apply(
			ctx, 1, &roster.Edit{Kind: roster.Changed, Said: "changed", People: []roster.PersonEdit{{Before: before, After: after}}},
			now, nil,
		)
		require.NoError(rt, err)
		patched := snapshot(t, s)
		assert.Empty(rt, patched.Differ(after, patched.Sheet(before.ID), patched))
		if applied.Edit == 0 {
			return
		}
		again, err := store.Open(folder)
		require.NoError(rt, err)
		anew, err := again.Roster(ctx)
		require.NoError(rt, err)
		for _, id := range ids {
			assert.Equal(rt, anew.Sheet(id), patched.Sheet(id))
		}
		require.NoError(rt, again.Close())
		undone, err := s.Undo(ctx, 1, applied.Edit, now)
		require.NoError(rt, err)
		back := snapshot(t, s)
		expected := before.Clone()
		assert.Equal(rt, expected.KeepBars(after), undone.Bars)
		assert.Empty(rt, back.Differ(expected, back.Sheet(before.ID), back))
	})
}

// altered is somebody's sheet with anything on it changed that an
// administrator may change.
func altered(t *rapid.T, before *roster.Sheet, ids []roster.PersonID, groups []roster.GroupID) *roster.Sheet {
	s := before.Clone()
	s.GivenName = rapid.SampledFrom([]string{"Rania", "رانيا", "Żaneta", ""}).Draw(t, "given name")
	s.Status = rapid.SampledFrom([]roster.Status{roster.Active, roster.Left}).Draw(t, "status")
	s.Language = rapid.SampledFrom([]string{"", "ar", "pl"}).Draw(t, "language")
	s.Addresses = nil
	for _, i := range rapid.SliceOfDistinct(rapid.IntRange(0, 4), rapid.ID[int]).Draw(t, "addresses") {
		a := roster.Address{Channel: roster.Email, Value: fmt.Sprintf("a%d@example.org", i), Health: roster.Untried}
		a.DeclinesRoutine = rapid.Bool().Draw(t, "declines")
		s.Addresses = append(s.Addresses, a)
	}
	s.Groups = rapid.SliceOfDistinct(rapid.SampledFrom(groups), rapid.ID[roster.GroupID]).Draw(t, "groups")
	s.Ties = nil
	for _, id := range ids {
		if id == s.ID || rapid.Bool().Draw(t, "no tie") {
			continue
		}
		barred := rapid.Bool().Draw(t, "barred")
		s.Ties = append(s.Ties, roster.Tie{Guardian: s.ID, Dependent: id, Barred: barred, Receives: !barred})
	}
	return s
}
