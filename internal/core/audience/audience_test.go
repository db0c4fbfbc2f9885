package audience_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/roster"
)

// The roster of these tests. Positions are identifiers less one.
const (
	rania, omar, sami, lina, kim, coach, away, orphan = 1, 2, 3, 4, 5, 6, 7, 8
)

func testRoster(t testing.TB) *roster.Roster {
	person := func(id roster.PersonID, given, family string, roles ...roster.Role) roster.Person {
		return roster.Person{ID: id, GivenName: given, FamilyName: family, Roles: roles, Status: roster.Active}
	}
	people := []roster.Person{
		person(rania, "Rania", "Haddad", roster.Guardian),
		person(omar, "Omar", "Salman", roster.Guardian, roster.Member),
		person(sami, "Sami", "Haddad", roster.Dependent),
		person(lina, "Lina", "Haddad", roster.Dependent),
		person(kim, "Kim", "Venn", roster.Dependent),
		person(coach, "Naya", "Osei", roster.Staff, roster.Guardian),
		person(away, "Piers", "Crake", roster.Member),
		person(orphan, "Wren", "Larkham", roster.Dependent),
	}
	people[away-1].Status = roster.Away
	r, err := roster.New(roster.Contents{People: people, Ties: []roster.Tie{
		{Guardian: rania, Dependent: sami, Receives: true},
		{Guardian: rania, Dependent: lina, Receives: true},
		{Guardian: omar, Dependent: sami, Barred: true},
		{Guardian: coach, Dependent: kim, Receives: true},
	}, Groups: []roster.Group{
		{ID: 1, Name: "Junior squads", Inside: []roster.GroupID{2, 3}},
		{ID: 2, Name: "U12", Members: []roster.PersonID{lina}},
		{ID: 3, Name: "U14", Members: []roster.PersonID{sami, kim, orphan}},
		{ID: 4, Name: "Adults", Members: []roster.PersonID{omar, coach, away}},
	}})
	require.NoError(t, err)
	return r
}

func group(id roster.GroupID) audience.Part { return audience.Part{Kind: audience.ByGroup, Group: id} }
func role(r roster.Role) audience.Part      { return audience.Part{Kind: audience.ByRole, Role: r} }
func person(id roster.PersonID) audience.Part {
	return audience.Part{Kind: audience.ByPerson, Person: id}
}

func without(p audience.Part) audience.Part {
	p.LeaveOut = true
	return p
}

func ids(res audience.Resolution) []int {
	list := []int{}
	for _, rec := range res.Recipients {
		list = append(list, rec.Person+1)
	}
	return list
}

func gaps(res audience.Resolution) map[int]audience.Gap {
	found := map[int]audience.Gap{}
	for _, l := range res.LeftOut {
		found[l.Person+1] = l.Gap
	}
	return found
}

func TestResolve(t *testing.T) {
	for _, c := range []struct {
		name      string
		parts     []audience.Part
		receivers audience.Receivers
		want      []int
		left      map[int]audience.Gap
	}{
		{"nobody by default", nil, audience.Guardians, []int{}, map[int]audience.Gap{}},
		{"guardians of a nested group, the barred one left out", []audience.Part{group(1)}, audience.Guardians,
			[]int{rania, coach}, map[int]audience.Gap{omar: audience.Barred, orphan: audience.NoGuardian}},
		{"the dependents themselves", []audience.Part{group(1)}, audience.Themselves,
			[]int{sami, lina, kim, orphan}, map[int]audience.Gap{}},
		{"both", []audience.Part{group(2)}, audience.Both, []int{rania, lina}, map[int]audience.Gap{}},
		{"a role means the people themselves", []audience.Part{role(roster.Guardian)}, audience.Guardians,
			[]int{rania, omar, coach}, map[int]audience.Gap{}},
		{"the role of dependents means their guardians", []audience.Part{role(roster.Dependent)}, audience.Guardians,
			[]int{rania, coach}, map[int]audience.Gap{omar: audience.Barred, orphan: audience.NoGuardian}},
		{"a barred guardian who is named otherwise is told as themselves", []audience.Part{group(3), group(4)}, audience.Guardians,
			[]int{rania, omar, coach}, map[int]audience.Gap{away: audience.AwayOrLeft, orphan: audience.NoGuardian}},
		{"leaving out a dependent leaves what concerns the others", []audience.Part{group(1), without(person(sami))}, audience.Guardians,
			[]int{rania, coach}, map[int]audience.Gap{orphan: audience.NoGuardian}},
		{"leaving out a recipient removes the recipient", []audience.Part{group(1), without(person(rania))}, audience.Guardians,
			[]int{coach}, map[int]audience.Gap{omar: audience.Barred, orphan: audience.NoGuardian}},
		{"leaving out a group wins over including it", []audience.Part{without(group(3)), group(1)}, audience.Guardians,
			[]int{rania}, map[int]audience.Gap{}},
		{"a person named alone", []audience.Part{person(kim)}, audience.Guardians, []int{coach}, map[int]audience.Gap{}},
		{"somebody who is away", []audience.Part{person(away)}, audience.Guardians, []int{}, map[int]audience.Gap{away: audience.AwayOrLeft}},
	} {
		t.Run(c.name, func(t *testing.T) {
			res := audience.Resolve(testRoster(t), audience.Audience{Parts: c.parts, Receivers: c.receivers}, "")
			assert.Equal(t, c.want, ids(res))
			assert.Equal(t, c.left, gaps(res))
		})
	}
}

func TestResolveCountsWhatEachPartDoes(t *testing.T) {
	res := audience.Resolve(testRoster(t), audience.Audience{
		Parts: []audience.Part{group(1), role(roster.Staff), without(person(rania)), group(99)},
	}, "")
	assert.Equal(t, []audience.PartCount{
		{People: 4, Recipients: 2, Groups: 2, Within: -1},
		{People: 1, Recipients: 1, Within: -1},
		{People: 1, Recipients: 1, Within: -1},
		{Missing: true, Within: -1},
	}, res.Parts)
	assert.Equal(t, 1, res.NamedTwice, "the coach, by role and as a guardian")
}

func TestWhy(t *testing.T) {
	r := testRoster(t)
	a := audience.Audience{Parts: []audience.Part{group(1), role(roster.Staff), group(4), person(omar)}}
	why := map[string]string{}
	for _, rec := range audience.Resolve(r, a, "").Recipients {
		why[r.At(rec.Person).GivenName] = audience.NewTeller(r, a).Why(rec)
	}
	assert.Equal(t, map[string]string{
		"Rania": "Guardian of Sami Haddad and Lina Haddad (Junior squads › U14, Junior squads › U12).",
		"Omar":  "In Adults; named themselves.",
		"Naya":  "Guardian of Kim Venn (Junior squads › U14); has the role staff; in Adults.",
	}, why)
}

func TestDescribe(t *testing.T) {
	r := testRoster(t)
	a := audience.Audience{
		Parts:     []audience.Part{group(1), without(group(4)), role(roster.Staff), person(sami), person(99)},
		Receivers: audience.Both,
	}
	res := audience.Resolve(r, a, "")
	var said []string
	for i, p := range a.Parts {
		said = append(said, audience.Label(r, p)+": "+audience.Describe(r, a, i, res.Parts[i]))
	}
	assert.Equal(t, []string{
		"Junior squads: group · 2 groups inside it · themselves and their guardians",
		"Adults: group",
		"Everyone with the role staff: role",
		"Sami Haddad: by name · themselves and their guardians",
		"Somebody who is no longer on the roster: by name",
	}, said)
}

func TestValidate(t *testing.T) {
	require.NoError(t, audience.Audience{}.Validate())
	require.EqualError(
		t, audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup}}}.Validate(), "part 1: no group is named",
	)
	require.ErrorContains(t, audience.Audience{Receivers: "neighbours"}.Validate(), "neighbours")
}

// However the parts are put together, nobody is told twice, nobody is both
// told and left out, and nobody who was left out is told.
func TestResolveProperties(t *testing.T) {
	r := testRoster(t)
	parts := []audience.Part{
		group(1), group(2), group(3), group(4), role(roster.Staff), role(roster.Dependent), role(roster.Member), person(sami),
		person(omar),
	}
	rapid.Check(t, func(t *rapid.T) {
		var a audience.Audience
		for _, p := range rapid.SliceOfN(rapid.SampledFrom(parts), 0, 6).Draw(t, "parts") {
			p.LeaveOut = rapid.Bool().Draw(t, "leave out")
			a.Parts = append(a.Parts, p)
		}
		a.Receivers = rapid.SampledFrom(
			[]audience.Receivers{audience.Guardians, audience.Themselves, audience.Both},
		).Draw(t, "receivers")
		res := audience.Resolve(r, a, "")
		told := map[int]bool{}
		for _, rec := range res.Recipients {
			require.False(t, told[rec.Person], "told twice")
			told[rec.Person] = true
			require.NotEmpty(t, rec.Parts, "told for no reason")
			require.Equal(t, roster.Active, r.At(rec.Person).Status)
		}
		for _, l := range res.LeftOut {
			require.False(t, told[l.Person], "told and left out")
		}
		for _, p := range a.Parts {
			if p.LeaveOut && p.Kind == audience.ByPerson {
				at, _ := r.Position(p.Person)
				require.False(t, told[at], "left out and told")
			}
		}
	})
}

func TestPeopleChosenOneByOne(t *testing.T) {
	r, err := roster.New(roster.Contents{
		People: []roster.Person{
			{ID: 1, GivenName: "Bo", Status: roster.Active}, {ID: 2, GivenName: "Cy", Status: roster.Left},
			{ID: 3, GivenName: "Kim", Status: roster.Active, Roles: []roster.Role{roster.Dependent}},
			{ID: 4, GivenName: "Di", Status: roster.Active},
		},
		Ties: []roster.Tie{{Guardian: 4, Dependent: 3, Receives: true}},
	})
	require.NoError(t, err)
	chosen := audience.Part{Kind: audience.ByPeople, People: []roster.PersonID{3, 1, 1, 2, 99}}
	a := audience.Audience{Parts: []audience.Part{chosen}}
	require.NoError(t, a.Validate())
	res := audience.Resolve(r, a, "")
	var names []string
	for _, rec := range res.Recipients {
		names = append(names, r.At(rec.Person).GivenName+": "+audience.NewTeller(r, a).Why(rec))
	}
	assert.Equal(t, []string{"Bo: Named themselves.", "Di: Guardian of Kim."}, names)
	require.Len(t, res.LeftOut, 1, "Cy has left; whoever is not on the roster is not counted")
	assert.Equal(t, 3, res.Parts[0].People)
	assert.Equal(t, "5 people chosen one by one", audience.Label(r, chosen))
	assert.Equal(t, "by name · their guardians", audience.Describe(r, a, 0, res.Parts[0]))
	assert.Error(t, audience.Audience{Parts: []audience.Part{{Kind: audience.ByPeople}}}.Validate())

	gone := audience.Resolve(
		r, audience.Audience{Parts: []audience.Part{{Kind: audience.ByPeople, People: []roster.PersonID{99}}}}, "",
	)
	assert.True(t, gone.Parts[0].Missing)
}

func TestAGroupThatReachesBeyondSaysSo(t *testing.T) {
	r, err := roster.New(roster.Contents{
		Units: []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Watch"}},
		People: []roster.Person{
			{ID: 1, GivenName: "Bo", Status: roster.Active, Unit: 1}, {ID: 2, GivenName: "Cy", Status: roster.Active, Unit: 2},
		},
		Groups: []roster.Group{{ID: 1, Name: "All", Members: []roster.PersonID{1, 2}}},
	})
	require.NoError(t, err)
	a := audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup, Group: 1}}}
	seen := r.Within(roster.Scope{Units: []roster.UnitID{1}})
	res := audience.Resolve(seen, a, "")
	assert.Len(t, res.Recipients, 1)
	assert.Equal(t, "group · 1 more is beyond your units", audience.Describe(seen, a, 0, res.Parts[0]))
}

func TestWhichUnitWrites(t *testing.T) {
	r, err := roster.New(roster.Contents{
		Units:  []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Watch"}},
		Groups: []roster.Group{{ID: 1, Name: "Crew", Unit: 1}, {ID: 2, Name: "Night", Unit: 2}, {ID: 3, Name: "All"}},
	})
	require.NoError(t, err)
	whole := roster.Scope{Whole: true}
	rowing := audience.Part{Kind: audience.ByUnit, Unit: 1}
	without := group(2)
	without.LeaveOut = true
	for _, c := range []struct {
		name  string
		reach roster.Scope
		parts []audience.Part
		unit  roster.UnitID
	}{
		{"a unit's account, whoever it writes to", roster.Scope{Units: []roster.UnitID{2, 1}}, []audience.Part{group(1)}, 2},
		{"the unit to which everybody belongs", whole, []audience.Part{group(1), rowing}, 1},
		{"people of two units", whole, []audience.Part{group(1), group(2)}, 0},
		{"who is left out does not count", whole, []audience.Part{group(1), without}, 1},
		{"a group of the whole organisation", whole, []audience.Part{group(1), group(3)}, 0},
		{"a role of everywhere", whole, []audience.Part{role(roster.Staff)}, 0},
		{"nobody yet", whole, nil, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, c.unit, audience.Audience{Parts: c.parts}.Writing(r, c.reach))
		})
	}
}
