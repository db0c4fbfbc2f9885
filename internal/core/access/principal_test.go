package access_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
)

func TestWhatIsSharedIsSeenAndChanged(t *testing.T) {
	units := []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Juniors", Parent: 1}, {ID: 3, Name: "Watch"}}
	rowing := access.Principal{ID: 7, Grant: access.Grant{Scope: roster.Scope{Units: []roster.UnitID{1}}}}
	whole := access.Principal{ID: 8, Grant: access.Grant{Scope: roster.Scope{Whole: true}}}
	for _, c := range []struct {
		name          string
		by            access.Principal
		shared        access.Shared
		sees, changes bool
	}{
		{"one's own", rowing, access.Shared{Owner: 7, Own: true}, true, true},
		{"somebody else's own", whole, access.Shared{Owner: 7, Own: true}, false, true},
		{"everybody's", rowing, access.Shared{Owner: 8}, true, false},
		{"everybody's, by one's own hand", rowing, access.Shared{Owner: 7}, true, true},
		{"everybody's, for who reaches all", whole, access.Shared{Owner: 7}, true, true},
		{"one's unit's", rowing, access.Shared{Owner: 8, Unit: 1}, true, true},
		{"that of a unit within", rowing, access.Shared{Owner: 8, Unit: 2}, true, true},
		{"another unit's", rowing, access.Shared{Owner: 8, Unit: 3}, false, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, c.sees, c.by.Sees(c.shared, units))
			assert.Equal(t, c.changes, c.by.MayChange(c.shared))
		})
	}
}

func TestWhoseMessagesAreSeen(t *testing.T) {
	units := []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Juniors", Parent: 1}, {ID: 3, Name: "Watch"}}
	of := func(ids ...roster.UnitID) access.Grant { return access.Grant{Scope: roster.Scope{Units: ids}} }
	naya := access.Principal{ID: 7, Grant: of(1)}
	assert.True(t, naya.SeesMessagesOf(7, access.Grant{Scope: roster.Scope{Whole: true}}, units), "her own, whatever she reached then")
	assert.True(t, naya.SeesMessagesOf(9, of(2), units), "a unit within")
	assert.False(t, naya.SeesMessagesOf(9, of(2, 3), units), "more than she reaches")
	assert.False(t, naya.SeesMessagesOf(9, access.Grant{Scope: roster.Scope{Whole: true}}, units))
}
