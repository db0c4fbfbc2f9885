package audience_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/roster"
)

// clubRoster has two units and a badge that juniors have or lack.
func clubRoster(t testing.TB) *roster.Roster {
	mail := func(value string) []roster.Address {
		return []roster.Address{{Channel: roster.Email, Value: value}}
	}
	badge := func(value string) []roster.Value { return []roster.Value{{Attribute: 1, Value: value}} }
	people := []roster.Person{
		{ID: 1, GivenName: "Ana", Unit: 1, Roles: []roster.Role{roster.Guardian}, Addresses: mail("ana@example.org")},
		{ID: 2, GivenName: "Kim", Unit: 1, Roles: []roster.Role{roster.Dependent}, Values: badge("yes")},
		{ID: 3, GivenName: "Lee", Unit: 1, Roles: []roster.Role{roster.Dependent}, Values: badge("no")},
		{ID: 4, GivenName: "Max", Unit: 2, Roles: []roster.Role{roster.Member}, Addresses: mail("max@example.org")},
		{ID: 5, GivenName: "Noa", Unit: 3, Roles: []roster.Role{roster.Member}, Addresses: mail("Max@example.org")},
		{ID: 6, GivenName: "Oda", Unit: 1, Roles: []roster.Role{roster.Guardian}},
	}
	for i := range people {
		people[i].Status = roster.Active
	}
	r, err := roster.New(roster.Contents{
		People:     people,
		Units:      []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Watch"}, {ID: 3, Name: "Mill", Parent: 2}},
		Attributes: []roster.Attribute{{ID: 1, Name: "Swim test", Kind: roster.YesNoAttribute}},
		Groups: []roster.Group{
			{ID: 1, Name: "Juniors", Members: []roster.PersonID{2, 3}}, {ID: 2, Name: "U12", Members: []roster.PersonID{2}},
		},
		Ties: []roster.Tie{
			{Guardian: 1, Dependent: 2, Receives: true}, {Guardian: 1, Dependent: 3, Receives: true},
			{Guardian: 6, Dependent: 2},
		},
	})
	require.NoError(t, err)
	return r
}

func swims(value string) roster.Rule {
	return roster.Rule{{On: roster.OnAttribute, Test: roster.Is, ID: 1, Value: value}}
}

func TestPartsOfEveryKind(t *testing.T) {
	for _, c := range []struct {
		name    string
		part    audience.Part
		names   []roster.PersonID
		label   string
		detail  string
		missing bool
	}{
		{"a unit with the units inside it", audience.Part{Kind: audience.ByUnit, Unit: 2}, []roster.PersonID{4, 5}, "Watch", "unit", false},
		{"a unit that is gone", audience.Part{Kind: audience.ByUnit, Unit: 9}, nil, "A unit that no longer exists", "unit", true},
		{"a rule made on the spot", audience.Part{Kind: audience.ByRule, Rule: swims("no")}, []roster.PersonID{3},
			"Everyone Swim test is no", "rule · their guardians", false},
		{"a kept rule", audience.Part{Kind: audience.ByRule, Rule: swims("yes"), Name: "Swimmers"}, []roster.PersonID{2},
			"Swimmers", "rule · Swim test is yes · their guardians", false},
		{"a rule about what is gone", audience.Part{Kind: audience.ByRule, Rule: roster.Rule{{On: roster.OnAttribute, Test: roster.Empty, ID: 9}}}, nil,
			"Everyone an attribute that no longer exists", "rule", true},
		{"only some of a group", audience.Part{Kind: audience.ByGroup, Group: 1, Only: swims("no")}, []roster.PersonID{3},
			"Juniors", "group · only those Swim test is no · their guardians", false},
		{"an address that two people share, however it is cased", audience.Part{Kind: audience.ByAddresses, Addresses: []string{"MAX@example.org"}},
			[]roster.PersonID{4, 5}, "1 address from a list", "addresses", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := clubRoster(t)
			a := audience.Audience{Parts: []audience.Part{c.part}}
			require.NoError(t, a.Validate())
			var named []roster.PersonID
			for _, i := range audience.Named(r, c.part) {
				named = append(named, r.At(i).ID)
			}
			assert.Equal(t, c.names, named)
			count := audience.Resolve(r, a, "").Parts[0]
			assert.Equal(t, c.missing, count.Missing)
			assert.Equal(t, c.label, audience.Label(r, c.part))
			assert.Equal(t, c.detail, audience.Describe(r, a, 0, count))
		})
	}
}

func TestAPartSaysWhatItAddsAndWhereItIsAlready(t *testing.T) {
	r := clubRoster(t)
	group := func(id roster.GroupID) audience.Part { return audience.Part{Kind: audience.ByGroup, Group: id} }
	res := audience.Resolve(r, audience.Audience{
		Parts: []audience.Part{
			group(2), group(1), {Kind: audience.ByUnit, Unit: 2}, {Kind: audience.ByPerson, Person: 5}, group(1),
		},
	}, "")
	var within, adds []int
	for _, p := range res.Parts {
		within, adds = append(within, p.Within), append(adds, p.Adds)
	}
	assert.Equal(t, []int{1, -1, -1, 2, 1}, within, "of two that hold the same, the later one is already included")
	assert.Equal(t, []int{0, 0, 1, 0, 0}, adds, "only Max comes by one part alone")
}

func TestWhyNot(t *testing.T) {
	juniors := audience.Part{Kind: audience.ByGroup, Group: 1}
	out := func(p audience.Part) audience.Part {
		p.LeaveOut = true
		return p
	}
	only := audience.Part{Kind: audience.ByGroup, Group: 1, Only: swims("maybe")}
	for _, c := range []struct {
		name  string
		who   roster.PersonID
		parts []audience.Part
		want  string
	}{
		{"nothing names them", 4, []audience.Part{juniors}, "No part of the audience names them."},
		{"left out by name", 4, []audience.Part{{Kind: audience.ByUnit, Unit: 2}, out(audience.Part{Kind: audience.ByPerson, Person: 4})}, "Left out by “Max”."},
		{"kept out by conditions", 2, []audience.Part{only}, "In “Juniors”, but not “Swim test is maybe”."},
		{"their dependent is kept out", 1, []audience.Part{only}, "Guardian of Kim: in “Juniors”, but not “Swim test is maybe”."},
		{"their dependent is left out", 1, []audience.Part{juniors, out(juniors)}, "Guardian of Kim, who is left out by “Juniors”."},
		{"the tie does not receive", 6, []audience.Part{juniors}, "Guardian of Kim, but does not receive messages about them."},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := clubRoster(t)
			at, _ := r.Position(c.who)
			assert.Equal(t, c.want, audience.NewTeller(r, audience.Audience{Parts: c.parts}).WhyNot(at))
		})
	}
	r := clubRoster(t)
	at, _ := r.Position(1)
	themselves := audience.NewTeller(r, audience.Audience{Parts: []audience.Part{juniors}, Receivers: audience.Themselves})
	assert.Equal(t, "Guardian of Kim, who receives it without their guardians.", themselves.WhyNot(at))
}

func TestStrangersAreWrittenToAndNobodyBeyondReachIs(t *testing.T) {
	whole := clubRoster(t)
	seen := whole.Within(roster.Scope{Units: []roster.UnitID{1}})
	a := audience.Audience{Parts: []audience.Part{{
		Kind:      audience.ByAddresses,
		Addresses: []string{"ana@example.org", "max@example.org", "new@example.org", "+447700900123", "NEW@example.org"},
	}}}
	r := audience.WithStrangers(seen, whole, a)
	require.Equal(t, seen.Len()+3, r.Len(), "Max, who belongs to somebody beyond the units, is one of them")
	res := audience.Resolve(r, a, "")
	var names []string
	for _, rec := range res.Recipients {
		names = append(names, r.At(rec.Person).Name())
	}
	assert.Equal(t, []string{"Ana", "new@example.org", "+44 7700 900123"}, names)
	assert.Equal(t, "addresses · 2 are not on the roster · 1 more is beyond your units", audience.Describe(
		r, a, 0, res.Parts[0],
	))
	require.Len(t, res.LeftOut, 1)
	assert.Equal(t, audience.BeyondScope, res.LeftOut[0].Gap)
	assert.Equal(t, "max@example.org", r.At(res.LeftOut[0].Person).Name(), "no more is said of them than was pasted")
	phone := r.At(r.Len() - 1)
	assert.True(t, phone.Stranger())
	assert.Len(t, phone.Addresses, 2, "a mobile takes texts and calls")
	assert.Same(t, seen, audience.WithStrangers(seen, whole, audience.Audience{}), "nothing is copied for nobody")
	assert.Equal(t, "Among the pasted addresses.", audience.NewTeller(r, a).Why(res.Recipients[1]))
}

func TestPartsThatCannotBe(t *testing.T) {
	for name, c := range map[string]struct {
		part audience.Part
		want string
	}{
		"no rule":          {audience.Part{Kind: audience.ByRule}, "no rule is named"},
		"no unit":          {audience.Part{Kind: audience.ByUnit}, "no unit is named"},
		"a header in it":   {audience.Part{Kind: audience.ByAddresses, Addresses: []string{"a@example.org\nBcc: b@example.org"}}, "neither a mail address nor"},
		"a national form":  {audience.Part{Kind: audience.ByAddresses, Addresses: []string{"07700 900123"}}, "neither a mail address nor"},
		"only, leaving":    {audience.Part{Kind: audience.ByGroup, Group: 1, Only: swims("no"), LeaveOut: true}, "takes no conditions"},
		"an unknown thing": {audience.Part{Kind: "everybody"}, "no everybody is named"},
	} {
		t.Run(name, func(t *testing.T) {
			assert.ErrorContains(t, audience.Audience{Parts: []audience.Part{c.part}}.Validate(), c.want)
		})
	}
}

// A condition on a role that was removed holds for nobody, whichever way it is
// asked, and the part says so.
func TestARoleThatWasRemoved(t *testing.T) {
	gone := func(test roster.Test) roster.Rule {
		return roster.Rule{{On: roster.OnRole, Test: test, Value: "cox"}}
	}
	r := clubRoster(t)
	for name, part := range map[string]audience.Part{
		"the role itself":        {Kind: audience.ByRole, Role: "cox"},
		"a rule that names it":   {Kind: audience.ByRule, Rule: gone(roster.Is)},
		"everybody but the role": {Kind: audience.ByRule, Rule: gone(roster.IsNot)},
		"a condition of a part":  {Kind: audience.ByGroup, Group: 1, Only: gone(roster.IsNot)},
	} {
		t.Run(name, func(t *testing.T) {
			count := audience.Resolve(r, audience.Audience{Parts: []audience.Part{part}}, "").Parts[0]
			assert.True(t, count.Missing)
			assert.Zero(t, count.People)
		})
	}
	c := r.Contents
	c.OwnRoles = []roster.Role{"cox"}
	known, err := roster.New(c)
	require.NoError(t, err)
	count := audience.Resolve(
		known, audience.Audience{Parts: []audience.Part{{Kind: audience.ByRule, Rule: gone(roster.IsNot)}}}, "",
	).Parts[0]
	assert.False(t, count.Missing)
	assert.Equal(t, known.Len(), count.People)
}

// A rule is about the roster: it neither names pasted strangers nor leaves them out.
func TestRulesPassStrangersBy(t *testing.T) {
	unknown := roster.Rule{{On: roster.OnLanguage, Test: roster.Empty}}
	pasted := audience.Part{Kind: audience.ByAddresses, Addresses: []string{"new@example.org"}}
	for _, leaveOut := range []bool{false, true} {
		a := audience.Audience{Parts: []audience.Part{pasted, {Kind: audience.ByRule, Rule: unknown, LeaveOut: leaveOut}}}
		whole := clubRoster(t)
		r := audience.WithStrangers(whole, whole, a)
		res := audience.Resolve(r, a, "")
		assert.Equal(t, whole.Len(), res.Parts[1].People)
		last := res.Recipients[len(res.Recipients)-1]
		assert.True(t, r.At(last.Person).Stranger())
		assert.Equal(t, []int{0}, last.Parts)
	}
}
