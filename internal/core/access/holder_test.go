package access_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
)

func TestWhichChangesOfAccountsAreRefused(t *testing.T) {
	full := access.Grant{Scope: roster.Scope{Whole: true}, Rights: access.Rights}
	clerk := access.Grant{Scope: full.Scope, Rights: []access.Right{access.SeePeople, access.ChangeSettings}}
	hugo := access.Holder{ID: 1, Name: "Hugo", Active: true, Grant: full}
	naya := access.Holder{ID: 2, Name: "Naya", Active: true, Grant: full}
	piers := access.Holder{ID: 3, Name: "Piers", Active: true, Grant: clerk}
	ended := func(h access.Holder) access.Holder { h.Active = false; return h }
	less := func(h access.Holder) access.Holder { h.Grant = clerk; return h }
	unable := func(h access.Holder) access.Holder { h.Rights = []access.Right{access.SeePeople}; return h }
	for _, c := range []struct {
		name          string
		by            access.Holder
		before, after access.Holder
		all           []access.Holder
		says          string
	}{
		{"somebody with less", hugo, piers, ended(piers), []access.Holder{hugo, piers}, ""},
		{"somebody with more", piers, hugo, less(hugo), []access.Holder{hugo, piers}, "Hugo may do more than you"},
		{"one's own activity", hugo, hugo, ended(hugo), []access.Holder{hugo, naya}, "you would lock yourself out"},
		{"one's own right to settings", piers, piers, unable(piers), []access.Holder{hugo, piers}, "you would lock yourself out"},
		{"one's own other rights", hugo, hugo, less(hugo), []access.Holder{hugo, naya}, ""},
		{"the last with every right", hugo, hugo, less(hugo), []access.Holder{hugo, ended(naya), piers}, "Hugo is the last account with every right"},
		{"one of two with every right", hugo, naya, ended(naya), []access.Holder{hugo, naya}, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := access.Principal{ID: c.by.ID, Grant: c.by.Grant}.CheckChange(c.before, c.after, c.all)
			if c.says == "" {
				assert.NoError(t, err)
				return
			}
			assert.ErrorContains(t, err, c.says)
		})
	}
}

func TestWhoDeletesWhatIsKeptForEverybody(t *testing.T) {
	settings := []access.Right{access.ChangeSettings}
	maker := access.Principal{ID: 7}
	assert.True(t, maker.MayDrop(7))
	assert.False(t, maker.MayDrop(8))
	whole := access.Grant{Scope: roster.Scope{Whole: true}, Rights: settings}
	assert.True(t, access.Principal{ID: 9, Grant: whole}.MayDrop(8))
	assert.False(t, access.Principal{ID: 9, Grant: access.Grant{Rights: settings}}.MayDrop(8), "of a unit only")
	assert.False(t, access.Principal{}.MayDrop(0), "the program's own has no maker")
}
