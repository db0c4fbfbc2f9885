package intake_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
)

// separated is a family in which contact of Omar with Sami is barred.
func separated(t require.TestingT) *roster.Roster {
	r, err := roster.New(roster.Contents{People: []roster.Person{
		{ID: 1, ExternalID: "G1", GivenName: "Rania", FamilyName: "Haddad", Roles: []roster.Role{roster.Guardian}, Status: roster.Active},
		{ID: 2, ExternalID: "G2", GivenName: "Omar", FamilyName: "Salman", Roles: []roster.Role{roster.Guardian}, Status: roster.Active},
		{ID: 3, ExternalID: "J1", GivenName: "Sami", FamilyName: "Haddad", Roles: []roster.Role{roster.Dependent}, Status: roster.Active},
	}, Ties: []roster.Tie{{Guardian: 1, Dependent: 3, Receives: true}, {Guardian: 2, Dependent: 3, Barred: true}}})
	require.NoError(t, err)
	return r
}

func tieOf(s *roster.Sheet, guardian, dependent roster.PersonID) roster.Tie {
	for _, t := range s.Ties {
		if t.Guardian == guardian && t.Dependent == dependent {
			return t
		}
	}
	return roster.Tie{}
}

func TestAFileNeverLiftsABar(t *testing.T) {
	for _, c := range []struct {
		name, header string
		lines        []string
	}{
		{"a column of guardians", "Id,Name,Guardian ids", []string{"J1,Sami Haddad,G1;G2"}},
		{"a column of dependents", "Id,Name,Dependents", []string{"G2,Omar Salman,J1"}},
		{"barred first, then receiving", "Id,Name,Barred guardians,Guardians", []string{"J1,Sami Haddad,G2,G2"}},
		{"receiving first, then barred", "Id,Name,Guardians,Barred guardians", []string{"J1,Sami Haddad,G2,G2"}},
		{"from both sides", "Id,Name,Guardians,Dependents", []string{"J1,Sami Haddad,G2,", "G2,Omar Salman,,J1"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := propose(t, separated(t), c.header, c.lines...)
			assert.Equal(t, 1, p.BarsKept)
			for _, e := range p.Entries {
				assert.True(t, tieOf(e.After, 2, 3).Barred)
				assert.False(t, tieOf(e.After, 2, 3).Receives)
			}
		})
	}
}

func TestARowThatSaysBothIsBarred(t *testing.T) {
	for _, header := range []string{
		"Id,Name,Guardians,Barred guardians,Dependents", "Id,Name,Barred guardians,Guardians,Dependents",
	} {
		p := propose(t, empty(t), header, "J1,Sami Haddad,G2,G2,", "G2,Omar Salman,,,J1")
		for _, e := range p.Entries {
			assert.Equal(t, []roster.Tie{{Guardian: -2, Dependent: -1, Barred: true}}, e.After.Ties, header)
		}
	}
}

// Whatever a file says, in whatever order, a barred contact stays barred.
func TestNoFileMakesABarredGuardianReceive(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		columns := rapid.Permutation([]string{"Guardians", "Barred guardians", "Dependents"}).Draw(t, "columns")
		ids := []string{"G1", "G2", "J1"}
		var lines []string
		for _, id := range rapid.Permutation(ids).Draw(t, "rows") {
			line := id + ",Somebody " + id
			for range columns {
				line += "," + rapid.SampledFrom(append(ids, "", "G1;G2")).Draw(t, "cell")
			}
			lines = append(lines, line)
		}
		p := propose(t, separated(t), fmt.Sprintf("Id,Name,%s,%s,%s", columns[0], columns[1], columns[2]), lines...)
		for _, e := range p.Edit("loaded").People {
			if tie := tieOf(e.After, 2, 3); tie.Guardian != 0 && (!tie.Barred || tie.Receives) {
				t.Fatalf("%s: %+v", e.After.Name(), tie)
			}
		}
	})
}

func TestAGuardianIsFoundWithTheFamilyNameFirst(t *testing.T) {
	for _, name := range []string{"Haddad, Rania", "haddad rania", "Rania  Haddad"} {
		r := separated(t)
		row := intake.Row{Place: intake.Place{Line: 2}, Cells: []string{"J2", "Lina Haddad", name}}
		p, err := intake.Propose(table(r, []string{"Id", "Name", "Guardians"}, []intake.Row{row}), r)
		require.NoError(t, err)
		require.Empty(t, p.Noted, name)
		assert.Equal(t, roster.PersonID(1), p.Entries[0].After.Ties[0].Guardian)
	}
}

func TestManyPeopleOfOneNameTakeAFewLookUpsEach(t *testing.T) {
	for _, n := range []int{100, 1000, 4000} {
		lines := make([]string, n)
		for i := range lines {
			lines[i] = fmt.Sprintf("J%d,Sami Haddad,family@example.org,2012-05-%02d,Rania Haddad", i, i%28+1)
		}
		r := empty(t)
		p, lookups := intake.Counted(table(r, []string{"Id", "Name", "Email", "Born on", "Guardians"}, rows(lines...)), r)
		assert.Len(t, p.Entries, n)
		assert.LessOrEqual(t, lookups, 12*n)
	}
}
