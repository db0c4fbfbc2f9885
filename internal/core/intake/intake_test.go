package intake_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
)

func rows(lines ...string) []intake.Row {
	var list []intake.Row
	for i, l := range lines {
		list = append(list, intake.Row{Place: intake.Place{Line: i + 2}, Cells: strings.Split(l, ",")})
	}
	return list
}

func empty(t testing.TB) *roster.Roster {
	r, err := roster.New(roster.Contents{})
	require.NoError(t, err)
	return r
}

func propose(t *testing.T, r *roster.Roster, header string, lines ...string) *intake.Proposal {
	t.Helper()
	columns := strings.Split(header, ",")
	p, err := intake.Propose(table(r, columns, rows(lines...)), r)
	require.NoError(t, err)
	return p
}

func table(r *roster.Roster, header []string, rows []intake.Row) intake.Table {
	return intake.Table{
		Header: header, Rows: rows, Mapping: intake.Guess(header, r.Attributes), Region: "GB", Roles: roster.Roles,
		Zone: func(name string) bool { return name == "Europe/London" },
	}
}

// joined names the groups that an entry of a proposal ends up in.
func joined(p *intake.Proposal, entry int) []string {
	var names []string
	for _, id := range p.Entries[entry].After.Groups {
		if id < 0 {
			names = append(names, p.Groups[-id-1].Name)
		}
	}
	return names
}

func groupNames(p *intake.Proposal) []string {
	var names []string
	for _, g := range p.Groups {
		names = append(names, g.Name)
	}
	return names
}

func TestGuess(t *testing.T) {
	assert.Equal(t, []intake.Column{
		intake.ExternalID, intake.GivenName, intake.FamilyName, intake.Mobile, intake.Mobile, intake.Email, intake.Groups, intake.Ignored, intake.Ignored,
	}, intake.Guess([]string{"Member No.", "FIRST NAME", "Surname", "Mobile 1", "Mobile 2", "E-mail", "Squad", "Locker", "Last name"}, nil))
}

func TestProposeReadsAPerson(t *testing.T) {
	p := propose(t, empty(t), "Id,Name,Role,Language,Mobile,Landline,Email,Groups,Opted out of",
		"G1,Rania Haddad,parent;coach,Arabic,07700 900417,07700 900418,rania@EXAMPLE.org,Juniors > U14;Coaches,routine")
	require.Empty(t, p.Noted)
	require.Len(t, p.Entries, 1)
	got := p.Entries[0]
	assert.Equal(t, "Rania Haddad", got.After.Name())
	assert.Equal(t, []roster.Role{roster.Guardian, roster.Staff}, got.After.Roles)
	assert.Equal(t, "ar", got.After.Language)
	assert.Equal(t, roster.Active, got.After.Status)
	assert.Equal(t, []string{"U14", "Coaches"}, joined(p, 0))
	assert.Equal(t, []string{"Juniors", "U14", "Coaches"}, groupNames(p))
	assert.Equal(t, []roster.Nesting{{Outer: -1, Inner: -2}}, p.Nestings)
	var addresses []string
	for _, a := range got.After.Addresses {
		assert.True(t, a.DeclinesRoutine)
		addresses = append(addresses, string(a.Channel)+" "+a.Value)
	}
	assert.Equal(t, []string{"text +447700900417", "voice +447700900417", "voice +447700900418", "email rania@example.org"}, addresses)
}

func TestProposeSaysWhatIsWrongAndKeepsTheRest(t *testing.T) {
	header := "Id,Name,Role,Language,Mobile,Email,Guardians,Status,Groups"
	long := strings.Repeat("x", intake.LongestCell+1)
	for _, c := range []struct {
		name, line string
		loads      int
		reason     string
	}{
		{"no name", "X,,member,en,,,,,", 0, "there is no name"},
		{"a cell of enormous size", "X," + long + ",,,,,,,", 0, "5001 characters"},
		{"an unreadable number", "X,Bo Venn,,,ask Hugo,,,,", 1, "cannot be read as a telephone number"},
		{"a number that is too short", "X,Bo Venn,,,07700 900,,,,", 1, "too short"},
		{"an unknown language", "X,Bo Venn,,river,,,,,", 1, "is no language"},
		{"an unknown role", "X,Bo Venn,pirate,,,,,,", 1, "is no role here"},
		{"an unreadable mailbox", "X,Bo Venn,,,,bo@@example,,,", 1, "cannot be read as a mail address"},
		{"an unknown status", "X,Bo Venn,,,,,,resting,", 1, "is none of active, away, left"},
		{"a guardian who is not in the file", "X,Bo Venn,,,,,G999,,", 1, "neither in the file nor on the roster"},
		{"their own guardian", "X,Bo Venn,,,,,X,,", 1, "nobody is their own guardian"},
		{"a group inside itself", "X,Bo Venn,,,,,,,Crew > Crew", 1, "inside itself"},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := propose(t, empty(t), header, c.line)
			assert.Len(t, p.Entries, c.loads)
			issues := append(p.Refused, p.Noted...)
			require.Len(t, issues, 1)
			assert.Equal(t, 2, issues[0].Line)
			assert.Contains(t, issues[0].Reason, c.reason)
		})
	}
}

func TestProposeRefusesTheSamePersonTwice(t *testing.T) {
	for _, c := range []struct{ name, first, second string }{
		{"by id", "A1,Bo Venn,07700 900001", "A1,Bo Venn,"},
		{"by name and number", ",Bo Venn,07700 900001", ",bo  VENN,+447700900001"},
		{"by name alone", ",Bo Venn,", ",Bo Venn,"},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := propose(t, empty(t), "Id,Name,Mobile", c.first, c.second)
			assert.Len(t, p.Entries, 1)
			assert.Equal(t, []intake.Issue{{Place: intake.Place{Line: 3}, Value: p.Refused[0].Value, Reason: "the same person as on line 2"}}, p.Refused)
		})
	}
	p := propose(t, empty(t), "Id,Name,Mobile", "A1,Bo Venn,07700 900001", "A2,Bo Venn,07700 900002")
	assert.Equal(t, 2, p.Added, "two identifiers are two people")
}

func TestProposeTiesGuardiansOfTheSameFile(t *testing.T) {
	p := propose(t, empty(t), "Id,Name,Guardians,Barred guardians", "J1,Sami Haddad,G1;Omar Salman,", "G1,Rania Haddad,,", "G2,Omar Salman,,", "J2,Lina Haddad,G1,G2")
	assert.Equal(t, []roster.Tie{{Guardian: -2, Dependent: -1, Receives: true}, {Guardian: -3, Dependent: -1, Receives: true}}, p.Entries[0].After.Ties)
	assert.Equal(t, []roster.Tie{{Guardian: -2, Dependent: -4, Receives: true}, {Guardian: -3, Dependent: -4, Barred: true}}, p.Entries[3].After.Ties)
	assert.True(t, p.Entries[0].After.Has(roster.Dependent), "who has guardians is a dependent")
}

func TestProposeDoesNotGuessBetweenTwoOfAName(t *testing.T) {
	p := propose(t, empty(t), "Id,Name,Guardians", "G1,Wren Larkham,", "G2,Wren Larkham,", "J1,Kim Larkham,Wren Larkham")
	assert.Empty(t, p.Entries[2].After.Ties)
	assert.Contains(t, p.Noted[0].Reason, "2 people have this name")
}

func known(t *testing.T) *roster.Roster {
	r, err := roster.New(roster.Contents{People: []roster.Person{
		{ID: 7, ExternalID: "G1", GivenName: "Rania", FamilyName: "Haddad", Roles: []roster.Role{roster.Guardian}, Language: "ar", Status: roster.Active,
			Addresses: []roster.Address{{ID: 1, Channel: roster.Email, Value: "rania@example.org", Health: roster.Good}}},
		{ID: 8, ExternalID: "J1", GivenName: "Sami", FamilyName: "Haddad", Roles: []roster.Role{roster.Dependent}, Status: roster.Active},
	}, Ties: []roster.Tie{{Guardian: 7, Dependent: 8, Receives: true}}, Groups: []roster.Group{{ID: 1, Name: "U14", Members: []roster.PersonID{8}}}})
	require.NoError(t, err)
	return r
}

const knownHeader = "Id,Name,Role,Language,Email,Groups,Guardians"

func TestProposeChangesNothingForWhatIsKnown(t *testing.T) {
	p := propose(t, known(t), knownHeader, "G1,Rania Haddad,guardian,ar,rania@example.org,,", "J1,Sami Haddad,junior,,,u14,G1")
	assert.True(t, p.Empty())
	assert.Equal(t, 2, p.Unchanged)
}

func TestProposeAddsAndNeverTakesAway(t *testing.T) {
	p := propose(t, known(t), knownHeader, "G1,Rania Haddad,coach,pl,second@example.org,U14,")
	require.Len(t, p.Entries, 1)
	got := p.Entries[0]
	assert.Equal(t, []roster.Change{
		{What: "roles", From: "guardian", To: "guardian, staff"}, {What: "language", From: "ar", To: "pl"},
		{What: "email", To: "second@example.org (email)"}, {What: "group", To: "U14"},
	}, got.Changes)
	assert.Len(t, got.After.Addresses, 2)
	assert.Equal(t, roster.Good, got.After.Addresses[0].Health, "what is known stays")
	assert.Equal(t, roster.PersonID(7), got.After.ID)
}

func TestProposeKeepsFormulasAsText(t *testing.T) {
	p := propose(t, empty(t), "Id,Name", "=1+1,=SUM(A1)")
	assert.Equal(t, "=SUM(A1)", p.Entries[0].After.Name())
	assert.Equal(t, "=1+1", p.Entries[0].After.ExternalID)
}

func TestProposeDropsInvisibleCharacters(t *testing.T) {
	p := propose(t, empty(t), "Id,Name", "A\u200b1,\ufeffBo\u00a0 Venn")
	assert.Equal(t, "A1", p.Entries[0].After.ExternalID)
	assert.Equal(t, "Bo Venn", p.Entries[0].After.Name())
}

func TestProposeRefusesAWholeTable(t *testing.T) {
	r := empty(t)
	header := []string{"Locker", "Size"}
	_, err := intake.Propose(table(r, header, rows("1,2")), r)
	require.ErrorIs(t, err, intake.ErrNoName)
	_, err = intake.Propose(table(r, []string{"Name"}, nil), r)
	require.ErrorIs(t, err, intake.ErrNoRows)
	for _, mapping := range [][]intake.Column{{intake.FullName, intake.FullName}, {intake.FullName}, {intake.FullName, "shoe size"}} {
		odd := table(r, header, rows("1,2"))
		odd.Mapping = mapping
		_, err = intake.Propose(odd, r)
		require.ErrorIs(t, err, intake.ErrMapping)
	}
}
