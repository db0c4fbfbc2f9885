package editing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// LinkHolds is how long a personal link can be used.
const LinkHolds = 14 * 24 * time.Hour

// Link makes the token by which a person corrects their own details, and says
// until when it holds.
func (g *Editor) Link(
	ctx context.Context, by access.Principal, id roster.PersonID,
) (token string, until time.Time, err error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return "", until, err
	}
	if _, err := d.own(id); err != nil {
		return "", until, err
	}
	until = g.Now().Add(LinkHolds)
	return link.Make(d.Organisation.Secret, id, until), until, nil
}

// Details are what somebody sees and corrects about themselves.
type Details struct {
	Addresses []OwnAddress    `json:"addresses" maxItems:"30"`
	Language  string          `json:"language" maxLength:"40" doc:"BCP 47, or empty"`
	Wish      roster.Channel  `json:"wish" enum:"email,text,voice,push," doc:"The channel they want to be tried first"`
	Device    *OwnDevice      `json:"device,omitempty" doc:"That is to get messages from now on"`
	Person    roster.PersonID `json:"-"`
}

// OwnDevice is a device as it says itself where push reaches it.
type OwnDevice struct {
	Name     string `json:"name" maxLength:"200" doc:"What the roster calls it; empty for a device that is not on it yet"`
	Kind     string `json:"kind" enum:"phone,browser,vehicle terminal"`
	Endpoint string `json:"endpoint" maxLength:"1000"`
	P256dh   string `json:"p256dh" maxLength:"200"`
	Auth     string `json:"auth" maxLength:"100"`
}

// OwnAddress is a mailbox, or a number with what it takes.
type OwnAddress struct {
	Value     string `json:"value" maxLength:"300" doc:"As people type it"`
	Mail      bool   `json:"mail" doc:"A mailbox rather than a number"`
	Texts     bool   `json:"texts"`
	Calls     bool   `json:"calls"`
	NoRoutine bool   `json:"noRoutine" doc:"No everyday messages here"`
}

// Visitor is somebody at their personal page.
type Visitor struct {
	View
	Sheet *roster.Sheet
	Until time.Time      // their link holds; zero of a page that they keep
	Kept  store.KeptPage // by which they came; zero by a link
}

// Visit returns who holds a link, or keeps a page under a key.
func (g *Editor) Visit(ctx context.Context, token string) (v Visitor, err error) {
	if v.View, err = g.View(ctx, access.Program); err != nil {
		return v, err
	}
	id, until, err := link.Read(v.Organisation.Secret, token, g.Now())
	if errors.Is(err, link.ErrNotOurs) {
		id, err = g.keptBy(ctx, token, &v)
	}
	if err != nil {
		return v, err
	}
	v.Until = until
	if v.Sheet = v.Roster.Sheet(id); v.Sheet == nil {
		return v, link.ErrNotOurs
	}
	return v, nil
}

// DetailsOf are what a sheet says to the person themselves: push devices are
// not theirs to type.
func DetailsOf(s *roster.Sheet) Details {
	out := Details{Addresses: []OwnAddress{}, Language: s.Language, Wish: s.Wish, Person: s.ID}
	for _, a := range s.Addresses {
		if a.Channel == roster.Push {
			continue
		}
		shown := phone.Display(a.Value)
		at := slices.IndexFunc(out.Addresses, func(o OwnAddress) bool { return o.Value == shown })
		if at < 0 {
			at = len(out.Addresses)
			out.Addresses = append(out.Addresses, OwnAddress{Value: shown, Mail: a.Channel == roster.Email})
		}
		own := &out.Addresses[at]
		own.Texts = own.Texts || a.Channel == roster.Text
		own.Calls = own.Calls || a.Channel == roster.Voice
		own.NoRoutine = own.NoRoutine || a.DeclinesRoutine
	}
	return out
}

// Unconnected are the names of the devices of a sheet that push does not reach yet.
func Unconnected(s *roster.Sheet) []string {
	names := []string{}
	for _, a := range s.Addresses {
		if a.Unconnected() {
			names = append(names, a.Value)
		}
	}
	return names
}

// nameDevice finds what the roster calls a device of somebody: the name that
// they chose from theirs, or a new one that no other device has.
func nameDevice(r *roster.Roster, s *roster.Sheet, d *OwnDevice) {
	ours := func(a roster.Address) bool { return a.Channel == roster.Push && a.Value == d.Name }
	if slices.ContainsFunc(s.Addresses, ours) {
		return
	}
	taken := map[string]bool{}
	for i := range r.Len() {
		for _, a := range r.At(i).Addresses {
			taken[a.Value] = taken[a.Value] || a.Channel == roster.Push
		}
	}
	name := s.Name() + "’s " + d.Kind
	d.Name = name
	for n := 2; taken[d.Name]; n++ {
		d.Name = fmt.Sprintf("%s %d", name, n)
	}
}

// corrected is the sheet with what the person says of themselves.
func corrected(s *roster.Sheet, said Details, region string) *roster.Sheet {
	after := s.Clone()
	after.Language, after.Wish = said.Language, said.Wish
	after.Addresses = nil
	put := func(own OwnAddress, c roster.Channel, value, label string) {
		a := roster.Address{Channel: c, Value: value, Label: label}
		if at := slices.IndexFunc(s.Addresses, a.Is); at >= 0 {
			a = s.Addresses[at]
		}
		a.DeclinesRoutine = own.NoRoutine
		after.Addresses = append(after.Addresses, a)
	}
	for _, own := range said.Addresses {
		value := entry.Clean(own.Value)
		switch {
		case value == "":
		case own.Mail:
			if mailbox, err := entry.Mailbox(value); err == nil {
				value = mailbox
			}
			put(own, roster.Email, value, "email")
		default:
			if e164, err := phone.Parse(value, region); err == nil {
				value = e164
			}
			label := "mobile"
			if !own.Texts {
				label = "landline"
			}
			if own.Texts {
				put(own, roster.Text, value, label)
			}
			if own.Calls || !own.Texts {
				put(own, roster.Voice, value, label)
			}
		}
	}
	for _, a := range s.Addresses {
		if a.Channel == roster.Push {
			after.Addresses = append(after.Addresses, a)
		}
	}
	if d := said.Device; d != nil {
		a := roster.Address{Channel: roster.Push, Value: d.Name, Label: d.Kind}
		if !slices.ContainsFunc(after.Addresses, a.Is) {
			after.Addresses = append(after.Addresses, a)
		}
	}
	return after
}

// Correct takes what somebody says of themselves. It is saved at once, or waits
// for a yes, as the organisation says.
func (g *Editor) Correct(ctx context.Context, token string, said Details) (waits bool, err error) {
	d, err := g.Visit(ctx, token)
	if err != nil {
		return false, err
	}
	before := d.Sheet
	if said.Device != nil {
		nameDevice(d.Roster, before, said.Device)
	}
	after, issues := d.Read(before, corrected(before, said, d.Region))
	if refused := entry.Refusals(issues); len(refused) > 0 {
		return false, &Refused{refused}
	}
	if err := g.connect(ctx, said.Device); err != nil {
		return false, err
	}
	if d.Organisation.UpdatesWait {
		_, err := g.Store.AddUpdate(ctx, store.Update{
			Person: before.ID, After: *after, At: g.Now(), State: store.UpdateWaiting,
		})
		g.Changed()
		return true, err
	}
	if len(d.Roster.Differ(before, after, d.Roster)) == 0 {
		return false, nil
	}
	_, _, err = g.apply(ctx, access.Program, ownEdit(before, after))
	return false, err
}

// connect keeps where push reaches a device; until its address stands on the
// roster nothing is sent there.
func (g *Editor) connect(ctx context.Context, d *OwnDevice) error {
	if d == nil {
		return nil
	}
	device := store.Device{Name: d.Name, Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth}
	return g.Store.Connect(ctx, []store.Device{device}, g.Now())
}

func ownEdit(before, after *roster.Sheet) *roster.Edit {
	return &roster.Edit{
		Kind: roster.Corrected, Said: before.Name() + " corrected their own details",
		People: []roster.PersonEdit{{Before: before, After: after}},
	}
}

// Waiting is a correction that waits for a yes, against how things are now.
type Waiting struct {
	Update  store.Update
	Person  *roster.Person
	Changes []roster.Change
}

// Waiting lists the corrections of the account's people that wait for a yes.
func (g *Editor) Waiting(ctx context.Context, by access.Principal) ([]Waiting, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return nil, err
	}
	updates, err := g.Store.WaitingUpdates(ctx)
	if err != nil {
		return nil, err
	}
	var list []Waiting
	for _, u := range updates {
		before, err := d.own(u.Person)
		if err != nil {
			continue
		}
		after := accepted(before, u)
		list = append(list, Waiting{u, d.Roster.Person(u.Person), d.Roster.Differ(before, after, d.Roster)})
	}
	return list, nil
}

// accepted is the sheet of now with what the person corrected.
func accepted(now *roster.Sheet, u store.Update) *roster.Sheet {
	after := now.Clone()
	after.Language, after.Wish = u.After.Language, u.After.Wish
	after.Addresses = slices.Clone(u.After.Addresses)
	for i, a := range after.Addresses {
		if at := slices.IndexFunc(now.Addresses, a.Is); at >= 0 {
			known := now.Addresses[at]
			known.DeclinesRoutine = a.DeclinesRoutine
			after.Addresses[i] = known
		}
	}
	return after
}

// Decide accepts or declines a correction.
func (g *Editor) Decide(ctx context.Context, by access.Principal, id int64, accept bool) (Done, error) {
	u, err := g.Store.Update(ctx, id)
	if err != nil {
		return Done{}, err
	}
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	before, err := d.own(u.Person)
	if err != nil {
		return Done{}, err
	}
	if u.State != store.UpdateWaiting {
		return Done{}, store.ErrConflict
	}
	if !accept {
		err := g.Store.EndUpdate(ctx, id, store.UpdateDeclined)
		g.Changed()
		return Done{Said: fmt.Sprintf("left %s as they are", before.Name()), Person: u.Person}, err
	}
	after, issues := d.Read(before, accepted(before, u))
	if refused := entry.Refusals(issues); len(refused) > 0 {
		return Done{}, &Refused{refused}
	}
	done, _, err := g.apply(ctx, by, ownEdit(before, after))
	if err != nil {
		return done, err
	}
	done.Person = u.Person
	return done, g.Store.EndUpdate(ctx, id, store.UpdateAccepted)
}
