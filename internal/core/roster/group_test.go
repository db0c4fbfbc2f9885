package roster_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/roster"
)

func crews(t *testing.T) *roster.Roster {
	t.Helper()
	list := people(5)
	for i, unit := range []roster.UnitID{1, 1, 1, 2, 2} {
		list[i].Unit = unit
	}
	r, err := roster.New(roster.Contents{
		Units:  []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Watch"}},
		People: list,
		Ties: []roster.Tie{
			{Guardian: 1, Dependent: 2, Receives: true}, {Guardian: 1, Dependent: 3},
			{Guardian: 1, Dependent: 4, Receives: true, Barred: true},
		},
		Groups: []roster.Group{
			{ID: 1, Name: "Crew", Unit: 1, Members: []roster.PersonID{1, 2}, Inside: []roster.GroupID{2}},
			{ID: 2, Name: "Night", Unit: 2, Members: []roster.PersonID{4}},
		},
	})
	require.NoError(t, err)
	return r
}

func TestFill(t *testing.T) {
	for _, c := range []struct {
		name   string
		take   roster.Take
		people []roster.PersonID
		moved  []roster.PersonID
	}{
		{"adding leaves alone who is in it", roster.TakeAdd, []roster.PersonID{2, 3}, []roster.PersonID{3}},
		{"removing leaves alone who is not", roster.TakeRemove, []roster.PersonID{2, 3}, []roster.PersonID{2}},
		{"only those takes the others out and nobody in", roster.TakeOnly, []roster.PersonID{2, 3}, []roster.PersonID{1}},
		{"nobody that there is", roster.TakeAdd, []roster.PersonID{99}, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := crews(t)
			g, _ := r.Group(1)
			var moved []roster.PersonID
			for _, e := range r.Fill(g, c.take, c.people) {
				moved = append(moved, e.After.ID)
			}
			assert.Equal(t, c.moved, moved)
		})
	}
}

func TestGuestsAreNotBroughtIntoAGroup(t *testing.T) {
	whole := crews(t)
	seen := whole.Within(roster.Scope{Units: []roster.UnitID{2}}) // sees 1 as the guardian of 4, unless barred
	g, _ := seen.Group(2)
	for _, e := range seen.Fill(g, roster.TakeAdd, []roster.PersonID{1, 5}) {
		assert.Equal(t, roster.PersonID(5), e.After.ID)
	}
}

func TestMoves(t *testing.T) {
	joins, leaves := crews(t).Moves(1, []int{1, 2})
	assert.Equal(t, []roster.PersonID{3}, joins)
	assert.Equal(t, []roster.PersonID{1}, leaves)
	joins, leaves = crews(t).Moves(0, []int{0})
	assert.Equal(t, []roster.PersonID{1}, joins, "into a new group")
	assert.Empty(t, leaves)
}

func TestSavingKeepsTheNestedGroupsThatAreNotSeen(t *testing.T) {
	whole := crews(t)
	seen := whole.Within(roster.Scope{Units: []roster.UnitID{1}})
	assert.Equal(t, []roster.GroupID{2}, whole.WithHidden(seen, roster.Group{ID: 1}))
	assert.Empty(t, whole.WithHidden(whole, roster.Group{ID: 1}), "one that is seen was taken out")
	assert.Equal(t, []roster.GroupID{2}, whole.WithHidden(seen, roster.Group{Inside: []roster.GroupID{2}}), "a new group")
}

func TestWhereSomethingMayBelong(t *testing.T) {
	whole, unit := roster.Scope{Whole: true}, roster.Scope{Units: []roster.UnitID{2, 1}}
	seen := crews(t).Within(roster.Scope{Units: []roster.UnitID{2}})
	assert.True(t, crews(t).MayBelong(0, whole))
	assert.False(t, seen.MayBelong(0, unit), "in no unit")
	assert.True(t, seen.MayBelong(2, unit))
	assert.False(t, seen.MayBelong(1, unit), "one that is not seen")
	assert.True(t, whole.MayEdit(&roster.Group{}))
	assert.False(t, unit.MayEdit(&roster.Group{}), "the whole organisation's")
	assert.True(t, unit.Begins(1))
	assert.False(t, unit.Begins(0))
	assert.False(t, whole.Begins(1))
	assert.Equal(t, roster.UnitID(2), unit.Pays())
	assert.Zero(t, whole.Pays())
}

func TestToldAbout(t *testing.T) {
	r := crews(t)
	at, _ := r.Position(1)
	assert.Equal(t, []roster.PersonID{2}, r.ToldAbout(at), "not who does not receive, nor who is barred")
}
