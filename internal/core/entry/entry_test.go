package entry_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
)

func reader(t testing.TB) entry.Reader {
	r, err := roster.New(roster.Contents{
		Today:      "2026-11-24",
		Units:      []roster.Unit{{ID: 1, Name: "Rowing"}},
		Attributes: []roster.Attribute{{ID: 1, Name: "Level", Kind: roster.NumberAttribute}},
		Groups: []roster.Group{
			{ID: 1, Name: "Crew", Kind: roster.Picked, Members: []roster.PersonID{1}},
			{ID: 2, Name: "Due", Kind: roster.ByRule, Rule: roster.Rule{{On: roster.OnStatus, Test: roster.Is, Value: "left"}}},
		},
		People: []roster.Person{
			{ID: 1, ExternalID: "G1", GivenName: "Bo", FamilyName: "Venn", Status: roster.Active, Roles: []roster.Role{}, Version: 3,
				Addresses: []roster.Address{{ID: 5, Channel: roster.Email, Value: "bo@example.org", Health: roster.Dead, LastFailure: "no such mailbox", CarrierStop: true}}},
			{ID: 2, GivenName: "Cy", Status: roster.Active, Roles: []roster.Role{}, Addresses: []roster.Address{{ID: 6, Channel: roster.Voice, Value: "+447700900002"}}},
		},
	})
	require.NoError(t, err)
	return entry.Reader{Roster: r, Region: "GB", Roles: roster.Roles, Zone: func(name string) bool { _, err := time.LoadLocation(name); return err == nil }}
}

// Bad input is refused with the field and the reason, or only doubted; either
// way everything else that was typed is read.
func TestReadSaysWhatIsWrong(t *testing.T) {
	address := func(c roster.Channel, value, label string) func(*roster.Sheet) {
		return func(s *roster.Sheet) { s.Addresses = []roster.Address{{Channel: c, Value: value, Label: label}} }
	}
	for _, c := range []struct {
		name    string
		change  func(*roster.Sheet)
		field   string
		reason  string
		refused bool
	}{
		{"no name", func(s *roster.Sheet) { s.GivenName, s.FamilyName = " \u200b", "" }, "givenName", "somebody needs a name", true},
		{"a name of 301 characters", func(s *roster.Sheet) { s.GivenName = strings.Repeat("ż", 301) }, "givenName", "301 characters", true},
		{"somebody else’s id", func(s *roster.Sheet) { s.ExternalID = "G1" }, "externalId", "Bo Venn has this id already", true},
		{"an unknown status", func(s *roster.Sheet) { s.Status = "bored" }, "status", "is none of active, away, left", true},
		{"no date", func(s *roster.Sheet) { s.BornOn = "2026-02-30" }, "bornOn", "is no date", true},
		{"born tomorrow", func(s *roster.Sheet) { s.BornOn = "2026-11-25" }, "bornOn", "lies in the future", true},
		{"an unknown language", func(s *roster.Sheet) { s.Language = "river" }, "language", "is no language", true},
		{"an unknown zone", func(s *roster.Sheet) { s.TimeZone = "Mars/Base" }, "timeZone", "is no time zone", true},
		{"an unknown role", func(s *roster.Sheet) { s.Roles = []roster.Role{"pirate"} }, "roles", "is no role here", true},
		{"a unit that is gone", func(s *roster.Sheet) { s.Unit = 9 }, "unit", "does not exist", true},
		{"a number for words", func(s *roster.Sheet) { s.Values = []roster.Value{{Attribute: 1, Value: "much"}} }, "values[0]", "is no number", true},
		{"a broken mailbox", address(roster.Email, "bo@@example", ""), "addresses[0]", "cannot be read as a mail address", true},
		{"a mailbox of nothing", address(roster.Email, "bo@localhost", ""), "addresses[0]", "nothing ends in @localhost", true},
		{"a short number", address(roster.Text, "07700 900", ""), "addresses[0]", "it is too short", true},
		{"a landline for texts", address(roster.Text, "020 7946 0958", ""), "addresses[0]", "is a landline", true},
		{"a number of no network", address(roster.Voice, "07700 900123", ""), "addresses[0]", "in a range that no network is known to use", false},
		{"a shared mailbox", address(roster.Email, "bo@example.org", ""), "addresses[0]", "is also the address of Bo Venn", false},
		{"a device of no kind", address(roster.Push, "Van 2", "sail"), "addresses[0]", "is none of phone, browser", true},
		{"an address twice", func(s *roster.Sheet) {
			s.Addresses = []roster.Address{
				{Channel: roster.Email, Value: "x@example.org"}, {Channel: roster.Email, Value: "x@EXAMPLE.org"},
			}
		}, "addresses[1]", "stands here twice", true},
		{"their own guardian", func(s *roster.Sheet) { s.Ties = []roster.Tie{{Guardian: 3, Dependent: 3}} }, "ties[0]", "nobody is their own guardian", true},
		{"a tie of others", func(s *roster.Sheet) { s.Ties = []roster.Tie{{Guardian: 1, Dependent: 2}} }, "ties[0]", "does not concern this person", true},
		{"a tie to nobody", func(s *roster.Sheet) { s.Ties = []roster.Tie{{Guardian: 99, Dependent: 3}} }, "ties[0]", "no longer on the roster", true},
		{"a group by rule", func(s *roster.Sheet) { s.Groups = []roster.GroupID{2} }, "groups[0]", "gets its people by rule", true},
		{"a group that is gone", func(s *roster.Sheet) { s.Groups = []roster.GroupID{99} }, "groups[0]", "no longer exists", true},
	} {
		t.Run(c.name, func(t *testing.T) {
			typed := &roster.Sheet{Person: roster.Person{ID: 3, GivenName: "Di", FamilyName: "Osei", Status: roster.Active}}
			c.change(typed)
			_, remarks := reader(t).Read(nil, typed)
			require.NotEmpty(t, remarks)
			got := remarks[len(remarks)-1]
			assert.Equal(t, c.field, got.Field)
			assert.Contains(t, got.Reason, c.reason)
			assert.Equal(t, c.refused, got.Refused)
			assert.Equal(t, c.refused, len(entry.Refusals(remarks)) > 0)
		})
	}
}

func TestReadBringsIntoTheFormThatIsKept(t *testing.T) {
	typed := &roster.Sheet{Person: roster.Person{
		ID: 3, GivenName: " Ra\u200bnia\u202e ", FamilyName: "Haddad", Language: "Arabic",
		Roles:  []roster.Role{"staff", "guardian", "staff"},
		Status: roster.Active, AwayUntil: "2026-12-01",
		Values: []roster.Value{{Attribute: 1, Value: "3,5"}, {Attribute: 99, Value: "gone"}},
		Addresses: []roster.Address{
			{Channel: roster.Email, Value: " Rania@EXAMPLE.org", Health: roster.Good, LastFailure: "typed"},
			{Channel: roster.Text, Value: "0044 7700 900417"},
		},
	}, Ties: []roster.Tie{{Guardian: 3, Dependent: 1, Receives: true, Barred: true}}}
	got, remarks := reader(t).Read(nil, typed)
	assert.Empty(t, entry.Refusals(remarks))
	assert.Equal(t, "Rania Haddad", got.Name())
	assert.Equal(t, "ar", got.Language)
	assert.Equal(t, []roster.Role{"guardian", "staff"}, got.Roles)
	assert.Empty(t, got.AwayUntil, "only who is away comes back")
	assert.Equal(t, "3.5", got.Value(1))
	assert.Equal(t, "Rania@example.org", got.Addresses[0].Value)
	assert.Equal(t, roster.Untried, got.Addresses[0].Health, "what the program learns is not typed")
	assert.Equal(t, "+447700900417", got.Addresses[1].Value)
	assert.False(t, got.Ties[0].Receives, "who is barred does not receive")
	assert.Equal(t, " Ra\u200bnia\u202e ", typed.GivenName, "what was typed is untouched")
}

func TestReadKeepsWhatTheProgramLearned(t *testing.T) {
	x := reader(t)
	before := x.Roster.Sheet(1)
	typed := before.Clone()
	typed.Addresses[0].Health, typed.Addresses[0].CarrierStop, typed.Addresses[0].LastFailure = roster.Good, false, ""
	got, _ := x.Read(before, typed)
	assert.Equal(t, before.Addresses, got.Addresses)
	typed.Addresses[0].Value = " bo@EXAMPLE.org "
	got, _ = x.Read(before, typed)
	assert.Equal(t, before.Addresses, got.Addresses, "also of an address that was typed another way")
}

func TestAlter(t *testing.T) {
	x := reader(t)
	everybody := []roster.PersonID{1, 2, 99}
	for _, c := range []struct {
		name   string
		do     entry.Alteration
		said   string
		people int
	}{
		{"join", entry.Alteration{Do: "join", Group: 1}, "added to Crew", 1},
		{"leave", entry.Alteration{Do: "leave", Group: 1}, "taken out of Crew", 1},
		{"attribute", entry.Alteration{Do: "attribute", Attribute: 1, Value: "4,0"}, "Level set to 4", 2},
		{"away", entry.Alteration{Do: "status", Value: "away", Until: "2026-12-01"}, "marked away until 2026-12-01", 2},
		{"role", entry.Alteration{Do: "role", Value: "staff"}, "given the role staff", 2},
		{"role taken away", entry.Alteration{Do: "no-role", Value: "staff"}, "role staff taken away", 0},
		{"unit", entry.Alteration{Do: "unit", Unit: 1}, "moved to Rowing", 2},
		{"language", entry.Alteration{Do: "language", Value: "pl"}, "language set to pl", 2},
	} {
		t.Run(c.name, func(t *testing.T) {
			e, err := x.Alter(everybody, c.do)
			require.NoError(t, err)
			assert.Equal(t, c.said, e.Said)
			assert.Len(t, e.People, c.people)
		})
	}
	for want, do := range map[string]entry.Alteration{
		"is no number":                 {Do: "attribute", Attribute: 1, Value: "much"},
		"no longer exists":             {Do: "attribute", Attribute: 9},
		"gets its people by rule":      {Do: "join", Group: 2},
		"nothing that can be done":     {Do: "dance"},
		"is none of active, away":      {Do: "status", Value: "bored"},
		"is no role here":              {Do: "role", Value: "pirate"},
		"does not exist, or is not yo": {Do: "unit", Unit: 9},
	} {
		_, err := x.Alter(everybody, do)
		assert.ErrorContains(t, err, want)
	}
}

func TestDates(t *testing.T) {
	for typed, want := range map[string]roster.Date{
		"2026-11-28": "2026-11-28", "28/11/2026": "2026-11-28", "28.11.2026": "2026-11-28", "20261128": "2026-11-28",
		"3 May 2012": "2012-05-03",
	} {
		got, ok := entry.Date(typed)
		assert.True(t, ok, typed)
		assert.Equal(t, want, got)
	}
	_, ok := entry.Date("11/28/2026")
	assert.False(t, ok)
}

func FuzzMailbox(f *testing.F) {
	f.Add("bo@example.org")
	f.Add("Bo <bo@EXAMPLE.org>")
	f.Fuzz(func(t *testing.T, typed string) {
		value, err := entry.Mailbox(typed)
		if err == nil && (strings.ContainsAny(value, "\r\n") || !strings.Contains(value, "@")) {
			t.Fatalf("%q became %q", typed, value)
		}
	})
}

func FuzzClean(f *testing.F) {
	f.Add(" a\u200bb\u202e ")
	f.Fuzz(func(t *testing.T, typed string) {
		once := entry.Clean(typed)
		if again := entry.Clean(once); again != once {
			t.Fatalf("%q became %q and then %q", typed, once, again)
		}
	})
}

func FuzzCleanText(f *testing.F) {
	f.Add("a\r\nb\tc\u200b\u2028d\x07")
	f.Fuzz(func(t *testing.T, typed string) {
		clean := entry.CleanText(typed)
		if strings.ContainsAny(clean, "\r\t\v\f\x00\u200b\ufeff\u2028") {
			t.Fatalf("%q keeps what nobody sees", clean)
		}
		if entry.CleanText(clean) != clean {
			t.Fatalf("%q is cleaned further", clean)
		}
	})
}
