package roster_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/roster"
)

func TestPeopleAreListedByFamilyNameWithoutMarks(t *testing.T) {
	people := []roster.Person{
		{ID: 1, GivenName: "Żaneta", FamilyName: "Zielony"}, {ID: 2, GivenName: "Van 2"},
		{ID: 3, GivenName: "Bo", FamilyName: "Łukasz"}, {ID: 4, GivenName: "Ana", FamilyName: "lukasz"},
		{ID: 5, GivenName: "رانيا", FamilyName: "حداد"},
	}
	roster.Sort(people)
	var ids []roster.PersonID
	for _, p := range people {
		ids = append(ids, p.ID)
	}
	assert.Equal(t, []roster.PersonID{4, 3, 2, 1, 5}, ids)
}

func TestDifferSaysEveryChange(t *testing.T) {
	r := newClub(t)
	before := r.Sheet(rania)
	after := before.Clone()
	after.GivenName, after.Language, after.Wish = "Raniya", "en", roster.Text
	after.Status, after.AwayUntil = roster.Away, "2026-12-01"
	after.Addresses = []roster.Address{
		after.Addresses[1], {Channel: roster.Email, Value: "new@example.org", Label: "work"},
	}
	after.Ties = []roster.Tie{
		{Guardian: rania, Dependent: sami, Barred: true}, {Guardian: rania, Dependent: lina, Receives: true},
	}
	after.Groups = []roster.GroupID{2}
	after.SetValue(boat, "Double")
	assert.Equal(t, []roster.Change{
		{What: "given name", From: "Rania", To: "Raniya"},
		{What: "language", From: "ar", To: "en"},
		{What: "status", From: "active", To: "away until 2026-12-01"},
		{What: "wish", To: "text"},
		{What: "Boat", To: "Double"},
		{What: "email", From: "rania@example.org"},
		{What: "email", To: "new@example.org (work)"},
		{What: "dependent Sami Haddad", From: "receives messages", To: "contact barred"},
		{What: "dependent Lina Haddad", To: "receives messages"},
		{What: "group", From: "Mill"},
		{What: "group", To: "U14"},
	}, r.Differ(before, after, r))
	assert.Empty(t, r.Differ(before, before.Clone(), r))
	assert.Equal(t, "Rania", r.Person(rania).GivenName, "the snapshot is untouched")

	turned := before.Clone()
	slices.Reverse(turned.Addresses)
	assert.Equal(t, "order of addresses", r.Differ(before, turned, r)[0].What)
}

func TestMergeKeepsEverything(t *testing.T) {
	keep := &roster.Sheet{Person: roster.Person{
		ID: 1, GivenName: "Łukasz", FamilyName: "Kłos", Roles: []roster.Role{roster.Guardian}, Notes: "calls back",
		Addresses: []roster.Address{{ID: 7, Channel: roster.Email, Value: "l@example.org", Health: roster.Good}},
	}, Ties: []roster.Tie{{Guardian: 1, Dependent: 9, Receives: true}}, Groups: []roster.GroupID{1}}
	other := &roster.Sheet{Person: roster.Person{
		ID: 2, ExternalID: "M7", GivenName: "Lukasz", FamilyName: "Klos", Roles: []roster.Role{roster.Member}, Language: "pl",
		Notes:  "rows",
		Values: []roster.Value{{boat, "Four"}},
		Addresses: []roster.Address{
			{ID: 8, Channel: roster.Email, Value: "l@example.org", DeclinesRoutine: true},
			{ID: 9, Channel: roster.Text, Value: "+447700900001"},
		},
	}, Groups: []roster.GroupID{1, 3}, Ties: []roster.Tie{
		{Guardian: 2, Dependent: 9, Barred: true}, {Guardian: 2, Dependent: 1, Receives: true},
	}}

	got := roster.Merge(keep, other)
	assert.Equal(t, "Łukasz Kłos", got.Name())
	assert.Equal(t, "M7", got.ExternalID)
	assert.Equal(t, "pl", got.Language)
	assert.Equal(t, "calls back\nrows", got.Notes)
	assert.Equal(t, []roster.Role{roster.Guardian, roster.Member}, got.Roles)
	require.Len(t, got.Addresses, 2)
	assert.True(t, got.Addresses[0].DeclinesRoutine, "what one of them declined stays declined")
	assert.Equal(t, roster.Good, got.Addresses[0].Health)
	assert.Equal(
		t, []roster.Tie{{Guardian: 1, Dependent: 9, Barred: true}}, got.Ties, "barred wins; nobody is tied to themselves",
	)
	assert.Equal(t, []roster.GroupID{1, 3}, got.Groups)
	assert.Equal(t, "Four", got.Value(boat))
}

func TestScopesSeeTheirUnitsAndTheGuardiansOfTheirDependents(t *testing.T) {
	r := newClub(t)
	names := func(r *roster.Roster) []string {
		var list []string
		for i := range r.Len() {
			list = append(list, r.At(i).GivenName)
		}
		return list
	}
	within := r.Within(roster.Scope{Units: []roster.UnitID{juniors}})
	assert.Equal(t, []string{"Rania", "Sami", "Lina", "Naya"}, names(within))
	assert.True(t, within.Guest(naya), "Lina’s guardian belongs to the unit above")
	assert.False(t, within.Guest(rania))
	mill, ok := within.Group(4)
	assert.False(t, ok, "%v", mill)
	squads, ok := within.Group(1)
	require.True(t, ok, "groups of the whole organisation are seen by all")
	assert.Zero(t, squads.Beyond)
	assert.Equal(t, "Juniors", within.UnitPath(juniors), "units above are not named")

	watch := r.Within(roster.Scope{Units: []roster.UnitID{flood}})
	assert.Equal(t, []string{"Tomás"}, names(watch))
	job, _ := watch.Group(4)
	assert.Equal(t, 1, job.Beyond, "Rania is in the job and not in the unit")
	all, _ := watch.Group(1)
	assert.Equal(t, 2, all.Beyond)
	assert.Empty(t, watch.In(1))

	assert.Empty(t, names(r.Within(roster.Scope{})), "the zero scope sees nothing")
	assert.Same(t, r, r.Within(roster.Scope{Whole: true}))
	assert.True(t, roster.Scope{Units: []roster.UnitID{rowing}}.Covers(
		roster.Scope{Units: []roster.UnitID{juniors}}, r.Units,
	))
	assert.False(t, roster.Scope{Units: []roster.UnitID{juniors}}.Covers(
		roster.Scope{Units: []roster.UnitID{rowing}}, r.Units,
	))
	assert.False(t, roster.Scope{Units: []roster.UnitID{rowing, flood}}.Covers(roster.Scope{Whole: true}, r.Units))
}

func TestHouseholdsDoNotShowThoseWhoLiveApart(t *testing.T) {
	c := club()
	c.People = append(c.People,
		roster.Person{
			ID: 10, GivenName: "Omar", FamilyName: "Haddad", Roles: []roster.Role{roster.Guardian}, Status: roster.Active,
			Language: "ar",
		},
		roster.Person{
			ID: 11, GivenName: "Piers", FamilyName: "Venn", Roles: []roster.Role{roster.Guardian}, Status: roster.Active,
			Language: "en",
		},
		roster.Person{
			ID: 12, GivenName: "Kim", FamilyName: "Haddad", Roles: []roster.Role{roster.Guardian}, Status: roster.Active,
		},
	)
	c.Ties = append(c.Ties,
		roster.Tie{Guardian: 10, Dependent: sami, Receives: true}, roster.Tie{Guardian: 11, Dependent: sami, Receives: true},
		roster.Tie{Guardian: 12, Dependent: sami, Barred: true})
	r, err := roster.New(c)
	require.NoError(t, err)
	position := func(id roster.PersonID) int { i, _ := r.Position(id); return i }
	households := r.Households([]int{position(rania), position(sami), position(10), position(11)})
	require.Len(t, households, 2, "Rania, Omar and Sami live together, Piers apart")
	assert.Equal(t, []roster.PersonID{rania, 10, sami}, idsAt(r, households[0].People))
	assert.Equal(t, "ar", households[0].Language)
	assert.Equal(t, []roster.PersonID{11, sami}, idsAt(r, households[1].People))
}

func TestLeftAlone(t *testing.T) {
	r := newClub(t)
	assert.Equal(t, []roster.PersonID{sami}, r.LeftAlone(map[roster.PersonID]bool{rania: true}))
	assert.Empty(t, r.LeftAlone(map[roster.PersonID]bool{rania: true, sami: true}))
}

func TestAutomaticNames(t *testing.T) {
	c := club()
	r := newClub(t)
	assert.Equal(t, "Sami Haddad, Lina Haddad", r.AutomaticName(2))
	assert.Equal(t, "New group", r.AutomaticName(99))
	c.Groups = append(c.Groups, roster.Group{ID: 9, Name: "New group"})
	r, err := roster.New(c)
	require.NoError(t, err)
	assert.Equal(t, "New group (2)", r.AutomaticName(99))
	assert.Equal(t, "New group", r.AutomaticName(9), "it is called so itself")
}

func TestFold(t *testing.T) {
	for typed, want := range map[string]string{
		"Łukasz  Żółć": "lukasz zolc", "O’Brien-Smith": "obrien smith", "Đặng": "dang", "رانيا": "رانيا", "  ": "",
		"Straße": "strasse",
	} {
		assert.Equal(t, want, roster.Fold(typed))
	}
}

func ExampleRoster_Select() {
	r, _ := roster.New(club())
	people, leaves := r.Select(roster.Rule{
		{On: roster.OnRole, Test: roster.Is, Value: "dependent"},
		{On: roster.OnAttribute, Test: roster.Is, ID: int64(swim), Value: "due"},
	})
	fmt.Println(leaves, r.At(people[0]).Name())
	// Output: [2 1] Sami Haddad
}

// However people are merged, nothing of any of them is lost and what one of
// them withheld stays withheld.
func TestMergeLosesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var sheets []*roster.Sheet
		for id := range rapid.IntRange(2, 4).Draw(t, "people") {
			sheets = append(sheets, drawn(t, roster.PersonID(id+1)))
		}
		got := roster.Merge(sheets[0], sheets[1:]...)
		for _, s := range sheets {
			for _, a := range s.Addresses {
				here := slices.IndexFunc(got.Addresses, a.Is)
				if here < 0 {
					t.Fatalf("%s is lost", a.Value)
				}
				if a.DeclinesRoutine && !got.Addresses[here].DeclinesRoutine || a.CarrierStop && !got.Addresses[here].CarrierStop {
					t.Fatalf("%s is no longer withheld", a.Value)
				}
			}
			for _, g := range s.Groups {
				if !slices.Contains(got.Groups, g) {
					t.Fatalf("group %d is lost", g)
				}
			}
			for _, tie := range s.Ties {
				here := slices.IndexFunc(got.Ties, func(o roster.Tie) bool { return o.Dependent == tie.Dependent })
				switch outside := tie.Dependent > 4; {
				case outside && here < 0:
					t.Fatalf("the tie to %d is lost", tie.Dependent)
				case outside && tie.Barred && (!got.Ties[here].Barred || got.Ties[here].Receives):
					t.Fatalf("the tie to %d is no longer barred", tie.Dependent)
				}
			}
		}
		for i, tie := range got.Ties {
			if tie.Guardian == tie.Dependent || slices.ContainsFunc(got.Ties[:i], tie.Joins) {
				t.Fatalf("%v ties somebody to themselves or twice", tie)
			}
		}
		for i, a := range got.Addresses {
			if slices.ContainsFunc(got.Addresses[:i], a.Is) {
				t.Fatalf("%s stands twice", a.Value)
			}
		}
	})
}

// drawn is a guardian of some of the dependents 11 to 13.
func drawn(t *rapid.T, id roster.PersonID) *roster.Sheet {
	s := &roster.Sheet{Person: roster.Person{ID: id}}
	for _, i := range rapid.SliceOfDistinct(rapid.IntRange(0, 3), rapid.ID[int]).Draw(t, "addresses") {
		s.Addresses = append(s.Addresses, roster.Address{
			Channel: roster.Text, Value: fmt.Sprintf("+44770090000%d", i),
			DeclinesRoutine: rapid.Bool().Draw(t, "declines"), CarrierStop: rapid.Bool().Draw(t, "stopped"),
		})
	}
	s.Groups = rapid.SliceOfDistinct(
		rapid.SampledFrom([]roster.GroupID{1, 2, 3}), rapid.ID[roster.GroupID],
	).Draw(t, "groups")
	for _, dependent := range rapid.SliceOfDistinct(rapid.IntRange(11, 13), rapid.ID[int]).Draw(t, "dependents") {
		barred := rapid.Bool().Draw(t, "barred")
		s.Ties = append(s.Ties, roster.Tie{
			Guardian: id, Dependent: roster.PersonID(dependent), Barred: barred, Receives: !barred,
		})
	}
	return s
}
