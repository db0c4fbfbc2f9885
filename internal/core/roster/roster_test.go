package roster_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/roster"
)

func people(n int) []roster.Person {
	list := make([]roster.Person, n)
	for i := range list {
		list[i].ID = roster.PersonID(i + 1)
	}
	return list
}

func newRoster(people []roster.Person, ties []roster.Tie, groups []roster.Group) (*roster.Roster, error) {
	return roster.New(roster.Contents{People: people, Ties: ties, Groups: groups})
}

func TestInCountsEverybodyOnceThroughNestedGroups(t *testing.T) {
	r, err := newRoster(people(5), nil, []roster.Group{
		{ID: 1, Name: "All squads", Members: []roster.PersonID{5}, Inside: []roster.GroupID{2, 3}},
		{ID: 2, Name: "U12", Members: []roster.PersonID{1, 2}},
		{ID: 3, Name: "U14", Members: []roster.PersonID{2, 4, 99}, Inside: []roster.GroupID{2}},
	})
	require.NoError(t, err)
	assert.Equal(t, []int{0, 1, 3, 4}, r.In(1))
	assert.Equal(t, 2, r.Nested(1))
	assert.Equal(t, []string{"All squads", "U14"}, r.Path(1, 4))
	assert.Nil(t, r.Path(1, 3))
	assert.Empty(t, r.In(77))
}

func TestNewRefusesACircleAndNamesIt(t *testing.T) {
	_, err := newRoster(nil, nil, []roster.Group{
		{ID: 1, Name: "Rowers", Inside: []roster.GroupID{2}},
		{ID: 2, Name: "Crews", Inside: []roster.GroupID{3}},
		{ID: 3, Name: "Fours", Inside: []roster.GroupID{1}},
	})
	require.ErrorContains(t, err, "Rowers › Crews › Fours › Rowers")
}

func TestNewDropsTiesToNobody(t *testing.T) {
	r, err := newRoster(
		people(2), []roster.Tie{{Guardian: 1, Dependent: 2, Receives: true}, {Guardian: 9, Dependent: 2}}, nil,
	)
	require.NoError(t, err)
	assert.Len(t, r.Guardians(1), 1)
}

func TestNobodyDeclinesAnEmergency(t *testing.T) {
	a := roster.Address{DeclinesRoutine: true, DeclinesTimely: true}
	assert.True(t, a.Declines(roster.Routine))
	assert.True(t, a.Declines(roster.Timely))
	assert.False(t, a.Declines(roster.Emergency))
}

// Behind an account stands the only active person with its login as a mailbox.
func TestWhoIsBehindAnAccount(t *testing.T) {
	person := func(id roster.PersonID, status roster.Status, mailbox string) roster.Person {
		own := roster.Address{ID: roster.AddressID(id), Channel: roster.Email, Value: mailbox}
		return roster.Person{ID: id, Status: status, Addresses: []roster.Address{own}}
	}
	for name, c := range map[string]struct {
		people []roster.Person
		found  roster.PersonID
	}{
		"nobody":            {[]roster.Person{person(1, roster.Active, "ana@example.org")}, 0},
		"in another case":   {[]roster.Person{person(1, roster.Active, "Una@example.org")}, 1},
		"two who share it":  {[]roster.Person{person(1, roster.Active, "una@example.org"), person(2, roster.Active, "una@example.org")}, 0},
		"one of two left":   {[]roster.Person{person(1, roster.Left, "una@example.org"), person(2, roster.Active, "una@example.org")}, 2},
		"only one who left": {[]roster.Person{person(1, roster.Left, "una@example.org")}, 0},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := roster.New(roster.Contents{People: c.people})
			require.NoError(t, err)
			found := roster.PersonID(0)
			if p := r.Behind("una@example.org"); p != nil {
				found = p.ID
			}
			assert.Equal(t, c.found, found)
		})
	}
}
