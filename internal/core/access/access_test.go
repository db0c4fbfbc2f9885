package access_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
)

func TestNobodyGivesMoreThanTheyHave(t *testing.T) {
	units := []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Juniors", Parent: 1}, {ID: 3, Name: "Flood watch"}}
	giver := access.Grant{
		Scope: roster.Scope{Units: []roster.UnitID{1}}, Rights: []access.Right{access.SeePeople, access.ChangeSettings},
	}
	for _, c := range []struct {
		name string
		gift access.Grant
		says string
	}{
		{"less", access.Grant{Scope: roster.Scope{Units: []roster.UnitID{2}}, Rights: []access.Right{access.SeePeople}}, ""},
		{"as much", giver, ""},
		{"another right", access.Grant{Scope: giver.Scope, Rights: []access.Right{access.Write}}, "no more than you have: to write to people"},
		{"another unit", access.Grant{Scope: roster.Scope{Units: []roster.UnitID{2, 3}}}, "units beyond your own"},
		{"everything", access.Grant{Scope: roster.Scope{Whole: true}}, "units beyond your own"},
		{"nothing at all", access.Grant{}, "choose at least one unit"},
		{"a right that does not exist", access.Grant{Scope: giver.Scope, Rights: []access.Right{"fly"}}, `"fly" is no right`},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := giver.CheckGift(c.gift, units)
			if c.says == "" {
				assert.NoError(t, err)
				return
			}
			assert.ErrorContains(t, err, c.says)
		})
	}
}

func TestEveryRightHasWords(t *testing.T) {
	for _, r := range access.Rights {
		assert.NotEmpty(t, r.Words(), r)
	}
}
