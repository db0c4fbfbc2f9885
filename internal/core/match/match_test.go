package match_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/match"
	"upperlantern/internal/core/roster"
)

func club(t testing.TB) *roster.Roster {
	r, err := roster.New(roster.Contents{People: []roster.Person{
		{ID: 1, ExternalID: "G1", GivenName: "Rania", FamilyName: "Haddad", Addresses: []roster.Address{{Channel: roster.Text, Value: "+447700900417"}, {Channel: roster.Voice, Value: "+447700900417"}, {Channel: roster.Email, Value: "home@example.org"}}},
		{ID: 2, GivenName: "Sami", FamilyName: "Haddad", Addresses: []roster.Address{{Channel: roster.Email, Value: "home@example.org"}}},
		{ID: 3, GivenName: "Wren", FamilyName: "Larkham"}, {ID: 4, GivenName: "Wren", FamilyName: "Larkham"},
	}})
	require.NoError(t, err)
	return r
}

func TestList(t *testing.T) {
	for _, c := range []struct {
		name, text string
		people     [][]roster.PersonID
		problem    string
	}{
		{"a number typed nationally", "07700 900417", [][]roster.PersonID{{1}}, ""},
		{"two numbers with a space between", "07700900417 +447700900417", [][]roster.PersonID{{1}, {1}}, ""},
		{"a mailbox that two share", "HOME@example.org", [][]roster.PersonID{{1, 2}}, ""},
		{"an id", "G1", [][]roster.PersonID{{1}}, ""},
		{"a name", "sami  haddad", [][]roster.PersonID{{2}}, ""},
		{"a name with the family first", "Haddad Sami", [][]roster.PersonID{{2}}, ""},
		{"several on a line", "G1; Sami Haddad,home@example.org", [][]roster.PersonID{{1}, {2}, {1, 2}}, ""},
		{"a name that two have", "Wren Larkham", [][]roster.PersonID{{}}, "several people"},
		{"a number of nobody", "07700 900999", [][]roster.PersonID{{}}, "nobody's address"},
		{"nothing known", "ask Hugo", [][]roster.PersonID{{}}, "nobody's name"},
		{"a broken mailbox", "a@@b", [][]roster.PersonID{{}}, "cannot be read"},
		{"nothing", " ;\n,\t", nil, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			found := match.List(club(t), c.text, "GB")
			var people [][]roster.PersonID
			for _, f := range found {
				people = append(people, f.People)
				assert.Contains(t, f.Problem, c.problem)
			}
			assert.Equal(t, c.people, people)
		})
	}
}

func TestListSaysTheLine(t *testing.T) {
	found := match.List(club(t), "G1\n\nnobody here\n", "GB")
	require.Len(t, found, 2)
	assert.Equal(t, 3, found[1].Line)
	assert.Equal(t, "nobody here", found[1].Text)
}

func FuzzList(f *testing.F) {
	f.Add("G1; 07700 900417\nhome@example.org")
	r := club(f)
	f.Fuzz(func(t *testing.T, text string) {
		for _, found := range match.List(r, text, "GB") {
			if (found.Problem == "") != (len(found.People) > 0) {
				t.Fatalf("%q: %v %q", found.Text, found.People, found.Problem)
			}
		}
	})
}
