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

func propose(t require.TestingT, r *roster.Roster, header string, lines ...string) *intake.Proposal {
	columns := strings.Split(header, ",")
	p, err := intake.Propose(table(r, columns, rows(lines...)), r)
	require.NoError(t, err)
	return p
}

func table(r *roster.Roster, header []string, rows []intake.Row) intake.Table {
	return intake.Table{
		Header: header, Rows: rows, Mapping: intake.Guess(header, rows, r.Attributes), Region: "GB", Roles: roster.Roles,
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
		intake.ExternalID, intake.GivenName, intake.FamilyName, intake.Mobile, intake.Mobile, intake.Email, intake.Groups,
		intake.Ignored, intake.Ignored,
	}, intake.Guess([]string{"Member No.", "FIRST NAME", "Surname", "Mobile 1", "Mobile 2", "E-mail", "Squad", "Locker", "Last name"}, nil, nil))
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
	assert.Equal(
		t, []string{"text +447700900417", "voice +447700900417", "voice +447700900418", "email rania@example.org"}, addresses,
	)
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
			assert.Equal(
				t,
				[]intake.Issue{{Place: intake.Place{Line: 3}, Value: p.Refused[0].Value, Reason: "the same person as on line 2"}},
				p.Refused,
			)
		})
	}
	p := propose(t, empty(t), "Id,Name,Mobile", "A1,Bo Venn,07700 900001", "A2,Bo Venn,07700 900002")
	assert.Equal(t, 2, p.Added, "two identifiers are two people")
}

func TestProposeTiesGuardiansOfTheSameFile(t *testing.T) {
	p := propose(
		t, empty(t), "Id,Name,Guardians,Barred guardians", "J1,Sami Haddad,G1;Omar Salman,", "G1,Rania Haddad,,",
		"G2,Omar Salman,,", "J2,Lina Haddad,G1,G2",
	)
	assert.Equal(
		t, []roster.Tie{{Guardian: -2, Dependent: -1, Receives: true}, {Guardian: -3, Dependent: -1, Receives: true}},
		p.Entries[0].After.Ties,
	)
	assert.Equal(
		t, []roster.Tie{{Guardian: -2, Dependent: -4, Receives: true}, {Guardian: -3, Dependent: -4, Barred: true}},
		p.Entries[3].After.Ties,
	)
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
	p := propose(
		t, known(t), knownHeader, "G1,Rania Haddad,guardian,ar,rania@example.org,,", "J1,Sami Haddad,junior,,,u14,G1",
	)
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
	for _, mapping := range [][]intake.Column{
		{intake.FullName, intake.FullName}, {intake.FullName}, {intake.FullName, "shoe size"},
	} {
		odd := table(r, header, rows("1,2"))
		odd.Mapping = mapping
		_, err = intake.Propose(odd, r)
		require.ErrorIs(t, err, intake.ErrMapping)
	}
}

// office is a roster with units, attributes and a group by rule.
func office(t testing.TB) *roster.Roster {
	r, err := roster.New(roster.Contents{
		Units: []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Juniors", Parent: 1}},
		Attributes: []roster.Attribute{
			{ID: 1, Name: "Swim test", Kind: roster.ChoiceAttribute, Choices: []string{"passed", "due"}},
			{ID: 2, Name: "Drill on", Kind: roster.DateAttribute},
		},
		Groups: []roster.Group{
			{ID: 1, Name: "Due", Kind: roster.ByRule, Rule: roster.Rule{{On: roster.OnRole, Test: roster.Is, Value: "dependent"}}},
		},
		People: []roster.Person{
			{ID: 1, ExternalID: "G1", GivenName: "Rania", FamilyName: "Haddad", BornOn: "1986-03-08", Roles: []roster.Role{roster.Guardian}, Status: roster.Active, Unit: 2,
				Addresses: []roster.Address{{ID: 1, Channel: roster.Email, Value: "rania@example.org"}}},
			{ID: 2, ExternalID: "G2", GivenName: "Omar", FamilyName: "Salman", Roles: []roster.Role{roster.Guardian}, Status: roster.Active, Unit: 2},
			{ID: 3, GivenName: "Sami", FamilyName: "Haddad", BornOn: "2012-05-03", Roles: []roster.Role{roster.Dependent}, Status: roster.Active, Unit: 2},
			{ID: 4, ExternalID: "G4", GivenName: "Gone", Roles: []roster.Role{roster.Guardian}, Status: roster.Left},
		},
	})
	require.NoError(t, err)
	return r
}

func TestProposeReadsEveryColumn(t *testing.T) {
	header := "Id,Given name,Known as,Unit,Born on,Status,Away until,Time zone,Wish,Notes,Swim test,DRILL ON,Texts only,Dependents"
	p := propose(
		t, office(t), header,
		"X,Fay,Fee,rowing > juniors,3/5/2012,away,1.12.2026,Europe/London,Text,likes rain,DUE,3 May 2026,07700 900001,Sami Haddad",
	)
	require.Empty(t, p.Noted)
	got := p.Entries[0].After
	assert.Equal(t, "Fee", got.KnownAs)
	assert.Equal(t, roster.UnitID(2), got.Unit)
	assert.Equal(t, roster.Date("2012-05-03"), got.BornOn)
	assert.Equal(t, []string{"away", "2026-12-01"}, []string{string(got.Status), string(got.AwayUntil)})
	assert.Equal(t, "Europe/London", got.TimeZone)
	assert.Equal(t, roster.Text, got.Wish)
	assert.Equal(t, []string{"due", "2026-05-03"}, []string{got.Value(1), got.Value(2)})
	assert.Equal(
		t, []roster.Address{{Channel: roster.Text, Value: "+447700900001", Label: "mobile", Health: roster.Untried}},
		got.Addresses,
	)
	assert.Equal(t, []roster.Tie{{Guardian: -1, Dependent: 3, Receives: true}}, got.Ties)
	assert.True(t, got.Has(roster.Guardian), "who has dependents is a guardian")
}

func TestProposeNotesWhatItLeavesOff(t *testing.T) {
	for _, c := range []struct{ header, cell, reason string }{
		{"Unit", "Sailing", "is no unit here"}, {"Born on", "31/02/2012", "is no date"},
		{"Time zone", "Mars", "is no time zone"},
		{"Wish", "pigeon", "is no channel"}, {"Swim test", "maybe", "is none of passed, due"},
		{"Drill on", "soon", "is no date"},
		{"Groups", "Due", "gets its people by rule"}, {"Mobile", "020 7946 0958", "is a landline"},
	} {
		t.Run(c.header, func(t *testing.T) {
			p := propose(t, office(t), "Name,"+c.header, "Fay Venn,"+c.cell)
			require.Len(t, p.Entries, 1, "the person loads all the same")
			require.Len(t, p.Noted, 1)
			assert.Contains(t, p.Noted[0].Reason, c.reason)
		})
	}
}

func TestProposeFindsWhoSomebodyIs(t *testing.T) {
	for _, c := range []struct {
		name, header, line string
		who                roster.PersonID // 0 for somebody new
	}{
		{"by id, whatever the name", "Id,Name", "G1,Somebody Else", 1},
		{"by an address and the name", "Name,Email", "rania haddad,RANIA@example.org", 1},
		{"by an address and the given name, after a wedding", "Name,Email", "Rania Salman,rania@example.org", 1},
		{"not by an address alone", "Name,Email", "Lina Haddad,rania@example.org", 0},
		{"by name and birth date", "Name,Born on,Email", "Sami Haddad,2012-05-03,sami@example.org", 3},
		{"not by name with another birth date", "Name,Born on", "Sami Haddad,2013-05-03", 0},
		{"not by name with another id", "Id,Name", "G9,Rania Haddad", 0},
		{"by name alone when one has no address", "Name,Email", "Omar Salman,omar@example.org", 2},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := propose(t, office(t), c.header, c.line)
			require.Len(t, p.Entries, 1)
			if c.who == 0 {
				assert.True(t, p.Entries[0].Added())
				return
			}
			assert.Equal(t, c.who, p.Entries[0].After.ID)
		})
	}
}

func TestProposeSaysWhoIsMissing(t *testing.T) {
	r := office(t)
	p := propose(t, r, "Id,Name,Role", "G1,Rania Haddad,guardian")
	require.Len(t, p.Missing, 1, "Omar; Sami has no id and another role, Gone has left")
	assert.Equal(t, "Omar Salman", p.Missing[0].Name())
	assert.True(t, p.Empty(), "they are left alone")

	marked := table(r, []string{"Id", "Name", "Role"}, rows("G1,Rania Haddad,guardian"))
	marked.MarkLeft = true
	p, err := intake.Propose(marked, r)
	require.NoError(t, err)
	assert.False(t, p.Empty())
	e := p.Edit("loaded")
	require.Len(t, e.People, 1)
	assert.Equal(t, roster.Left, e.People[0].After.Status)
	assert.Equal(t, roster.Active, e.People[0].Before.Status)
}

func TestProposePutsNewPeopleIntoTheUnitOfTheFile(t *testing.T) {
	r := office(t)
	file := table(r, []string{"Name", "Unit", "Groups"}, rows("Fay Venn,,Crew", "Gus Venn,Rowing,", "Rania Haddad,,"))
	file.Unit = 2
	p, err := intake.Propose(file, r)
	require.NoError(t, err)
	assert.Equal(t, roster.UnitID(2), p.Entries[0].After.Unit)
	assert.Equal(t, roster.UnitID(1), p.Entries[1].After.Unit)
	assert.Equal(t, roster.UnitID(2), p.Groups[0].Unit, "a new group belongs to it too")
}

func TestProposeLeavesGuestsAlone(t *testing.T) {
	c := roster.Contents{
		Units: []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Flood watch"}},
		People: []roster.Person{
			{ID: 1, ExternalID: "G1", GivenName: "Rania", Status: roster.Active, Unit: 2, Roles: []roster.Role{}, Addresses: []roster.Address{}},
			{ID: 2, ExternalID: "J1", GivenName: "Sami", Status: roster.Active, Unit: 1},
		},
		Ties: []roster.Tie{{Guardian: 1, Dependent: 2, Receives: true}},
	}
	whole, err := roster.New(c)
	require.NoError(t, err)
	p := propose(
		t, whole.Within(roster.Scope{Units: []roster.UnitID{1}}), "Id,Name,Email", "G1,Someone Else,x@example.org",
	)
	assert.Contains(t, p.Noted[0].Reason, "belongs to another unit")
	assert.True(t, p.Empty())
}

func TestCellsAreReadBack(t *testing.T) {
	r := office(t)
	columns := []intake.Column{
		intake.ExternalID, intake.FullName, intake.Unit, intake.BornOn, intake.Email, intake.AttributeColumn("Swim test"),
	}
	assert.Equal(
		t, []string{"G1", "Rania Haddad", "Rowing › Juniors", "1986-03-08", "rania@example.org", ""},
		intake.Cells(r, r.Sheet(1), columns),
	)
	assert.Equal(t, "Swim test", intake.AttributeColumn("Swim test").Heading())
	assert.Equal(t, "External id", intake.ExternalID.Heading())
}

func TestADryRunNamesWhoAndWhatIsNew(t *testing.T) {
	r := known(t)
	who := r.At(0)
	p := propose(
		t, r, "Id,Name,Role,Guardians,Groups", who.ExternalID+","+who.Name()+",,N1,Lifeboat", "N1,Wren Ashby,guardian,,",
	)
	require.Len(t, p.Entries, 2)
	assert.Contains(t, p.Entries[0].Changes, roster.Change{What: "guardian Wren Ashby", To: "receives messages"})
	assert.Contains(t, p.Entries[0].Changes, roster.Change{What: "group", To: "Lifeboat"})
}
