package roster_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/roster"
)

// The club of these tests: two units, a guardian with two dependents, a coach,
// and a warden of another unit.
const (
	rania roster.PersonID = iota + 1
	sami
	lina
	naya
	ward
)

const (
	rowing  roster.UnitID = 1
	juniors roster.UnitID = 2
	flood   roster.UnitID = 3
)

const (
	swim  roster.AttributeID = 1
	level roster.AttributeID = 2
	drill roster.AttributeID = 3
	key   roster.AttributeID = 4
	boat  roster.AttributeID = 5
)

func club() roster.Contents {
	number := func(c roster.Channel, value string) roster.Address {
		return roster.Address{Channel: c, Value: value, Health: roster.Untried}
	}
	return roster.Contents{
		Today: "2026-11-24",
		Units: []roster.Unit{
			{ID: rowing, Name: "Rowing"}, {ID: juniors, Name: "Juniors", Parent: rowing}, {ID: flood, Name: "Flood watch"},
		},
		Attributes: []roster.Attribute{
			{ID: swim, Name: "Swim test", Kind: roster.ChoiceAttribute, Choices: []string{"passed", "due"}},
			{ID: level, Name: "Level", Kind: roster.NumberAttribute}, {ID: drill, Name: "Drill", Kind: roster.DateAttribute},
			{ID: key, Name: "Key", Kind: roster.YesNoAttribute}, {ID: boat, Name: "Boat", Kind: roster.TextAttribute},
		},
		People: []roster.Person{
			{ID: rania, GivenName: "Rania", FamilyName: "Haddad", Roles: []roster.Role{roster.Guardian}, Language: "ar", Status: roster.Active, Unit: juniors,
				Addresses: []roster.Address{number(roster.Email, "rania@example.org"), number(roster.Text, "+447700900417")}, ReachedOn: "2026-11-20"},
			{ID: sami, GivenName: "Sami", FamilyName: "Haddad", Roles: []roster.Role{roster.Dependent}, Language: "ar", Status: roster.Active, Unit: juniors,
				Values: []roster.Value{{swim, "due"}, {level, "3"}, {drill, "2026-06-01"}}},
			{ID: lina, GivenName: "Lina", FamilyName: "Haddad", Roles: []roster.Role{roster.Dependent}, Status: roster.Away, AwayUntil: "2026-11-23", Unit: juniors,
				Values: []roster.Value{{swim, "passed"}, {level, "12"}}},
			{ID: naya, GivenName: "Naya", FamilyName: "Osei", Roles: []roster.Role{roster.Staff, roster.Member}, Language: "pt-BR", Status: roster.Active, Unit: rowing,
				Addresses: []roster.Address{{Channel: roster.Email, Value: "naya@example.org", Health: roster.Dead}}, Values: []roster.Value{{boat, "Single scull"}}},
			{ID: ward, GivenName: "Tomás", FamilyName: "Łukasz", Roles: []roster.Role{roster.Field}, Language: "en", Status: roster.Active, Unit: flood,
				Addresses: []roster.Address{{Channel: roster.Voice, Value: "+447700900555", DeclinesRoutine: true, DeclinesTimely: true}}, Values: []roster.Value{{key, "yes"}}},
		},
		Ties: []roster.Tie{
			{Guardian: rania, Dependent: sami, Receives: true}, {Guardian: naya, Dependent: lina, Receives: true},
		},
		Groups: []roster.Group{
			{ID: 1, Name: "Squads", Kind: roster.Picked, Inside: []roster.GroupID{2}},
			{ID: 2, Name: "U14", Kind: roster.Picked, Unit: juniors, Members: []roster.PersonID{sami, lina}},
			{ID: 3, Name: "Swim due", Kind: roster.ByRule, Unit: juniors, Rule: roster.Rule{{On: roster.OnGroup, Test: roster.Is, ID: 1}, {On: roster.OnAttribute, Test: roster.Is, ID: int64(swim), Value: "due"}}},
			{ID: 4, Name: "Mill", Kind: roster.Job, Unit: flood, Members: []roster.PersonID{ward, rania}},
		},
	}
}

func newClub(t testing.TB) *roster.Roster {
	r, err := roster.New(club())
	require.NoError(t, err)
	return r
}

func idsAt(r *roster.Roster, positions []int) []roster.PersonID {
	ids := []roster.PersonID{}
	for _, i := range positions {
		ids = append(ids, r.At(i).ID)
	}
	return ids
}

func TestConditions(t *testing.T) {
	r := newClub(t)
	for _, c := range []struct {
		name      string
		condition roster.Condition
		words     string
		want      []roster.PersonID
	}{
		{"role", roster.Condition{On: roster.OnRole, Test: roster.Is, Value: "dependent"}, "in the role dependent", []roster.PersonID{sami, lina}},
		{"not role", roster.Condition{On: roster.OnRole, Test: roster.IsNot, Value: "dependent"}, "not in the role dependent", []roster.PersonID{rania, naya, ward}},
		{"unit with what is in it", roster.Condition{On: roster.OnUnit, Test: roster.Is, ID: int64(rowing)}, "in the unit Rowing", []roster.PersonID{rania, sami, lina, naya}},
		{"no unit", roster.Condition{On: roster.OnUnit, Test: roster.Is}, "in no unit", []roster.PersonID{}},
		{"group with what is in it", roster.Condition{On: roster.OnGroup, Test: roster.Is, ID: 1}, "in the group Squads", []roster.PersonID{sami, lina}},
		{"language", roster.Condition{On: roster.OnLanguage, Test: roster.Is, Value: "pt"}, "reads Portuguese", []roster.PersonID{naya}},
		{"language not known", roster.Condition{On: roster.OnLanguage, Test: roster.Empty}, "language not known", []roster.PersonID{lina}},
		{"away is over", roster.Condition{On: roster.OnStatus, Test: roster.Is, Value: "away"}, "is away", []roster.PersonID{}},
		{"channel", roster.Condition{On: roster.OnChannel, Test: roster.Is, Value: "email"}, "can be reached by email", []roster.PersonID{rania}},
		{"channel missing", roster.Condition{On: roster.OnChannel, Test: roster.IsNot, Value: "email"}, "cannot be reached by email", []roster.PersonID{sami, lina, naya, ward}},
		{"consent", roster.Condition{On: roster.OnConsent, Test: roster.Is, Value: "routine"}, "declines routine messages", []roster.PersonID{ward}},
		{"gap", roster.Condition{On: roster.OnGap, Test: roster.Is, Value: "no-guardian"}, "no guardian who can be reached", []roster.PersonID{lina}},
		{"all dead", roster.Condition{On: roster.OnGap, Test: roster.Is, Value: "all-dead"}, "every address has failed for good", []roster.PersonID{naya}},
		{"not reached since", roster.Condition{On: roster.OnReached, Test: roster.Before, Value: "2026-11-20"}, "not reached since 2026-11-20", []roster.PersonID{sami, lina, naya, ward}},
		{"choice", roster.Condition{On: roster.OnAttribute, Test: roster.Is, ID: int64(swim), Value: "DUE"}, "Swim test is DUE", []roster.PersonID{sami}},
		{"not a choice", roster.Condition{On: roster.OnAttribute, Test: roster.IsNot, ID: int64(swim), Value: "due"}, "Swim test is not due", []roster.PersonID{rania, lina, naya, ward}},
		{"numbers compare as numbers", roster.Condition{On: roster.OnAttribute, Test: roster.More, ID: int64(level), Value: "5"}, "Level is more than 5", []roster.PersonID{lina}},
		{"date", roster.Condition{On: roster.OnAttribute, Test: roster.Before, ID: int64(drill), Value: "2026-07-01"}, "Drill is before 2026-07-01", []roster.PersonID{sami}},
		{"yes", roster.Condition{On: roster.OnAttribute, Test: roster.Is, ID: int64(key), Value: "y"}, "Key is y", []roster.PersonID{ward}},
		{"text within", roster.Condition{On: roster.OnAttribute, Test: roster.Contains, ID: int64(boat), Value: "SCULL"}, "Boat contains SCULL", []roster.PersonID{naya}},
		{"filled in", roster.Condition{On: roster.OnAttribute, Test: roster.Filled, ID: int64(level)}, "Level is filled in", []roster.PersonID{sami, lina}},
		{"an attribute that is gone holds for nobody", roster.Condition{On: roster.OnAttribute, Test: roster.Empty, ID: 99}, "an attribute that no longer exists", []roster.PersonID{}},
		{"a group that is gone holds for nobody", roster.Condition{On: roster.OnGroup, Test: roster.IsNot, ID: 99}, "not in the group something that no longer exists", []roster.PersonID{}},
	} {
		t.Run(c.name, func(t *testing.T) {
			people, leaves := r.Select(roster.Rule{c.condition})
			assert.Equal(t, c.want, idsAt(r, people))
			assert.Equal(t, []int{len(c.want)}, leaves)
			assert.Equal(t, c.words, r.Words(c.condition))
		})
	}
}

func TestCheckRefusesRulesThatMeanNothing(t *testing.T) {
	r := newClub(t)
	for want, c := range map[string]roster.Condition{
		"condition 1: the attribute it looks at no longer exists": {On: roster.OnAttribute, Test: roster.Is, ID: 99},
		"condition 1: the group it looks at no longer exists":     {On: roster.OnGroup, Test: roster.Is, ID: 99},
		"condition 1: the unit it looks at no longer exists":      {On: roster.OnUnit, Test: roster.Is, ID: 99},
		`condition 1: "less" cannot be asked of "role"`:           {On: roster.OnRole, Test: roster.Less},
		`condition 1: Level: "many" is no number`:                 {On: roster.OnAttribute, Test: roster.Is, ID: int64(level), Value: "many"},
		`condition 1: "soon" is no date`:                          {On: roster.OnReached, Test: roster.Before, Value: "soon"},
		`condition 1: "bored" is no gap`:                          {On: roster.OnGap, Test: roster.Is, Value: "bored"},
	} {
		assert.EqualError(t, r.Check(roster.Rule{c}), want)
	}
	assert.NoError(t, r.Check(club().Groups[2].Rule))
}

func TestGroupsByRuleFillThemselves(t *testing.T) {
	r := newClub(t)
	assert.Equal(t, []roster.PersonID{sami}, idsAt(r, r.In(3)))
	assert.Equal(t, []roster.GroupID{2, 3}, r.GroupsOf(1))
	assert.Empty(t, r.Sheet(rania).Groups[1:], "picked for the job only")
}

func TestCirclesAreNamed(t *testing.T) {
	r := newClub(t)
	assert.Equal(t, []string{"Squads", "U14"}, r.Closes(2, 1))
	assert.Nil(t, r.Closes(1, 2), "what is so already closes nothing")
	assert.Equal(t, []string{"U14"}, r.Closes(2, 2))
	assert.Equal(
		t, []string{"U14", "Squads", "U14"}, r.Circles(2, roster.Rule{{On: roster.OnGroup, Test: roster.Is, ID: 1}}),
		"through nesting",
	)
	assert.Equal(t, []string{"Swim due", "Swim due"}, r.Circles(
		3, roster.Rule{{On: roster.OnGroup, Test: roster.Is, ID: 3}},
	))
	assert.Nil(t, r.Circles(3, roster.Rule{{On: roster.OnGroup, Test: roster.Is, ID: 4}}))
}

func TestFindSearchesAndSorts(t *testing.T) {
	r := newClub(t)
	for _, c := range []struct {
		name  string
		query roster.Query
		want  []roster.PersonID
	}{
		{"everybody", roster.Query{}, []roster.PersonID{rania, sami, lina, naya, ward}},
		{"a name without its marks", roster.Query{Search: "lukasz tomas"}, []roster.PersonID{ward}},
		{"a number as it is typed", roster.Query{Search: "07700 900417"}, []roster.PersonID{rania}},
		{"a number with its country", roster.Query{Search: "+44 7700-900417"}, []roster.PersonID{rania}},
		{"a mailbox", roster.Query{Search: "RANIA@exam"}, []roster.PersonID{rania}},
		{"nobody", roster.Query{Search: "%"}, []roster.PersonID{rania, sami, lina, naya, ward}[:0]},
		{"search and filter", roster.Query{Search: "haddad", Rule: roster.Rule{{On: roster.OnRole, Test: roster.Is, Value: "dependent"}}}, []roster.PersonID{sami, lina}},
		{"by given name, backwards", roster.Query{Order: roster.ByGiven, Descending: true}, []roster.PersonID{ward, sami, rania, naya, lina}},
		{"by unit", roster.Query{Order: roster.ByUnit}, []roster.PersonID{ward, naya, rania, sami, lina}},
	} {
		t.Run(c.name, func(t *testing.T) {
			people, _ := r.Find(c.query)
			assert.Equal(t, c.want, idsAt(r, people))
		})
	}
}

func TestGapsAreCountedByUnitAndRole(t *testing.T) {
	r := newClub(t)
	counts := map[roster.Gap]roster.GapCount{}
	for _, c := range r.CountGaps() {
		counts[c.Gap] = c
	}
	assert.Equal(t, map[roster.UnitID]int{rowing: 1}, counts[roster.AllDead].Units)
	assert.Equal(t, map[roster.Role]int{roster.Staff: 1, roster.Member: 1}, counts[roster.AllDead].Roles)
	assert.Equal(t, 1, counts[roster.NoGuardian].People, "Lina’s only guardian has a dead address")
	assert.Equal(t, 1, counts[roster.DeclinesAll].People)
	assert.Zero(t, counts[roster.NoAddress].People, "a dependent needs no address of their own")
}

func TestAttributesReadWhatIsTyped(t *testing.T) {
	attribute := func(kind roster.AttributeKind) roster.Attribute {
		return roster.Attribute{Name: "A", Kind: kind, Choices: []string{"passed", "due"}}
	}
	for _, c := range []struct {
		kind        roster.AttributeKind
		typed, want string
		fails       bool
	}{
		{roster.TextAttribute, " a b ", "a b", false}, {roster.NumberAttribute, "3,50", "3.5", false},
		{roster.NumberAttribute, "NaN", "", true},
		{roster.NumberAttribute, "three", "", true}, {roster.DateAttribute, "2026-02-29", "", true},
		{roster.DateAttribute, "2028-02-29", "2028-02-29", false},
		{roster.ChoiceAttribute, "PASSED", "passed", false}, {roster.ChoiceAttribute, "maybe", "", true},
		{roster.YesNoAttribute, "True", "yes", false}, {roster.YesNoAttribute, "perhaps", "", true},
		{roster.NumberAttribute, "", "", false},
	} {
		got, err := attribute(c.kind).Read(c.typed)
		assert.Equal(t, c.want, got, "%s %q", c.kind, c.typed)
		assert.Equal(t, c.fails, err != nil, "%s %q", c.kind, c.typed)
	}
}

func FuzzAttributeRead(f *testing.F) {
	f.Add("3,5", 1)
	f.Add("2026-11-28", 2)
	f.Fuzz(func(t *testing.T, typed string, kind int) {
		a := roster.Attribute{
			Name: "A", Kind: roster.AttributeKinds[uint(kind)%uint(len(roster.AttributeKinds))], Choices: []string{"x"},
		}
		value, err := a.Read(typed)
		if err != nil {
			return
		}
		again, err := a.Read(value)
		if err != nil || again != value {
			t.Fatalf("%q became %q and then %q: %v", typed, value, again, err)
		}
	})
}

// A patched snapshot is the snapshot that would be made anew.
func TestPatchedIsTheSameAsMadeAnew(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sorted := club()
		roster.Sort(sorted.People)
		before, err := roster.New(sorted)
		if err != nil {
			t.Fatal(err)
		}
		after := club()
		changed := rapid.SliceOfNDistinct(rapid.IntRange(0, len(after.People)-1), 1, 3, rapid.ID).Draw(t, "changed")
		p := roster.Patch{Groups: map[roster.PersonID][]roster.GroupID{}}
		gone := map[roster.PersonID]bool{}
		for _, i := range changed {
			person := &after.People[i]
			p.IDs = append(p.IDs, person.ID)
			if rapid.Bool().Draw(t, "gone") {
				gone[person.ID] = true
				continue
			}
			person.FamilyName = rapid.SampledFrom([]string{"Adder", "osei", "Žid", ""}).Draw(t, "name")
			person.Values = []roster.Value{{swim, rapid.SampledFrom([]string{"due", "passed"}).Draw(t, "swim")}}
			p.People = append(p.People, *person)
		}
		var people []roster.Person
		for _, person := range after.People {
			if !gone[person.ID] {
				people = append(people, person)
			}
		}
		after.People = people
		roster.Sort(after.People)
		for _, g := range after.Groups {
			for _, m := range g.Members {
				p.Groups[m] = append(p.Groups[m], g.ID)
			}
		}
		for _, tie := range after.Ties {
			for _, id := range p.IDs {
				if tie.Guardian == id || tie.Dependent == id {
					p.Ties = append(p.Ties, tie)
					break
				}
			}
		}
		anew, err := roster.New(after)
		if err != nil {
			t.Fatal(err)
		}
		patched, err := before.Patched(p)
		if err != nil {
			t.Fatal(err)
		}
		if patched.Len() != anew.Len() {
			t.Fatalf("%d people, %d anew", patched.Len(), anew.Len())
		}
		for id := range roster.PersonID(6) {
			a, b := patched.Sheet(id), anew.Sheet(id)
			if (a == nil) != (b == nil) {
				t.Fatalf("person %d: %v, %v", id, a, b)
			}
			if a != nil && len(anew.Differ(a, b, anew)) > 0 {
				t.Fatalf("person %d differs: %v", id, anew.Differ(a, b, anew))
			}
		}
		for _, g := range anew.Groups() {
			if len(patched.In(g.ID)) != len(anew.In(g.ID)) {
				t.Fatalf("%s has %d people, %d anew", g.Name, len(patched.In(g.ID)), len(anew.In(g.ID)))
			}
		}
	})
}

// Groups in a ladder of diamonds have 2^60 ways from top to bottom.
func TestDeepNestingIsWalkedOnce(t *testing.T) {
	const rungs = 60
	groups := []roster.Group{{ID: 1, Name: "top"}}
	for i := range roster.GroupID(rungs) {
		id := 3*i + 1
		groups[id-1].Inside = []roster.GroupID{id + 1, id + 2}
		groups = append(groups, roster.Group{ID: id + 1, Name: "left", Inside: []roster.GroupID{id + 3}},
			roster.Group{ID: id + 2, Name: "right", Inside: []roster.GroupID{id + 3}}, roster.Group{ID: id + 3, Name: "rung"})
	}
	r, err := roster.New(roster.Contents{Groups: groups})
	require.NoError(t, err)
	bottom := roster.GroupID(3*rungs + 1)
	assert.Len(t, r.Closes(bottom, 1), 2*rungs+1)
	assert.Nil(t, r.Closes(1, bottom))
	assert.Nil(t, r.Path(1, 99))
}
