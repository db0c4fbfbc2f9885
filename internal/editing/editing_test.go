package editing_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

var (
	ctx = context.Background()
	now = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
)

type office struct {
	*editing.Editor
	t       *testing.T
	changed int
	clock   time.Time
}

func open(t *testing.T, csv string) *office {
	s, err := store.Open(testkit.Folder(t, csv, func(o *store.Organisation) { o.Secret = "a secret for tests" }))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	o := &office{t: t, clock: now}
	o.Editor = &editing.Editor{Store: s, Now: func() time.Time { return o.clock }, Changed: func() { o.changed++ }}
	return o
}

func (o *office) sheet(id roster.PersonID) *roster.Sheet {
	r, err := o.Store.Roster(ctx)
	require.NoError(o.t, err)
	return r.Sheet(id)
}

func TestEveryChangeIsTold(t *testing.T) {
	o := open(t, testkit.Roster)
	s := o.sheet(1)
	s.Notes = "x"
	_, err := o.Save(ctx, access.Program, s)
	require.NoError(t, err)
	assert.Equal(t, 1, o.changed)
	_, err = o.Save(ctx, access.Program, o.sheet(1))
	require.NoError(t, err)
	assert.Equal(t, 1, o.changed, "nothing changed, nothing is told")
}

func TestOnlyTheAddressesAreEditedByAnOrderOfAddresses(t *testing.T) {
	o := open(t, "Id,Name,Email\n1,Bo Venn,a@example.org;b@example.org\n")
	s := o.sheet(1)
	s.Addresses[0], s.Addresses[1] = s.Addresses[1], s.Addresses[0]
	done, err := o.Save(ctx, access.Program, s)
	require.NoError(t, err)
	assert.NotZero(t, done.Edit)
	assert.Equal(t, "b@example.org", o.sheet(1).Addresses[0].Value)
	undone, said, err := o.Undo(ctx, access.Program, done.Edit)
	require.NoError(t, err)
	assert.Equal(t, 1, undone.People)
	assert.Equal(t, "Undone: changed Bo Venn.", said)
	assert.Equal(t, "a@example.org", o.sheet(1).Addresses[0].Value)
}

func TestALinkEndsWithTimeAndWithThePerson(t *testing.T) {
	o := open(t, testkit.Roster)
	token, until, err := o.Link(ctx, access.Program, 1)
	require.NoError(t, err)
	assert.Equal(t, now.Add(editing.LinkHolds), until)
	v, err := o.Visit(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, roster.PersonID(1), v.Sheet.ID)
	o.clock = until
	_, err = o.Visit(ctx, token)
	require.ErrorIs(t, err, link.ErrExpired)
	o.clock = now
	_, err = o.Remove(ctx, access.Program, []roster.PersonID{1})
	require.NoError(t, err)
	_, err = o.Visit(ctx, token)
	require.ErrorIs(t, err, link.ErrNotOurs)
}

// What somebody corrects is theirs: their devices, and what the program and
// the office know of them, stay.
func TestCorrectingKeepsWhatIsNotTheirs(t *testing.T) {
	o := open(t, testkit.Roster)
	s := o.sheet(1)
	s.Addresses = append(s.Addresses, roster.Address{Channel: roster.Push, Value: "Rania's phone", Label: "phone"})
	s.Notes = "kept by the office"
	_, err := o.Save(ctx, access.Program, s)
	require.NoError(t, err)
	details := editing.DetailsOf(o.sheet(1))
	require.Len(t, details.Addresses, 2, "a number and a mailbox; devices are not typed")
	assert.True(t, details.Addresses[0].Texts && details.Addresses[0].Calls)

	token, _, err := o.Link(ctx, access.Program, 1)
	require.NoError(t, err)
	details.Addresses[0].Calls = false
	details.Addresses[1].Value = "new@example.org"
	details.Wish = roster.Text
	waits, err := o.Correct(ctx, token, details)
	require.NoError(t, err)
	assert.True(t, waits)

	// The office edits meanwhile; both stand afterwards.
	s = o.sheet(1)
	s.KnownAs = "Rana"
	_, err = o.Save(ctx, access.Program, s)
	require.NoError(t, err)
	waiting, err := o.Waiting(ctx, access.Program)
	require.NoError(t, err)
	require.Len(t, waiting, 1)
	_, err = o.Decide(ctx, access.Program, waiting[0].Update.ID, true)
	require.NoError(t, err)
	got := o.sheet(1)
	assert.Equal(t, "Rana", got.KnownAs)
	assert.Equal(t, "kept by the office", got.Notes)
	var addresses []string
	for _, a := range got.Addresses {
		addresses = append(addresses, string(a.Channel)+" "+a.Value)
	}
	assert.Equal(t, []string{"text +447700900417", "email new@example.org", "push Rania's phone"}, addresses)
	_, err = o.Decide(ctx, access.Program, waiting[0].Update.ID, false)
	require.ErrorIs(t, err, store.ErrConflict)
}

func TestANewerCorrectionTakesThePlaceOfTheOneThatWaits(t *testing.T) {
	o := open(t, testkit.Roster)
	token, _, err := o.Link(ctx, access.Program, 1)
	require.NoError(t, err)
	for _, language := range []string{"en", "pl"} {
		_, err := o.Correct(ctx, token, editing.Details{Language: language})
		require.NoError(t, err)
	}
	waiting, err := o.Waiting(ctx, access.Program)
	require.NoError(t, err)
	require.Len(t, waiting, 1)
	assert.Equal(t, "pl", waiting[0].Update.After.Language)
	done, err := o.Decide(ctx, access.Program, waiting[0].Update.ID, false)
	require.NoError(t, err)
	assert.Contains(t, done.Said, "left Rania Haddad as they are")
	assert.Equal(t, "ar", o.sheet(1).Language)
}

func TestARefusedCorrectionSaysWhy(t *testing.T) {
	o := open(t, testkit.Roster)
	token, _, err := o.Link(ctx, access.Program, 1)
	require.NoError(t, err)
	_, err = o.Correct(ctx, token, editing.Details{
		Addresses: []editing.OwnAddress{{Value: "07700", Texts: true}}, Language: "ar",
	})
	var refused *editing.Refused
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, refused.Remarks[0].Reason, "too short")
}

func TestFilesMatchByTheSurestColumn(t *testing.T) {
	o := open(t, testkit.Roster)
	for name, c := range map[string]struct {
		file string
		want []roster.PersonID
	}{
		"ids before names":          {"Id,Name\nG2,Rania Haddad\n", []roster.PersonID{2}},
		"a mailbox":                 {"E-mail\nrania@example.org\n", []roster.PersonID{1}},
		"the first of two numbers":  {"Mobile\n07700 900417; 07700 900418\n", []roster.PersonID{1}},
		"two columns with the name": {"Forename,Surname\nPiotr,Zielony\n", []roster.PersonID{2}},
		"a name before a comma":     {"Name\n\"Zielony, Piotr\"\n", []roster.PersonID{2}},
		"nothing that says who":     {"Locker\n12\n", nil},
	} {
		t.Run(name, func(t *testing.T) {
			table, err := exchange.Read([]byte(c.file))
			require.NoError(t, err)
			found, _, err := o.MatchTable(ctx, access.Program, table)
			require.NoError(t, err)
			var people []roster.PersonID
			for _, f := range found {
				people = append(people, f.People...)
			}
			assert.Equal(t, c.want, people)
		})
	}
}

func TestAnAccountWithoutUnitsChangesNobody(t *testing.T) {
	o := open(t, testkit.Roster)
	nobody := access.Principal{ID: 9, Grant: access.Grant{Rights: access.Rights}}
	s := o.sheet(1)
	s.Notes = "x"
	_, err := o.Save(ctx, nobody, s)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = o.Remove(ctx, nobody, []roster.PersonID{1, 2})
	require.ErrorIs(t, err, editing.ErrNobody)
	done, err := o.Alter(ctx, nobody, []roster.PersonID{1, 2}, entry.Alteration{Do: "language", Value: "en"})
	require.NoError(t, err)
	assert.Zero(t, done.Edit)
	assert.Zero(t, o.changed)
}

func TestADeviceIsConnectedByItsHolder(t *testing.T) {
	o := open(t, testkit.Roster)
	token, _, err := o.Link(ctx, access.Program, 1)
	require.NoError(t, err)
	device := func(name string) *editing.OwnDevice {
		return &editing.OwnDevice{Name: name, Kind: "phone", Endpoint: "https://push.example/1", P256dh: "K", Auth: "A"}
	}
	said := editing.DetailsOf(o.sheet(1))
	said.Device = device("")
	waits, err := o.Correct(ctx, token, said)
	require.NoError(t, err)
	assert.True(t, waits)
	assert.NotContains(t, said.Device.Name, "2")
	assert.Len(t, o.sheet(1).Addresses, 3, "nothing changes before the yes")
	waiting, err := o.Waiting(ctx, access.Program)
	require.NoError(t, err)
	_, err = o.Decide(ctx, access.Program, waiting[0].Update.ID, true)
	require.NoError(t, err)
	got := o.sheet(1).Addresses
	require.Len(t, got, 4)
	assert.Equal(t, "Rania Haddad’s phone", got[3].Value)
	assert.True(t, got[3].Connected)

	for _, c := range []struct{ name, chosen, want string }{
		{"one that is on file keeps its name", "Rania Haddad’s phone", "Rania Haddad’s phone"},
		{"somebody else's name is not taken over", "Naya’s phone", "Rania Haddad’s phone 2"},
	} {
		t.Run(c.name, func(t *testing.T) {
			said := editing.DetailsOf(o.sheet(1))
			said.Device = device(c.chosen)
			_, err := o.Correct(ctx, token, said)
			require.NoError(t, err)
			assert.Equal(t, c.want, said.Device.Name)
		})
	}
}

func TestDevicesThatNobodyHasAreForgotten(t *testing.T) {
	o := open(t, testkit.Roster)
	token, _, err := o.Link(ctx, access.Program, 1)
	require.NoError(t, err)
	said := editing.DetailsOf(o.sheet(1))
	said.Device = &editing.OwnDevice{Kind: "phone", Endpoint: "https://push.example/1", P256dh: "K", Auth: "A"}
	_, err = o.Correct(ctx, token, said)
	require.NoError(t, err)
	known := func() error {
		require.NoError(t, o.Store.SweepDevices(ctx, now.Add(time.Hour)))
		_, err := o.Store.Device(ctx, "Rania Haddad’s phone")
		return err
	}
	require.NoError(t, known(), "it waits for a yes")
	waiting, err := o.Waiting(ctx, access.Program)
	require.NoError(t, err)
	_, err = o.Decide(ctx, access.Program, waiting[0].Update.ID, true)
	require.NoError(t, err)
	require.NoError(t, known(), "it is on the roster")
	s := o.sheet(1)
	s.Addresses = s.Addresses[:3]
	_, err = o.Save(ctx, access.Program, s)
	require.NoError(t, err)
	require.ErrorIs(t, known(), store.ErrNotFound)
}

func TestWhatIsTypedConnectsNothing(t *testing.T) {
	o := open(t, testkit.Roster)
	s := o.sheet(1)
	s.Addresses = append(s.Addresses, roster.Address{
		Channel: roster.Push, Value: "Rania’s phone", Label: "phone", Connected: true,
	})
	_, err := o.Save(ctx, access.Program, s)
	require.NoError(t, err)
	got := o.sheet(1)
	assert.False(t, got.Addresses[3].Connected)
	assert.Equal(t, []string{"Rania’s phone"}, editing.Unconnected(got))
}

// Only a person lifts a bar, and says why; undoing does not.
func TestABarIsLiftedWithAReason(t *testing.T) {
	o := open(t, "Id,Name,Guardians\nJ1,Sami Haddad,G2\nG2,Omar Salman,\n")
	tied := func() roster.Tie { return o.sheet(1).Ties[0] }
	barred := o.sheet(1)
	barred.Ties[0].Barred = true
	done, err := o.Save(ctx, access.Program, barred)
	require.NoError(t, err)

	_, said, err := o.Undo(ctx, access.Program, done.Edit)
	require.NoError(t, err)
	assert.Contains(t, said, "stays barred")
	assert.True(t, tied().Barred, "undoing is no reason")

	for name, lift := range map[string]func(*roster.Sheet){
		"allowed again":     func(s *roster.Sheet) { s.Ties[0] = roster.Tie{Guardian: 2, Dependent: 1, Receives: true} },
		"the tie taken out": func(s *roster.Sheet) { s.Ties = nil },
	} {
		t.Run(name, func(t *testing.T) {
			s := o.sheet(1)
			lift(s)
			_, err := o.Save(ctx, access.Program, s)
			var refused *editing.Refused
			require.ErrorAs(t, err, &refused)
			assert.Equal(t, "liftReason", refused.Remarks[0].Field)
			assert.True(t, tied().Barred)
		})
	}

	s := o.sheet(1)
	s.Ties[0], s.LiftReason = roster.Tie{Guardian: 2, Dependent: 1, Receives: true}, "order of the court was ended"
	_, err = o.Save(ctx, access.Program, s)
	require.NoError(t, err)
	assert.True(t, tied().Receives)
	history, err := o.Store.History(ctx, 1)
	require.NoError(t, err)
	assert.Contains(t, history[0].Said, "lifted the bar on contact with Omar Salman: order of the court was ended")
}
