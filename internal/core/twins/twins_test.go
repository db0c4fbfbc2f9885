package twins_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/twins"
)

func person(id roster.PersonID, given, family string, change ...func(*roster.Person)) roster.Person {
	p := roster.Person{ID: id, GivenName: given, FamilyName: family, Status: roster.Active}
	for _, c := range change {
		c(&p)
	}
	return p
}

func mail(value string) func(*roster.Person) {
	return func(p *roster.Person) {
		p.Addresses = append(p.Addresses, roster.Address{Channel: roster.Email, Value: value})
	}
}

func born(day roster.Date) func(*roster.Person) { return func(p *roster.Person) { p.BornOn = day } }

func TestFind(t *testing.T) {
	for _, c := range []struct {
		name    string
		a, b    roster.Person
		reasons []string
	}{
		{"a mailbox and a name without marks", person(1, "Łukasz", "Kłos", mail("k@example.org")), person(2, "Lukasz", "Klos", mail("k@example.org")), []string{"both have k@example.org", "the same name"}},
		{"a mailbox and the names turned", person(1, "Wei", "Lin", mail("w@example.org")), person(2, "Lin", "Wei", mail("w@example.org")), []string{"both have w@example.org", "the same name"}},
		{"a mailbox and a slip of the pen", person(1, "Ottilie", "Venn", mail("o@example.org")), person(2, "Otilie", "Venn", mail("o@example.org")), []string{"both have o@example.org"}},
		{"a mailbox and a second name", person(1, "Ana Maria", "Ríos", mail("a@example.org")), person(2, "Ana", "Rios", mail("a@example.org")), []string{"both have a@example.org"}},
		{"a family that shares a mailbox", person(1, "Rania", "Haddad", mail("f@example.org")), person(2, "Sami", "Haddad", mail("f@example.org")), nil},
		{"the same name alone", person(1, "Wren", "Larkham"), person(2, "wren", "LARKHAM"), []string{"the same name"}},
		{"the same name, born on two days", person(1, "Wren", "Larkham", born("2010-01-01")), person(2, "Wren", "Larkham", born("2011-01-01")), nil},
		{"the same name and day", person(1, "Wren", "Larkham", born("2010-01-01")), person(2, "Wren", "Larkham", born("2010-01-01")), []string{"born on the same day", "the same name"}},
		{"different people", person(1, "Bo", "Venn", mail("b@example.org")), person(2, "Cy", "Venn", mail("c@example.org")), nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, err := roster.New(roster.Contents{People: []roster.Person{c.a, c.b}})
			require.NoError(t, err)
			pairs := twins.Find(r, func(a, b roster.PersonID) bool { return false })
			if c.reasons == nil {
				assert.Empty(t, pairs)
				return
			}
			require.Len(t, pairs, 1)
			assert.Equal(t, c.reasons, pairs[0].Reasons)
			assert.Empty(t, twins.Find(r, func(a, b roster.PersonID) bool { return a == 1 && b == 2 }), "who are known to be two are not shown")
		})
	}
}

func TestFindPutsTheLikeliestFirstAndLeavesFamiliesAlone(t *testing.T) {
	r, err := roster.New(roster.Contents{
		People: []roster.Person{
			person(1, "Kim", "Venn"), person(2, "Kim", "Venn"), person(3, "Bo", "Osei", mail("b@example.org")),
			person(4, "Bo", "Osei", mail("b@example.org")), person(5, "Bo", "Osei"),
		},
		Ties: []roster.Tie{{Guardian: 3, Dependent: 5, Receives: true}},
	})
	require.NoError(t, err)
	pairs := twins.Find(r, func(a, b roster.PersonID) bool { return false })
	require.Len(t, pairs, 3)
	assert.Equal(t, [2]int{2, 3}, [2]int{pairs[0].A, pairs[0].B})
	for _, p := range pairs {
		assert.NotEqual(t, [2]int{2, 4}, [2]int{p.A, p.B}, "a parent and a child of one name are two")
	}
}

// More than the same name makes a pair likely, also of two people with ids.
func TestLikely(t *testing.T) {
	ids := func(id string) func(*roster.Person) { return func(p *roster.Person) { p.ExternalID = id } }
	number := func(p *roster.Person) {
		p.Addresses = append(p.Addresses, roster.Address{Channel: roster.Text, Value: "+447700900001"})
	}
	for _, c := range []struct {
		name   string
		a, b   roster.Person
		likely bool
	}{
		{"one number, names one letter apart, two ids", person(1, "Ottilie", "Venn", ids("A1"), number), person(2, "Otilie", "Venn", ids("A2"), number), true},
		{"the same name and birth date, two ids", person(1, "Wren", "Larkham", ids("A1"), born("2010-01-01")), person(2, "Wren", "Larkham", ids("A2"), born("2010-01-01")), true},
		{"the same name alone", person(1, "Wren", "Larkham"), person(2, "Wren", "Larkham"), false},
		{"the same name alone, two ids", person(1, "Wren", "Larkham", ids("A1")), person(2, "Wren", "Larkham", ids("A2")), false},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, err := roster.New(roster.Contents{People: []roster.Person{c.a, c.b}})
			require.NoError(t, err)
			pairs := twins.Find(r, func(a, b roster.PersonID) bool { return false })
			require.Len(t, pairs, 1)
			assert.Equal(t, c.likely, pairs[0].Likely)
		})
	}
}
