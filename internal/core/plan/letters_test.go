package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func TestLettersGoToHouseholdsWhomNothingReaches(t *testing.T) {
	person := func(id roster.PersonID, given string, roles ...roster.Role) roster.Person {
		return roster.Person{ID: id, GivenName: given, FamilyName: "Venn", Roles: roles, Status: roster.Active}
	}
	people := []roster.Person{
		person(1, "Ana", roster.Guardian), person(2, "Bo", roster.Guardian), person(3, "Kim", roster.Dependent),
		person(4, "Lee", roster.Member), person(5, "Max", roster.Member),
	}
	people[0].Values = []roster.Value{{Attribute: 1, Value: "1 Sluice Lane"}}
	people[4].Addresses = addresses("max@example.org")
	r, err := roster.New(roster.Contents{
		People: people, Attributes: []roster.Attribute{{ID: 1, Name: "Postal address", Kind: roster.TextAttribute}},
		Ties:   []roster.Tie{{Guardian: 1, Dependent: 3, Receives: true}, {Guardian: 2, Dependent: 3, Receives: true}},
		Groups: []roster.Group{{ID: 1, Name: "All", Members: []roster.PersonID{3, 4, 5}}},
	})
	require.NoError(t, err)
	s := settings
	s.Sending.Postal = 1
	s.Signature.Footer = "The <boathouse>"
	draft := message.Draft{
		Content: message.Content{
			Subject: "Outing of {{dependents, else yours}}", Email: rich.Lines("Dear {{first name}},\ncome"),
		},
		Routing: message.Routing{
			Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup, Group: 1}}},
		},
	}
	p := plan.Make(r, draft, s)
	letters := p.Letters(r, nil)
	require.Len(t, letters, 2, "one household and one by themselves; Max has a mailbox")
	assert.Equal(t, []int{0, 1}, letters[0].People)
	assert.Equal(t, "1 Sluice Lane", letters[0].Address)
	assert.Equal(t, "Outing of Kim", letters[0].Subject)
	assert.Contains(t, letters[0].Body.Plain(), "Dear Ana and Bo,")
	assert.Contains(t, letters[0].Body.Plain(), "The <boathouse>")
	assert.Equal(t, "Outing of yours", letters[1].Subject)

	chosen := p.Letters(r, []roster.PersonID{5, 99})
	require.Len(t, chosen, 1)
	assert.Contains(t, chosen[0].Body.Plain(), "Dear Max,")

	draft.Email = rich.Lines("About {{dependents}}")
	letters = plan.Make(r, draft, s).Letters(r, nil)
	assert.Equal(t, "dependents", string(letters[1].Missing), "Lee has none; the sheet says so")
}
